import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { freeKey } from '../frame/freeKey';
import { AudienceField } from '../People/AudienceField';

type List = Schemas['PriceListView'];
const said = (text: string) => text.trim() || null;

/** Adds a price list, or changes whom it is for and when it counts. Its lines stay. */
export function EditList({ list, taken, close, done }: { list?: List; taken: List[]; close: () => void; done: (key: string) => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({
    title: list?.title ?? '',
    audience: list?.audience ?? (taken.some((one) => one.audience === 'anyone') ? '' : 'anyone'),
    currency: list?.currency ?? taken[0]?.currency ?? 'EUR',
    from: list?.from ?? '',
    until: list?.until ?? '',
    rounding: list?.rounding ?? '',
  });
  const key = list?.key ?? freeKey(draft.title, taken, 'prices');
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/prices/{key}', {
          params: { path: { key } },
          headers: { 'If-Match': `"${list?.version ?? 0}"` },
          body: {
            title: said(draft.title),
            audience: said(draft.audience),
            currency: said(draft.currency),
            from: said(draft.from),
            until: said(draft.until),
            rounding: said(draft.rounding),
          },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      done(key);
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  return (
    <Dialog title={t(list ? 'prices.change' : 'prices.add')} close={close}>
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
          id="price-title"
          label={t('prices.called')}
          required
          bad={refused?.about('title') ?? refused?.about('key')}
          value={draft.title}
          onChange={put('title')}
        />
        <AudienceField
          id="price-audience"
          label={t('prices.who')}
          hint={t('prices.whoHint')}
          bad={refused?.about('audience')}
          value={draft.audience}
          set={(audience) => setDraft({ ...draft, audience })}
        />
        <div className="pair">
          <Field
            id="price-currency"
            label={t('prices.currency')}
            required
            maxLength={3}
            bad={refused?.about('currency')}
            value={draft.currency}
            onChange={(e) => setDraft({ ...draft, currency: e.currentTarget.value.toUpperCase() })}
          />
          <Field
            id="price-rounding"
            label={t('prices.rounding')}
            placeholder="0.05"
            bad={refused?.about('rounding')}
            value={draft.rounding}
            onChange={put('rounding')}
          />
        </div>
        <p className="hint">{t('prices.roundingHint')}</p>
        <div className="pair">
          <Field
            id="price-from"
            label={t('prices.from')}
            placeholder="2026-12-01"
            bad={refused?.about('from')}
            value={draft.from}
            onChange={put('from')}
          />
          <Field
            id="price-until"
            label={t('prices.until')}
            placeholder="2026-12-24"
            bad={refused?.about('until')}
            value={draft.until}
            onChange={put('until')}
          />
        </div>
        <p className="hint">{t('prices.spanHint')}</p>
        <DialogBar go={t('roles.save')} disabled={save.isPending} close={close} />
      </form>
    </Dialog>
  );
}
