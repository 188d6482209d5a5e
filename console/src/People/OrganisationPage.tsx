import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { day, lastDay, moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Failed, Loading, PageHead } from '../frame/Page';
import { ChangeList } from '../Gates/Changes';
import { Part } from './MemberPage';
import { useFacts } from './MembersPage';
import { useMay } from './me';
import { MemberState } from './member';
import { Ends, FactSelect, Seats } from './OrganisationsPage';

type One = Schemas['OrganisationView'];

/** One organisation: how long and for how many, what its people hold through it, who they are, who is asked to join. */
export function OrganisationPage() {
  const { t } = useTranslation();
  const { key = '' } = useParams();
  const found = useQuery({
    queryKey: ['organisation', key],
    queryFn: () => good(api.GET('/api/v1/organisations/{key}', { params: { path: { key } } })),
  });
  if (found.isPending) {
    return <Loading />;
  }

  if (found.isError) {
    return <Failed fault={found.error} again={() => void found.refetch()} />;
  }

  const one = found.data;
  return (
    <>
      <PageHead kicker={<Link to="/organisations">{t('organisations.title')}</Link>} title={one.title} lead={t('organisation.lead')} />
      <Terms key={one.version} one={one} />
      <Given one={one} />
      <People one={one} />
      <History one={one} />
    </>
  );
}

/** Changes all that an organisation is, as it was read; whoever was faster is told. */
function useChange(one: One) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (change: Partial<Schemas['OrganisationDraft']>) =>
      good(
        api.PUT('/api/v1/organisations/{key}', {
          params: { path: { key: one.key } },
          headers: { 'If-Match': `"${one.version}"` },
          body: {
            key: one.key,
            title: one.title,
            seats: one.seats,
            until: one.until,
            facts: one.facts.map(({ fact, from, until }) => ({ fact, from, until })),
            ...change,
          },
        }),
      ),
    onSettled: () => queries.invalidateQueries(),
  });
}

function Terms({ one }: { one: One }) {
  const { t } = useTranslation();
  const may = useMay('people');
  const [asked, setAsked] = useState<'end' | 'remove'>();
  const [draft, setDraft] = useState({ title: one.title, seats: String(one.seats), until: one.until ? dayIn(one.until) : '' });
  const change = useChange(one);
  const refused = change.error instanceof Refused ? change.error : undefined;
  const untilStays = draft.until === (one.until ? dayIn(one.until) : '');
  const same = draft.title === one.title && draft.seats === String(one.seats) && untilStays;
  const field = (name: 'title' | 'seats' | 'until') => ({
    id: `organisation-${name}`,
    label: t(`organisations.form.${name}`),
    bad: refused?.about(name),
    value: draft[name],
    disabled: !may,
    onChange: (e: { currentTarget: { value: string } }) => setDraft({ ...draft, [name]: e.currentTarget.value }),
  });
  return (
    <Part title={t('organisation.terms')}>
      <dl className="facts">
        <dt>{t('organisations.seats')}</dt>
        <dd>
          <Seats one={one} />
        </dd>
        <dt>{t('organisations.until')}</dt>
        <dd>
          <Ends one={one} />
        </dd>
      </dl>
      <form
        className="give"
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate({
            title: draft.title,
            seats: Number(draft.seats) || 0,
            until: untilStays ? one.until : draft.until || null,
          });
        }}
      >
        <Field {...field('title')} required />
        <Field {...field('seats')} type="number" min={1} max={1000} required />
        <Field {...field('until')} type="date" />
        <button type="submit" className="btn prime" disabled={!may || same || change.isPending}>
          {t('organisation.save')}
        </button>
        {change.isError && !refused?.faults.length && (
          <p className="bad" role="alert">
            {change.error.message}
          </p>
        )}
      </form>
      <May scope="people">
        <div className="deeds">
          {!one.over && (
            <button type="button" className="btn" onClick={() => setAsked('end')}>
              {t('organisation.end')}
            </button>
          )}
          <button type="button" className="btn danger" onClick={() => setAsked('remove')}>
            {t('organisation.remove')}
          </button>
        </div>
      </May>
      {asked && <Leave one={one} act={asked} close={() => setAsked(undefined)} />}
    </Part>
  );
}

/** The day whose end an end is, as a date field shows it. */
const dayIn = (until: string) => {
  const last = new Date(new Date(until).getTime() - 1);
  return `${last.getFullYear()}-${String(last.getMonth() + 1).padStart(2, '0')}-${String(last.getDate()).padStart(2, '0')}`;
};

