import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { day } from '../frame/dates';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { useMay } from './me';

type SentLink = Schemas['SentLinkView'];
type Pass = Schemas['PassView'];
type Letter = Schemas['LetterView'];
type Delivered = { at: string; link?: SentLink; pass?: Pass; shared?: Letter };
const states = ['open', 'used', 'late', 'withdrawn'] as const;
type State = (typeof states)[number] | 'replaced';
/** The links that can be sent anew from here; the others come when somebody asks for them. */
const again = ['invitation', 'set-password', 'confirm'];

/** How a pass stands, in the words of what was delivered. */
export function stateOf(pass: Pass): State {
  return pass.withdrawnAt ? 'withdrawn' : Number(pass.uses) > 0 ? 'used' : ['over', 'used-up'].includes(pass.standing) ? 'late' : 'open';
}

/** What was delivered to whom, opened or not, by which way: links and codes of letters, passes, and shared passwords that letters told. */
export function DeliveredPage() {
  const { t } = useTranslation();
  const [words, setWords] = useState('');
  const [state, setState] = useState('');
  const [most, setMost] = useState(50);
  const q = useSettled(words, 250);
  const query = { limit: most, ...(q ? { q } : {}) };
  const links = useQuery({
    queryKey: ['links', query, state],
    queryFn: () => good(api.GET('/api/v1/links', { params: { query: { ...query, ...(state ? { state } : {}) } } })),
  });
  const passes = useQuery({ queryKey: ['passes', query], queryFn: () => good(api.GET('/api/v1/passes', { params: { query } })) });
  // Whether a shared password was used by whom it was told to nobody can know: its letters stand here however they stand.
  const shared = useQuery({
    queryKey: ['letters', 'shared', most],
    queryFn: () =>
      good(
        api.GET('/api/v1/letters', { params: { query: { kind: 'shared-password,shared-password-rotated', limit: Math.min(most, 200) } } }),
      ),
  });
  const all: Delivered[] = [
    ...(links.data?.items ?? []).map((link) => ({ at: link.createdAt, link })),
    ...(passes.data?.items ?? []).filter((pass) => !state || stateOf(pass) === state).map((pass) => ({ at: pass.createdAt, pass })),
    ...(shared.data?.items ?? [])
      .filter((letter) => !state && letter.to.toLowerCase().includes(q.trim().toLowerCase()))
      .map((letter) => ({ at: letter.createdAt, shared: letter })),
  ].sort((a, b) => b.at.localeCompare(a.at));
  const failed = links.error ?? passes.error ?? shared.error;
  return (
    <>
      <PageHead title={t('delivered.title')} lead={t('delivered.lead')} />
      <div className="finder">
        <input
          className="field"
          type="search"
          aria-label={t('delivered.find')}
          placeholder={t('delivered.find')}
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
        <select className="field" aria-label={t('delivered.state')} value={state} onChange={(e) => setState(e.currentTarget.value)}>
          <option value="">{t('delivered.all')}</option>
          {states.map((one) => (
            <option key={one} value={one}>
              {t(`delivered.states.${one}`)}
            </option>
          ))}
        </select>
      </div>
      {(links.isPending || passes.isPending || shared.isPending) && <Loading />}
      {failed && <Failed fault={failed} again={() => void Promise.all([links.refetch(), passes.refetch(), shared.refetch()])} />}
      {links.isSuccess && passes.isSuccess && shared.isSuccess && all.length === 0 && (
        <Empty title={t('delivered.empty')} lead={t('delivered.emptyLead')} />
      )}
      {all.length > 0 && <Table all={all} />}
      {(links.data?.next || passes.data?.next || (shared.data?.next && most < 200)) && (
        <button type="button" className="btn" onClick={() => setMost(most + 100)}>
          {t('passes.more')}
        </button>
      )}
    </>
  );
}

