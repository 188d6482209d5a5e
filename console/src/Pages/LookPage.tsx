import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { Failed, Loading, PageHead } from '../frame/Page';
import { PagePreview } from '../People/forms/PagePreview';
import { MenuLinks } from '../People/MenuLinks';
import { useMay } from '../People/me';
import { asking, ChoosePage, useShownPages } from './Glance';

type Look = Schemas['SiteLook'];
const colours = ['accent', 'background', 'sky', 'night'] as const;
const themes = ['light', 'dark', 'auto'] as const;
const places = ['middle', 'start', 'end'] as const;
const types = ['serif', 'sans', 'device', 'site'] as const;

/** How the visitor's pages are dressed, beside the sign-in page in that dress. */
export function LookPage() {
  const { t } = useTranslation();
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => good(api.GET('/api/v1/settings')) });
  return (
    <>
      <PageHead kicker={<Link to="/pages">{t('pages.title')}</Link>} title={t('look.title')} lead={t('look.lead')} />
      {settings.isPending && <Loading />}
      {settings.isError && <Failed fault={settings.error} again={() => void settings.refetch()} />}
      {settings.data && <Editor key={settings.data.version} look={settings.data.look} version={settings.data.version} />}
      {settings.data && <Surround key={`in ${settings.data.version}`} settings={settings.data} />}
    </>
  );
}

/** Takes the look of a page of the site: shows what was found, and puts it in. */
function Take({ put }: { put: (look: Look) => void }) {
  const { t } = useTranslation();
  const [page, setPage] = useState('/');
  const take = useMutation({
    mutationFn: () => good(api.POST('/api/v1/settings/look/take', { body: { page } })),
    onSuccess: (found) => put(found.look),
  });
  const found = take.data;
  return (
    <div className="take">
      <Field
        id="take-page"
        label={t('look.takePage')}
        value={page}
        bad={
          take.error ? (take.error instanceof Refused ? (take.error.about('page') ?? take.error.message) : take.error.message) : undefined
        }
        onChange={(e) => setPage(e.currentTarget.value)}
      />
      <button type="button" className="btn" disabled={take.isPending} onClick={() => take.mutate()}>
        {t(take.isPending ? 'look.taking' : 'look.take')}
      </button>
      {found && (
        <div role="status">
          <p className="hint">
            {t(found.colours.length + found.typefaces.length > 0 || found.logo ? 'look.taken' : 'look.takenNothing', { page: found.page })}
          </p>
          <ul className="found">
            {found.colours.map((one) => (
              <li key={one.where}>
                <i style={{ background: one.colour }} /> {t(`look.where.${one.where}`)} <code>{one.colour}</code>
              </li>
            ))}
          </ul>
          {found.typefaces.length > 0 && <p className="hint">{t('look.typefaces', { names: found.typefaces.join(', ') })}</p>}
        </div>
      )}
    </div>
  );
}

