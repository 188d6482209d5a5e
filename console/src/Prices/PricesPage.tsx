import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { EditCart } from './EditCart';
import { EditCoupon } from './EditCoupon';
import { EditList } from './EditList';
import { Quote } from './Quote';
import { span } from './span';

type Coupon = Schemas['CouponView'];
type Cart = Schemas['CartView'];

/** What things cost for whom, codes that take something off, and what does not go into the cart. */
export function PricesPage() {
  const { t } = useTranslation();
  const navigate = useNavigate();
  const [list, setList] = useState(false);
  const [coupon, setCoupon] = useState<Coupon | 'new'>();
  const [cart, setCart] = useState<Cart | 'new'>();
  const lists = useQuery({ queryKey: ['prices'], queryFn: () => good(api.GET('/api/v1/prices')) });
  const coupons = useQuery({ queryKey: ['coupons'], queryFn: () => good(api.GET('/api/v1/coupons')) });
  const carts = useQuery({ queryKey: ['carts'], queryFn: () => good(api.GET('/api/v1/carts')) });
  const all = lists.data?.items ?? [];
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => setList(true)}>
        {t('prices.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead title={t('prices.title')} lead={t('prices.lead')} tools={add} />
      {lists.isPending && <Loading />}
      {lists.isError && <Failed fault={lists.error} again={() => void lists.refetch()} />}
      {lists.isSuccess && all.length === 0 && <Empty title={t('prices.empty')} lead={t('prices.emptyLead')} />}
      {all.length > 0 && (
        <div className="people">
          <table>
            <thead>
              <tr>
                <th scope="col">{t('prices.list')}</th>
                <th scope="col">{t('prices.who')}</th>
                <th scope="col">{t('prices.counts')}</th>
                <th scope="col">{t('prices.lines')}</th>
              </tr>
            </thead>
            <tbody>
              {all.map((one) => (
                <tr key={one.key}>
                  <th scope="row">
                    <Link to={`/prices/${one.key}`}>{one.title}</Link>
                    <span>{one.currency}</span>
                  </th>
                  <td data-name={t('prices.who')}>{one.audience === 'anyone' ? t('prices.everybody') : <code>{one.audience}</code>}</td>
                  <td data-name={t('prices.counts')}>{span(t, one)}</td>
                  <td data-name={t('prices.lines')}>{t('prices.lineCount', { count: Number(one.count) })}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {all.length > 0 && <Quote />}
      <Coupons coupons={coupons.data?.items} fault={coupons.error} open={setCoupon} />
      <Carts carts={carts.data?.items} fault={carts.error} open={setCart} />
      {list && <EditList taken={all} close={() => setList(false)} done={(key) => navigate(`/prices/${key}`)} />}
      {coupon && (
        <EditCoupon coupon={coupon === 'new' ? undefined : coupon} taken={coupons.data?.items ?? []} close={() => setCoupon(undefined)} />
      )}
      {cart && <EditCart cart={cart === 'new' ? undefined : cart} taken={carts.data?.items ?? []} close={() => setCart(undefined)} />}
    </>
  );
}

function Coupons({ coupons, fault, open }: { coupons: Coupon[] | undefined; fault: Error | null; open: (coupon: Coupon | 'new') => void }) {
  const { t } = useTranslation();
  return (
    <section className="panel-row">
      <h2>{t('prices.coupon.title')}</h2>
      <p>{t('prices.coupon.lead')}</p>
      {fault && <p className="note">{fault.message}</p>}
      <ol className="redirects">
        {coupons?.map((one) => (
          <li key={one.key}>
            <button type="button" className="says" onClick={() => open(one)}>
              {t(one.audience === 'anyone' ? 'prices.coupon.saysAll' : 'prices.coupon.says', {
                who: one.audience,
                off: one.off ? `${one.off} %` : `${one.amount} ${one.currency}`,
                often: t('prices.coupon.often', { count: Number(one.perPerson ?? 0) }),
              })}
              <code>{one.code}</code>
              <small>
                {span(t, one)} · {t('prices.coupon.used', { count: Number(one.used), most: one.most ?? '' })}
              </small>
            </button>
          </li>
        ))}
      </ol>
      {coupons?.length === 0 && <p className="soft">{t('prices.coupon.empty')}</p>}
      <May scope="write">
        <button type="button" className="btn" onClick={() => open('new')}>
          {t('prices.coupon.add')}
        </button>
      </May>
    </section>
  );
}

function Carts({ carts, fault, open }: { carts: Cart[] | undefined; fault: Error | null; open: (cart: Cart | 'new') => void }) {
  const { t } = useTranslation();
  return (
    <section className="panel-row">
      <h2>{t('prices.cart.title')}</h2>
      <p>{t('prices.cart.lead')}</p>
      {fault && <p className="note">{fault.message}</p>}
      <ol className="redirects">
        {carts?.map((one) => (
          <li key={one.key}>
            <button type="button" className="says" onClick={() => open(one)}>
              {t('prices.cart.says', { at: one.at.join(', '), fields: one.fields.join(', ') })}
              <small>{t(`prices.cart.unknown.${one.unknown}`)}</small>
            </button>
          </li>
        ))}
      </ol>
      {carts?.length === 0 && <p className="soft">{t('prices.cart.empty')}</p>}
      <May scope="write">
        <button type="button" className="btn" onClick={() => open('new')}>
          {t('prices.cart.add')}
        </button>
      </May>
    </section>
  );
}
