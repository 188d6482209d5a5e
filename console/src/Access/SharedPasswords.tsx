import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';

/** The shared passwords of one gate. */
export function SharedPasswords({ gate }: { gate: string }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const changed = () => queries.invalidateQueries({ queryKey: ['passwords', gate] });
  const passwords = useQuery({
    queryKey: ['passwords', gate],
    queryFn: () => good(api.GET('/api/v1/passwords', { params: { query: { gate } } })),
  });
  const add = useMutation({
    mutationFn: ({ label, password }: { label: string; password: string; form: HTMLFormElement }) =>
      good(api.POST('/api/v1/passwords', { body: { gate, label, password } })),
    onSuccess: (_, { form }) => {
      form.reset();
      return changed();
    },
  });
  const withdraw = useMutation({
    mutationFn: (id: string) => good(api.POST('/api/v1/passwords/{id}/withdraw', { params: { path: { id } } })),
    onSuccess: changed,
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const said = new FormData(form);
    add.mutate({ label: String(said.get('label')), password: String(said.get('password')), form });
  };
  const bad = (field: string) => (add.error instanceof Refused ? add.error.about(field) : undefined);
  const rows = passwords.data?.items ?? [];
  return (
    <section className="sheet">
      <h2>{t('shared.title')}</h2>
      <p className="hint">{t('shared.lead')}</p>
      {passwords.isSuccess && rows.length === 0 && <p>{t('shared.empty')}</p>}
      {rows.length > 0 && (
        <table className="plain">
          <thead>
            <tr>
              <th scope="col">{t('shared.for')}</th>
              <th scope="col">{t('shared.state')}</th>
              <th scope="col">{t('shared.use')}</th>
              <th>
                <span className="sr">{t('shared.withdraw')}</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.id}>
                <td>{row.label}</td>
                <td>{row.withdrawnAt ? t('shared.withdrawn') : t(row.inForce ? 'state.on' : 'state.dated')}</td>
                <td>
                  {row.lastUsedAt
                    ? `${t('shared.uses', { count: row.uses })}, ${t('shared.last', { when: new Date(row.lastUsedAt).toLocaleDateString('en', { dateStyle: 'medium' }) })}`
                    : t('shared.never')}
                </td>
                <td style={{ textAlign: 'right' }}>
                  {!row.withdrawnAt && (
                    <button type="button" className="btn danger" onClick={() => withdraw.mutate(row.id)}>
                      {t('shared.withdraw')}
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <form onSubmit={submit} className="more" style={{ alignItems: 'end' }}>
        <div>
          <label className="name" htmlFor="shared-label">
            {t('shared.label')}
          </label>
          <input id="shared-label" name="label" className="field" required aria-invalid={bad('label') !== undefined} />
          {bad('label') && <p className="bad">{bad('label')}</p>}
        </div>
        <div>
          <label className="name" htmlFor="shared-password">
            {t('shared.password')}
          </label>
          <input
            id="shared-password"
            name="password"
            className="field"
            autoComplete="off"
            required
            aria-invalid={bad('password') !== undefined}
          />
          {bad('password') && <p className="bad">{bad('password')}</p>}
        </div>
        <button type="submit" className="btn" disabled={add.isPending}>
          {t('shared.add')}
        </button>
      </form>
      {add.isError && !bad('label') && !bad('password') && <p className="bad">{add.error.message}</p>}
    </section>
  );
}
