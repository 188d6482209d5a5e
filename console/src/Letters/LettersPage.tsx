import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { Held } from './Held';
import { Unreachable } from './Unreachable';

const states = ['unclear', 'given-up', 'returned', 'waiting', 'sent'] as const;
type Letter = Schemas['LetterView'];

/** The outbox: where each letter is, what the mail server said at each attempt, and what to do about those that need a hand. */
export function LettersPage() {
  const { t } = useTranslation();
  const [state, setState] = useState('');
  const [most, setMost] = useState(50);
  const letters = useQuery({
    queryKey: ['letters', state, most],
    queryFn: () => good(api.GET('/api/v1/letters', { params: { query: { limit: most, ...(state ? { state } : {}) } } })),
  });
  const outbox = useQuery({ queryKey: ['outbox'], queryFn: () => good(api.GET('/api/v1/letters/outbox')) });
  const count = {
    unclear: outbox.data?.unclear,
    'given-up': outbox.data?.givenUp,
    returned: outbox.data?.returned,
    waiting: outbox.data?.waiting,
    sent: undefined,
  };
  return (
    <>
      <PageHead
        title={t('letters.title')}
        lead={t('letters.lead')}
        tools={
          <>
            <select className="field" aria-label={t('letters.state')} value={state} onChange={(e) => setState(e.currentTarget.value)}>
              <option value="">{t('letters.all')}</option>
              {states.map((s) => (
                <option key={s} value={s}>
                  {t(`letters.states.${s}`)}
                  {count[s] ? ` (${count[s]})` : ''}
                </option>
              ))}
            </select>
            <Link className="btn" to="/letters/words">
              {t('letters.words')}
            </Link>
          </>
        }
      />
      {outbox.data && <Held outbox={outbox.data} />}
      {letters.isPending && <Loading />}
      {letters.isError && <Failed fault={letters.error} again={() => void letters.refetch()} />}
      {letters.isSuccess && letters.data.items.length === 0 && <Empty title={t('letters.empty')} lead={t('letters.emptyLead')} />}
      {letters.isSuccess && letters.data.items.length > 0 && (
        <ul className="letters">
          {letters.data.items.map((letter) => (
            <Entry key={letter.id} letter={letter} />
          ))}
        </ul>
      )}
      {letters.data?.next && (
        <button type="button" className="btn" onClick={() => setMost(Math.min(1000, most * 2))}>
          {t('members.more')}
        </button>
      )}
      <Unreachable />
    </>
  );
}

function Entry({ letter }: { letter: Letter }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const act = useMutation({
    mutationFn: (what: 'resend' | 'sent' | 'drop') => {
      const params = { params: { path: { id: letter.id } } };
      return what === 'resend'
        ? good(api.POST('/api/v1/letters/{id}/resend', params))
        : what === 'sent'
          ? good(api.POST('/api/v1/letters/{id}/sent', params))
          : good(api.DELETE('/api/v1/letters/{id}', params));
    },
    onSettled: () => queries.invalidateQueries(),
  });
  const said =
    letter.state === 'returned' && letter.returnedAt
      ? t('letters.cameBack', { at: moment(letter.returnedAt) })
      : letter.state === 'sent' && letter.sentAt
        ? t('letters.sentAt', { at: moment(letter.sentAt) })
        : letter.state === 'unclear'
          ? t('letters.unclear')
          : letter.state === 'waiting' && letter.nextTryAt
            ? t('letters.next', { at: moment(letter.nextTryAt), count: letter.tries })
            : t('letters.gaveUp', { count: letter.tries });
  return (
    <li className="sheet">
      <div>
        <b>{letter.subject}</b>
        <p>
          {t('letters.to', { to: letter.to })} · {moment(letter.createdAt)}
        </p>
        <p className={letter.state === 'sent' || letter.state === 'waiting' ? 'hint' : 'bad'}>{said}</p>
        {letter.fault && <p className="hint">{t('letters.said', { what: letter.fault })}</p>}
        {act.isError && <p className="bad">{act.error.message}</p>}
        <button type="button" className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
          {t('letters.attempts')}
        </button>
        {open && <Attempts id={letter.id} />}
      </div>
      {letter.state !== 'sent' && letter.state !== 'returned' && (
        <May scope="write">
          <div className="letter-acts">
            {letter.state === 'unclear' && (
              <button type="button" className="btn" disabled={act.isPending} onClick={() => act.mutate('sent')}>
                {t('letters.wentOut')}
              </button>
            )}
            <button type="button" className="btn" disabled={act.isPending} onClick={() => act.mutate('resend')}>
              {t('letters.resend')}
            </button>
            <button type="button" className="btn" disabled={act.isPending} onClick={() => act.mutate('drop')}>
              {t('letters.drop')}
            </button>
          </div>
        </May>
      )}
    </li>
  );
}

function Attempts({ id }: { id: string }) {
  const { t } = useTranslation();
  const letter = useQuery({
    queryKey: ['letter', id],
    queryFn: () => good(api.GET('/api/v1/letters/{id}', { params: { path: { id } } })),
  });
  if (!letter.isSuccess) {
    return <p className="hint">{letter.error?.message ?? t('state.loading')}</p>;
  }

  return letter.data.attempts.length === 0 ? (
    <p className="hint">{t('letters.noAttempts')}</p>
  ) : (
    <ol className="attempts">
      {letter.data.attempts.map((attempt) => (
        <li key={attempt.at}>
          {moment(attempt.at)}: <b>{t(`letters.outcomes.${attempt.outcome}`)}</b>
          {attempt.said && <code>{attempt.said}</code>}
        </li>
      ))}
    </ol>
  );
}