function Leave({ one, act, close }: { one: One; act: 'end' | 'remove'; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const leave = useMutation({
    mutationFn: async () => {
      const params = { path: { key: one.key } };
      await (act === 'end'
        ? good(api.POST('/api/v1/organisations/{key}/end', { params }))
        : good(api.DELETE('/api/v1/organisations/{key}', { params })));
    },
    onSuccess: async () => {
      if (act === 'remove') {
        go('/organisations');
      }

      await queries.invalidateQueries(act === 'remove' ? { queryKey: ['organisations'] } : {});
      close();
    },
  });
  return (
    <Dialog title={t(`organisation.ask.${act}`, { title: one.title })} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          leave.mutate();
        }}
      >
        <p>{t(`organisation.asks.${act}`, { count: one.people?.length ?? 0 })}</p>
        {leave.isError && (
          <p className="note" role="alert">
            {leave.error.message}
          </p>
        )}
        <DialogBar go={t(`organisation.go.${act}`)} disabled={leave.isPending} danger={act === 'remove'} close={close} />
      </form>
    </Dialog>
  );
}

/** What its people hold through it. */
function Given({ one }: { one: One }) {
  const { t } = useTranslation();
  const facts = useFacts();
  const change = useChange(one);
  const nothing = { fact: '', from: '', until: '' };
  const [draft, setDraft] = useState(nothing);
  const refused = change.error instanceof Refused ? change.error : undefined;
  const others = (fact: string) => one.facts.filter((f) => f.fact !== fact).map((f) => ({ fact: f.fact, from: f.from, until: f.until }));
  const titleOf = (fact: string) => facts.find((known) => known.value === fact)?.words ?? fact;
  return (
    <Part title={t('organisation.given')}>
      {one.facts.length === 0 && <p className="hint">{t('organisation.givenNothing')}</p>}
      <ul className="rows">
        {one.facts.map((fact) => (
          <li key={fact.fact}>
            <div>
              <b title={fact.fact}>{titleOf(fact.fact)}</b>
              <p className="hint">
                {[
                  fact.from && t('member.from', { at: day(fact.from) }),
                  fact.until ? t('member.until', { at: lastDay(fact.until) }) : t('organisation.asLong'),
                ]
                  .filter(Boolean)
                  .join(' · ')}
              </p>
            </div>
            <May scope="people">
              <button
                type="button"
                className="btn"
                disabled={change.isPending}
                aria-label={t('organisation.takeOf', { fact: fact.fact })}
                onClick={() => change.mutate({ facts: others(fact.fact) })}
              >
                {t('organisation.take')}
              </button>
            </May>
          </li>
        ))}
      </ul>
      <May scope="people">
        <form
          className="give"
          onSubmit={(e) => {
            e.preventDefault();
            const fresh = { fact: draft.fact, ...(draft.from ? { from: draft.from } : {}), ...(draft.until ? { until: draft.until } : {}) };
            change.mutate({ facts: [...others(draft.fact), fresh] }, { onSuccess: () => setDraft(nothing) });
          }}
        >
          <FactSelect
            id="give-fact"
            label={t('member.give')}
            bad={refused?.about('fact')}
            facts={facts}
            value={draft.fact}
            choose={(fact) => setDraft({ ...draft, fact })}
          />
          <Field
            id="give-from"
            type="date"
            label={t('member.fromField')}
            bad={refused?.about('from')}
            value={draft.from}
            onChange={(e) => setDraft({ ...draft, from: e.currentTarget.value })}
          />
          <Field
            id="give-until"
            type="date"
            label={t('member.untilField')}
            bad={refused?.about('until')}
            value={draft.until}
            onChange={(e) => setDraft({ ...draft, until: e.currentTarget.value })}
          />
          <button type="submit" className="btn prime" disabled={change.isPending || !draft.fact}>
            {t('member.giveGo')}
          </button>
          {change.isError && !refused?.faults.length && (
            <p className="bad" role="alert">
              {change.error.message}
            </p>
          )}
        </form>
      </May>
    </Part>
  );
}