function Table({ all }: { all: Delivered[] }) {
  const { t } = useTranslation();
  return (
    <div className="people">
      <table>
        <thead>
          <tr>
            {(['to', 'what', 'sent', 'state', 'do'] as const).map((head) => (
              <th key={head} scope="col">
                {head === 'do' ? <span className="sr">{t('delivered.do')}</span> : t(`delivered.${head}`)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {all.map((one) =>
            one.link ? (
              <OfLink key={one.link.id} link={one.link} />
            ) : one.pass ? (
              <OfPass key={one.pass.id} pass={one.pass} />
            ) : (
              one.shared && <OfShared key={one.shared.id} letter={one.shared} />
            ),
          )}
        </tbody>
      </table>
    </div>
  );
}

function OfLink({ link }: { link: SentLink }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('people');
  const done = { onSuccess: () => queries.invalidateQueries({ queryKey: ['links'] }) };
  const withdraw = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/links/{id}', { params: { path: { id: link.id } } })),
    ...done,
  });
  const send = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/members/{member}/links', { params: { path: { member: link.member ?? '' } }, body: { purpose: link.purpose } }),
      ),
    ...done,
  });
  const fault = withdraw.error ?? send.error;
  return (
    <tr>
      <td>{link.member ? <Link to={`/members/${link.member}`}>{link.email}</Link> : link.email}</td>
      <td>
        {t(`delivered.purposes.${link.purpose}`)}
        <br />
        <small>{t(`delivered.ways.${link.way}`)}</small>
      </td>
      <td>{day(link.createdAt)}</td>
      <td>
        <Standing state={link.state as State} when={link.closedAt} until={link.until} />
      </td>
      <td>
        {may && link.state === 'open' && (
          <button type="button" className="link" disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
            {t('delivered.withdraw')}
          </button>
        )}
        {may && link.state !== 'used' && link.member && again.includes(link.purpose) && (
          <>
            {' '}
            <button type="button" className="link" disabled={send.isPending} onClick={() => send.mutate()}>
              {t('delivered.again')}
            </button>
          </>
        )}
        {fault && <small role="alert">{fault.message}</small>}
      </td>
    </tr>
  );
}

function OfPass({ pass }: { pass: Pass }) {
  const { t } = useTranslation();
  return (
    <tr>
      <td>{pass.email ? `${pass.holder} · ${pass.email}` : pass.holder}</td>
      <td>
        {t('delivered.pass', { kind: pass.kindTitle })}
        <br />
        <small>{t(pass.email ? 'delivered.ways.password' : 'delivered.ways.hand')}</small>
      </td>
      <td>{day(pass.createdAt)}</td>
      <td>
        <Standing state={stateOf(pass)} when={pass.withdrawnAt ?? pass.lastUsedAt} until={pass.until} />
      </td>
      <td>
        <Link to={`/passes?kind=${pass.kind}`}>{t('delivered.toPass')}</Link>
      </td>
    </tr>
  );
}

/** A letter that told a shared password; whether it went out is known, and no more. */
function OfShared({ letter }: { letter: Letter }) {
  const { t } = useTranslation();
  const gone = letter.state === 'given-up' || letter.state === 'returned';
  return (
    <tr>
      <td>{letter.to}</td>
      <td>
        {t('delivered.shared')}
        <br />
        <small>{letter.subject}</small>
      </td>
      <td>{day(letter.createdAt)}</td>
      <td>
        <span className={gone ? 'state off' : 'state'}>{t(`delivered.letters.${letter.state}`)}</span>
        <br />
        <small>{letter.sentAt && day(letter.sentAt)}</small>
      </td>
      <td>
        <Link to="/gates">{t('delivered.toGates')}</Link>
      </td>
    </tr>
  );
}

function Standing({ state, when, until }: { state: State; when: string | null; until: string | null }) {
  const { t } = useTranslation();
  return (
    <>
      <span className={state === 'open' || state === 'used' ? 'state' : 'state off'}>{t(`delivered.states.${state}`)}</span>
      <br />
      <small>{state === 'open' ? until && t('delivered.until', { when: day(until) }) : when && day(when)}</small>
    </>
  );
}
