import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { day, lastDay } from '../frame/dates';
import { Field } from '../frame/Field';

type Password = Schemas['SharedPasswordView'];

/** The shared passwords of one gate. */
export function SharedPasswords({ gate }: { gate: string }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [own, setOwn] = useState(false);
  const [told, setTold] = useState<Password | null>(null);
  const changed = () => queries.invalidateQueries({ queryKey: ['passwords', gate] });
  const passwords = useQuery({
    queryKey: ['passwords', gate],
    queryFn: () => good(api.GET('/api/v1/passwords', { params: { query: { gate } } })),
  });
  const add = useMutation({
    mutationFn: ({ body }: { body: Schemas['SharedPasswordDraft']; form: HTMLFormElement }) =>
      good(api.POST('/api/v1/passwords', { body })),
    onSuccess: (made, { form }) => {
      form.reset();
      setTold(made.text ? made : null);
      return changed();
    },
  });
  const rotate = useMutation({
    mutationFn: (id: string) =>
      good(api.POST('/api/v1/passwords/{id}/rotate', { params: { path: { id } }, body: { overlap: null, tell: null } })),
    onSuccess: (made) => {
      setTold(made);
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
    const text = (name: string) => String(said.get(name) ?? '').trim() || null;
    const most = text('mostUses');
    add.mutate({
      body: {
        gate,
        label: text('label'),
        password: own ? String(said.get('password') ?? '') : null,
        from: null,
        until: text('until'),
        mostUses: most ? Number(most) : null,
        asked: text('asked'),
        tell:
          text('tell')
            ?.split(/[\s,;]+/)
            .filter(Boolean) ?? null,
        forOrders: said.get('forOrders') !== null,
      },
      form,
    });
  };
  const bad = (field: string) => (add.error instanceof Refused ? add.error.about(field) : undefined);
  const rows = passwords.data?.items ?? [];
  const fault = rotate.error ?? withdraw.error;
  return (
    <section className="sheet">
      <h2>{t('shared.title')}</h2>
      <p className="hint">{t('shared.lead')}</p>
      {told?.text && <Told text={told.text} close={() => setTold(null)} />}
      {passwords.isSuccess && rows.length === 0 && <p>{t('shared.empty')}</p>}
      {rows.length > 0 && (
        <div className="scrollx">
          <table className="plain">
            <thead>
              <tr>
                <th scope="col">{t('shared.for')}</th>
                <th scope="col">{t('shared.state')}</th>
                <th scope="col">{t('shared.use')}</th>
                <th scope="col">{t('shared.networks')}</th>
                <th>
                  <span className="sr">{t('shared.withdraw')}</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <PasswordRow key={row.id} row={row} rotate={() => rotate.mutate(row.id)} withdraw={() => withdraw.mutate(row.id)} />
              ))}
            </tbody>
          </table>
        </div>
      )}
      {fault && (
        <p className="bad" role="alert">
          {fault.message}
        </p>
      )}
      <form onSubmit={submit}>
        <div className="more">
          <Field id="shared-label" name="label" label={t('shared.label')} bad={bad('label')} required />
          <Field id="shared-until" name="until" label={t('shared.until')} bad={bad('until')} type="date" />
          <Field id="shared-mostUses" name="mostUses" label={t('shared.mostUses')} bad={bad('mostUses')} type="number" />
          <Field id="shared-asked" name="asked" label={t('shared.asked')} bad={bad('asked')} placeholder="anyone" />
          <Field id="shared-tell" name="tell" label={t('shared.tell')} bad={bad('tell')} placeholder="ada@quill.example" />
          {own && <Field id="shared-password" name="password" label={t('shared.password')} bad={bad('password')} required />}
        </div>
        <p className="go">
          <button type="submit" className="btn" disabled={add.isPending}>
            {t(own ? 'shared.add' : 'shared.generate')}
          </button>
          <label>
            <input type="checkbox" checked={own} onChange={(e) => setOwn(e.currentTarget.checked)} /> {t('shared.own')}
          </label>{' '}
          <label>
            <input type="checkbox" name="forOrders" /> {t('shared.forOrders')}
          </label>
        </p>
      </form>
      {add.isError && !['label', 'password', 'until', 'mostUses', 'asked', 'tell'].some(bad) && <p className="bad">{add.error.message}</p>}
    </section>
  );
}

function PasswordRow({ row, rotate, withdraw }: { row: Password; rotate: () => void; withdraw: () => void }) {
  const { t } = useTranslation();
  const used = row.mostUses !== null && row.uses >= row.mostUses;
  return (
    <tr>
      <td>
        {row.label}
        {row.forOrders && <div className="hint">{t('shared.forOrdersHint')}</div>}
        {row.asked !== 'anyone' && <div className="hint">{t('shared.askedOf', { whom: row.asked })}</div>}
      </td>
      <td>
        {row.withdrawnAt ? t('shared.withdrawn') : used ? t('shared.usedUp') : t(row.inForce ? 'state.on' : 'state.dated')}
        {row.until && !row.withdrawnAt && <div className="hint">{t('shared.ends', { when: lastDay(row.until) })}</div>}
      </td>
      <td>
        {row.lastUsedAt
          ? `${
              row.mostUses === null ? t('shared.uses', { count: row.uses }) : t('shared.usesOf', { count: row.uses, most: row.mostUses })
            }, ${t('shared.last', { when: day(row.lastUsedAt) })}`
          : t('shared.never')}
      </td>
      <td>{row.networks}</td>
      <td className="end">
        {row.inForce && (
          <button type="button" className="btn" title={t('shared.rotateHint')} onClick={rotate}>
            {t('shared.rotate')}
          </button>
        )}{' '}
        {!row.withdrawnAt && (
          <button type="button" className="btn danger" onClick={withdraw}>
            {t('shared.withdraw')}
          </button>
        )}
      </td>
    </tr>
  );
}

function Told({ text, close }: { text: string; close: () => void }) {
  const { t } = useTranslation();
  const [copied, setCopied] = useState(false);
  return (
    <div className="told" role="status">
      <p>
        <b>{t('shared.once')}</b>
      </p>
      <pre>{text}</pre>
      <button
        type="button"
        className="btn prime"
        onClick={async () => {
          await navigator.clipboard.writeText(text);
          setCopied(true);
        }}
      >
        {t(copied ? 'shared.copied' : 'shared.copy')}
      </button>{' '}
      <button type="button" className="btn" onClick={close}>
        {t('shared.done')}
      </button>
    </div>
  );
}