/** The page of the site in which the service's pages stand. */
function Surround({ settings }: { settings: Schemas['SettingsView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState({ page: settings.frame?.page ?? '', element: settings.frame?.element ?? 'main' });
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/settings', {
          headers: { 'If-Match': `"${settings.version}"` },
          body: { frame: draft } as Schemas['SettingsDraft'],
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const changed = draft.page !== (settings.frame?.page ?? '') || draft.element !== (settings.frame?.element ?? 'main');
  return (
    <form
      className="sheet"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <h2>{t('look.frame')}</h2>
      {save.error && !refused?.faults.length && (
        <p className="note" role="alert">
          {save.error.message}
        </p>
      )}
      <Field
        id="frame-page"
        label={t('look.framePage')}
        hint={t('look.framePageHint')}
        placeholder="/"
        readOnly={!may}
        bad={refused?.about('frame.page')}
        value={draft.page}
        onChange={(e) => setDraft({ ...draft, page: e.currentTarget.value.trim() })}
      />
      <Field
        id="frame-element"
        label={t('look.frameElement')}
        hint={t('look.frameElementHint')}
        readOnly={!may}
        bad={refused?.about('frame.element')}
        value={draft.element}
        onChange={(e) => setDraft({ ...draft, element: e.currentTarget.value.trim() })}
      />
      {may && (
        <footer className="bar">
          <span role="status" />
          <button type="submit" className="btn prime" disabled={save.isPending || !changed}>
            {t('look.saveFrame')}
          </button>
        </footer>
      )}
    </form>
  );
}

function Editor({ look, version }: { look: Look; version: number }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState(look);
  const [which, setWhich] = useState('sign-in');
  const shown = useShownPages().find((page) => page.key === which)?.look;
  const save = useMutation({
    mutationFn: () =>
      good(api.PUT('/api/v1/settings', { headers: { 'If-Match': `"${version}"` }, body: { look: draft } as Schemas['SettingsDraft'] })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const set = (part: Partial<Look>) => {
    save.reset();
    setDraft({ ...draft, ...part });
  };
  return (
    <div className="template">
      <form
        className="sheet"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {save.error && !refused?.faults.length && (
          <p className="note" role="alert">
            {save.error.message}
          </p>
        )}
        {may && <Take put={(found) => set(found)} />}
        {colours.map((name) => (
          <Field
            key={name}
            id={`look-${name}`}
            label={t(`look.${name}`)}
            hint={t(`look.${name}Hint`)}
            bad={refused?.about(`look.${name}`)}
            value={draft[name] ?? ''}
            placeholder={name === 'sky' || name === 'night' ? t('look.none') : ''}
            pattern="#[0-9a-fA-F]{6}"
            maxLength={7}
            readOnly={!may}
            onChange={(e) => set({ [name]: e.currentTarget.value.trim() || (name === 'sky' || name === 'night' ? null : '') })}
            end={
              <input
                type="color"
                className="swatch"
                aria-label={t('look.pick', { what: t(`look.${name}`) })}
                value={/^#[0-9a-f]{6}$/i.test(draft[name] ?? '') ? (draft[name] ?? '') : draft.background}
                disabled={!may}
                onChange={(e) => set({ [name]: e.currentTarget.value })}
              />
            }
          />
        ))}
        <Field
          as="select"
          id="look-theme"
          label={t('look.theme')}
          value={draft.theme ?? 'light'}
          disabled={!may}
          onChange={(e) => set({ theme: e.currentTarget.value })}
        >
          {themes.map((one) => (
            <option key={one} value={one}>
              {t(`look.themes.${one}`)}
            </option>
          ))}
        </Field>
        <Field
          as="select"
          id="look-place"
          label={t('look.place')}
          value={draft.place ?? 'middle'}
          disabled={!may}
          onChange={(e) => set({ place: e.currentTarget.value })}
        >
          {places.map((one) => (
            <option key={one} value={one}>
              {t(`look.places.${one}`)}
            </option>
          ))}
        </Field>
        <Field
          as="select"
          id="look-type"
          label={t('look.type')}
          value={draft.type ?? 'serif'}
          disabled={!may}
          onChange={(e) => set({ type: e.currentTarget.value })}
        >
          {types.map((one) => (
            <option key={one} value={one}>
              {t(`look.types.${one}`)}
            </option>
          ))}
        </Field>
        {draft.type === 'site' && (
          <Field
            id="look-font"
            label={t('look.font')}
            hint={t('look.fontHint')}
            bad={refused?.about('look.font')}
            value={draft.font ?? ''}
            readOnly={!may}
            onChange={(e) => set({ font: e.currentTarget.value.trim() || null })}
          />
        )}
        <Field
          id="look-picture"
          label={t('look.picture')}
          hint={t('look.pictureHint')}
          bad={refused?.about('look.picture')}
          value={draft.picture ?? ''}
          readOnly={!may}
          onChange={(e) => set({ picture: e.currentTarget.value.trim() || null })}
        />
        <Field
          id="look-film"
          label={t('look.film')}
          hint={t('look.filmHint')}
          bad={refused?.about('look.film')}
          value={draft.film ?? ''}
          readOnly={!may}
          onChange={(e) => set({ film: e.currentTarget.value.trim() || null })}
        />
        <Field
          id="look-logo"
          label={t('look.logo')}
          hint={t('look.logoHint')}
          bad={refused?.about('look.logo')}
          value={draft.logo ?? ''}
          readOnly={!may}
          onChange={(e) => set({ logo: e.currentTarget.value.trim() || null })}
        />
        <Field
          as="textarea"
          id="look-css"
          label={t('look.css')}
          hint={t('look.cssHint')}
          bad={refused?.about('look.css')}
          rows={6}
          spellCheck={false}
          value={draft.css ?? ''}
          readOnly={!may}
          onChange={(e) => set({ css: e.currentTarget.value || null })}
        />
        <Field
          as="textarea"
          id="look-hosted-css"
          label={t('look.hostedCss')}
          hint={t('look.hostedCssHint')}
          bad={refused?.about('look.hostedCss')}
          rows={6}
          spellCheck={false}
          value={draft.hostedCss ?? ''}
          readOnly={!may}
          onChange={(e) => set({ hostedCss: e.currentTarget.value || null })}
        />
        <MenuLinks title={t('look.links')} field="look.links" links={draft.links ?? []} refused={refused} set={(links) => set({ links })} />
        {may && (
          <footer className="bar">
            <span role="status">{save.isSuccess && draft === look ? t('gate.saved') : ''}</span>
            <button type="submit" className="btn prime" disabled={save.isPending || draft === look}>
              {t('look.save')}
            </button>
          </footer>
        )}
      </form>
      <PagePreview
        name="look"
        draft={JSON.stringify(draft)}
        ask={(json) => api.POST('/api/v1/settings/look/preview', { body: JSON.parse(json) as Look })}
        title={t('look.preview')}
        hint={t('look.previewHint')}
        above={<ChoosePage value={which} set={setWhich} />}
        at={(address) => (shown ? asking(shown, address.split('?')[1] ?? '') : address)}
      />
    </div>
  );
}
