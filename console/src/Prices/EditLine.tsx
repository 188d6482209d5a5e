import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';

type List = Schemas['PriceListView'];
type Line = Schemas['PriceLine'];

/** Adds a line to a price list, changes one, removes one. */
export function EditLine({ list, line, close }: { list: List; line: Line | undefined; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({
    item: line?.item ?? 'product:',
    quantity: String(line?.quantity ?? 1),
    sort: line?.off ? 'off' : 'price',
    value: line?.price ?? line?.off ?? '',
  });
  const others = (list.lines ?? []).filter((one) => one !== line);
  const save = useMutation({
    mutationFn: (lines: Line[]) =>
      good(
        api.PUT('/api/v1/prices/{key}', {
          params: { path: { key: list.key } },
          headers: { 'If-Match': `"${list.version}"` },
          body: {
            title: list.title,
            audience: list.audience,
            currency: list.currency,
            from: list.from,
            until: list.until,
            rounding: list.rounding,
            lines,
          },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const bad = (field: string) => refused?.about(`lines[${others.length}].${field}`);
  const known = ['item', 'quantity', 'price', 'off'].some(bad);
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  const made: Line = {
    item: draft.item.trim(),
    quantity: Number(draft.quantity),
    price: draft.sort === 'price' ? draft.value.trim() : null,
    off: draft.sort === 'off' ? draft.value.trim() : null,
  };
  return (
    <Dialog title={t(line ? 'prices.line.change' : 'prices.line.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate([...others, made]);
        }}
      >
        {save.error && !known && (
          <p className="note" role="alert">
            {save.error.message}
          </p>
        )}
        <Field
          id="line-item"
          label={t('prices.line.item')}
          hint={t('prices.line.itemHint')}
          required
          bad={bad('item')}
          value={draft.item}
          onChange={put('item')}
        />
        <div className="pair">
          <Field as="select" id="line-sort" label={t('prices.line.sort')} value={draft.sort} onChange={put('sort')}>
            <option value="price">{t('prices.line.sorts.price', { currency: list.currency })}</option>
            <option value="off">{t('prices.line.sorts.off')}</option>
          </Field>
          <Field
            id="line-value"
            label={t(draft.sort === 'off' ? 'prices.line.percent' : 'prices.line.price')}
            required
            inputMode="decimal"
            bad={bad('price') ?? bad('off')}
            value={draft.value}
            onChange={put('value')}
          />
        </div>
        <Field
          id="line-quantity"
          type="number"
          min={1}
          label={t('prices.line.quantity')}
          hint={t('prices.line.quantityHint')}
          bad={bad('quantity')}
          value={draft.quantity}
          onChange={put('quantity')}
        />
        <DialogBar
          go={t('roles.save')}
          disabled={save.isPending}
          close={close}
          first={
            line && (
              <button type="button" className="btn danger" disabled={save.isPending} onClick={() => save.mutate(others)}>
                {t('prices.line.remove')}
              </button>
            )
          }
        />
      </form>
    </Dialog>
  );
}
