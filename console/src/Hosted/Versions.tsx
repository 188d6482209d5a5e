import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { moment } from '../frame/dates';

type Page = Schemas['HostedPageView'];

/** What was published of a page, and what differs; each can be taken up again. */
export function Versions({ page, may }: { page: Page; may: boolean }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [shown, show] = useState<number>();
  const versions = useQuery({
    queryKey: ['page-versions', page.key, page.version],
    queryFn: () => good(api.GET('/api/v1/pages/{key}/versions', { params: { path: { key: page.key }, query: { limit: 50 } } })),
  });
  const restore = useMutation({
    mutationFn: (number: number) =>
      good(api.POST('/api/v1/pages/{key}/restore', { params: { path: { key: page.key } }, body: { number } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <section className="sheet scroll">
      <h2>{t('written.versions')}</h2>
      {versions.data?.items.length === 0 && <p className="hint">{t('written.noVersions')}</p>}
      {versions.data && versions.data.items.length > 0 && (
        <table className="plain">
          <tbody>
            {versions.data.items.map((version) => (
              <tr key={version.number}>
                <td>
                  <b>{version.number}</b> {version.served && <span className="state">{t('written.served')}</span>}
                </td>
                <td>
                  {moment(version.at)} · {version.by}
                </td>
                <td>
                  <button type="button" className="btn small" onClick={() => show(version.number)}>
                    {t('written.compare')}
                  </button>{' '}
                  {may && (
                    <button
                      type="button"
                      className="btn small"
                      disabled={restore.isPending}
                      onClick={() => (page.draft === 0 || window.confirm(t('written.restoreSure'))) && restore.mutate(version.number)}
                    >
                      {t('written.restore')}
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {shown !== undefined && <Difference page={page.key} number={shown} close={() => show(undefined)} />}
    </section>
  );
}

function Difference({ page, number, close }: { page: string; number: number; close: () => void }) {
  const { t } = useTranslation();
  const difference = useQuery({
    queryKey: ['page-difference', page, number],
    queryFn: () =>
      good(api.GET('/api/v1/pages/{key}/difference', { params: { path: { key: page }, query: { from: String(number), to: 'draft' } } })),
    gcTime: 0,
  });
  const lines = difference.data?.lines ?? [];
  return (
    <Dialog title={t('written.differenceOf', { number })} close={close}>
      {difference.isError && (
        <p className="note" role="alert">
          {difference.error.message}
        </p>
      )}
      {difference.data && lines.every((line) => line.mark === ' ') && <p>{t('written.noDifference')}</p>}
      <div className="difference">
        {lines.map((line, at) => (
          <p key={`${at} ${line.text}`} data-mark={line.mark}>
            {line.mark !== ' ' && <span className="sr">{t(line.mark === '+' ? 'written.added' : 'written.gone')}</span>}
            {line.text || ' '}
          </p>
        ))}
      </div>
      <div className="bar">
        <button type="button" className="btn" onClick={close}>
          {t('written.close')}
        </button>
      </div>
    </Dialog>
  );
}
