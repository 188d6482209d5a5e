import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { freeKey } from '../frame/freeKey';
import { AudienceField } from '../People/AudienceField';
import { useMay } from '../People/me';

type Coupon = Schemas['CouponView'];
const said = (text: string) => text.trim() || null;

/** Adds a coupon, changes one, removes one; shows who used it. */
export function EditCoupon({ coupon, taken, close }: { coupon: Coupon | undefined; taken: Coupon[]; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState({
    code: coupon?.code ?? '',
    title: coupon?.title ?? '',
    audience: coupon?.audience ?? '',
    sort: coupon?.amount ? 'amount' : 'off',
    value: coupon?.off ?? coupon?.amount ?? '',
    currency: coupon?.currency ?? 'EUR',
    items: coupon?.items.join(' ') ?? '',
    from: coupon?.from ?? '',
    until: coupon?.until ?? '',
    perPerson: coupon ? String(coupon.perPerson ?? 'any') : '1',
    most: coupon?.most ? String(coupon.most) : '',
  });
  const key = coupon?.key ?? freeKey(draft.code, taken, 'coupon');
  const done = async () => {
    await queries.invalidateQueries();
    close();
  };
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/coupons/{key}', {
          params: { path: { key } },
          headers: { 'If-Match': `"${coupon?.version ?? 0}"` },
          body: {
            code: said(draft.code),
            title: said(draft.title),
            audience: said(draft.audience),
            off: draft.sort === 'off' ? said(draft.value) : null,
            amount: draft.sort === 'amount' ? said(draft.value) : null,
            currency: draft.sort === 'amount' ? said(draft.currency) : null,
            items: draft.items.trim() ? draft.items.trim().split(/[\s,]+/) : null,
            from: said(draft.from),
            until: said(draft.until),
            perPerson: said(draft.perPerson),
            most: draft.most ? Number(draft.most) : null,
          },
        }),
      ),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/coupons/{key}', { params: { path: { key } } })),
    onSuccess: done,
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  const badItem = refused?.faults.find((one) => one.field?.startsWith('items'))?.message;
  return (
    <Dialog title={t(coupon ? 'prices.coupon.change' : 'prices.coupon.add')} close={close}>
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
            id="coupon-code"
            label={t('prices.coupon.code')}
            hint={t('prices.coupon.codeHint')}
            required
            spellCheck={false}
            bad={refused?.about('code') ?? refused?.about('key')}
            value={draft.code}
            onChange={put('code')}
          />
          <Field
            id="coupon-title"
            label={t('prices.coupon.called')}
            hint={t('prices.coupon.calledHint')}
            bad={refused?.about('title')}
            value={draft.title}
            onChange={put('title')}
          />
          <AudienceField
            id="coupon-audience"
            label={t('prices.coupon.who')}
            hint={t('prices.coupon.whoHint')}
            bad={refused?.about('audience')}
            value={draft.audience}
            set={(audience) => setDraft({ ...draft, audience })}
          />
          <div className="pair">
            <Field as="select" id="coupon-sort" label={t('prices.coupon.sort')} value={draft.sort} onChange={put('sort')}>
              <option value="off">{t('prices.coupon.sorts.off')}</option>
              <option value="amount">{t('prices.coupon.sorts.amount')}</option>
            </Field>
            <Field
              id="coupon-value"
              label={t(draft.sort === 'off' ? 'prices.line.percent' : 'prices.coupon.amount')}
              required
              inputMode="decimal"
              bad={refused?.about('off') ?? refused?.about('amount')}
              value={draft.value}
              onChange={put('value')}
            />
            {draft.sort === 'amount' && (
              <Field
                id="coupon-currency"
                label={t('prices.currency')}
                maxLength={3}
                bad={refused?.about('currency')}
                value={draft.currency}
                onChange={put('currency')}
              />
            )}
          </div>
          <Field
            id="coupon-items"
            label={t('prices.coupon.items')}
            hint={t('prices.coupon.itemsHint')}
            bad={badItem}
            value={draft.items}
            onChange={put('items')}
          />
          <div className="pair">
            <Field
              id="coupon-per"
              label={t('prices.coupon.perPerson')}
              hint={t('prices.coupon.perPersonHint')}
              bad={refused?.about('perPerson')}
              value={draft.perPerson}
              onChange={put('perPerson')}
            />
            <Field
              id="coupon-most"
              type="number"
              min={1}
              label={t('prices.coupon.most')}
              bad={refused?.about('most')}
              value={draft.most}
              onChange={put('most')}
            />
          </div>
          <div className="pair">
            <Field
              id="coupon-from"
              label={t('prices.from')}
              placeholder="2026-12-01"
              bad={refused?.about('from')}
              value={draft.from}
              onChange={put('from')}
            />
            <Field
              id="coupon-until"
              label={t('prices.until')}
              placeholder="2026-12-24"
              bad={refused?.about('until')}
              value={draft.until}
              onChange={put('until')}
            />
          </div>
        </fieldset>
        {coupon && Number(coupon.used) > 0 && <Uses of={coupon.key} />}
        <DialogBar
          go={may ? t('roles.save') : null}
          disabled={save.isPending}
          close={close}
          first={
            coupon &&
            may && (
              <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
                {t('prices.coupon.remove')}
              </button>
            )
          }
        />
      </form>
    </Dialog>
  );
}

function Uses({ of }: { of: string }) {
  const { t } = useTranslation();
  const uses = useQuery({
    queryKey: ['coupons', of, 'uses'],
    queryFn: () => good(api.GET('/api/v1/coupons/{key}/uses', { params: { path: { key: of } } })),
  });
  return (
    <section className="would">
      <h3>{t('prices.coupon.uses')}</h3>
      {uses.isError && <p className="bad">{uses.error.message}</p>}
      <ul>
        {uses.data?.items.map((use) => (
          <li key={use.order}>
            {t('prices.coupon.use', { order: use.order, who: use.person || t('prices.coupon.erased'), when: moment(use.at) })}
          </li>
        ))}
      </ul>
      {uses.data?.next && <p className="soft">{t('prices.coupon.more')}</p>}
    </section>
  );
}
