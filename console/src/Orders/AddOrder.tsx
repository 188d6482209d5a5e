import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { useNavigate } from 'react-router';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { useSettled } from '../frame/useSettled';

/** Tells of an order by hand: who, what, and at once what it would do. */
export function AddOrder({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const [draft, setDraft] = useState({ order: '', email: '', name: '', code: '', quantity: '1', amount: '', currency: 'EUR' });
  const rules = useQuery({ queryKey: ['fulfilment'], queryFn: () => good(api.GET('/api/v1/fulfilment')) });
  const lines = [{ code: draft.code, quantity: Number(draft.quantity) || 1 }];
  const asked = useSettled(JSON.stringify({ lines, email: draft.email }), 250);
  const about = JSON.parse(asked) as { lines: { code: string }[]; email: string };
  const trial = useQuery({
    queryKey: ['fulfilment', 'try', asked],
    enabled: about.lines[0]?.code !== '' && /.@.+\../.test(about.email),
    queryFn: () => good(api.POST('/api/v1/fulfilment/try', { body: about })),
  });
  const save = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/orders', {
          body: {
            source: 'hand',
            email: draft.email,
            lines,
            ...(draft.order ? { order: draft.order } : {}),
            ...(draft.name ? { name: draft.name } : {}),
            ...(draft.amount ? { amount: draft.amount, currency: draft.currency } : {}),
          },
        }),
      ),
    onSuccess: async (told) => {
      await queries.invalidateQueries();
      go(`/orders/${told.order.id}`);
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  return (
    <Dialog title={t('orders.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {save.error && !refused?.faults.length && (
          <p className="note" role="alert">
            {save.error.message}
          </p>
        )}
        <Field
          id="order-email"
          label={t('orders.email')}
          type="email"
          required
          bad={refused?.about('email')}
          value={draft.email}
          onChange={put('email')}
        />
        <Field id="order-name" label={t('orders.name')} bad={refused?.about('name')} value={draft.name} onChange={put('name')} />
        <div className="pair">
          <Field
            id="order-code"
            label={t('orders.code')}
            required
            list="order-codes"
            bad={refused?.about('lines.0.code')}
            value={draft.code}
            onChange={put('code')}
          />
          <Field id="order-quantity" label={t('orders.quantity')} type="number" min={1} value={draft.quantity} onChange={put('quantity')} />
        </div>
        <datalist id="order-codes">
          {rules.data?.items
            .filter((r) => !r.code.includes('*'))
            .map((r) => (
              <option key={r.key} value={r.code} />
            ))}
        </datalist>
        <div className="pair">
          <Field
            id="order-amount"
            label={t('orders.amount')}
            inputMode="decimal"
            bad={refused?.about('amount')}
            value={draft.amount}
            onChange={put('amount')}
          />
          <Field
            id="order-currency"
            label={t('orders.currency')}
            maxLength={3}
            bad={refused?.about('currency')}
            value={draft.currency}
            onChange={put('currency')}
          />
        </div>
        <Field
          id="order-order"
          label={t('orders.named')}
          hint={t('orders.namedHint')}
          bad={refused?.about('order')}
          value={draft.order}
          onChange={put('order')}
        />
        {trial.data && <Would sentences={trial.data.would} />}
        <DialogBar go={t('orders.tell')} disabled={save.isPending} close={close} />
      </form>
    </Dialog>
  );
}

/** What an order would do, a sentence each. */
export function Would({ sentences }: { sentences: readonly string[] }) {
  const { t } = useTranslation();
  return (
    <section className="would" aria-live="polite">
      <h3>{t('orders.would')}</h3>
      <ul>
        {sentences.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </section>
  );
}
