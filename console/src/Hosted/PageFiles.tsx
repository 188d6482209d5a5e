import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, ourHeaders, Refused } from '../api/client';
import { useMay } from '../People/me';

/** A name that a link can name, of whatever a file is called. */
const nameOf = (file: string) =>
  file
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9._-]+/g, '-')
    .replace(/^[^A-Za-z0-9]+/, '')
    .slice(-100);

/** Puts files beside a page, and tells of each by its name. */
export function useUpload(page: string, done: (name: string, isPicture: boolean) => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (files: File[]) => {
      for (const file of files) {
        const name = nameOf(file.name);
        // The call is made by hand: the client of the API sends JSON.
        const answer = await fetch(`/api/v1/pages/${encodeURIComponent(page)}/files/${encodeURIComponent(name)}`, {
          method: 'PUT',
          body: file,
          headers: { ...ourHeaders(), 'Content-Type': 'application/octet-stream' },
        });
        if (!answer.ok) {
          const problem = (await answer.json()) as { detail?: string; code?: string; errors?: { message: string }[] };
          throw new Refused(answer.status, problem.code ?? 'http', problem.errors?.[0]?.message ?? problem.detail ?? name, []);
        }

        done(name, file.type.startsWith('image/'));
      }
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ['page-files', page] }),
  });
}

/** The pictures and files of a page. */
export function PageFiles({ page, may, upload }: { page: string; may: boolean; upload: (files: File[]) => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const mayWrite = useMay('write') && may;
  const files = useQuery({
    queryKey: ['page-files', page],
    queryFn: () => good(api.GET('/api/v1/pages/{key}/files', { params: { path: { key: page } } })),
  });
  const drop = useMutation({
    mutationFn: (name: string) => good(api.DELETE('/api/v1/pages/{key}/files/{name}', { params: { path: { key: page, name } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ['page-files', page] }),
  });
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: files are dropped here; the button beneath does the same.
    <section
      className="sheet"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        upload([...e.dataTransfer.files]);
      }}
    >
      <h2>{t('written.files')}</h2>
      <p className="hint">{t('written.filesHint')}</p>
      {files.data && files.data.items.length > 0 && (
        <table className="plain">
          <tbody>
            {files.data.items.map((file) => (
              <tr key={file.name}>
                <td>
                  <code>{file.name}</code>
                </td>
                <td>{t('written.kilobytes', { count: Math.ceil(file.size / 1024) })}</td>
                <td>
                  {mayWrite && (
                    <button
                      type="button"
                      className="btn small"
                      disabled={drop.isPending}
                      onClick={() => window.confirm(t('written.dropFile', { name: file.name })) && drop.mutate(file.name)}
                    >
                      {t('written.remove')}
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {mayWrite && (
        <label className="btn">
          {t('written.addFiles')}
          <input
            type="file"
            multiple
            className="sr"
            onChange={(e) => {
              upload([...(e.currentTarget.files ?? [])]);
              e.currentTarget.value = '';
            }}
          />
        </label>
      )}
    </section>
  );
}
