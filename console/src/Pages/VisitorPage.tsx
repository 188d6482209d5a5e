import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useParams, useSearchParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { Failed, Loading, PageHead } from '../frame/Page';
import { useMay } from '../People/me';
import { asking, Glance } from './Glance';
import { Leads } from './Leads';
import { TextRows } from './TextRows';

type Page = Schemas['VisitorPageView'];

/** One page of the service: where it stands, what it says in each language, and how a visitor sees it. */
export function VisitorPage() {
  const { t } = useTranslation();
  const { key = '' } = useParams();
  const [said, say] = useSearchParams();
  const [looked, look] = useState(0);
  const page = useQuery({
    queryKey: ['visitor-pages', key],
    queryFn: () => good(api.GET('/api/v1/visitor-pages/{key}', { params: { path: { key } } })),
  });
  const languages = useQuery({ queryKey: ['texts'], queryFn: () => good(api.GET('/api/v1/texts')) });
  const language = said.get('language') ?? languages.data?.items.find((one) => one.isSites)?.language ?? '';
  const texts = useQuery({
    queryKey: ['texts', language],
    queryFn: () => good(api.GET('/api/v1/texts/{language}', { params: { path: { language } } })),
    enabled: language !== '',
  });
  const fault = page.error ?? languages.error ?? texts.error;
  if (fault) {
    return <Failed fault={fault} again={() => void Promise.all([page.refetch(), texts.refetch()])} />;
  }

  if (!page.data || !languages.data || !texts.data) {
    return <Loading />;
  }

  const groups = page.data.groups;
  const rows = groups.flatMap((group) => texts.data.texts.filter((text) => text.group === group && !text.isOwners));
  return (
    <>
      <PageHead
        kicker={<Link to="/pages">{t('pages.title')}</Link>}
        title={page.data.title}
        lead={t('pages.pageLead')}
        tools={
          <select
            className="field"
            aria-label={t('pages.language')}
            value={language}
            onChange={(e) => say({ language: e.currentTarget.value }, { replace: true })}
          >
            {languages.data.items.map((one) => (
              <option key={one.language} value={one.language}>
                {one.name}
              </option>
            ))}
          </select>
        }
      />
      <div className="template">
        <div>
          {page.data.stands && <Standing key={`${key} ${page.data.version}`} page={page.data} onSaved={() => look(looked + 1)} />}
          {page.data.done && <Leads key={key} on={page.data.done} />}
          <section className="sheet">
            <h2>{t('pages.words')}</h2>
            <p className="hint">{t('pages.wordsHint')}</p>
            <TextRows key={`${key} ${language}`} texts={texts.data} rows={rows} onSaved={() => look(looked + 1)} />
          </section>
        </div>
        <section className="sheet preview page-look" aria-label={t('pages.look')}>
          {page.data.look ? (
            <Glance key={`${language} ${looked}`} title={t('pages.look')} src={asking(page.data.look, `language=${language}`)} />
          ) : (
            <p className="hint">{t(page.data.off ? 'pages.lookOff' : 'pages.lookNone')}</p>
          )}
        </section>
      </div>
    </>
  );
}

function Standing({ page, onSaved }: { page: Page; onSaved: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState({ address: page.address ?? '', off: page.off, menu: page.menu });
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/visitor-pages/{key}', {
          params: { path: { key: page.key } },
          body: { address: draft.address.trim() || null, off: draft.off || null, menu: draft.menu ?? null },
          headers: { 'If-Match': `"${page.version}"` },
        }),
      ),
    onSuccess: (saved) => {
      queries.setQueryData(['visitor-pages', page.key], saved);
      void queries.invalidateQueries();
      onSaved();
    },
  });
  const bad = (field: string) => (save.error instanceof Refused ? save.error.about(field) : undefined);
  const changed = draft.address !== (page.address ?? '') || draft.off !== page.off || draft.menu !== page.menu;
  const set = (part: Partial<typeof draft>) => {
    save.reset();
    setDraft({ ...draft, ...part });
  };
  return (
    <form
      className="sheet"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      {save.error && !(save.error instanceof Refused && save.error.faults.length > 0) && (
        <p className="note" role="alert">
          {save.error.message}
        </p>
      )}
      <Field
        id="page-address"
        label={t('pages.address')}
        hint={t('pages.addressHint')}
        placeholder={page.address ? '' : (page.stands ?? '')}
        bad={bad('address')}
        value={draft.address}
        readOnly={!may}
        onChange={(e) => set({ address: e.currentTarget.value })}
      />
      {page.canBeOff && (
        <label className="tick">
          <input type="checkbox" checked={!draft.off} disabled={!may} onChange={(e) => set({ off: !e.currentTarget.checked })} />{' '}
          {t('pages.on')}
        </label>
      )}
      {page.menu !== null && page.menu !== undefined && (
        <label className="tick">
          <input type="checkbox" checked={draft.menu === true} disabled={!may} onChange={(e) => set({ menu: e.currentTarget.checked })} />{' '}
          {t('pages.inSitesMenu')}
        </label>
      )}
      {may && (
        <footer className="bar">
          <span role="status">{!changed && page.version > 0 ? t('gate.saved') : ''}</span>
          <button type="submit" className="btn prime" disabled={save.isPending || !changed}>
            {t('pages.saveStanding')}
          </button>
        </footer>
      )}
    </form>
  );
}
