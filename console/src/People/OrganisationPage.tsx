import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { day, lastDay } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Failed, Loading, PageHead } from '../frame/Page';
import { History, Part } from './MemberPage';
import { useFacts } from './MembersPage';
import { useMay } from './me';
import { OrganisationPeople } from './OrganisationPeople';
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
      <OrganisationPeople one={one} />
      <History subject={`organisation:${one.key}`} version={one.version} />
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
