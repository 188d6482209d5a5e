import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';

const states = ['given-up', 'waiting', 'sent'] as const;

/** Letters: where each is, what the mail server said, and what to do about those that were given up. */
export function LettersPage() {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [state, setState] = useState('');
  const letters = useQuery({
    queryKey: ['letters', state],
    queryFn: () => good(api.GET('/api/v1/letters', { params: { query: { limit: 200, ...(state ? { state } : {}) } } })),
  });
  const act = useMutation({
    mutationFn: ({ id, what }: { id: string; what: 'resend' | 'drop' }) =>
      what === 'resend'
        ? good(api.POST('/api/v1/letters/{id}/resend', { params: { path: { id } } }))
        : good(api.DELETE('/api/v1/letters/{id}', { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const when = (moment: string) => new Date(moment).toLocaleString('en', { dateStyle: 'medium', timeStyle: 'short' });
  return (
    <>
      <PageHead
        title={t('letters.title')}
        lead={t('letters.lead')}
        tools={
          <select className="field" aria-label={t('letters.state')} value={state} onChange={(e) => setState(e.currentTarget.value)}>
            <option value="">{t('letters.all')}</option>
            {states.map((s) => (
              <option key={s} value={s}>
                {t(`letters.states.${s}`)}
              </option>
            ))}
          </select>
        }
      />
      {letters.isPending && <Loading />}
      {letters.isError && <Failed fault={letters.error} again={() => void letters.refetch()} />}
      {act.isError && (
        <p className="bad" role="alert">
          {act.error.message}
        </p>
      )}
      {letters.isSuccess && letters.data.items.length === 0 && <Empty title={t('letters.empty')} lead={t('letters.emptyLead')} />}
      {letters.isSuccess && letters.data.items.length > 0 && (
        <ul className="letters">
          {letters.data.items.map((letter) => (
            <li key={letter.id} className="sheet">
              <div>
                <b>{letter.subject}</b>
                <p>
                  {t('letters.to', { to: letter.to })} · {when(letter.createdAt)}
                </p>
                <p className={letter.state === 'given-up' ? 'bad' : 'hint'}>
                  {letter.state === 'sent' && letter.sentAt
                    ? t('letters.sentAt', { at: when(letter.sentAt) })
                    : letter.state === 'waiting' && letter.nextTryAt
                      ? t('letters.next', { at: when(letter.nextTryAt), count: letter.tries })
                      : t('letters.gaveUp', { count: letter.tries })}
                </p>
                {letter.fault && <p className="hint">{t('letters.said', { what: letter.fault })}</p>}
              </div>
              {letter.state !== 'sent' && (
                <div className="letter-acts">
                  <button
                    type="button"
                    className="btn"
                    disabled={act.isPending}
                    onClick={() => act.mutate({ id: letter.id, what: 'resend' })}
                  >
                    {t('letters.resend')}
                  </button>
                  <button
                    type="button"
                    className="btn"
                    disabled={act.isPending}
                    onClick={() => act.mutate({ id: letter.id, what: 'drop' })}
                  >
                    {t('letters.drop')}
                  </button>
                </div>
              )}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
