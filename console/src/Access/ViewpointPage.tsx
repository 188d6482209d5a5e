import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { useSearchParams } from 'react-router';
import { api, good } from '../api/client';
import { Failed, Loading, PageHead } from '../frame/Page';
import { Mark, type SightWord } from './Mark';

/** The catalogue and the live site through somebody else's eyes. */
export function ViewpointPage() {
  const { t } = useTranslation();
  const [search, setSearch] = useSearchParams();
  const [live, setLive] = useState(false);
  const viewpoint = search.get('as') ?? 'guest';
  const all = useQuery({ queryKey: ['viewpoints'], queryFn: () => good(api.GET('/api/v1/viewpoints')) });
  const title = all.data?.find((v) => v.key === viewpoint)?.title ?? viewpoint;
  return (
    <>
      <PageHead
        title={t('view.title')}
        lead={t('view.lead')}
        tools={
          <>
            <label htmlFor="as">{t('view.as')}</label>
            <select id="as" className="field" value={viewpoint} onChange={(e) => setSearch({ as: e.currentTarget.value })}>
              {all.data?.map((v) => (
                <option key={v.key} value={v.key}>
                  {v.title} {v.kind && `(${t(`board.${v.kind}`)})`}
                </option>
              ))}
            </select>
            <div className="segments">
              <button type="button" aria-pressed={!live} onClick={() => setLive(false)}>
                {t('view.catalogue')}
              </button>
              <button type="button" aria-pressed={live} onClick={() => setLive(true)}>
                {t('view.live')}
              </button>
            </div>
          </>
        }
      />
      {live ? <LiveSite key={viewpoint} viewpoint={viewpoint} title={title} /> : <SeenCatalogue viewpoint={viewpoint} />}
    </>
  );
}

function SeenCatalogue({ viewpoint }: { viewpoint: string }) {
  const { t } = useTranslation();
  const seen = useInfiniteQuery({
    queryKey: ['seen', viewpoint],
    queryFn: ({ pageParam }) =>
      good(api.GET('/api/v1/seen', { params: { query: { as: viewpoint, limit: 200, ...(pageParam ? { cursor: pageParam } : {}) } } })),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
  if (seen.isPending) {
    return <Loading />;
  }

  if (seen.isError) {
    return <Failed fault={seen.error} again={() => void seen.refetch()} />;
  }

  const first = seen.data.pages[0];
  return (
    <>
      {first && (
        <p role="status">
          {t('view.counts', {
            who: first.who,
            open: first.open,
            listed: first.listed,
            hidden: first.hidden,
            all: first.open + first.listed + first.hidden,
          })}
        </p>
      )}
      <section className="sheet scrollx">
        <table className="plain">
          <thead>
            <tr>
              <th scope="col">{t('view.item')}</th>
              <th scope="col">{t('view.sees')}</th>
              <th scope="col">{t('view.beneath')}</th>
            </tr>
          </thead>
          <tbody>
            {seen.data.pages
              .flatMap((page) => page.items)
              .map((item) => (
                <tr key={item.item}>
                  <td>
                    {item.title} <code>{item.item}</code>
                  </td>
                  <td>
                    <Mark sight={item.sight as SightWord} />
                  </td>
                  <td>{item.parents.join(', ')}</td>
                </tr>
              ))}
          </tbody>
        </table>
        {seen.hasNextPage && (
          <button type="button" className="btn" onClick={() => void seen.fetchNextPage()}>
            {t('view.more')}
          </button>
        )}
      </section>
    </>
  );
}

function LiveSite({ viewpoint, title }: { viewpoint: string; title: string }) {
  const { t } = useTranslation();
  const opened = useQuery({
    queryKey: ['open-view', viewpoint],
    queryFn: () => good(api.POST('/api/v1/viewpoints/open', { body: { as: viewpoint, path: '/' } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  const newTab = async () => {
    const { url } = await good(api.POST('/api/v1/viewpoints/open', { body: { as: viewpoint, path: '/' } }));
    window.open(url, '_blank', 'noopener');
  };
  if (opened.isError) {
    return <Failed fault={opened.error} again={() => void opened.refetch()} />;
  }

  return (
    <>
      <p>
        {t('view.marked')}{' '}
        <button type="button" className="btn" onClick={newTab}>
          {t('view.newTab')}
        </button>
      </p>
      {opened.data ? <iframe className="live" src={opened.data.url} title={t('view.frame', { who: title })} /> : <Loading lines={4} />}
    </>
  );
}
