import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { day, lastDay } from '../frame/dates';
import { Field } from '../frame/Field';
import { Part } from './MemberPage';
import { useFacts } from './MembersPage';

/** What a member holds, held and will hold, each with its source; ended and given one by one. */
export function Holds({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const facts = useFacts();
  const titleOf = (fact: string) => facts.find((known) => known.value === fact)?.words;
  const end = useMutation({
    mutationFn: (grant: string) =>
      good(api.DELETE('/api/v1/members/{member}/grants/{grant}', { params: { path: { member: member.id, grant } } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const now = new Date().toISOString();
  const over = (grant: Schemas['GrantView']) => grant.until !== null && grant.until <= now;
  const grants = [...member.grants].sort((a, b) => Number(over(a)) - Number(over(b)) || a.fact.localeCompare(b.fact));
  return (
    <Part title={t('member.holds')}>
      {grants.length + member.byRule.length === 0 && <p className="hint">{t('member.holdsNothing')}</p>}
      {end.isError && <p className="bad">{end.error.message}</p>}
      <ul className="rows">
        {grants.map((grant) => (
          <li key={grant.id} className={over(grant) ? 'over' : undefined}>
            <div>
              {titleOf(grant.fact) ? <b title={grant.fact}>{titleOf(grant.fact)}</b> : <code>{grant.fact}</code>}{' '}
              <span className={grant.inForce ? 'state' : 'state off'}>
                {t(grant.inForce ? 'member.inForce' : over(grant) ? 'member.over' : 'member.toCome')}
              </span>
              <p className="hint">
                {[
                  grant.from && t('member.from', { at: day(grant.from) }),
                  grant.until ? t(over(grant) ? 'member.endedAt' : 'member.until', { at: lastDay(grant.until) }) : t('member.forGood'),
                  t('member.by', { source: grant.source === 'hand' ? t('member.hand') : grant.source }),
                ]
                  .filter(Boolean)
                  .join(' · ')}
              </p>
            </div>
            {!over(grant) && grant.source.startsWith('organisation:') && (
              <Link className="quiet" to={`/organisations/${grant.source.slice('organisation:'.length)}`}>
                {t('member.toOrganisation')}
              </Link>
            )}
            {!over(grant) && !grant.source.startsWith('organisation:') && (
              <button
                type="button"
                className="btn"
                disabled={end.isPending}
                aria-label={t('member.endFactOf', { fact: grant.fact })}
                onClick={() => end.mutate(grant.id)}
              >
                {t('member.endFact')}
              </button>
            )}
          </li>
        ))}
        {member.byRule.map((group) => (
          <li key={group}>
            <div>
              <b title={`group:${group}`}>{titleOf(`group:${group}`) ?? group}</b> <span className="state exempt">{t('roles.byRule')}</span>
              <p className="hint">{t('member.byRule')}</p>
            </div>
            <Link className="quiet" to={`/roles/groups/${group}`}>
              {t('member.toRule')}
            </Link>
          </li>
        ))}
      </ul>
      <Give member={member} />
    </Part>
  );
}

function Give({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const facts = useFacts();
  const nothing = { fact: '', from: '', until: '' };
  const [draft, setDraft] = useState(nothing);
  const give = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/members/{member}/grants', {
          params: { path: { member: member.id } },
          body: { fact: draft.fact, ...(draft.from ? { from: draft.from } : {}), ...(draft.until ? { until: draft.until } : {}) },
        }),
      ),
    onSuccess: async () => {
      setDraft(nothing);
      await queries.invalidateQueries();
    },
  });
  const refused = give.error instanceof Refused ? give.error : undefined;
  return (
    <form
      className="give"
      onSubmit={(e) => {
        e.preventDefault();
        give.mutate();
      }}
    >
      <Field
        as="select"
        id="give-fact"
        label={t('member.give')}
        required
        bad={refused?.about('fact')}
        value={draft.fact}
        onChange={(e) => setDraft({ ...draft, fact: e.currentTarget.value })}
      >
        <option value="">{t('member.choose')}</option>
        {facts.map((fact) => (
          <option key={fact.value} value={fact.value}>
            {fact.words}
          </option>
        ))}
      </Field>
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
      <button type="submit" className="btn prime" disabled={give.isPending}>
        {t('member.giveGo')}
      </button>
      {give.isError && !refused?.faults.length && (
        <p className="bad" role="alert">
          {give.error.message}
        </p>
      )}
    </form>
  );
}
