import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { type ReactNode, useEffect, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useSearchParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { day } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { AddMember } from './AddMember';
import { AnswerFilters, SearchAnswers } from './AnswerSelect';
import { BulkBar, type Filter } from './BulkBar';
import { Invite } from './Invite';
import { useMay } from './me';
import { heldNow, MemberState, statuses } from './member';

/** Members: found by any part of a name, by status, by what they hold, by dates; many chosen at once. What is asked for stands in the address. */
export function MembersPage() {
  const { t } = useTranslation();
  const [params, setParams] = useSearchParams();
  const [adding, setAdding] = useState(false);
  const [inviting, setInviting] = useState(false);
  const [typed, setTyped] = useState(params.get('search') ?? '');
  const search = useSettled(typed, 250).trim();
  const ask = (name: string, value: string) =>
    setParams(
      (before) => {
        const after = new URLSearchParams(before);
        value ? after.set(name, value) : after.delete(name);
        return after;
      },
      { replace: true },
    );
  // Only what was typed moves the address.
  useEffect(() => ask('search', search), [search]);
  const filter = filterOf(params, search);
  const sort = params.get('sort') ?? 'email';
  const asked = Object.keys(filter).length > 0;
  const members = useInfiniteQuery({
    queryKey: ['members', filter, sort],
    queryFn: ({ pageParam }) =>
      good(
        api.GET('/api/v1/members', {
          params: { query: { limit: 50, ...filter, ...(sort === 'email' ? {} : { sort }), ...(pageParam ? { cursor: pageParam } : {}) } },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
  const found = members.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <>
      <PageHead
        title={t('members.title')}
        lead={t('members.lead')}
        tools={
          <May scope="people">
            <a
              className="btn"
              href={`/api/v1/members.csv?${new URLSearchParams(Object.entries(filter).flatMap(([k, v]) => [v].flat().map((one) => [k, String(one)])))}`}
              download
            >
              {t('members.export')}
            </a>
            <Link className="btn" to="/requests">
              {t('requests.title')}
            </Link>
            <Link className="btn" to="/members/import">
              {t('members.import')}
            </Link>
            <button type="button" className="btn" onClick={() => setInviting(true)}>
              {t('members.invite')}
            </button>
            <button type="button" className="btn prime" onClick={() => setAdding(true)}>
              {t('members.add')}
            </button>
          </May>
        }
      />
      <search className="finder">
        <input
          type="search"
          className="field"
          aria-label={t('members.search')}
          placeholder={t('members.search')}
          value={typed}
          onChange={(e) => setTyped(e.currentTarget.value)}
        />
        <Choose name="status" any={t('members.anyStatus')} params={params} ask={ask}>
          {statuses.map((s) => (
            <option key={s} value={s}>
              {t(`members.statuses.${s}`)}
            </option>
          ))}
        </Choose>
        <HoldsSelect value={params.get('holds') ?? ''} choose={(value) => ask('holds', value)} />
        <Choose name="joined" any={t('members.anyJoined')} params={params} ask={ask}>
          {['7', '30', '90', '365'].map((days) => (
            <option key={days} value={days}>
              {t('members.joinedWithin', { count: Number(days) })}
            </option>
          ))}
        </Choose>
        <Choose name="seen" any={t('members.anySeen')} params={params} ask={ask}>
          {seenOptions.map((value) => (
            <option key={value} value={value}>
              {t(`members.seenIs.${value}`)}
            </option>
          ))}
        </Choose>
        <AnswerFilters
          values={params.getAll('answer')}
          choose={(values) =>
            setParams(
              (before) => {
                const after = new URLSearchParams(before);
                after.delete('answer');
                for (const value of values.filter(Boolean)) {
                  after.append('answer', value);
                }

                return after;
              },
              { replace: true },
            )
          }
        />
      </search>
      <SearchAnswers
        part={search}
        go={(answer) => {
          setTyped('');
          setParams({ answer });
        }}
      />
      {members.isPending && <Loading />}
      {members.isError && <Failed fault={members.error} again={() => void members.refetch()} />}
      {members.isSuccess && found.length === 0 && (
        <Empty title={t(asked ? 'members.noneFound' : 'members.empty')} lead={t(asked ? 'members.noneFoundLead' : 'members.emptyLead')} />
      )}
      {found.length > 0 && (
        <Chosen
          key={JSON.stringify(filter)}
          members={found}
          filter={filter}
          all={!members.hasNextPage}
          sort={sort}
          setSort={(s) => ask('sort', s === 'email' ? '' : s)}
        />
      )}
      {members.hasNextPage && (
        <p className="more">
          <button type="button" className="btn" disabled={members.isFetchingNextPage} onClick={() => void members.fetchNextPage()}>
            {t('members.more')}
          </button>
        </p>
      )}
      {adding && <AddMember close={() => setAdding(false)} />}
      {inviting && <Invite close={() => setInviting(false)} />}
    </>
  );
}

const seenOptions = ['7', '30', 'not30', 'not365', 'never'] as const;
const daysAgo = (days: number) => new Date(Date.now() - days * 86_400_000).toISOString().slice(0, 10);

/** What the address asks for, as the service is asked. */
function filterOf(params: URLSearchParams, search: string) {
  const [status, holds, joined, seen] = ['status', 'holds', 'joined', 'seen'].map((name) => params.get(name) ?? '');
  const answer = params.getAll('answer');
  return {
    ...(search ? { search } : {}),
    ...(status ? { status } : {}),
    ...(holds ? { holds } : {}),
    ...(answer.length > 0 ? { answer } : {}),
    ...(joined ? { joinedFrom: daysAgo(Number(joined) || 0) } : {}),
    ...(seen === 'never' ? { never: true } : {}),
    ...(seen?.startsWith('not') ? { seenUntil: daysAgo(Number(seen.slice(3))) } : {}),
    ...(seen && /^\d+$/.test(seen) ? { seenFrom: daysAgo(Number(seen)) } : {}),
  };
}

function Choose({
  name,
  any,
  params,
  ask,
  children,
}: {
  name: string;
  any: string;
  params: URLSearchParams;
  ask: (name: string, value: string) => void;
  children: ReactNode;
}) {
  return (
    <select className="field" aria-label={any} value={params.get(name) ?? ''} onChange={(e) => ask(name, e.currentTarget.value)}>
      <option value="">{any}</option>
      {children}
    </select>
  );
}

/** The members found, of whom many can be chosen, or all that the filter finds. */
function Chosen({
  members,
  filter,
  all,
  sort,
  setSort,
}: {
  members: Schemas['MemberView'][];
  filter: Filter;
  all: boolean;
  sort: string;
  setSort: (sort: string) => void;
}) {
  const [chosen, setChosen] = useState<string[]>([]);
  const [everybody, setEverybody] = useState(false);
  const may = useMay('people');
  const none = () => {
    setChosen([]);
    setEverybody(false);
  };
  return (
    <>
      <MemberTable
        members={members}
        {...(may ? { chosen: everybody ? members.map((m) => m.id) : chosen } : {})}
        choose={(ids) => {
          setEverybody(false);
          setChosen(ids);
        }}
        sort={sort}
        setSort={setSort}
      />
      {(chosen.length > 0 || everybody) && (
        <BulkBar
          whom={everybody ? { filter } : { members: chosen }}
          count={everybody ? undefined : chosen.length}
          everybody={!everybody && !all && chosen.length === members.length ? () => setEverybody(true) : undefined}
          none={none}
        />
      )}
    </>
  );
}

function MemberTable({
  members,
  chosen,
  choose,
  sort,
  setSort,
}: {
  members: Schemas['MemberView'][];
  chosen?: string[];
  choose: (ids: string[]) => void;
  sort: string;
  setSort: (sort: string) => void;
}) {
  const { t } = useTranslation();
  const head = (key: string, words: string) => <SortHead key={key} name={key} words={words} sort={sort} setSort={setSort} />;
  return (
    <div className="people">
      <table>
        <thead>
          <tr>
            {chosen && (
              <th scope="col" className="tick">
                <input
                  type="checkbox"
                  aria-label={t('bulk.all')}
                  checked={chosen.length === members.length}
                  onChange={(e) => choose(e.currentTarget.checked ? members.map((m) => m.id) : [])}
                />
              </th>
            )}
            {head('name', t('members.who'))}
            <th scope="col">{t('members.account')}</th>
            <th scope="col">{t('members.holds')}</th>
            {head('joined', t('members.joined'))}
            {head('seen', t('members.seen'))}
          </tr>
        </thead>
        <tbody>
          {members.map((member) => (
            <tr key={member.id} className={chosen?.includes(member.id) ? 'chosen' : undefined}>
              {chosen && (
                <td className="tick">
                  <input
                    type="checkbox"
                    aria-label={t('bulk.one', { name: member.name })}
                    checked={chosen.includes(member.id)}
                    onChange={(e) => choose(e.currentTarget.checked ? [...chosen, member.id] : chosen.filter((id) => id !== member.id))}
                  />
                </td>
              )}
              <th scope="row">
                <Link to={`/members/${member.id}`}>{member.name}</Link>
                <span>{member.email}</span>
              </th>
              <td>
                <MemberState status={member.status} />
              </td>
              <td>
                {heldNow(member).map((fact) => (
                  <code key={fact}>{fact}</code>
                ))}
                {member.byRule.map((group) => (
                  <code key={group} className="byrule" title={t('roles.byRule')}>
                    group:{group}
                  </code>
                ))}
              </td>
              <td data-name={t('members.joined')}>{day(member.createdAt)}</td>
              <td data-name={t('members.seen')}>
                {member.seenAt ? day(member.seenAt) : <span className="hint">{t('members.never')}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A head by which the list is sorted; again, and the last comes first. */
function SortHead({ name, words, sort, setSort }: { name: string; words: string; sort: string; setSort: (sort: string) => void }) {
  const now = sort === name ? 'ascending' : sort === `-${name}` ? 'descending' : 'none';
  return (
    <th scope="col" aria-sort={now}>
      <button
        type="button"
        className="sort"
        onClick={() => setSort(now === 'none' ? (name === 'name' ? name : `-${name}`) : now === 'ascending' ? `-${name}` : name)}
      >
        {words} <span aria-hidden="true">{now === 'ascending' ? '↑' : now === 'descending' ? '↓' : ''}</span>
      </button>
    </th>
  );
}

/** What there is to hold: roles, plans, groups. */
function HoldsSelect({ value, choose }: { value: string; choose: (value: string) => void }) {
  const { t } = useTranslation();
  const facts = useFacts();
  return (
    <select className="field" aria-label={t('members.holds')} value={value} onChange={(e) => choose(e.currentTarget.value)}>
      <option value="">{t('members.holdsAnything')}</option>
      {value && !facts.some((fact) => fact.value === value) && <option value={value}>{value}</option>}
      {facts.map((fact) => (
        <option key={fact.value} value={fact.value}>
          {fact.words}
        </option>
      ))}
    </select>
  );
}

/** Roles, plans and groups by their names, with their kind before them. */
export function useFacts(): { value: string; words: string }[] {
  const { t } = useTranslation();
  const roles = useQuery({ queryKey: ['roles'], queryFn: () => good(api.GET('/api/v1/roles')) });
  const plans = useQuery({ queryKey: ['plans'], queryFn: () => good(api.GET('/api/v1/plans')) });
  const groups = useQuery({ queryKey: ['groups'], queryFn: () => good(api.GET('/api/v1/groups')) });
  const of = (kind: 'role' | 'plan' | 'group', known: Schemas['FactDefinitionView'][] | undefined) =>
    (known ?? []).map((fact) => ({ value: `${kind}:${fact.key}`, words: t(`members.kinds.${kind}`, { title: fact.title }) }));
  return [...of('role', roles.data?.items), ...of('plan', plans.data?.items), ...of('group', groups.data?.items)];
}
