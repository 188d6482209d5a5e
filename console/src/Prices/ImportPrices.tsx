import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';

/** Puts the lines of a file in place of those of a price list: looked through first, then taken in. */
export function ImportPrices({ of, close }: { of: string; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [file, setFile] = useState<File>();
  const send = useMutation({
    mutationFn: ({ chosen, dryRun }: { chosen: File; dryRun: boolean }) =>
      good(
        api.PUT('/api/v1/prices/{key}/lines.csv', {
          params: { path: { key: of }, query: { dryRun } },
          headers: { 'Content-Type': 'text/csv' },
          body: chosen as unknown as string,
          bodySerializer: (body) => body,
        }),
      ),
    onSuccess: (found) => (found.stored ? queries.invalidateQueries() : undefined),
  });
  const found = send.data;
  const refused = send.error instanceof Refused ? send.error : undefined;
  return (
    <Dialog title={t('prices.file.title')} close={close}>
      <p>{t('prices.file.lead')}</p>
      <label className="name" htmlFor="prices-file">
        {t('orders.file.file')}
      </label>
      <input
        id="prices-file"
        className="field"
        type="file"
        accept=".csv,text/csv"
        onChange={(e) => {
          const chosen = e.currentTarget.files?.[0];
          setFile(chosen);
          if (chosen) {
            send.mutate({ chosen, dryRun: true });
          }
        }}
      />
      {send.error && (
        <p className="note" role="alert">
          {send.error.message}
        </p>
      )}
      {refused?.faults.map((fault) => (
        <p className="bad" key={`${fault.line} ${fault.field}`}>
          {fault.line ? `${t('orders.file.line', { line: fault.line })} ` : ''}
          {fault.message}
        </p>
      ))}
      {found && (
        <section className="would" aria-live="polite">
          <h3>
            {t(found.stored ? 'prices.file.stored' : 'prices.file.found', {
              rows: found.rows,
              added: found.added,
              changed: found.changed,
              dropped: found.dropped,
            })}
          </h3>
        </section>
      )}
      <div className="bar">
        {found?.stored ? (
          <button type="button" className="btn prime" onClick={close}>
            {t('orders.file.done')}
          </button>
        ) : (
          <>
            <button
              type="button"
              className="btn prime"
              disabled={!file || !found || send.isPending}
              onClick={() => file && send.mutate({ chosen: file, dryRun: false })}
            >
              {t('prices.file.take')}
            </button>
            <button type="button" className="btn" onClick={close}>
              {t('members.form.cancel')}
            </button>
          </>
        )}
      </div>
    </Dialog>
  );
}
