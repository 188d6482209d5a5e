import { useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { lastDay } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { useFacts } from './MembersPage';

/** Customers with several people who sign in. */
export function OrganisationsPage() {
  const { t } = useTranslation();
  const [params, setParams] = useSearchParams();
  const [adding, setAdding] = useState(false);
  const search = useSettled(params.get('search') ?? '', 250);
  const all = useInfiniteQuery({
    queryKey: ['organisations', search],
    queryFn: ({ pageParam }) =>
      good(
        api.GET('/api/v1/organisations', {
          params: { query: { ...(search ? { search } : {}), ...(pageParam ? { cursor: pageParam } : {}) } },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
  const found = all.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <>
      <PageHead
        title={t('organisations.title')}
        lead={t('organisations.lead')}
        tools={
          <May scope="people">
            <button type="button" className="btn prime" onClick={() => setAdding(true)}>
              {t('organisations.add')}
            </button>
          </May>
        }
      />
      <search className="finder">
        <input
          type="search"
          className="field"
          aria-label={t('organisations.search')}
          placeholder={t('organisations.search')}
          value={params.get('search') ?? ''}
          onChange={(e) => setParams(e.currentTarget.value ? { search: e.currentTarget.value } : {}, { replace: true })}
        />
      </search>
      {all.isPending && <Loading />}
      {all.isError && <Failed fault={all.error} again={() => void all.refetch()} />}
      {all.isSuccess && found.length === 0 && (
        <Empty
          title={t(search ? 'organisations.noneFound' : 'organisations.empty')}
          lead={t(search ? 'organisations.noneFoundLead' : 'organisations.emptyLead')}
        />
      )}
      {found.length > 0 && <OrganisationTable found={found} />}
      {all.hasNextPage && (
        <p className="more">
          <button type="button" className="btn" disabled={all.isFetchingNextPage} onClick={() => void all.fetchNextPage()}>
            {t('members.more')}
          </button>
        </p>
      )}
      {adding && <AddOrganisation close={() => setAdding(false)} />}
    </>
  );
}

function OrganisationTable({ found }: { found: Schemas['OrganisationView'][] }) {
  const { t } = useTranslation();
  const facts = useFacts();
  const titleOf = (fact: string) => facts.find((known) => known.value === fact)?.words ?? fact;
  return (
    <div className="people">
      <table>
        <thead>
          <tr>
            <th scope="col">{t('organisations.name')}</th>
            <th scope="col">{t('organisations.seats')}</th>
            <th scope="col">{t('organisations.gives')}</th>
            <th scope="col">{t('organisations.until')}</th>
          </tr>
        </thead>
        <tbody>
          {found.map((one) => (
            <tr key={one.key}>
              <td>
                <Link to={`/organisations/${one.key}`}>
                  <b>{one.title}</b>
                </Link>
                <br />
                <code>{one.key}</code>
              </td>
              <td>
                <Seats one={one} />
              </td>
              <td>{one.facts.map((fact) => titleOf(fact.fact)).join(', ') || t('organisations.nothing')}</td>
              <td>
                <Ends one={one} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** How many seats are taken; by word where none is left. */
export function Seats({ one }: { one: Schemas['OrganisationView'] }) {
  const { t } = useTranslation();
  return (
    <>
      {t('organisations.taken', { taken: one.taken, seats: one.seats })}{' '}
      {one.taken >= one.seats && <span className="state exempt">{t('organisations.full')}</span>}
    </>
  );
}

/** Until when it lasts; by word where it is over, or will be within the month. */
export function Ends({ one }: { one: Schemas['OrganisationView'] }) {
  const { t } = useTranslation();
  if (!one.until) {
    return t('organisations.forGood');
  }

  const soon = new Date(one.until).getTime() - Date.now() < 30 * 86_400_000;
  return (
    <>
      {lastDay(one.until)}{' '}
      {(one.over || soon) && (
        <span className={one.over ? 'state off' : 'state exempt'}>{t(one.over ? 'organisations.over' : 'organisations.soon')}</span>
      )}
    </>
  );
}

function AddOrganisation({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const facts = useFacts();
  const [draft, setDraft] = useState({ title: '', key: '', seats: '5', fact: '', until: '' });
  const add = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/organisations', {
          body: {
            ...(draft.key ? { key: draft.key } : {}),
            title: draft.title,
            seats: Number(draft.seats) || 0,
            ...(draft.until ? { until: draft.until } : {}),
            facts: draft.fact ? [{ fact: draft.fact }] : [],
          },
        }),
      ),
    onSuccess: async (one) => {
      await queries.invalidateQueries({ queryKey: ['organisations'] });
      go(`/organisations/${one.key}`);
    },
  });
  const refused = add.error instanceof Refused ? add.error : undefined;
  const field = (name: 'title' | 'key' | 'seats' | 'until') => ({
    id: `organisation-${name}`,
    label: t(`organisations.form.${name}`),
    bad: refused?.about(name),
    value: draft[name],
    onChange: (e: { currentTarget: { value: string } }) => setDraft({ ...draft, [name]: e.currentTarget.value }),
  });
  return (
    <Dialog title={t('organisations.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        {add.isError && !refused?.faults.length && (
          <p className="note" role="alert">
            {add.error.message}
          </p>
        )}
        <Field {...field('title')} required />
        <Field {...field('key')} hint={t('organisations.form.keyHint')} />
        <Field {...field('seats')} type="number" min={1} max={1000} required hint={t('organisations.form.seatsHint')} />
        <FactSelect
          id="organisation-fact"
          label={t('organisations.form.fact')}
          bad={refused?.about('fact')}
          facts={facts}
          value={draft.fact}
          choose={(fact) => setDraft({ ...draft, fact })}
        />
        <Field {...field('until')} type="date" hint={t('organisations.form.untilHint')} />
        <DialogBar go={t('members.form.go')} disabled={add.isPending} close={close} />
      </form>
    </Dialog>
  );
}

/** One of the roles, groups and plans. */
export function FactSelect({
  id,
  label,
  bad,
  facts,
  value,
  choose,
}: {
  id: string;
  label: string;
  bad: string | undefined;
  facts: { value: string; words: string }[];
  value: string;
  choose: (fact: string) => void;
}) {
  const { t } = useTranslation();
  return (
    <Field as="select" id={id} label={label} bad={bad} value={value} onChange={(e) => choose(e.currentTarget.value)}>
      <option value="">{t('member.choose')}</option>
      {facts.map((fact) => (
        <option key={fact.value} value={fact.value}>
          {fact.words}
        </option>
      ))}
    </Field>
  );
}
