import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate } from 'react-router';
import { api, good } from '../api/client';
import { dayOf } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { EditShow } from './EditShow';

/** Shows: their episodes, heard on a page of each and by each member's own feed. */
export function ShowsPage() {
  const { t } = useTranslation();
  const navigate = useNavigate();
  const [adds, setAdds] = useState(false);
  const shows = useQuery({ queryKey: ['shows'], queryFn: () => good(api.GET('/api/v1/shows')) });
  const all = shows.data?.items ?? [];
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => setAdds(true)}>
        {t('shows.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead title={t('shows.title')} lead={t('shows.lead')} tools={add} />
      {shows.isPending && <Loading />}
      {shows.isError && <Failed fault={shows.error} again={() => void shows.refetch()} />}
      {shows.isSuccess && all.length === 0 && <Empty title={t('shows.empty')} lead={t('shows.emptyLead')} />}
      {all.length > 0 && (
        <div className="people">
          <table>
            <thead>
              <tr>
                <th scope="col">{t('shows.name')}</th>
                <th scope="col">{t('shows.who')}</th>
                <th scope="col">{t('shows.episodes')}</th>
                <th scope="col">{t('shows.feeds')}</th>
              </tr>
            </thead>
            <tbody>
              {all.map((show) => (
                <tr key={show.key}>
                  <th scope="row">
                    <Link to={`/shows/${show.key}`}>{show.title}</Link>
                  </th>
                  <td data-name={t('shows.who')}>{t(show.guarded ? 'shows.gated' : 'shows.everybody')}</td>
                  <td data-name={t('shows.episodes')}>
                    {t('shows.count', { count: show.episodes.length })}
                    {show.episodes[0] && <small> · {t('shows.newest', { when: dayOf(show.episodes[0].day) })}</small>}
                  </td>
                  <td data-name={t('shows.feeds')}>{Number(show.subscribers)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {adds && <EditShow close={() => setAdds(false)} done={(show) => navigate(`/shows/${show.key}`)} />}
    </>
  );
}
