import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
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
  const date = search.get('on') ?? '';
  // Noon of that day where the site is: a time without an offset is meant in its zone.
  const at = date ? `${date}T12:00` : null;
  const look = (as: string, on: string) => setSearch({ as, ...(on ? { on } : {}) });
  const member = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const said = String(new FormData(event.currentTarget).get('member') ?? '').trim();
    if (said) {
      look(said, date);
    }
  };
  return (
    <>
      <PageHead
        title={t('view.title')}
        lead={t('view.lead')}
        tools={
          <>
            <label htmlFor="as">{t('view.as')}</label>
            <select id="as" className="field" value={viewpoint} onChange={(e) => look(e.currentTarget.value, date)}>
              {all.data?.every((v) => v.key !== viewpoint) && <option value={viewpoint}>{viewpoint}</option>}
              {all.data?.map((v) => (
                <option key={v.key} value={v.key}>
                  {v.title} {v.kind && `(${t(`board.${v.kind}`)})`}
                </option>
              ))}
            </select>
            <form onSubmit={member}>
              <input
                name="member"
                className="field"
                type="search"
                placeholder={t('view.member')}
                aria-label={t('view.member')}
                style={{ width: 190 }}
              />
            </form>
            <input
              className="field"
              type="date"
              style={{ width: 150 }}
              aria-label={t('view.on')}
              title={t('view.on')}
              value={date}
              onChange={(e) => look(viewpoint, e.currentTarget.value)}
            />
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
      {live ? (
        <LiveSite key={viewpoint + date} viewpoint={viewpoint} title={title} at={at} />
      ) : (
        <SeenCatalogue viewpoint={viewpoint} at={at} />
      )}
    </>
  );
}

function SeenCatalogue({ viewpoint, at }: { viewpoint: string; at: string | null }) {
  const { t } = useTranslation();
  const seen = useInfiniteQuery({
    queryKey: ['seen', viewpoint, at],
    queryFn: ({ pageParam }) =>
      good(
        api.GET('/api/v1/seen', {
          params: { query: { as: viewpoint, limit: 200, ...(at ? { at } : {}), ...(pageParam ? { cursor: pageParam } : {}) } },
        }),
      ),
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

function LiveSite({ viewpoint, title, at }: { viewpoint: string; title: string; at: string | null }) {
  const { t } = useTranslation();
  const opened = useQuery({
    queryKey: ['open-view', viewpoint, at],
    queryFn: () => good(api.POST('/api/v1/viewpoints/open', { body: { as: viewpoint, path: '/', at } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  const newTab = async () => {
    const { url } = await good(api.POST('/api/v1/viewpoints/open', { body: { as: viewpoint, path: '/', at } }));
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
