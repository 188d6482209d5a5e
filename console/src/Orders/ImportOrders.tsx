import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { Dialog } from '../frame/Dialog';

/** Brings in orders of before from a file: looked through first, then taken in. */
export function ImportOrders({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [file, setFile] = useState<File>();
  const send = useMutation({
    mutationFn: ({ chosen, dryRun }: { chosen: File; dryRun: boolean }) =>
      good(
        api.POST('/api/v1/orders/import', {
          params: { query: { dryRun } },
          headers: { 'Content-Type': 'text/csv' },
          body: chosen as unknown as string,
          bodySerializer: (body) => body,
        }),
      ),
    onSuccess: (found) => (found.stored ? queries.invalidateQueries() : undefined),
  });
  const found = send.data;
  return (
    <Dialog title={t('orders.file.title')} close={close}>
      <p>{t('orders.file.lead')}</p>
      <label className="name" htmlFor="orders-file">
        {t('orders.file.file')}
      </label>
      <input
        id="orders-file"
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
      {found && (
        <section className="would" aria-live="polite">
          <h3>
            {t(found.stored ? 'orders.file.stored' : 'orders.file.found', {
              rows: found.rows,
              orders: found.orders,
              fresh: found.new,
              known: found.known,
            })}
          </h3>
          <ul>
            {found.codes.map((code) => (
              <li key={code.code}>
                <code>{code.code}</code> ({code.orders}): {code.rule ?? t('orders.noRule')}
              </li>
            ))}
          </ul>
          {found.faults.map((fault) => (
            <p className="bad" key={`${fault.line} ${fault.field}`}>
              {t('orders.file.line', { line: fault.line })} {fault.message}
            </p>
          ))}
          {found.faultsInAll > 0 && <p className="bad">{t('orders.file.left', { count: found.faultsInAll })}</p>}
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
              disabled={!file || !found || found.new === 0 || send.isPending}
              onClick={() => file && send.mutate({ chosen: file, dryRun: false })}
            >
              {t('orders.file.take')}
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