/** Who belongs to it, who is asked to, and asking more. */
function People({ one }: { one: One }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({ email: '', manages: false });
  const act = useMutation({
    mutationFn: async (what: () => Promise<unknown>) => {
      await what();
    },
    onSettled: () => queries.invalidateQueries(),
  });
  const path = (member: string) => ({ params: { path: { key: one.key, member } } });
  const invited = (invitation: string) => ({ params: { path: { key: one.key, invitation } } });
  const refused = act.error instanceof Refused ? act.error : undefined;
  const now = new Date().toISOString();
  return (
    <Part title={t('organisation.people')}>
      {act.isError && !refused?.about('email') && (
        <p className="bad" role="alert">
          {act.error.message}
        </p>
      )}
      {one.people?.length === 0 && one.invitations?.length === 0 && <p className="hint">{t('organisation.nobody')}</p>}
      <ul className="rows">
        {one.people?.map((person) => (
          <li key={person.member}>
            <div>
              <Link to={`/members/${person.member}`}>
                <b>{person.name}</b>
              </Link>{' '}
              {person.manages && <span className="state">{t('organisation.manager')}</span>}{' '}
              {person.status !== 'active' && <MemberState status={person.status} />}
              <p className="hint">
                {person.email} · {t('organisation.since', { at: day(person.joinedAt) })}
              </p>
            </div>
            <May scope="people">
              <div className="side">
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t(person.manages ? 'organisation.noManagerOf' : 'organisation.makeManagerOf', { name: person.name })}
                  onClick={() =>
                    act.mutate(() =>
                      good(
                        api.PUT('/api/v1/organisations/{key}/people/{member}', {
                          ...path(person.member),
                          body: { manages: !person.manages },
                        }),
                      ),
                    )
                  }
                >
                  {t(person.manages ? 'organisation.noManager' : 'organisation.makeManager')}
                </button>
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t('organisation.leaveOf', { name: person.name })}
                  onClick={() => act.mutate(() => good(api.DELETE('/api/v1/organisations/{key}/people/{member}', path(person.member))))}
                >
                  {t('organisation.leave')}
                </button>
              </div>
            </May>
          </li>
        ))}
        {one.invitations?.map((asked) => (
          <li key={asked.id}>
            <div>
              <b>{asked.email}</b>{' '}
              <span className={asked.until <= now ? 'state off' : 'state exempt'}>
                {t(asked.until <= now ? 'organisation.late' : 'organisation.asked')}
              </span>
              <p className="hint">{t('organisation.writtenTo', { at: moment(asked.sentAt), by: asked.by })}</p>
            </div>
            <May scope="people">
              <div className="side">
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t('organisation.remindOf', { email: asked.email })}
                  onClick={() =>
                    act.mutate(() => good(api.POST('/api/v1/organisations/{key}/invitations/{invitation}/letter', invited(asked.id))))
                  }
                >
                  {t('organisation.remind')}
                </button>
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t('organisation.withdrawOf', { email: asked.email })}
                  onClick={() =>
                    act.mutate(() => good(api.DELETE('/api/v1/organisations/{key}/invitations/{invitation}', invited(asked.id))))
                  }
                >
                  {t('organisation.withdraw')}
                </button>
              </div>
            </May>
          </li>
        ))}
      </ul>
      <May scope="people">
        <p className="hint">{t('organisation.emailHint')}</p>
        <form
          className="give invite"
          onSubmit={(e) => {
            e.preventDefault();
            act.mutate(
              () => good(api.POST('/api/v1/organisations/{key}/invitations', { params: { path: { key: one.key } }, body: draft })),
              { onSuccess: () => setDraft({ email: '', manages: false }) },
            );
          }}
        >
          <Field
            id="invite-email"
            type="email"
            label={t('organisation.email')}
            required
            bad={refused?.about('email')}
            value={draft.email}
            onChange={(e) => setDraft({ ...draft, email: e.currentTarget.value })}
          />
          <label className="tick">
            <input type="checkbox" checked={draft.manages} onChange={(e) => setDraft({ ...draft, manages: e.currentTarget.checked })} />{' '}
            {t('organisation.asManager')}
          </label>
          <button type="submit" className="btn prime" disabled={act.isPending || one.over || one.taken >= one.seats}>
            {t('organisation.invite')}
          </button>
        </form>
      </May>
    </Part>
  );
}

function History({ one }: { one: One }) {
  const { t } = useTranslation();
  const subject = `organisation:${one.key}`;
  const history = useQuery({
    queryKey: ['history', subject, one.version],
    queryFn: () => good(api.GET('/api/v1/history', { params: { query: { subject, limit: 20 } } })),
  });
  return <Part title={t('member.history')}>{history.isSuccess && <ChangeList entries={history.data.items} />}</Part>;
}
