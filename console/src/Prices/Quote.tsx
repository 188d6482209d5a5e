import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { Field } from '../frame/Field';

/** Reckons what somebody's cart would cost. */
export function Quote() {
  const { t } = useTranslation();
  const [draft, setDraft] = useState({ visitor: 'guest', lines: '', coupon: '' });
  const ask = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/quotes', {
          body: {
            visitor: draft.visitor,
            coupon: draft.coupon.trim() || null,
            lines: draft.lines
              .trim()
              .split(/[\s,]+/)
              .filter(Boolean)
              .map((line) => {
                const [item, many] = line.split('=');
                return { item: item ?? '', quantity: many ? Number(many) : null };
              }),
          },
        }),
      ),
  });
  const refused = ask.error instanceof Refused ? ask.error : undefined;
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) => {
    const { value } = e.currentTarget;
    setDraft((now) => ({ ...now, [field]: value }));
  };
  const quote = ask.data;
  return (
    <section className="panel-row">
      <h2>{t('prices.quote.title')}</h2>
      <form
        className="quote"
        onSubmit={(e) => {
          e.preventDefault();
          ask.mutate();
        }}
      >
        <Field
          id="quote-who"
          label={t('prices.quote.who')}
          hint={t('prices.quote.whoHint')}
          required
          value={draft.visitor}
          onChange={put('visitor')}
        />
        <Field
          id="quote-lines"
          label={t('prices.quote.lines')}
          hint={t('prices.quote.linesHint')}
          placeholder="product:fern-25=2"
          required
          bad={refused?.faults[0]?.message}
          value={draft.lines}
          onChange={put('lines')}
        />
        <Field id="quote-coupon" label={t('prices.quote.coupon')} value={draft.coupon} onChange={put('coupon')} />
        <button type="submit" className="btn" disabled={ask.isPending}>
          {t('prices.quote.ask')}
        </button>
      </form>
      {ask.error && !refused?.faults.length && (
        <p className="note" role="alert">
          {ask.error.message}
        </p>
      )}
      {quote && (
        <div className="people" aria-live="polite">
          <table>
            <thead>
              <tr>
                <th scope="col">{t('prices.line.item')}</th>
                <th scope="col">{t('prices.quote.each')}</th>
                <th scope="col">{t('prices.quote.usual')}</th>
                <th scope="col">{t('prices.list')}</th>
                <th scope="col">{t('prices.quote.total')}</th>
              </tr>
            </thead>
            <tbody>
              {quote.lines.map((line) => (
                <tr key={`${line.item} ${line.quantity}`}>
                  <th scope="row">
                    {line.item} {Number(line.quantity) > 1 && <span>× {line.quantity}</span>}
                  </th>
                  <td data-name={t('prices.quote.each')}>
                    {line.mayPrice ? (line.price ?? t('prices.quote.shops')) : t('prices.quote.untold')}
                  </td>
                  <td data-name={t('prices.quote.usual')}>{line.usual}</td>
                  <td data-name={t('prices.list')}>{line.list}</td>
                  <td data-name={t('prices.quote.total')}>
                    {line.mayBuy ? line.total : t('prices.quote.notSold')}
                    {line.discount && ` − ${line.discount}`}
                  </td>
                </tr>
              ))}
            </tbody>
            {quote.total && (
              <tfoot>
                <tr>
                  <th scope="row" colSpan={4}>
                    {quote.who}
                  </th>
                  <td>
                    <b>
                      {quote.total} {quote.currency}
                    </b>
                  </td>
                </tr>
              </tfoot>
            )}
          </table>
        </div>
      )}
      {quote?.couponFault && <p className="bad">{quote.couponFault}</p>}
    </section>
  );
}
