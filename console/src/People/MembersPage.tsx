import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useSearchParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { AddMember } from './AddMember';
import { day, heldNow, MemberState, statuses } from './member';

/** Members: found by any part of a name, by status, by what they hold. What is asked for stands in the address. */
export function MembersPage() {
  const { t } = useTranslation();
  const [params, setParams] = useSearchParams();
  const [adding, setAdding] = useState(false);
  const [typed, setTyped] = useState(params.get('search') ?? '');
  const search = useSettled(typed, 250).trim();
  const [status, holds] = [params.get('status') ?? '', params.get('holds') ?? ''];
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
  const members = useInfiniteQuery({
    queryKey: ['members', search, status, holds],
    queryFn: ({ pageParam }) =>
      good(
        api.GET('/api/v1/members', {
          params: {
            query: {
              limit: 50,
              ...(search ? { search } : {}),
              ...(status ? { status } : {}),
              ...(holds ? { holds } : {}),
              ...(pageParam ? { cursor: pageParam } : {}),
            },
          },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
  const found = members.data?.pages.flatMap((page) => page.items) ?? [];
  const asked = Boolean(search || status || holds);
  return (
    <>
      <PageHead
        title={t('members.title')}
        lead={t('members.lead')}
        tools={
          <button type="button" className="btn prime" onClick={() => setAdding(true)}>
            {t('members.add')}
          </button>
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
        <select className="field" aria-label={t('members.status')} value={status} onChange={(e) => ask('status', e.currentTarget.value)}>
          <option value="">{t('members.anyStatus')}</option>
          {statuses.map((s) => (
            <option key={s} value={s}>
              {t(`members.statuses.${s}`)}
            </option>
          ))}
        </select>
        <HoldsSelect value={holds} choose={(value) => ask('holds', value)} />
      </search>
      {members.isPending && <Loading />}
      {members.isError && <Failed fault={members.error} again={() => void members.refetch()} />}
      {members.isSuccess && found.length === 0 && (
        <Empty title={t(asked ? 'members.noneFound' : 'members.empty')} lead={t(asked ? 'members.noneFoundLead' : 'members.emptyLead')} />
      )}
      {found.length > 0 && <MemberTable members={found} />}
      {members.hasNextPage && (
        <p className="more">
          <button type="button" className="btn" disabled={members.isFetchingNextPage} onClick={() => void members.fetchNextPage()}>
            {t('members.more')}
          </button>
        </p>
      )}
      {adding && <AddMember close={() => setAdding(false)} />}
    </>
  );
}

function MemberTable({ members }: { members: Schemas['MemberView'][] }) {
  const { t } = useTranslation();
  return (
    <div className="people">
      <table>
        <thead>
          <tr>
            <th scope="col">{t('members.who')}</th>
            <th scope="col">{t('members.account')}</th>
            <th scope="col">{t('members.holds')}</th>
            <th scope="col">{t('members.joined')}</th>
            <th scope="col">{t('members.seen')}</th>
          </tr>
        </thead>
        <tbody>
          {members.map((member) => (
            <tr key={member.id}>
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
