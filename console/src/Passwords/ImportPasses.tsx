import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';

const quoted = (text: string | null | undefined) => `"${(text ?? '').replaceAll('"', '""')}"`;

/** The passes that were just made, as a file to keep: their passwords are told nowhere else. */
export const fileOf = (passes: Schemas['PassView'][]) =>
  ['name,password,holder,kind,until', ...passes.map((p) => [p.name, p.password, p.holder, p.kind, p.untilText].map(quoted).join(','))].join(
    '\r\n',
  );

/** Makes the passes of a file: looked through first; all of them are made, or none. */
export function ImportPasses({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [file, setFile] = useState<File>();
  const send = useMutation({
    mutationFn: ({ chosen, dryRun }: { chosen: File; dryRun: boolean }) =>
      good(
        api.POST('/api/v1/passes/import', {
          params: { query: { dryRun } },
          headers: { 'Content-Type': 'text/csv' },
          body: chosen as unknown as string,
          bodySerializer: (body) => body,
        }),
      ),
    onSuccess: (found) => (found.stored ? queries.invalidateQueries() : undefined),
  });
  const found = send.data;
  const save = () => {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([fileOf(found?.passes ?? [])], { type: 'text/csv' }));
    link.download = 'passes.csv';
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <Dialog title={t('passes.bring')} close={close}>
      <p>{t('passes.fileLead')}</p>
      <label className="name" htmlFor="passes-file">
        {t('orders.file.file')}
      </label>
      <input
        id="passes-file"
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
        <section aria-live="polite">
          <h3>{t(found.stored ? 'passes.made' : 'passes.wouldMake', { count: found.rows })}</h3>
          {found.stored && <p>{t('passes.keepFile')}</p>}
          {found.faults.map((fault) => (
            <p className="bad" key={`${fault.line} ${fault.field}`}>
              {t('orders.file.line', { line: fault.line })} {fault.message}
            </p>
          ))}
        </section>
      )}
      <div className="bar">
        {found?.stored ? (
          <>
            <button type="button" className="btn prime" onClick={save}>
              {t('passes.saveFile')}
            </button>
            <button type="button" className="btn" onClick={close}>
              {t('orders.file.done')}
            </button>
          </>
        ) : (
          <>
            <button
              type="button"
              className="btn prime"
              disabled={!file || !found || found.faults.length > 0 || send.isPending}
              onClick={() => file && send.mutate({ chosen: file, dryRun: false })}
            >
              {t('passes.makeAll')}
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
