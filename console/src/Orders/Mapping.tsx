import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Refused } from '../api/client';
import { Field } from '../frame/Field';
import { useSettled } from '../frame/useSettled';
import { bodyOf, type SourceDraft } from './SourcesPage';

const fields = [
  'order',
  'email',
  'code',
  'kind',
  'id',
  'time',
  'name',
  'amount',
  'currency',
  'quantity',
  'lines',
  'variant',
  'lineAmount',
  'payment',
  'coupon',
  'token',
  'language',
] as const;
const meanings = [
  'order.paid',
  'order.failed',
  'order.renewed',
  'order.renewal-failed',
  'order.cancelled',
  'order.ended',
  'order.refunded',
  'order.charged-back',
  'order.started',
  'order.paused',
  'order.resumed',
  'order.changed',
  'ignore',
] as const;

/** How calls are read: paste one example, say where each field stands, and see at once what would be read. */
export function Mapping({ draft, set, refused }: { draft: SourceDraft; set: (draft: SourceDraft) => void; refused: Refused | undefined }) {
  const { t } = useTranslation();
  const [example, setExample] = useState('');
  const [mapped, setMapped] = useState(Object.keys(draft.fields).length > 0);
  const asked = useSettled(JSON.stringify({ draft: bodyOf(draft), example }), 300);
  const trial = useQuery({
    queryKey: ['order-sources', 'try', asked],
    enabled: example.trim() !== '',
    retry: false,
    queryFn: () => good(api.POST('/api/v1/order-sources/try', { body: JSON.parse(asked) })),
  });
  const pointers = trial.data?.pointers ?? [];
  const within = draft.fields.lines;
  const said = draft.fields.kind && pointers.find((p) => p.pointer === draft.fields.kind)?.value;
  const values = [...new Set([...Object.keys(draft.kinds), ...(said ? [said] : [])])];
  const point = (field: string, pointer: string) => {
    const { [field]: _, ...others } = draft.fields;
    set({ ...draft, fields: pointer ? { ...others, [field]: pointer } : others });
  };
  return (
    <fieldset className="bare">
      <legend className="name">{t('orders.map.title')}</legend>
      <label className="opt">
        <input
          type="checkbox"
          checked={!mapped}
          onChange={(e) => {
            setMapped(!e.currentTarget.checked);
            set(e.currentTarget.checked ? { ...draft, fields: {}, kinds: {} } : draft);
          }}
        />
        <span>{t('orders.map.plain')}</span>
      </label>
      <Field
        as="textarea"
        id="example"
        rows={5}
        label={t('orders.map.example')}
        hint={t('orders.map.exampleHint')}
        value={example}
        onChange={(e) => setExample(e.currentTarget.value)}
      />
      {mapped && (
        <>
          <datalist id="pointers">
            {pointers.map((p) => (
              <option key={p.pointer} value={p.pointer}>
                {p.value}
              </option>
            ))}
          </datalist>
          <datalist id="pointers-within">
            {within &&
              pointers
                .filter((p) => p.pointer.startsWith(`${within}/0/`))
                .map((p) => (
                  <option key={p.pointer} value={p.pointer.slice(within.length + 2)}>
                    {p.value}
                  </option>
                ))}
          </datalist>
          <div className="pairs">
            {fields.map((field) => (
              <Field
                key={field}
                id={`map-${field}`}
                label={t(`orders.map.fields.${field}`)}
                list={within && ['code', 'variant', 'quantity', 'lineAmount'].includes(field) ? 'pointers-within' : 'pointers'}
                bad={refused?.about(`fields.${field}`)}
                value={draft.fields[field] ?? ''}
                onChange={(e) => point(field, e.currentTarget.value)}
              />
            ))}
          </div>
          {values.map((value) => (
            <Field
              as="select"
              key={value}
              id={`kind-${value}`}
              label={t('orders.map.means', { value })}
              value={draft.kinds[value] ?? ''}
              onChange={(e) => set({ ...draft, kinds: { ...draft.kinds, [value]: e.currentTarget.value } })}
            >
              <option value="">–</option>
              {meanings.map((meaning) => (
                <option key={meaning} value={meaning}>
                  {t(`orders.kinds.${meaning.replace('order.', '')}`)}
                </option>
              ))}
            </Field>
          ))}
          {refused?.about('kinds') && <p className="bad">{refused.about('kinds')}</p>}
          <label className="opt">
            <input type="checkbox" checked={draft.inUnits} onChange={(e) => set({ ...draft, inUnits: e.currentTarget.checked })} />
            <span>{t('orders.map.inUnits')}</span>
          </label>
          <Field
            id="map-otherwise"
            label={t('orders.map.otherwise')}
            maxLength={3}
            bad={refused?.about('currency')}
            value={draft.currency}
            onChange={(e) => set({ ...draft, currency: e.currentTarget.value })}
          />
        </>
      )}
      {trial.data && (
        <section className="would" aria-live="polite">
          <h3>
            {trial.data.kind
              ? t(`orders.kinds.${trial.data.kind.replace('order.', '')}`)
              : t(trial.data.faults.length ? 'orders.map.bad' : 'orders.map.ignored')}
          </h3>
          <dl className="pairs">
            {Object.entries(trial.data.read).map(([field, value]) => (
              <div key={field}>
                <dt>{t(`orders.map.fields.${field}`)}</dt>
                <dd>{value}</dd>
              </div>
            ))}
          </dl>
          {trial.data.faults.map((fault) => (
            <p className="bad" key={fault}>
              {fault}
            </p>
          ))}
        </section>
      )}
    </fieldset>
  );
}
