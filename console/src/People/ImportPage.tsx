import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { lines } from '../api/lines';
import { Field } from '../frame/Field';
import { ReadOnlyUnless } from '../frame/May';
import { number } from '../frame/numbers';
import { PageHead } from '../frame/Page';

type Line = Schemas['MemberImportLine'];
const fields = [
  'email',
  'name',
  'first-name',
  'last-name',
  'user-name',
  'password-hash',
  'language',
  'status',
  'roles',
  'groups',
  'plans',
  'joined',
  'until',
] as const;

/** Members from a file: looked through first, its columns set right, then stored. */
export function ImportPage() {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [file, setFile] = useState<File>();
  const [source, setSource] = useState('');
  const [map, setMap] = useState<Record<string, string>>({});
  const [line, setLine] = useState<Line>();
  const [letter, setLetter] = useState<Letter>({ tell: '', subject: '', text: '' });
  const run = useMutation({
    mutationFn: async (asked: { file: File; map: Record<string, string>; dryRun: boolean }) => {
      const query = new URLSearchParams([
        ['dryRun', String(asked.dryRun)],
        ...Object.entries(asked.map).map(([column, field]) => ['map', `${column}=${field}`]),
        ...(source.trim() ? [['source', source.trim()]] : []),
      ]);
      const last = await lines<Line>(`members/import?${query}`, bodyOf(asked.file, letter), setLine);
      if (last.stage === 'failed') {
        throw new Error(last.detail ?? '');
      }

      return asked.dryRun ? undefined : queries.invalidateQueries();
    },
  });
  const look = (chosen: File, columns: Record<string, string>) => {
    setMap(columns);
    setLine(undefined);
    run.mutate({ file: chosen, map: columns, dryRun: true });
  };
  const refused = run.error instanceof Refused ? run.error : undefined;
  const coming = (line?.fresh ?? 0) + (line?.changed ?? 0);
  const done = line?.stage === 'done' && run.isSuccess && run.variables?.dryRun === false;
  return (
    <ReadOnlyUnless scope="people">
      <PageHead kicker={<Link to="/members">{t('members.title')}</Link>} title={t('import.title')} lead={t('import.lead')} />
      <section className="sheet" aria-label={t('import.title')}>
        <div className="pair">
          <Field
            id="import-file"
            type="file"
            accept=".csv,.tsv,.txt,text/csv,.htpasswd"
            label={t('import.file')}
            hint={t('import.fileHint')}
            bad={refused?.about('map')}
            onChange={(e) => {
              const chosen = e.currentTarget.files?.[0];
              setFile(chosen);
              if (chosen) {
                look(chosen, {});
              }
            }}
          />
          <Field
            id="import-source"
            label={t('import.source')}
            hint={t('import.sourceHint')}
            placeholder="spring"
            bad={refused?.about('source')}
            value={source}
            onChange={(e) => setSource(e.currentTarget.value)}
          />
        </div>
        {run.isError && !refused?.faults.length && (
          <p className="note" role="alert">
            {run.error.message}
          </p>
        )}
        {run.isPending && (
          <p role="status">
            {t(line?.stage !== 'working' ? 'import.reading' : run.variables?.dryRun ? 'import.looking' : 'import.storing', {
              rows: number(line?.rows ?? 0),
              total: number(line?.total ?? 0),
            })}
          </p>
        )}
      </section>
      {done && line && (
        <section className="sheet" role="status">
          <h2>{t('import.done', { fresh: number(line.fresh), changed: number(line.changed) })}</h2>
          <Link className="btn" to="/members?sort=-joined">
            {t('import.toList')}
          </Link>
        </section>
      )}
      {line?.stage === 'done' && run.isSuccess && !done && (
        <>
          <Numbers line={line} />
          {line.columns.length > 0 && file && <Columns line={line} set={(column, field) => look(file, { ...map, [column]: field })} />}
          <Refusals line={line} />
          <Samples line={line} />
          <Tell letter={letter} set={setLetter} refused={refused} />
          <div className="bar">
            <button
              type="button"
              className="btn prime"
              disabled={coming === 0 || run.isPending || !file || (letter.tell !== '' && !(letter.subject.trim() && letter.text.trim()))}
              onClick={() => file && run.mutate({ file, map, dryRun: false })}
            >
              {coming === 0 ? t('import.goNone') : t('import.go', { count: coming })}
            </button>
          </div>
        </>
      )}
    </ReadOnlyUnless>
  );
}

type Letter = { tell: string; subject: string; text: string };

/** The file alone, or with who is told of it. */
function bodyOf(file: File, letter: Letter) {
  if (!letter.tell || !letter.subject.trim() || !letter.text.trim()) {
    return file;
  }

  const form = new FormData();
  form.append('letter', JSON.stringify(letter));
  form.append('file', file);
  return form;
}

