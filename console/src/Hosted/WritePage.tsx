import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { Failed, Loading, PageHead } from '../frame/Page';
import { useMay } from '../People/me';
import { Guarding } from './Guarding';
import { PageFiles, useUpload } from './PageFiles';
import { PageLook } from './PageLook';
import { Publish } from './Publish';
import { Versions } from './Versions';
import { about, Fault, PageState } from './WrittenPages';

type Page = Schemas['HostedPageView'];
type Text = Schemas['HostedTextView'];
const blocks = ['for', 'in', 'form', 'pages', 'downloads', 'player', 'facts', 'search'] as const;

/** One page that is written here: its text beside what somebody sees of it, and all that belongs to it beneath. */
export function WritePage() {
  const { key = '' } = useParams();
  const params = { params: { path: { key } } };
  const page = useQuery({ queryKey: ['hosted-pages', key], queryFn: () => good(api.GET('/api/v1/pages/{key}', params)) });
  const text = useQuery({ queryKey: ['page-text', key], queryFn: () => good(api.GET('/api/v1/pages/{key}/text', params)) });
  const fault = page.error ?? text.error;
  if (fault) {
    return <Failed fault={fault} again={() => void Promise.all([page.refetch(), text.refetch()])} />;
  }

  if (!page.data || !text.data) {
    return <Loading />;
  }

  return <Editor key={`${key} ${text.data.source} ${text.data.number ?? ''} ${text.data.version}`} page={page.data} text={text.data} />;
}

function Editor({ page, text }: { page: Page; text: Text }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const area = useRef<HTMLTextAreaElement>(null);
  const [draft, setDraft] = useState({ title: text.title, description: text.description ?? '', text: text.text });
  const changed = draft.title !== text.title || draft.description !== (text.description ?? '') || draft.text !== text.text;
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/pages/{key}/text', {
          params: { path: { key: page.key } },
          headers: { 'If-Match': `"${text.version}"` },
          body: { title: draft.title, description: draft.description || null, text: draft.text },
        }),
      ),
    onSuccess: (saved) => {
      queries.setQueryData(['page-text', page.key], saved);
      void queries.invalidateQueries({ queryKey: ['hosted-pages'] });
    },
  });
  useUnsaved(changed);
  const set = (part: Partial<typeof draft>) => {
    save.reset();
    setDraft({ ...draft, ...part });
  };
  const put = (words: string) => {
    const at = area.current?.selectionStart ?? draft.text.length;
    const before = draft.text.slice(0, at);
    const lead = before === '' || before.endsWith('\n\n') ? '' : before.endsWith('\n') ? '\n' : '\n\n';
    set({ text: `${before}${lead}${words}\n${draft.text.slice(at)}` });
    area.current?.focus();
  };
  const upload = useUpload(page.key, (name, picture) => put(picture ? `![${name}](${name})` : `[${name}](${name})`));
  return (
    <>
      <PageHead
        kicker={<Link to="/pages">{t('pages.title')}</Link>}
        title={page.title}
        lead={
          <>
            <PageState page={page} /> {page.look ? <a href={page.look}>{page.address}</a> : <code>{page.address}</code>}
          </>
        }
        tools={may && <Publish page={page} unsaved={changed} save={() => save.mutateAsync()} hasDraft={text.source === 'draft'} />}
      />
      <div className="template writing">
        <div>
          <form
            className="sheet"
            onSubmit={(e) => {
              e.preventDefault();
              save.mutate();
            }}
            onKeyDown={(e) => {
              if ((e.ctrlKey || e.metaKey) && e.key === 's') {
                e.preventDefault();
                save.mutate();
              }
            }}
          >
            <Fault error={save.error} />
            {save.error instanceof Refused && save.error.code === 'stale' && <p className="hint">{t('written.staleHint')}</p>}
            <Field
              id="written-title"
              label={t('written.pageTitle')}
              maxLength={300}
              readOnly={!may}
              bad={about(save.error, 'title')}
              value={draft.title}
              onChange={(e) => set({ title: e.currentTarget.value })}
            />
            <Field
              id="written-about"
              label={t('written.about')}
              maxLength={500}
              readOnly={!may}
              bad={about(save.error, 'description')}
              value={draft.description}
              onChange={(e) => set({ description: e.currentTarget.value })}
            />
            <div className="put-in">
              <label className="name" htmlFor="written-text">
                {t('written.text')}
              </label>
              {may && (
                <select
                  className="field"
                  aria-label={t('written.putIn')}
                  value=""
                  onChange={(e) => put(t(`written.blocks.${e.currentTarget.value}.text`))}
                >
                  <option value="">{t('written.putIn')}</option>
                  {blocks.map((block) => (
                    <option key={block} value={block}>
                      {t(`written.blocks.${block}.name`)}
                    </option>
                  ))}
                </select>
              )}
            </div>
            <textarea
              id="written-text"
              ref={area}
              className="field mono"
              rows={22}
              spellCheck
              readOnly={!may}
              aria-describedby="written-hint"
              aria-invalid={about(save.error, 'text') !== undefined}
              value={draft.text}
              onChange={(e) => set({ text: e.currentTarget.value })}
              onDragOver={(e) => e.preventDefault()}
              onDrop={(e) => {
                if (e.dataTransfer.files.length > 0) {
                  e.preventDefault();
                  upload.mutate([...e.dataTransfer.files]);
                }
              }}
            />
            <p className="hint" id="written-hint">
              {t('written.textHint')}
            </p>
            {upload.isError && (
              <p className="bad" role="alert">
                {upload.error.message}
              </p>
            )}
            {may && (
              <footer className="bar">
                <span role="status">{!changed && text.source === 'draft' ? t('written.kept') : ''}</span>
                <button type="submit" className="btn prime" disabled={save.isPending || !changed}>
                  {t('written.keep')}
                </button>
              </footer>
            )}
          </form>
          <PageFiles page={page.key} may={may} upload={(files) => upload.mutate(files)} />
        </div>
        <PageLook page={page.key} draft={draft} jump={(line) => jumpTo(area.current, line)} />
      </div>
      <div className="template">
        <Guarding key={`${page.guarding.kind} ${page.guarding.own}`} page={page.key} guarding={page.guarding} may={may} />
        <Versions page={page} may={may} />
      </div>
    </>
  );
}

/** Sets the caret to the beginning of a line, from 1. */
function jumpTo(area: HTMLTextAreaElement | null, line: number) {
  if (area) {
    const at =
      area.value
        .split('\n')
        .slice(0, line - 1)
        .join('\n').length + (line > 1 ? 1 : 0);
    area.focus();
    area.setSelectionRange(at, at + (area.value.split('\n')[line - 1]?.length ?? 0));
  }
}

/** Asks before what is not kept is left. */
function useUnsaved(changed: boolean) {
  useEffect(() => {
    const ask = (e: BeforeUnloadEvent) => e.preventDefault();
    if (changed) {
      window.addEventListener('beforeunload', ask);
    }

    return () => window.removeEventListener('beforeunload', ask);
  }, [changed]);
}
