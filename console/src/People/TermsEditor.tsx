import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { Failed, Loading, PageHead } from '../frame/Page';
import { AudienceField } from './AudienceField';
import { keyOf } from './forms/draft';
import { InLanguages } from './forms/InLanguages';
import { PagePreview } from './forms/PagePreview';
import { useMay } from './me';

type Draft = Schemas['TermsDraft'];

/** Terms in their editor, and beside it the page as visitors read it. */
export function TermsEditorPage() {
  const { key = 'new' } = useParams();
  const terms = useQuery({ queryKey: ['terms'], queryFn: () => good(api.GET('/api/v1/terms')) });
  if (terms.isError) {
    return <Failed fault={terms.error} again={() => void terms.refetch()} />;
  }

  if (!terms.data) {
    return <Loading />;
  }

  const there = terms.data.items.find((one) => one.terms.key === key);
  return <Editor key={`${key} ${there?.version}`} there={there} taken={terms.data.items.map((one) => one.terms.key ?? '')} />;
}

function Editor({ there, taken }: { there: Schemas['TermsView'] | undefined; taken: string[] }) {
  const { t } = useTranslation();
  const go = useNavigate();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState<Draft>(
    there ? { ...there.terms, note: null, from: null, minor: null } : { title: '', text: '', audience: 'signed-in' },
  );
  const set = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const key = there?.terms.key ?? keyOf(draft.title ?? '', taken);
  const isNew =
    !there ||
    (['title', 'text', 'in'] as const).some((part) => JSON.stringify(draft[part] ?? null) !== JSON.stringify(there.terms[part] ?? null));
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/terms/{key}', {
          params: { path: { key } },
          body: draft,
          headers: there ? { 'If-Match': `"${there.version}"` } : {},
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      go(`/terms/${key}`);
    },
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/terms/{key}', { params: { path: { key } } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      go('/terms');
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  return (
    <>
      <PageHead
        kicker={<Link to="/terms">{t('terms.title')}</Link>}
        title={draft.title || t('terms.new')}
        lead={t('terms.editLead')}
        tools={
          may && (
            <>
              {there && (
                <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
                  {t('terms.remove')}
                </button>
              )}
              <button type="button" className="btn prime" disabled={save.isPending} onClick={() => save.mutate()}>
                {isNew ? t('terms.publish', { number: (there?.versions[0]?.number ?? 0) + 1 }) : t('terms.save')}
              </button>
            </>
          )
        }
      />
      {fault && (
        <div className="note" role="alert">
          {fault.message}
        </div>
      )}
      <div className="split form-editor">
        <fieldset className="bare" disabled={!may}>
          <section className="sheet part">
            <h2>{t('terms.parts.text')}</h2>
            <Field
              id="terms-title"
              label={t('forms.words.title')}
              required
              bad={refused?.about('title')}
              value={draft.title ?? ''}
              onChange={(e) => set({ title: e.currentTarget.value })}
            />
            <Field
              as="textarea"
              id="terms-text"
              label={t('forms.words.text')}
              hint={t('terms.textHint')}
              rows={14}
              bad={refused?.about('text')}
              value={draft.text ?? ''}
              onChange={(e) => set({ text: e.currentTarget.value })}
            />
            <InLanguages draft={draft} parts={['title', 'text', 'note']} long={['text']} set={(words) => set({ in: words })} />
          </section>
          {isNew && (
            <section className="sheet part">
              <h2>{t('terms.parts.version')}</h2>
              <Field
                id="terms-note"
                label={t('forms.words.note')}
                hint={t('terms.noteHint')}
                bad={refused?.about('note')}
                value={draft.note ?? ''}
                onChange={(e) => set({ note: e.currentTarget.value || null })}
              />
              <Field
                id="terms-from"
                type="date"
                label={t('terms.from')}
                hint={t('terms.fromHint')}
                bad={refused?.about('from')}
                value={draft.from ?? ''}
                onChange={(e) => set({ from: e.currentTarget.value || null })}
              />
              {there && (
                <label className="opt">
                  <input type="checkbox" checked={draft.minor ?? false} onChange={(e) => set({ minor: e.currentTarget.checked || null })} />
                  <span>{t('terms.minor')}</span>
                </label>
              )}
            </section>
          )}
          <section className="sheet part">
            <h2>{t('terms.parts.who')}</h2>
            <AudienceField
              id="terms-audience"
              label={t('terms.audience')}
              hint={t('terms.audienceHint')}
              bad={refused?.about('audience')}
              value={draft.audience ?? 'signed-in'}
              set={(audience) => set({ audience })}
            />
            <label className="opt">
              <input type="checkbox" checked={!draft.optional} onChange={(e) => set({ optional: !e.currentTarget.checked || null })} />
              <span>{t('terms.needed')}</span>
            </label>
            {there && there.forms.length > 0 && <p className="hint">{t('terms.forms', { forms: there.forms.join(', ') })}</p>}
          </section>
          {there && <Versions terms={there} may={may} />}
        </fieldset>
        <Preview name={key} draft={draft} />
      </div>
    </>
  );
}

function Versions({ terms, may }: { terms: Schemas['TermsView']; may: boolean }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const withdraw = useMutation({
    mutationFn: (number: number) =>
      good(
        api.DELETE('/api/v1/terms/{key}/versions/{number}', { params: { path: { key: terms.terms.key ?? '', number: String(number) } } }),
      ),
    onSettled: () => queries.invalidateQueries(),
  });
  return (
    <section className="sheet part">
      <h2>{t('terms.versions')}</h2>
      {withdraw.isError && <p className="bad">{withdraw.error.message}</p>}
      <ul className="rows">
        {terms.versions.map((version) => (
          <li key={version.number}>
            <div>
              <b>
                <a href={version.address} target="_blank" rel="noreferrer">
                  {t('terms.version', { number: version.number })}
                </a>
              </b>{' '}
              <span className="hint">
                {t(`terms.states.${version.state}`, { at: moment(version.from) })}
                {version.minor && ` · ${t('terms.isMinor')}`}
              </span>
              <p className="hint">{t('terms.said', { agreed: version.agreed, refused: version.refused })}</p>
              {version.note && <p>{version.note}</p>}
            </div>
            {may && version.state === 'announced' && terms.versions.length > 1 && (
              <button type="button" className="btn" disabled={withdraw.isPending} onClick={() => withdraw.mutate(version.number)}>
                {t('terms.withdraw')}
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Preview({ name, draft }: { name: string; draft: Draft }) {
  const { t } = useTranslation();
  return (
    <PagePreview
      name={`terms/${name}`}
      draft={JSON.stringify({ ...draft, title: draft.title || t('terms.new'), text: draft.text || '…' })}
      ask={(terms) =>
        api.POST('/api/v1/terms/{key}/preview', { params: { path: { key: name || 'new' } }, body: JSON.parse(terms) as Draft })
      }
      title={t('terms.preview')}
      hint={t('terms.previewHint')}
    />
  );
}
