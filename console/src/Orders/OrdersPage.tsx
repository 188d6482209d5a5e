import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useSearchParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { day, moment } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { AddOrder } from './AddOrder';
import { ImportOrders } from './ImportOrders';

type Order = Schemas['OrderView'];
const handlings = ['waiting', 'due', 'done', 'open'] as const;

/** An order's money with its currency. */
export const paid = (order: Order) => (order.total ? `${order.total} ${order.currency ?? ''}` : '–');

/** Orders, the newest first; what waits for the owner stands at the top, and what could not be read. */
export function OrdersPage() {
  const { t } = useTranslation();
  const [words, setWords] = useState('');
  const [asked] = useSearchParams();
  const [handling, setHandling] = useState(asked.get('handling') ?? '');
  const [most, setMost] = useState(50);
  const [adds, setAdds] = useState(false);
  const [brings, setBrings] = useState(false);
  const q = useSettled(words, 250);
  const orders = useQuery({
    queryKey: ['orders', q, handling, most],
    queryFn: () =>
      good(api.GET('/api/v1/orders', { params: { query: { limit: most, ...(q ? { q } : {}), ...(handling ? { handling } : {}) } } })),
  });
  const rules = useQuery({ queryKey: ['fulfilment'], queryFn: () => good(api.GET('/api/v1/fulfilment')) });
  const tools = (
    <>
      <Link className="btn" to="/fulfilment">
        {t('orders.rules')}
      </Link>
      <Link className="btn" to="/order-sources">
        {t('orders.sources')}
      </Link>
      <May scope="people">
        <button type="button" className="btn" onClick={() => setBrings(true)}>
          {t('orders.bring')}
        </button>
        <button type="button" className="btn prime" onClick={() => setAdds(true)}>
          {t('orders.add')}
        </button>
      </May>
    </>
  );
  const found = orders.data?.items ?? [];
  return (
    <>
      <PageHead title={t('orders.title')} lead={t('orders.lead')} tools={tools} />
      <Unread />
      <div className="finder">
        <input
          className="field"
          type="search"
          aria-label={t('orders.find')}
          placeholder={t('orders.find')}
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
        <select className="field" aria-label={t('orders.handling')} value={handling} onChange={(e) => setHandling(e.currentTarget.value)}>
          <option value="">{t('orders.all')}</option>
          {handlings.map((one) => (
            <option key={one} value={one}>
              {t(`orders.handlings.${one}`)}
            </option>
          ))}
        </select>
      </div>
      {orders.isPending && <Loading />}
      {orders.isError && <Failed fault={orders.error} again={() => void orders.refetch()} />}
      {orders.isSuccess && found.length === 0 && !q && !handling && (
        <Empty title={t('orders.empty')} lead={t(rules.data?.items.length ? 'orders.emptyLead' : 'orders.emptyFirst')} />
      )}
      {orders.isSuccess && found.length === 0 && (q || handling) && <Empty title={t('orders.none')} lead={t('orders.noneLead')} />}
      {found.length > 0 && (
        <div className="people">
          <table>
            <thead>
              <tr>
                <th scope="col">{t('orders.order')}</th>
                <th scope="col">{t('orders.who')}</th>
                <th scope="col">{t('orders.what')}</th>
                <th scope="col" className="num">
                  {t('orders.money')}
                </th>
                <th scope="col">{t('orders.state')}</th>
              </tr>
            </thead>
            <tbody>
              {found.map((order) => (
                <tr key={order.id}>
                  <td>
                    <Link to={`/orders/${order.id}`}>
                      <b>{order.order}</b>
                    </Link>
                    <br />
                    <small>{moment(order.at)}</small>
                  </td>
                  <td>
                    {order.email}
                    {order.name && (
                      <>
                        <br />
                        <small>{order.name}</small>
                      </>
                    )}
                  </td>
                  <td>
                    <code>{order.codes}</code>
                  </td>
                  <td className="num">{paid(order)}</td>
                  <td>
                    <State order={order} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {orders.data?.next && (
        <button type="button" className="btn" onClick={() => setMost(most + 100)}>
          {t('orders.more')}
        </button>
      )}
      {brings && <ImportOrders close={() => setBrings(false)} />}
      {adds && <AddOrder close={() => setAdds(false)} />}
    </>
  );
}

/** How an order stands: the money, and what is done about it. */
export function State({ order }: { order: Order }) {
  const { t } = useTranslation();
  const over = ['refunded', 'charged-back', 'ended', 'failed', 'paused'].includes(order.standing);
  const asks = order.handling === 'waiting';
  return (
    <>
      {asks ? (
        <span className="state broken">{t('orders.handlings.waiting')}</span>
      ) : (
        <span className={order.standing === 'past-due' ? 'state broken' : over ? 'state off' : 'state'}>
          {t(`orders.standings.${order.standing}`)}
        </span>
      )}{' '}
      {order.handling === 'due' && order.dueAt ? (
        <small>{t('orders.dueOn', { day: day(order.dueAt) })}</small>
      ) : asks ? (
        <small>
          {t(`orders.standings.${order.standing}`)}, {t(`orders.waits.${order.waitsFor}`)}
        </small>
      ) : (
        <small>{over ? '' : t(`orders.handlings.${order.handling}`)}</small>
      )}
    </>
  );
}

/** What came and could not be read: with what is wrong, and what can be done. */
function Unread() {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const unread = useQuery({ queryKey: ['orders', 'unreadable'], queryFn: () => good(api.GET('/api/v1/orders/unreadable')) });
  const settled = { onSettled: () => queries.invalidateQueries() };
  const again = useMutation({
    mutationFn: (id: string) => good(api.POST('/api/v1/orders/unreadable/{id}/again', { params: { path: { id } } })),
    ...settled,
  });
  const drop = useMutation({
    mutationFn: (id: string) => good(api.DELETE('/api/v1/orders/unreadable/{id}', { params: { path: { id } } })),
    ...settled,
  });
  const all = unread.data?.items ?? [];
  if (all.length === 0) {
    return null;
  }

  const fault = again.error ?? drop.error;
  return (
    <section className="note" aria-labelledby="unread">
      <h2 id="unread">{t('orders.unread', { count: all.length })}</h2>
      <p>{t('orders.unreadLead')}</p>
      {fault && <p role="alert">{fault.message}</p>}
      <ul className="attempts">
        {all.map((one) => (
          <li key={one.id}>
            <details>
              <summary>
                {one.source}, {moment(one.receivedAt)}: {one.faults[0]}
              </summary>
              {one.faults.slice(1).map((f) => (
                <p key={f}>{f}</p>
              ))}
              <pre>{one.raw}</pre>
              <May scope="people">
                <button type="button" className="btn" disabled={again.isPending} onClick={() => again.mutate(one.id)}>
                  {t('orders.readAgain')}
                </button>{' '}
                <button type="button" className="btn danger" disabled={drop.isPending} onClick={() => drop.mutate(one.id)}>
                  {t('orders.drop')}
                </button>
              </May>
            </details>
          </li>
        ))}
      </ul>
    </section>
  );
}
