import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { day, lastDay, moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Failed, Loading, PageHead } from '../frame/Page';
import { Would } from './AddOrder';
import { paid, State } from './OrdersPage';

type Story = Schemas['OrderStoryView'];
const acts = ['started', 'resumed', 'paused', 'changed', 'cancelled', 'refunded', 'ended', 'mended'] as const;
type Act = (typeof acts)[number];
const over = ['refunded', 'charged-back', 'ended'];

/** What can be said of an order as it stands now. */
const sayable = (story: Story) =>
  acts.filter((one) => {
    const { standing } = story.order;
    if (one === 'mended') {
      return true;
    }

    if (over.includes(standing) || one === 'started') {
      return one === 'started' && story.waits.length > 0 && !over.includes(standing);
    }

    const rests = story.pausedAt !== null;
    return one === 'resumed' ? rests : one === 'paused' ? !rests && standing !== 'unpaid' && standing !== 'failed' : true;
  });

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

  const { order, lines, gift, given, would, seats } = story.data;
  return (
    <>
      <PageHead
        kicker={<Link to="/orders">{t('orders.title')}</Link>}
        title={t('orders.one', { order: order.order })}
        lead={t('orders.from', { source: order.source, at: moment(order.at) })}
      />
      <p>
        <State order={order} /> {story.data.pausedAt && t('orders.restsSince', { at: moment(story.data.pausedAt) })}
        {!story.data.pausedAt && story.data.waits.length > 0 && t('orders.notBegun', { what: story.data.waits.join(', ') })}
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
                {line.until && <small>{t('orders.lineUntil', { day: lastDay(line.until) })}</small>}
                {!line.rule && !line.until && <span className="state broken">{t('orders.noRule')}</span>}
              </li>
            ))}
          </ul>
          <p>
            {t('orders.total')} <b>{paid(order)}</b>
            {order.refunded && <> · {t('orders.back', { amount: `${order.refunded} ${order.currency ?? ''}` })}</>}
          </p>
          <h2>{t('orders.given')}</h2>
          {given.length === 0 && !seats && <p className="hint">{t('orders.nothing')}</p>}
          {seats && (
            <p>
              <Link to={`/organisations/${seats.key}`}>{seats.title}</Link> ·{' '}
              {t('orders.seats', { taken: seats.taken, count: seats.seats })}
            </p>
          )}
          <ul className="bought">
            {given.map((one) => (
              <li key={`${one.fact} ${one.payment} ${one.from}`}>
                <b>{one.title}</b>{' '}
                {one.until
                  ? t('orders.until', { day: lastDay(one.until) })
                  : t(story.data.waits.includes(one.title) ? 'orders.fromUse' : 'orders.always')}{' '}
                {!one.inForce && <span className="state off">{t('orders.notNow')}</span>}
              </li>
            ))}
          </ul>
          <May scope="people">
            <div className="deeds">
              {sayable(story.data).map((one) => (
                <button
                  key={one}
                  type="button"
                  className={
                    one === 'refunded' || one === 'ended' ? 'btn danger' : one === 'started' || one === 'resumed' ? 'btn prime' : 'btn'
                  }
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
          {story.data.coupon && (
            <p>
              {t('orders.coupon')} <code>{story.data.coupon}</code>
            </p>
          )}
          {gift && (
            <p>
              {t('orders.gift')}
              {gift.on && ` · ${day(`${gift.on}T00:00`)}`} {gift.words && <q>{gift.words}</q>}
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

/** Stock codes as they are typed, one on a line: CODE, CODE/VARIANT, either with =HOW MANY. */
export const typedLines = (text: string) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [, name = line, many] = /^(.+)=(\d+)$/.exec(line) ?? [];
      const [code = name, variant] = name.split('/');
      return { code, ...(variant ? { variant } : {}), quantity: many ? Number(many) : 1 };
    });

/** Tells what happened to an order: money went back, it rests, something else is bought, its address is another. */
function Tell({ order, act, close }: { order: Schemas['OrderView']; act: Act; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [value, setValue] = useState('');
  const [codes, setCodes] = useState('');
  const [price, setPrice] = useState('');
  const lines = typedLines(codes).map((line, _, all) => (price && all.length === 1 ? { ...line, amount: price } : line));
  const said = act === 'changed' ? { lines, ...(value ? { amount: value } : {}) } : act === 'mended' ? { email: value } : { amount: value };
  const tell = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/orders/{id}/events', {
          params: { path: { id: order.id } },
          body: { kind: `order.${act}`, ...(value || act === 'changed' ? said : {}) },
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
        {act === 'changed' && (
          <>
            <Field
              as="textarea"
              id="codes"
              label={t('orders.newCode')}
              hint={t('orders.newCodeHint')}
              required
              rows={2}
              bad={refused?.about('lines') ?? refused?.about('lines.0.code') ?? refused?.about('lines.0.quantity')}
              value={codes}
              onChange={(e) => setCodes(e.currentTarget.value)}
            />
            <div className="pair">
              <Field
                id="price"
                label={t('orders.newPrice', { currency: order.currency ?? '' })}
                hint={t('orders.newPriceHint')}
                inputMode="decimal"
                bad={refused?.about('lines.0.amount')}
                value={price}
                onChange={(e) => setPrice(e.currentTarget.value)}
              />
              <Field
                id="paid"
                label={t('orders.paidNow', { currency: order.currency ?? '' })}
                hint={t('orders.paidNowHint')}
                inputMode="decimal"
                bad={refused?.about('amount')}
                value={value}
                onChange={(e) => setValue(e.currentTarget.value)}
              />
            </div>
          </>
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
        <DialogBar go={t(`orders.acts.${act}`)} danger={act === 'refunded' || act === 'ended'} disabled={tell.isPending} close={close} />
      </form>
    </Dialog>
  );
}