/** Who is written to, and in which words. */
function Tell({ letter, set, refused }: { letter: Letter; set: (letter: Letter) => void; refused: Refused | undefined }) {
  const { t } = useTranslation();
  return (
    <section className="sheet" aria-label={t('import.tell')}>
      <h2>{t('import.tell')}</h2>
      <Field
        as="select"
        id="import-tell"
        label={t('import.tellWhom')}
        hint={t('import.tellHint')}
        value={letter.tell}
        onChange={(e) => set({ ...letter, tell: e.currentTarget.value })}
      >
        {['', 'fresh', 'changed', 'all'].map((whom) => (
          <option key={whom} value={whom}>
            {t(`import.tells.${whom || 'nobody'}`)}
          </option>
        ))}
      </Field>
      {letter.tell && (
        <>
          <Field
            id="import-subject"
            label={t('bulk.subject')}
            required
            bad={refused?.about('subject')}
            value={letter.subject}
            onChange={(e) => set({ ...letter, subject: e.currentTarget.value })}
          />
          <Field
            as="textarea"
            id="import-text"
            label={t('bulk.text')}
            hint={t('bulk.textHint')}
            required
            bad={refused?.about('text')}
            value={letter.text}
            onChange={(e) => set({ ...letter, text: e.currentTarget.value })}
          />
        </>
      )}
    </section>
  );
}

function Numbers({ line }: { line: Line }) {
  const { t } = useTranslation();
  return (
    <section className="sheet">
      <div className="nums">
        {(['fresh', 'changed', 'same', 'refused'] as const).map((name) => (
          <div key={name} className={name === 'refused' && line.refused > 0 ? 'care' : undefined}>
            <b>{number(line[name])}</b>
            <span>{t(`import.nums.${name}`)}</span>
          </div>
        ))}
      </div>
    </section>
  );
}

function Columns({ line, set }: { line: Line; set: (column: string, field: string) => void }) {
  const { t } = useTranslation();
  const asked = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  return (
    <section className="sheet" aria-label={t('import.columns')}>
      <h2>{t('import.columns')}</h2>
      <p className="hint">{t('import.read', { encoding: line.encoding })}</p>
      <table className="plain">
        <thead>
          <tr>
            <th>{t('import.column')}</th>
            <th>{t('import.taken')}</th>
          </tr>
        </thead>
        <tbody>
          {line.columns.map((column) => (
            <tr key={column.column}>
              <td>{column.column}</td>
              <td>
                <select
                  className="field"
                  aria-label={`${column.column}: ${t('import.taken')}`}
                  value={column.field}
                  onChange={(e) => set(column.column, e.currentTarget.value)}
                >
                  <option value="">{t('import.leftOut')}</option>
                  {fields.map((field) => (
                    <option key={field} value={field}>
                      {t(`import.fields.${field}`)}
                    </option>
                  ))}
                  {asked.data?.items
                    .filter(({ field }) => field.kind !== 'file')
                    .map(({ field }) => (
                      <option key={field.key} value={`answer.${field.key}`}>
                        {t('import.answer', { label: field.label })}
                      </option>
                    ))}
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Refusals({ line }: { line: Line }) {
  const { t } = useTranslation();
  return line.refused === 0 ? null : (
    <section className="sheet" aria-label={t('import.refusals')}>
      <h2>{t('import.refusals')}</h2>
      <p className="hint">{t('import.refusalsLead')}</p>
      <table className="plain">
        <thead>
          <tr>
            <th>{t('import.line')}</th>
            <th>{t('import.whom')}</th>
            <th>{t('import.reason')}</th>
          </tr>
        </thead>
        <tbody>
          {line.refusals.map((refusal) => (
            <tr key={refusal.line}>
              <td>{refusal.line}</td>
              <td>{refusal.email}</td>
              <td>{refusal.reason}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {line.refused > line.refusals.length && <p className="hint">{t('import.more', { count: line.refused - line.refusals.length })}</p>}
    </section>
  );
}

function Samples({ line }: { line: Line }) {
  const { t } = useTranslation();
  return line.samples.length === 0 ? null : (
    <section className="sheet" aria-label={t('import.samples')}>
      <h2>{t('import.samples')}</h2>
      <table className="plain">
        <tbody>
          {line.samples.slice(0, 12).map((sample) => (
            <tr key={sample.line}>
              <td>{t(`import.effects.${sample.effect}`)}</td>
              <td>{sample.email}</td>
              <td>{sample.says}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {line.fresh + line.changed > 12 && <p className="hint">{t('import.more', { count: line.fresh + line.changed - 12 })}</p>}
    </section>
  );
}
