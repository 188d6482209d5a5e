import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { Empty, Failed, Loading } from '../frame/Page';
import { useMay } from '../People/me';
import { GuardedBy } from './Guarding';

type Section = Schemas['SectionView'];
type Page = Schemas['HostedPageView'];

/** The pages that the owner writes here, by section. */
export function WrittenPages() {
  const { t } = useTranslation();
  const may = useMay('write');
  const [asking, ask] = useState<'section' | Section>();
  const sections = useQuery({ queryKey: ['sections'], queryFn: () => good(api.GET('/api/v1/sections')) });
  const pages = useQuery({
    queryKey: ['hosted-pages'],
    queryFn: () => good(api.GET('/api/v1/pages', { params: { query: { limit: 1000 } } })),
  });
  const fault = sections.error ?? pages.error;
  if (fault) {
    return <Failed fault={fault} again={() => void Promise.all([sections.refetch(), pages.refetch()])} />;
  }

  if (!sections.data || !pages.data) {
    return <Loading lines={3} />;
  }

  return (
    <section className="written">
      <div className="section-head">
        <div>
          <h2>{t('written.title')}</h2>
          <p className="hint">{t('written.lead')}</p>
        </div>
        {may && (
          <button type="button" className="btn" onClick={() => ask('section')}>
            {t('written.newSection')}
          </button>
        )}
      </div>
      {sections.data.items.length === 0 && <Empty title={t('written.noneTitle')} lead={t('written.none')} />}
      {sections.data.items.map((section) => (
        <SectionSheet
          key={section.key}
          section={section}
          pages={pages.data.items.filter((page) => page.section === section.key)}
          write={may ? () => ask(section) : undefined}
        />
      ))}
      {asking === 'section' && <NewSection close={() => ask(undefined)} />}
      {asking && asking !== 'section' && <NewPage section={asking} close={() => ask(undefined)} />}
    </section>
  );
}

function SectionSheet({ section, pages, write }: { section: Section; pages: Page[]; write?: (() => void) | undefined }) {
  const { t } = useTranslation();
  return (
    <div className="sheet scroll">
      <div className="section-head">
        <div>
          <h3>
            <Link to={`/pages/sections/${section.key}`}>{section.title}</Link>
          </h3>
          <p className="hint">
            <code>{section.address ?? '–'}</code> · <GuardedBy guarding={section.guarding} />
          </p>
        </div>
        {write && (
          <button type="button" className="btn" onClick={write}>
            {t('written.newPage')}
          </button>
        )}
      </div>
      {pages.length === 0 ? (
        <p className="hint">{t('written.noPages')}</p>
      ) : (
        <table className="plain">
          <thead>
            <tr>
              <th>{t('written.page')}</th>
              <th>{t('pages.stands')}</th>
              <th>{t('written.state')}</th>
              <th>{t('written.guarded')}</th>
            </tr>
          </thead>
          <tbody>
            {pages.map((page) => (
              <tr key={page.key}>
                <td>
                  <Link to={`/pages/written/${page.key}`}>
                    <b>{page.title}</b>
                  </Link>
                </td>
                <td>
                  <code>{page.address ?? '–'}</code>
                </td>
                <td>
                  <PageState page={page} />
                </td>
                <td>{page.guarding.kind === 'inherits' ? t('written.asSection') : <GuardedBy guarding={page.guarding} />}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** What is served of a page, what will be, and whether something is being written. */
export function PageState({ page }: { page: Page }) {
  const { t } = useTranslation();
  return (
    <>
      {page.state === 'published' && <span className="state">{t('written.states.published')}</span>}
      {page.state === 'draft' && <span className="state off">{t('written.states.draft')}</span>}
      {page.nextAt && <span className="state exempt">{t('written.states.scheduled', { at: moment(page.nextAt) })}</span>}
      {page.state === 'published' && page.draft > 0 && <span className="state exempt">{t('written.states.changed')}</span>}
    </>
  );
}

function NewSection({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({ title: '', address: '' });
  const key = keyOf(draft.title);
  const add = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/sections/{key}', {
          params: { path: { key } },
          headers: { 'If-Match': '"0"' },
          body: { title: draft.title, address: draft.address || `/${key}` },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  return (
    <Dialog title={t('written.newSection')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        <Fault error={add.error} />
        <Field
          id="section-title"
          label={t('written.sectionTitle')}
          required
          maxLength={300}
          bad={about(add.error, 'title', 'key')}
          value={draft.title}
          onChange={(e) => setDraft({ ...draft, title: e.currentTarget.value })}
        />
        <Field
          id="section-address"
          label={t('written.address')}
          hint={t('written.sectionAddressHint')}
          placeholder={key ? `/${key}` : '/handbook'}
          bad={about(add.error, 'address')}
          value={draft.address}
          onChange={(e) => setDraft({ ...draft, address: e.currentTarget.value })}
        />
        <DialogBar go={t('written.makeSection')} disabled={add.isPending || !key} close={close} />
      </form>
    </Dialog>
  );
}

function NewPage({ section, close }: { section: Section; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [title, setTitle] = useState('');
  const add = useMutation({
    mutationFn: () => good(api.POST('/api/v1/pages', { body: { section: section.key, title, text: '' } })),
    onSuccess: async (page) => {
      await queries.invalidateQueries();
      void navigate(`/pages/written/${page.key}`);
    },
  });
  return (
    <Dialog title={t('written.newPageIn', { section: section.title })} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        <Fault error={add.error} />
        <Field
          id="page-title"
          label={t('written.pageTitle')}
          required
          maxLength={300}
          bad={about(add.error, 'title', 'key', 'address')}
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
        />
        <DialogBar go={t('written.makePage')} disabled={add.isPending || title.trim() === ''} close={close} />
      </form>
    </Dialog>
  );
}

/** What is wrong as a whole, where it is said beside no field. */
export function Fault({ error }: { error: Error | null }) {
  return error && !(error instanceof Refused && error.faults.length > 0) ? (
    <p className="note" role="alert">
      {error.message}
    </p>
  ) : null;
}

/** What is wrong with one of some fields. */
export const about = (error: Error | null, ...fields: string[]) =>
  error instanceof Refused ? fields.map((field) => error.about(field)).find(Boolean) : undefined;

/** A name made of a title, as the service makes one. */
export const keyOf = (title: string) =>
  title
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60);
