import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { Failed, Loading, PageHead } from '../frame/Page';
import { useMay } from '../People/me';
import { GuardedBy } from './Guarding';
import { about, Fault } from './WrittenPages';

type Section = Schemas['SectionView'];
const layouts = ['side', 'plain', 'own'] as const;

/** One section of pages that are written here: where it stands, and how its pages are laid out. */
export function SectionPage() {
  const { t } = useTranslation();
  const { key = '' } = useParams();
  const section = useQuery({
    queryKey: ['sections', key],
    queryFn: () => good(api.GET('/api/v1/sections/{key}', { params: { path: { key } } })),
  });
  if (section.error) {
    return <Failed fault={section.error} again={() => void section.refetch()} />;
  }

  if (!section.data) {
    return <Loading />;
  }

  return (
    <>
      <PageHead kicker={<Link to="/pages">{t('pages.title')}</Link>} title={section.data.title} lead={t('written.sectionLead')} />
      <Editor key={section.data.version} section={section.data} />
    </>
  );
}

function Editor({ section }: { section: Section }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const may = useMay('write');
  const [draft, setDraft] = useState({
    title: section.title,
    address: section.address ?? '',
    description: section.description ?? '',
    layout: section.layout,
    template: section.template ?? '',
    inSite: section.inSite,
  });
  const params = { params: { path: { key: section.key } } };
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/sections/{key}', {
          ...params,
          headers: { 'If-Match': `"${section.version}"` },
          body: {
            ...draft,
            description: draft.description || null,
            template: draft.layout === 'own' ? draft.template : null,
            parent: section.parent ?? null,
            inSite: draft.inSite,
          },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/sections/{key}', params)),
    onSuccess: async () => {
      void navigate('/pages');
      await queries.invalidateQueries();
    },
  });
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
      <Fault error={save.error ?? remove.error} />
      <Field
        id="section-title"
        label={t('written.sectionTitle')}
        readOnly={!may}
        bad={about(save.error, 'title')}
        value={draft.title}
        onChange={(e) => set({ title: e.currentTarget.value })}
      />
      <Field
        id="section-address"
        label={t('written.address')}
        hint={t('written.sectionAddressHint')}
        readOnly={!may}
        bad={about(save.error, 'address')}
        value={draft.address}
        onChange={(e) => set({ address: e.currentTarget.value })}
      />
      <Field
        id="section-about"
        label={t('written.about')}
        readOnly={!may}
        bad={about(save.error, 'description')}
        value={draft.description}
        onChange={(e) => set({ description: e.currentTarget.value })}
      />
      <Field
        as="select"
        id="section-layout"
        label={t('written.layout')}
        disabled={!may}
        bad={about(save.error, 'layout')}
        value={draft.layout}
        onChange={(e) => set({ layout: e.currentTarget.value })}
      >
        {layouts.map((one) => (
          <option key={one} value={one}>
            {t(`written.layouts.${one}`)}
          </option>
        ))}
      </Field>
      {draft.layout === 'own' && (
        <Field
          as="textarea"
          id="section-template"
          label={t('written.template')}
          hint={t('written.templateHint')}
          rows={16}
          readOnly={!may}
          bad={about(save.error, 'template')}
          value={draft.template}
          onChange={(e) => set({ template: e.currentTarget.value })}
        />
      )}
      <label className="tick">
        <input type="checkbox" checked={draft.inSite} disabled={!may} onChange={(e) => set({ inSite: e.currentTarget.checked })} />{' '}
        {t('written.inSite')}
      </label>
      <p className="hint">
        {t('written.guarded')}: <GuardedBy guarding={section.guarding} />.{' '}
        <Link to={`/gates/new?covers=section:${section.key}`}>{t('written.gateSection')}</Link>
      </p>
      {may && (
        <footer className="bar">
          {section.pages === 0 && (
            <button type="button" className="btn" disabled={remove.isPending} onClick={() => remove.mutate()}>
              {t('written.removeSection')}
            </button>
          )}
          <button type="submit" className="btn prime" disabled={save.isPending}>
            {t('written.savePlace')}
          </button>
        </footer>
      )}
    </form>
  );
}
