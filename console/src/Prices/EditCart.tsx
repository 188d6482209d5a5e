import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { freeKey } from '../frame/freeKey';
import { useMay } from '../People/me';

type Cart = Schemas['CartView'];
const parts = (text: string) => text.split(/\s+/).filter(Boolean);

/** Says where the shop takes things into a cart, and by which fields. */
export function EditCart({ cart, taken, close }: { cart: Cart | undefined; taken: Cart[]; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState({
    at: cart?.at.join(' ') ?? '/cart/add',
    fields: cart?.fields.join(' ') ?? 'sku',
    item: cart?.item ?? 'product:{value}',
    unknown: cart?.unknown ?? 'refuse',
  });
  const key = cart?.key ?? freeKey('cart', taken);
  const done = async () => {
    await queries.invalidateQueries();
    close();
  };
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/carts/{key}', {
          params: { path: { key } },
          headers: { 'If-Match': `"${cart?.version ?? 0}"` },
          body: { at: parts(draft.at), fields: parts(draft.fields), item: draft.item, unknown: draft.unknown },
        }),
      ),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/carts/{key}', { params: { path: { key } } })),
    onSuccess: done,
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  const about = (field: string) => refused?.faults.find((one) => one.field?.startsWith(field))?.message;
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  return (
    <Dialog title={t(cart ? 'prices.cart.change' : 'prices.cart.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {fault && !refused?.faults.length && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        <fieldset className="bare" disabled={!may}>
          <Field
            id="cart-at"
            label={t('prices.cart.at')}
            hint={t('prices.cart.atHint')}
            required
            bad={about('at')}
            value={draft.at}
            onChange={put('at')}
          />
          <Field
            id="cart-fields"
            label={t('prices.cart.fields')}
            hint={t('prices.cart.fieldsHint')}
            required
            bad={about('fields')}
            value={draft.fields}
            onChange={put('fields')}
          />
          <Field
            id="cart-item"
            label={t('prices.cart.item')}
            hint={t('prices.cart.itemHint')}
            required
            bad={about('item')}
            value={draft.item}
            onChange={put('item')}
          />
          <Field
            as="select"
            id="cart-unknown"
            label={t('prices.cart.unknownLabel')}
            bad={about('unknown')}
            value={draft.unknown}
            onChange={put('unknown')}
          >
            {(['refuse', 'pass'] as const).map((way) => (
              <option key={way} value={way}>
                {t(`prices.cart.unknown.${way}`)}
              </option>
            ))}
          </Field>
        </fieldset>
        <DialogBar
          go={may ? t('roles.save') : null}
          disabled={save.isPending}
          close={close}
          first={
            cart &&
            may && (
              <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
                {t('prices.cart.remove')}
              </button>
            )
          }
        />
      </form>
    </Dialog>
  );
}
