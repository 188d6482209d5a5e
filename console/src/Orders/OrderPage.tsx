import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { lastDay, moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Failed, Loading, PageHead } from '../frame/Page';
import { Would } from './AddOrder';
import { paid, State } from './OrdersPage';

type Story = Schemas['OrderStoryView'];
const acts = ['refunded', 'ended', 'cancelled', 'mended'] as const;
type Act = (typeof acts)[number];

/** One order: what was bought, what it gave, everything that happened to it, and what can be done about it. */
export function OrderPage() {
  const { t } = useTranslation();
  const { id = '' } = useParams();
  const queries = useQueryClient();
  const [act, setAct] = useState<Act>();
  const story = useQuery({ queryKey: ['orders', id], queryFn: () => good(api.GET('/api/v1/orders/{id}', { params: { path: { id } } })) });
  const again = useMutation({
    mutationFn: () => good(api.POST('/api/v1/orders/{id}/again', { params: { path: { id } } })),
    onSettled: () => queries.invalidateQueries(),
  });
  if (story.isPending) {
    return <Loading />;
  }

  if (story.isError) {
    return <Failed fault={story.error} again={() => void story.refetch()} />;
  }

  const { order, lines, gift, given, would } = story.data;
  return (
    <>
      <PageHead
        kicker={<Link to="/orders">{t('orders.title')}</Link>}
        title={t('orders.one', { order: order.order })}
        lead={t('orders.from', { source: order.source, at: moment(order.at) })}
      />
      <p>
        <State order={order} />
      </p>
      {would && (
        <section className="asks">
          <Would sentences={would} />
          {again.error && <p role="alert">{again.error.message}</p>}
          <May scope="people">
            <button type="button" className="btn prime" disabled={again.isPending} onClick={() => again.mutate()}>
              {t('orders.again')}
            </button>{' '}
            <Link className="btn" to="/fulfilment">
              {t('orders.rules')}
            </Link>
          </May>
        </section>
      )}
      <div className="split">
        <div>
          <h2>{t('orders.bought')}</h2>
          <ul className="bought">
            {lines.map((line, n) => (
              <li key={n}>
                {line.quantity} × <code>{line.variant ? `${line.code}/${line.variant}` : line.code}</code>{' '}
                {line.amount && `${line.amount} ${order.currency ?? ''}`}{' '}
                {!line.rule && <span className="state broken">{t('orders.noRule')}</span>}
              </li>
            ))}
          </ul>
          <p>
            {t('orders.total')} <b>{paid(order)}</b>
            {order.refunded && <> · {t('orders.back', { amount: `${order.refunded} ${order.currency ?? ''}` })}</>}
          </p>
          <h2>{t('orders.given')}</h2>
          {given.length === 0 && <p className="hint">{t('orders.nothing')}</p>}
          <ul className="bought">
            {given.map((one) => (
              <li key={`${one.fact} ${one.payment}`}>
                <b>{one.title}</b> {one.until ? t('orders.until', { day: lastDay(one.until) }) : t('orders.always')}{' '}
                {!one.inForce && <span className="state off">{t('orders.notNow')}</span>}
              </li>
            ))}
          </ul>
          <May scope="people">
            <div className="bar">
              {acts
                .filter((one) => one === 'mended' || !['refunded', 'charged-back', 'ended'].includes(order.standing))
                .map((one) => (
                  <button
                    key={one}
                    type="button"
                    className={one === 'refunded' || one === 'ended' ? 'btn danger' : 'btn'}
                    onClick={() => setAct(one)}
                  >
                    {t(`orders.acts.${one}`)}
                  </button>
                ))}
            </div>
          </May>
        </div>
        <aside>
          <h2>{t('orders.buyer')}</h2>
          <p>
            {order.name && (
              <>
                {order.name}
                <br />
              </>
            )}
            {order.member ? <Link to={`/members/${order.member}`}>{order.email}</Link> : order.email}
          </p>
          {gift && (
            <p>
              {t('orders.gift')}
              {gift.on && ` · ${gift.on}`}
              {gift.words && <q>{gift.words}</q>}
            </p>
          )}
          <h2>{t('orders.story')}</h2>
          <Timeline story={story.data} />
        </aside>
      </div>
      {act && <Tell order={order} act={act} close={() => setAct(undefined)} />}
    </>
  );
}

/** Everything that happened, letters among it, the first first. */
function Timeline({ story }: { story: Story }) {
  const { t } = useTranslation();
  const all = [
    ...story.events.map((e) => ({
      at: e.at ?? e.receivedAt,
      key: e.id,
      words: t(`orders.kinds.${(e.kind ?? 'order.unreadable').replace('order.', '')}`),
      more: e.address ?? e.amount,
    })),
    ...story.letters.map((l) => ({
      at: l.at,
      key: l.id,
      words: t(l.sentAt ? 'orders.wrote' : 'orders.writes', { kind: l.kind }),
      more: undefined,
    })),
  ].sort((a, b) => a.at.localeCompare(b.at));
  return (
    <ol className="story">
      {all.map((one) => (
        <li key={one.key}>
          <small>{moment(one.at)}</small>
          <br />
          {one.words} {one.more && <b>{one.more}</b>}
        </li>
      ))}
    </ol>
  );
}

/** Tells what happened to an order: money went back, it is over, its address is another. */
function Tell({ order, act, close }: { order: Schemas['OrderView']; act: Act; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [value, setValue] = useState('');
  const tell = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/orders/{id}/events', {
          params: { path: { id: order.id } },
          body: { kind: `order.${act}`, ...(value ? (act === 'mended' ? { email: value } : { amount: value }) : {}) },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const refused = tell.error instanceof Refused ? tell.error : undefined;
  return (
    <Dialog title={t(`orders.acts.${act}`)} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          tell.mutate();
        }}
      >
        <p>{t(`orders.actLead.${act}`)}</p>
        {tell.error && !refused?.faults.length && (
          <p className="note" role="alert">
            {tell.error.message}
          </p>
        )}
        {act === 'mended' && (
          <Field
            id="mend"
            label={t('orders.email')}
            type="email"
            required
            bad={refused?.about('email')}
            value={value}
            onChange={(e) => setValue(e.currentTarget.value)}
          />
        )}
        {act === 'refunded' && (
          <Field
            id="part"
            label={t('orders.part', { currency: order.currency ?? '' })}
            hint={t('orders.partHint')}
            inputMode="decimal"
            bad={refused?.about('amount')}
            value={value}
            onChange={(e) => setValue(e.currentTarget.value)}
          />
        )}
        <DialogBar go={t(`orders.acts.${act}`)} danger={act !== 'mended'} disabled={tell.isPending} close={close} />
      </form>
    </Dialog>
  );
}
