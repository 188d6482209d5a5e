import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { day, moment } from '../frame/dates';
import { Failed, Loading, PageHead } from '../frame/Page';
import { ChangeList } from '../Gates/Changes';
import { MemberOrders } from '../Orders/MemberOrders';
import { Account } from './Account';
import { Answers } from './Answers';
import { Holds } from './Holds';
import { Links } from './Links';
import { Notes } from './Notes';
import { Said } from './Said';

/** One member: where the account stands, what they hold, where they are signed in, their letters, notes and history. */
export function MemberPage() {
  const { t } = useTranslation();
  const { id = '' } = useParams();
  const member = useQuery({
    queryKey: ['member', id],
    queryFn: () => good(api.GET('/api/v1/members/{member}', { params: { path: { member: id } } })),
  });
  if (member.isPending) {
    return <Loading />;
  }

  if (member.isError) {
    return <Failed fault={member.error} again={() => void member.refetch()} />;
  }

  const whom = member.data;
  return (
    <>
      <PageHead
        kicker={<Link to="/members">{t('members.title')}</Link>}
        title={whom.name}
        lead={whom.userName ? `${whom.email} · ${whom.userName}` : whom.email}
        tools={
          <>
            <a className="btn" href={`/api/v1/members/${whom.id}/data`} download={`${whom.email}.json`}>
              {t('member.export')}
            </a>
            <Link className="btn" to={`/viewpoint?as=${encodeURIComponent(whom.email)}`}>
              {t('member.see')}
            </Link>
          </>
        }
      />
      <Account member={whom} />
      <Holds member={whom} />
      <MemberOrders member={whom.id} />
      <Answers member={whom} />
      <Said member={whom} />
      <Organisations member={whom} />
      <Links member={whom} />
      <SignedInAt member={whom} />
      <Notes member={whom} />
      <Letters member={whom} />
      <History subject={whom.email} version={whom.version} />
    </>
  );
}

/** A part of the page, with what can be done in it. */
export function Part({ title, tools, children }: { title: string; tools?: ReactNode; children: ReactNode }) {
  return (
    <section className="sheet part" aria-label={title}>
      <header>
        <h2>{title}</h2>
        {tools}
      </header>
      {children}
    </section>
  );
}

/** The organisations that they belong to; nothing where there is none. */
function Organisations({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const mine = useQuery({
    queryKey: ['organisations', 'of', member.id],
    queryFn: () => good(api.GET('/api/v1/members/{member}/organisations', { params: { path: { member: member.id } } })),
  });
  return mine.isSuccess && mine.data.length > 0 ? (
    <Part title={t('member.organisations')}>
      <ul className="rows">
        {mine.data.map((one) => (
          <li key={one.key}>
            <div>
              <Link to={`/organisations/${one.key}`}>
                <b>{one.title}</b>
              </Link>{' '}
              {one.manages && <span className="state">{t('member.manages')}</span>}{' '}
              {one.over && <span className="state off">{t('organisations.over')}</span>}
              <p className="hint">{t('member.joinedAt', { at: day(one.joinedAt) })}</p>
            </div>
          </li>
        ))}
      </ul>
    </Part>
  ) : null;
}

function SignedInAt({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const sessions = useQuery({
    queryKey: ['sessions', member.email],
    queryFn: () => good(api.GET('/api/v1/sessions', { params: { query: { member: member.email } } })),
  });
  const end = useMutation({
    mutationFn: async (id: string | null) => {
      if (id) {
        await good(api.DELETE('/api/v1/sessions/{id}', { params: { path: { id } } }));
      } else {
        await good(api.DELETE('/api/v1/members/{member}/sessions', { params: { path: { member: member.id } } }));
      }
    },
    onSettled: () => queries.invalidateQueries(),
  });
  const there = sessions.data?.items ?? [];
  return (
    <Part
      title={t('member.sessions')}
      tools={
        there.length > 1 && (
          <button type="button" className="btn" disabled={end.isPending} onClick={() => end.mutate(null)}>
            {t('member.endAll')}
          </button>
        )
      }
    >
      {end.isError && <p className="bad">{end.error.message}</p>}
      {sessions.isSuccess && there.length === 0 && <p className="hint">{t('member.noSessions')}</p>}
      <ul className="rows">
        {there.map((session) => (
          <li key={session.id}>
            <div>
              <b>{agentOf(session.agent) ?? t('member.someBrowser')}</b>{' '}
              <span className="hint">{t(`member.purposes.${session.purpose}`)}</span>
              <p className="hint">
                {t('member.since', { at: moment(session.createdAt), network: session.network ?? '?' })}
                {session.unlocked.length > 0 && ` · ${t('member.unlocked', { gates: session.unlocked.join(', ') })}`}
              </p>
            </div>
            <button type="button" className="btn" disabled={end.isPending} onClick={() => end.mutate(session.id)}>
              {t('member.endOne')}
            </button>
          </li>
        ))}
      </ul>
    </Part>
  );
}

/** The browser and its system, as its own name tells them; null where it tells neither. */
function agentOf(agent: string | null) {
  const browser = /(Firefox|Edg|Chrome|Safari)\//.exec(agent ?? '')?.[1]?.replace('Edg', 'Edge');
  const system = /(Windows|Android|iPhone|iPad|Mac OS X|Linux)/.exec(agent ?? '')?.[1]?.replace('Mac OS X', 'macOS');
  return browser && system ? `${browser}, ${system}` : (browser ?? system ?? null);
}

function Letters({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const letters = useQuery({
    queryKey: ['letters', 'to', member.email],
    queryFn: () => good(api.GET('/api/v1/letters', { params: { query: { to: member.email, limit: 20 } } })),
  });
  return (
    <Part title={t('member.letters')}>
      {letters.isSuccess && letters.data.items.length === 0 && <p className="hint">{t('member.noLetters')}</p>}
      <ul className="rows">
        {letters.data?.items.map((letter) => (
          <li key={letter.id}>
            <div>
              <b>{letter.subject}</b>
              <p className={letter.state === 'given-up' ? 'bad' : 'hint'}>
                {t(`letters.states.${letter.state}`)} · {moment(letter.sentAt ?? letter.createdAt)}
              </p>
            </div>
          </li>
        ))}
      </ul>
    </Part>
  );
}

/** What was done to somebody or something, the last first. */
export function History({ subject, version }: { subject: string; version: number }) {
  const { t } = useTranslation();
  const history = useQuery({
    queryKey: ['history', subject, version],
    queryFn: () => good(api.GET('/api/v1/history', { params: { query: { subject, limit: 20 } } })),
  });
  return (
    <Part title={t('member.history')}>
      {history.isSuccess && history.data.items.length === 0 && <p className="hint">{t('member.noHistory')}</p>}
      {history.isSuccess && <ChangeList entries={history.data.items} />}
    </Part>
  );
}
