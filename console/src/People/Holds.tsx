import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { day, lastDay } from '../frame/dates';
import { Field } from '../frame/Field';
import { Part } from './MemberPage';
import { useFacts } from './MembersPage';

/** What a member holds, held and will hold, each with its source; ended and given one by one, or several at once. */
export function Holds({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const facts = useFacts();
  const [chosen, setChosen] = useState<string[]>([]);
  const titleOf = (fact: string) => facts.find((known) => known.value === fact)?.words;
  const end = useMutation({
    mutationFn: async (grants: string[]) => {
      for (const grant of grants) {
        await good(api.DELETE('/api/v1/members/{member}/grants/{grant}', { params: { path: { member: member.id, grant } } }));
      }
    },
    onSettled: async () => {
      setChosen([]);
      await queries.invalidateQueries();
    },
  });
  const now = new Date().toISOString();
  const over = (grant: Schemas['GrantView']) => grant.until !== null && grant.until <= now;
  const endable = (grant: Schemas['GrantView']) => !over(grant) && !grant.source.startsWith('organisation:');
  const several = member.grants.filter(endable).length > 1;
  const grants = [...member.grants].sort((a, b) => Number(over(a)) - Number(over(b)) || a.fact.localeCompare(b.fact));
  return (
    <Part title={t('member.holds')}>
      {grants.length + member.byRule.length === 0 && <p className="hint">{t('member.holdsNothing')}</p>}
      {end.isError && <p className="bad">{end.error.message}</p>}
      <ul className="rows">
        {grants.map((grant) => (
          <li key={grant.id} className={over(grant) ? 'over' : undefined}>
            {several && endable(grant) && (
              <input
                type="checkbox"
                aria-label={t('member.chooseFact', { fact: grant.fact })}
                checked={chosen.includes(grant.id)}
                onChange={(e) => setChosen(e.currentTarget.checked ? [...chosen, grant.id] : chosen.filter((id) => id !== grant.id))}
              />
            )}
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
            {endable(grant) && (
              <button
                type="button"
                className="btn"
                disabled={end.isPending}
                aria-label={t('member.endFactOf', { fact: grant.fact })}
                onClick={() => end.mutate([grant.id])}
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
      {chosen.length > 0 && (
        <div className="deeds">
          <button type="button" className="btn" disabled={end.isPending} onClick={() => end.mutate(chosen)}>
            {t('member.endChosen', { count: chosen.length })}
          </button>
        </div>
      )}
      <Give member={member} />
    </Part>
  );
}

function Give({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const facts = useFacts();
  const nothing = { facts: [] as string[], from: '', until: '' };
  const [draft, setDraft] = useState(nothing);
  const give = useMutation({
    mutationFn: async () => {
      // Each is a change of its own; where one is refused, it and those after it are still there to be given.
      for (const fact of draft.facts) {
        await good(
          api.POST('/api/v1/members/{member}/grants', {
            params: { path: { member: member.id } },
            body: { fact, ...(draft.from ? { from: draft.from } : {}), ...(draft.until ? { until: draft.until } : {}) },
          }),
        );
        setDraft((before) => ({ ...before, facts: before.facts.filter((other) => other !== fact) }));
      }

      // What was chosen meanwhile stays chosen.
      setDraft((before) => (before.facts.length > 0 ? before : nothing));
    },
    onSettled: () => queries.invalidateQueries(),
  });
  const refused = give.error instanceof Refused ? give.error : undefined;
  const left = facts.filter((fact) => !draft.facts.includes(fact.value));
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
        bad={refused?.about('fact')}
        value=""
        onChange={(e) => setDraft({ ...draft, facts: [...draft.facts, e.currentTarget.value] })}
      >
        <option value="">{t(draft.facts.length > 0 ? 'member.chooseMore' : 'member.choose')}</option>
        {left.map((fact) => (
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
        hint={draft.facts.some((fact) => fact.startsWith('plan:')) ? t('member.untilPlan') : undefined}
        bad={refused?.about('until')}
        value={draft.until}
        onChange={(e) => setDraft({ ...draft, until: e.currentTarget.value })}
      />
      <button type="submit" className="btn prime" disabled={give.isPending || draft.facts.length === 0}>
        {t('member.giveGo')}
      </button>
      {draft.facts.length > 0 && (
        <ul className="chips" aria-label={t('member.toGive')}>
          {draft.facts.map((fact) => (
            <li key={fact}>
              {facts.find((known) => known.value === fact)?.words ?? fact}
              <button
                type="button"
                aria-label={t('member.notThis', { fact })}
                onClick={() => setDraft({ ...draft, facts: draft.facts.filter((other) => other !== fact) })}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      )}
      {give.isError && !refused?.faults.length && (
        <p className="bad" role="alert">
          {give.error.message}
        </p>
      )}
    </form>
  );
}
