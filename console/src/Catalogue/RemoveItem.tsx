import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { Failed, Loading } from '../frame/Page';

/** Removes an item, after it has said what would open by it, and to whom. */
export function RemoveItem({ id, version, close }: { id: string; version: number; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const removal = useQuery({
    queryKey: ['removal', id],
    queryFn: () => good(api.GET('/api/v1/items/{id}/removal', { params: { path: { id } } })),
    retry: false,
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/items/{id}', { params: { path: { id } }, headers: { 'If-Match': `"${version}"` } })),
    onSuccess: async () => {
      close();
      await queries.invalidateQueries();
    },
  });
  const opens = removal.data?.opens ?? [];
  return (
    <Dialog title={t('remove.title')} close={close}>
      {removal.isPending && <Loading lines={2} />}
      {removal.error instanceof Refused && <p className="bad">{removal.error.message}</p>}
      {removal.isError && !(removal.error instanceof Refused) && <Failed fault={removal.error} again={() => void removal.refetch()} />}
      {removal.data && (
        <>
          <p>{t(opens.length > 0 ? 'remove.opens' : 'remove.opensNothing', { title: removal.data.item.title })}</p>
          {opens.length > 0 && (
            <ul className="opens">
              {opens.map((opening) => (
                <li key={`${opening.what} ${opening.before} ${opening.after}`}>
                  <code>{opening.what}</code>{' '}
                  {t('remove.opening', { before: opening.before, after: opening.after, whom: opening.forWhom.join(', ') })}
                </li>
              ))}
            </ul>
          )}
        </>
      )}
      {remove.isError && <p className="bad">{remove.error.message}</p>}
      <footer className="bar">
        <button type="button" className="btn" onClick={close}>
          {t('remove.keep')}
        </button>
        <button type="button" className="btn prime" disabled={!removal.data || remove.isPending} onClick={() => remove.mutate()}>
          {t(opens.length > 0 ? 'remove.anyway' : 'remove.go')}
        </button>
      </footer>
    </Dialog>
  );
}
