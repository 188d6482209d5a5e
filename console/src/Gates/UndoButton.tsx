import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';

/** Takes a gate's last change back. */
export function UndoButton({ gate, done }: { gate: string; done?: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const undo = useMutation({
    mutationFn: () => good(api.POST('/api/v1/gates/{key}/undo', { params: { path: { key: gate } } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      done?.();
    },
  });
  return (
    <>
      {undo.isError && (
        <span className="bad" role="alert">
          {undo.error.message}
        </span>
      )}
      <button type="button" className="btn" title={t('history.undoHint')} disabled={undo.isPending} onClick={() => undo.mutate()}>
        {t('history.undo')}
      </button>
    </>
  );
}
