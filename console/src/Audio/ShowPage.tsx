import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good } from '../api/client';
import { sizeOf } from '../Files/sizes';
import { dayOf } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useMay } from '../People/me';
import { EditEpisode } from './EditEpisode';
import { EditShow } from './EditShow';
import { Subscribers } from './Subscribers';
import type { Episode } from './useShow';

/** One show: its episodes, and who has a feed of it. */
export function ShowPage() {
  const { t } = useTranslation();
  const { key = '' } = useParams();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const may = useMay('write');
  const [edit, setEdit] = useState<'head' | 'new' | { episode: Episode }>();
  const [sure, setSure] = useState(false);
  const path = { params: { path: { key } } };
  const show = useQuery({ queryKey: ['shows', key], queryFn: () => good(api.GET('/api/v1/shows/{key}', path)) });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/shows/{key}', path)),
    onSuccess: async () => {
      navigate('/shows');
      await queries.invalidateQueries();
    },
  });
  if (show.isPending) {
    return <Loading />;
  }

  if (show.isError) {
    return <Failed fault={show.error} again={() => void show.refetch()} />;
  }

  const { episodes } = show.data;
  const done = () => setEdit(undefined);
  return (
    <>
      <PageHead
        kicker={<Link to="/shows">{t('shows.title')}</Link>}
        title={show.data.title}
        lead={t(show.data.guarded ? 'shows.oneLead' : 'shows.oneLeadOpen', { item: `show:${key}` })}
        tools={
          <May scope="write">
            <button type="button" className="btn prime" onClick={() => setEdit('new')}>
              {t('shows.addEpisode')}
            </button>
            <button type="button" className="btn" onClick={() => setEdit('head')}>
              {t('shows.edit')}
            </button>
          </May>
        }
      />
      <p>
        <a href={show.data.address} target="_blank" rel="noreferrer">
          {show.data.address}
        </a>
      </p>
      {show.data.notes && <p className="soft">{show.data.notes}</p>}
      <h2>{t('shows.episodes')}</h2>
      {episodes.length === 0 && <Empty title={t('shows.none')} lead={t('shows.noneLead')} />}
      {episodes.length > 0 && (
        <div className="people">
          <table>
            <thead>
              <tr>
                <th scope="col">{t('shows.episode')}</th>
                <th scope="col">{t('shows.out')}</th>
                <th scope="col">{t('shows.who')}</th>
                <th scope="col">{t('shows.file')}</th>
              </tr>
            </thead>
            <tbody>
              {episodes.map((episode) => (
                <tr key={episode.item}>
                  <th scope="row">
                    {may ? (
                      <button type="button" className="link" onClick={() => setEdit({ episode })}>
                        {episode.title}
                      </button>
                    ) : (
                      episode.title
                    )}
                    {episode.length && <span>{episode.length}</span>}
                  </th>
                  <td data-name={t('shows.out')}>
                    {episode.isOut ? dayOf(episode.day) : t('shows.outFrom', { when: dayOf(episode.day) })}
                  </td>
                  <td data-name={t('shows.who')}>{t(episode.guarded ? 'shows.gated' : 'shows.everybody')}</td>
                  <td data-name={t('shows.file')}>
                    {episode.bytes === null ? <b className="amiss">{t('shows.missing')}</b> : sizeOf(Number(episode.bytes))}
                    <small> {episode.file}</small>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <Subscribers show={show.data} />
      <p className="hint">{t('folders.where', { path: show.data.path })}</p>
      <May scope="write">
        {remove.error && (
          <p className="note" role="alert">
            {remove.error.message}
          </p>
        )}
        <p>
          <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => (sure ? remove.mutate() : setSure(true))}>
            {t(sure ? 'shows.removeSure' : 'shows.remove')}
          </button>
        </p>
      </May>
      {edit === 'head' && <EditShow show={show.data} close={done} done={done} />}
      {edit === 'new' && <EditEpisode show={show.data} close={done} />}
      {typeof edit === 'object' && <EditEpisode show={show.data} episode={edit.episode} close={done} />}
    </>
  );
}
