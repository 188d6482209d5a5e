import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../../api/client';
import { Field } from '../../frame/Field';
import { Failed, Loading, PageHead } from '../../frame/Page';
import { useMay } from '../me';
import { type FormDraft, keyOf } from './draft';
import { FormGives } from './FormGives';
import { FormPreview } from './FormPreview';
import { FormSections } from './FormSections';
import { FormTerms } from './FormTerms';
import { InLanguages } from './InLanguages';
import { SectionWords, wordsMoved } from './SectionWords';

/** One form in its editor, and beside it the page as the visitor sees it. */
export function FormPage() {
  const { key } = useParams();
  const fields = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  const forms = useQuery({ queryKey: ['forms'], queryFn: () => good(api.GET('/api/v1/forms')) });
  const form = useQuery({
    queryKey: ['forms', key],
    enabled: key !== undefined && key !== 'new',
    queryFn: () => good(api.GET('/api/v1/forms/{key}', { params: { path: { key: key ?? '' } } })),
  });
  if (form.isError) {
    return <Failed fault={form.error} again={() => void form.refetch()} />;
  }

  if (!fields.data || !forms.data || (key !== 'new' && !form.data)) {
    return <Loading />;
  }

  return <Editor key={key} form={form.data} fields={fields.data.items} taken={forms.data.items.map((one) => one.form.key ?? '')} />;
}

function Editor({ form, fields, taken }: { form: Schemas['FormView'] | undefined; fields: Schemas['FieldView'][]; taken: string[] }) {
  const { t } = useTranslation();
  const go = useNavigate();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState<FormDraft>(form?.form ?? { title: '', sections: [{ fields: [] }] });
  const set = (change: Partial<FormDraft>) => setDraft({ ...draft, ...change });
  const key = form?.form.key ?? keyOf(draft.title ?? '', taken);
  const done = async () => {
    await queries.invalidateQueries();
    go('/forms');
  };
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/forms/{key}', {
          params: { path: { key } },
          body: { ...draft, key },
          headers: form ? { 'If-Match': `"${form.version}"` } : {},
        }),
      ),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/forms/{key}', { params: { path: { key } } })),
    onSuccess: done,
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  const text = (name: 'title' | 'lead' | 'button' | 'done' | 'leadsTo', hint?: string, long?: boolean) => (
    <Field
      as={long ? 'textarea' : 'input'}
      id={`form-${name}`}
      label={t(`forms.words.${name}`)}
      hint={hint}
      required={name === 'title'}
      bad={refused?.about(name)}
      value={draft[name] ?? ''}
      // biome-ignore lint/suspicious/noExplicitAny: an input and a textarea tell alike
      onChange={(e: any) => set({ [name]: e.currentTarget.value || null })}
    />
  );
  return (
    <>
      <PageHead
        kicker={<Link to="/forms">{t('forms.title')}</Link>}
        title={draft.title || t('forms.new')}
        lead={t('forms.editLead')}
        tools={
          may && (
            <>
              {form && (
                <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
                  {t('forms.remove')}
                </button>
              )}
              <button type="button" className="btn prime" disabled={save.isPending} onClick={() => save.mutate()}>
                {t('forms.save')}
              </button>
            </>
          )
        }
      />
      {fault && (
        <div className="note" role="alert">
          {fault.message}
          {refused && refused.faults.length > 1 && (
            <ul>
              {refused.faults.map((one) => (
                <li key={one.field + one.message}>
                  <code>{one.field}</code> {one.message}
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
      <div className="split form-editor">
        <fieldset className="bare" disabled={!may}>
          <section className="sheet part">
            <h2>{t('forms.parts.words')}</h2>
            {text('title')}
            {text('lead', undefined, true)}
            <div className="pair">
              {text('button')}
              {text('done')}
            </div>
            <InLanguages
              draft={draft}
              parts={['title', 'lead', 'button', 'done']}
              long={['lead']}
              more={(language, words: Schemas['FormWords'], say) => (
                <SectionWords
                  language={language}
                  sections={draft.sections ?? []}
                  words={words.sections ?? []}
                  set={(sections) => say({ sections })}
                />
              )}
              set={(words) => set({ in: words })}
            />
          </section>
          <section className="sheet part">
            <h2>{t('forms.parts.asks')}</h2>
            <p className="hint">{t('forms.parts.asksLead')}</p>
            <FormSections
              sections={draft.sections ?? []}
              fields={fields}
              refused={refused}
              set={(sections, from) => set({ sections, in: wordsMoved(draft.in, from) })}
            />
            <label className="opt">
              <input type="checkbox" checked={draft.steps ?? false} onChange={(e) => set({ steps: e.currentTarget.checked || null })} />
              <span>{t('forms.steps')}</span>
            </label>
          </section>
          <section className="sheet part">
            <h2>{t('forms.parts.who')}</h2>
            <div className="pair">
              <Field
                as="select"
                id="form-way"
                label={t('forms.way')}
                value={draft.way ?? ''}
                onChange={(e) => set({ way: e.currentTarget.value || null })}
              >
                {['', 'closed', 'invitation', 'approval', 'open'].map((way) => (
                  <option key={way} value={way}>
                    {t(`forms.ways.${way || 'site'}`)}
                  </option>
                ))}
              </Field>
              <Field
                as="select"
                id="form-confirm"
                label={t('forms.confirm')}
                value={draft.confirm == null ? '' : String(draft.confirm)}
                onChange={(e) => set({ confirm: e.currentTarget.value === '' ? null : e.currentTarget.value === 'true' })}
              >
                {['', 'true', 'false'].map((one) => (
                  <option key={one} value={one}>
                    {t(`forms.confirms.${one || 'site'}`)}
                  </option>
                ))}
              </Field>
            </div>
            <FormGives draft={draft} fields={fields.map((one) => one.field)} refused={refused} set={set} />
            {text('leadsTo', t('forms.leadsToHint'))}
            <FormTerms draft={draft} set={set} />
            <label className="opt">
              <input type="checkbox" checked={!draft.unlisted} onChange={(e) => set({ unlisted: !e.currentTarget.checked || null })} />
              <span>{t('forms.listed')}</span>
            </label>
            <p className="hint">
              {t('forms.address')} <code>/account/register/{key}</code>
            </p>
          </section>
        </fieldset>
        <FormPreview name={key} draft={draft} />
      </div>
    </>
  );
}
