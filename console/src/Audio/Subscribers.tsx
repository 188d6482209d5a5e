import { useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { day, moment } from '../frame/dates';
import { Failed, Loading } from '../frame/Page';
import { useMay } from '../People/me';
import type { Show } from './useShow';

/** Who has a feed of a show, when it was last read and by what, and another address for one that got about. */
export function Subscribers({ show }: { show: Show }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('people');
  const [sure, setSure] = useState<string>();
  const list = useInfiniteQuery({
    queryKey: ['shows', show.key, 'subscribers'],
    queryFn: ({ pageParam }) =>
      good(
        api.GET('/api/v1/shows/{key}/subscribers', {
          params: { path: { key: show.key }, query: pageParam ? { cursor: pageParam, limit: 100 } : { limit: 100 } },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next ?? undefined,
  });
  const change = useMutation({
    mutationFn: (member: string) =>
      good(api.POST('/api/v1/shows/{key}/subscribers/{member}/address', { params: { path: { key: show.key, member } } })),
    onSuccess: async () => {
      setSure(undefined);
      await queries.invalidateQueries({ queryKey: ['shows'] });
    },
  });
  const all: Schemas['SubscriberView'][] = list.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <section aria-label={t('shows.feeds')}>
      <h2>{t('shows.feeds')}</h2>
      <p className="soft">{t('shows.feedsLead')}</p>
      {list.isPending && <Loading />}
      {list.isError && <Failed fault={list.error} again={() => void list.refetch()} />}
      {list.isSuccess && all.length === 0 && <p className="soft">{t('shows.noFeeds')}</p>}
      {change.error && (
        <p className="note" role="alert">
          {change.error.message}
        </p>
      )}
      {all.length > 0 && (
        <div className="people">
          <table>
            <thead>
              <tr>
                <th scope="col">{t('shows.listener')}</th>
                <th scope="col">{t('shows.since')}</th>
                <th scope="col">{t('shows.read')}</th>
                {may && <th scope="col">{t('shows.act')}</th>}
              </tr>
            </thead>
            <tbody>
              {all.map((one) => (
                <tr key={one.member}>
                  <th scope="row">
                    <Link to={`/members/${one.member}`}>{one.name}</Link>
                    <span>{one.email}</span>
                  </th>
                  <td data-name={t('shows.since')}>{day(one.since)}</td>
                  <td data-name={t('shows.read')}>
                    {one.readAt ? moment(one.readAt) : t('shows.never')}
                    {one.readBy && <small> · {one.readBy}</small>}
                  </td>
                  {may && (
                    <td>
                      <button
                        type="button"
                        className="link"
                        disabled={change.isPending}
                        aria-label={t('shows.newAddressFor', { name: one.name })}
                        onClick={() => (sure === one.member ? change.mutate(one.member) : setSure(one.member))}
                      >
                        {t(sure === one.member ? 'shows.newAddressSure' : 'shows.newAddress')}
                      </button>
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {list.hasNextPage && (
        <p>
          <button type="button" className="btn" disabled={list.isFetchingNextPage} onClick={() => void list.fetchNextPage()}>
            {t('shows.more')}
          </button>
        </p>
      )}
    </section>
  );
}
