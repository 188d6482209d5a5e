import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useParams, useSearchParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { nameOfLanguage } from '../frame/languages';
import { Failed, Loading, PageHead } from '../frame/Page';
import { useMay } from '../People/me';
import { Preview } from './Preview';
import { TemplateField } from './TemplateField';

type Template = Schemas['LetterTemplateView'];
type Kind = Schemas['LetterKindView'];

/** One letter's words: edited on the left, and as its reader gets it on the right. */
export function TemplatePage() {
  const { t } = useTranslation();
  const { kind = '' } = useParams();
  const [said, say] = useSearchParams();
  const language = said.get('language') ?? 'en';
  const kinds = useQuery({ queryKey: ['letter-kinds'], queryFn: () => good(api.GET('/api/v1/letter-templates')) });
  const template = useQuery({
    queryKey: ['letter-template', kind, language],
    queryFn: () => good(api.GET('/api/v1/letter-templates/{kind}/{language}', { params: { path: { kind, language } } })),
  });
  const fault = kinds.error ?? template.error;
  if (fault) {
    return <Failed fault={fault} again={() => void template.refetch()} />;
  }

  const about = kinds.data?.items.find((one) => one.key === kind);
  if (!about || !template.data) {
    return <Loading />;
  }

  const languages = [...new Set([...about.own, ...about.ours, language])].sort();
  return (
    <>
      <PageHead
        kicker={<Link to="/letters/words">{t('words.title')}</Link>}
        title={about.title}
        lead={about.about}
        tools={
          <select
            className="field"
            aria-label={t('words.language')}
            value={language}
            onChange={(e) => {
              const chosen = e.currentTarget.value === '+' ? window.prompt(t('words.newLanguage')) : e.currentTarget.value;
              if (chosen) {
                say({ language: chosen.trim() }, { replace: true });
              }
            }}
          >
            {languages.map((one) => (
              <option key={one} value={one}>
                {nameOfLanguage(one)}
              </option>
            ))}
            <option value="+">{t('words.addLanguage')}</option>
          </select>
        }
      />
      <Editor key={`${kind}.${language}.${template.data.version}.${template.data.own}`} about={about} template={template.data} />
    </>
  );
}

function Editor({ about, template }: { about: Kind; template: Template }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState({ subject: template.subject, html: template.html ?? '', text: template.text ?? '' });
  const [member, setMember] = useState('');
  const path = { kind: template.kind, language: template.language };
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/letter-templates/{kind}/{language}', {
          params: { path },
          body: draft,
          headers: { 'If-Match': `"${template.version}"` },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const reset = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/letter-templates/{kind}/{language}', { params: { path } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const test = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/letter-templates/{kind}/{language}/test', {
          params: { path },
          body: { ...draft, ...(member ? { member } : {}) },
        }),
      ),
  });
  const refused = [save.error, test.error].find((one) => one instanceof Refused);
  const bad = (field: string) => (refused instanceof Refused ? refused.about(field) : undefined);
  const changed = draft.subject !== template.subject || draft.html !== (template.html ?? '') || draft.text !== (template.text ?? '');
  const field = (name: keyof typeof draft) => ({
    id: `template-${name}`,
    label: t(`words.${name}`),
    value: draft[name],
    bad: bad(name),
    variables: about.variables,
    readOnly: !may,
    onChange: (value: string) => {
      save.reset();
      test.reset();
      setDraft({ ...draft, [name]: value });
    },
  });
  const fault = save.error ?? reset.error ?? test.error;
  return (
    <div className="template">
      <form
        className="sheet"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <p className="hint">
          {template.own
            ? t('words.isOwn')
            : template.from === template.language
              ? t('words.isOurs')
              : t('words.isFrom', { language: nameOfLanguage(template.from) })}
        </p>
        {fault && !(fault instanceof Refused && fault.faults.length) && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        <TemplateField {...field('subject')} lines={1} />
        <TemplateField {...field('html')} lines={14} hint={t('words.htmlHint')} />
        <TemplateField {...field('text')} lines={5} hint={t('words.textHint')} />
        {may && (
          <footer className="bar">
            <span role="status">
              {test.data ? t('words.tested', { to: test.data.to }) : save.isSuccess && !changed ? t('gate.saved') : ''}
            </span>
            {template.own && (
              <button type="button" className="btn" disabled={reset.isPending} onClick={() => reset.mutate()}>
                {t('words.reset')}
              </button>
            )}
            <button type="button" className="btn" disabled={test.isPending} onClick={() => test.mutate()}>
              {t('words.test')}
            </button>
            <button type="submit" className="btn prime" disabled={save.isPending || !changed}>
              {t('words.save')}
            </button>
          </footer>
        )}
      </form>
      <Preview path={path} draft={draft} member={member} setMember={setMember} />
    </div>
  );
}
