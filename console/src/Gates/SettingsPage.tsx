import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Failed, Loading, PageHead } from '../frame/Page';

type Settings = Schemas['SettingsView'];
const promptFields = ['heading', 'text', 'label', 'placeholder', 'button'] as const;

/** What is set once for the whole site. */
export function SettingsPage() {
  const { t } = useTranslation();
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => good(api.GET('/api/v1/settings')) });
  return (
    <>
      <PageHead title={t('settings.title')} lead={t('settings.lead')} />
      {settings.isPending && <Loading />}
      {settings.isError && <Failed fault={settings.error} again={() => void settings.refetch()} />}
      {settings.data && <SettingsForm key={settings.data.version} settings={settings.data} />}
    </>
  );
}

function SettingsForm({ settings }: { settings: Settings }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [saved, setSaved] = useState(false);
  const save = useMutation({
    mutationFn: (body: Schemas['SettingsDraft']) =>
      good(api.PUT('/api/v1/settings', { headers: { 'If-Match': `"${settings.version}"` }, body })),
    onSuccess: async () => {
      setSaved(true);
      await queries.invalidateQueries();
    },
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const said = new FormData(event.currentTarget);
    const text = (name: string) => String(said.get(name) ?? '').trim() || null;
    const list = (name: string) => (text(name) ?? '').split(',').flatMap((one) => (one.trim() ? [one.trim()] : []));
    const crawlers = (text('crawlers') ?? '').split('\n').flatMap((line) => {
      const colon = line.indexOf(':');
      const name = colon < 0 ? line : line.slice(0, colon);
      const parts = (colon < 0 ? '' : line.slice(colon + 1)).split(',').flatMap((one) => (one.trim() ? [one.trim()] : []));
      return name.trim()
        ? [{ name: name.trim(), hosts: parts.filter((one) => !one.includes('/')), ranges: parts.filter((one) => one.includes('/')) }]
        : [];
    });
    save.mutate({
      siteName: text('siteName'),
      staffPasses: said.get('staffPasses') === 'on',
      timeZone: text('timeZone'),
      paths: { ...settings.paths, indexNames: list('indexNames') },
      presence: text('presence'),
      prompt: {
        heading: text('heading'),
        text: text('text'),
        label: text('label'),
        placeholder: text('placeholder'),
        button: text('button'),
      },
      crawlers,
      sweep: { everyHours: Number(text('everyHours') ?? 0), as: list('sweepAs'), alertTo: text('alertTo') },
    });
  };
  const faults = save.error instanceof Refused ? save.error.faults : [];
  const bad = (field: string) => faults.find((fault) => fault.field === field)?.message;
  const field = (name: string, words: string, value: string, hint?: string, fault?: string, type = 'text', known?: string) => (
    <div>
      <label className="name" htmlFor={`set-${name}`}>
        {words}
      </label>
      <input
        id={`set-${name}`}
        name={name}
        className="field"
        type={type}
        list={known}
        defaultValue={value}
        aria-invalid={fault !== undefined}
        aria-describedby={hint ? `set-${name}-hint` : undefined}
      />
      {hint && (
        <p className="hint" id={`set-${name}-hint`}>
          {hint}
        </p>
      )}
      {fault && <p className="bad">{fault}</p>}
    </div>
  );
  const crawlersKnown = settings.crawlers
    .map((crawler) => `${crawler.name}: ${[...crawler.hosts, ...crawler.ranges].join(', ')}`)
    .join('\n');
  return (
    <form onSubmit={submit}>
      <section className="sheet">
        <h2>{t('settings.site')}</h2>
        <div className="more">
          {field('siteName', t('settings.siteName'), settings.siteName, undefined, bad('siteName'))}
          <div>
            <label className="name" htmlFor="set-presence">
              {t('settings.presence')}
            </label>
            <select id="set-presence" name="presence" className="field" defaultValue={settings.presence}>
              <option value="listed">{t('settings.listed')}</option>
              <option value="hidden">{t('settings.hidden')}</option>
            </select>
            <p className="hint">{t('settings.presenceHint')}</p>
          </div>
          <div>
            {field('timeZone', t('settings.timeZone'), settings.timeZone, t('settings.timeZoneHint'), bad('timeZone'), 'text', 'zones')}
            <datalist id="zones">
              {Intl.supportedValuesOf('timeZone').map((zone) => (
                <option key={zone} value={zone} />
              ))}
            </datalist>
          </div>
          {field(
            'indexNames',
            t('settings.indexNames'),
            settings.paths.indexNames?.join(', ') ?? '',
            t('settings.indexNamesHint'),
            bad('paths.indexNames'),
          )}
          <label className="wide">
            <input type="checkbox" name="staffPasses" defaultChecked={settings.staffPasses} /> {t('settings.staff')}
          </label>
        </div>
      </section>
      <section className="sheet">
        <h2>{t('settings.prompt')}</h2>
        <p className="hint">{t('settings.promptHint')}</p>
        <div className="more">
          {promptFields.map((name) => (
            <div key={name}>{field(name, t(`gate.prompts.${name}`), settings.prompt?.[name] ?? '', undefined, bad(`prompt.${name}`))}</div>
          ))}
        </div>
      </section>
      <section className="sheet">
        <h2>{t('settings.sweep')}</h2>
        <div className="more">
          {field(
            'everyHours',
            t('settings.everyHours'),
            String(settings.sweep.everyHours),
            t('settings.everyHoursHint'),
            bad('sweep.everyHours'),
            'number',
          )}
          {field('alertTo', t('settings.alertTo'), settings.sweep.alertTo ?? '', undefined, bad('sweep.alertTo'), 'email')}
          {field('sweepAs', t('settings.sweepAs'), settings.sweep.as?.join(', ') ?? '', t('settings.sweepAsHint'), bad('sweep.as'))}
        </div>
      </section>
      <section className="sheet">
        <h2>{t('settings.crawlers')}</h2>
        <label className="name" htmlFor="set-crawlers">
          {t('settings.crawlersLabel')}
        </label>
        <textarea
          id="set-crawlers"
          name="crawlers"
          className="field"
          rows={3}
          defaultValue={crawlersKnown}
          placeholder="searchbot: crawl.search.example, 192.0.2.0/24"
          aria-describedby="set-crawlers-hint"
        />
        <p className="hint" id="set-crawlers-hint">
          {t('settings.crawlersHint')}
        </p>
        {bad('crawlers') && <p className="bad">{bad('crawlers')}</p>}
      </section>
      {save.isError && (
        <p className="note" role="alert">
          {save.error.message}
        </p>
      )}
      <footer className="bar">
        <span role="status">{saved && !save.isError && t('gate.saved')}</span>
        <button type="submit" className="btn prime" disabled={save.isPending}>
          {t('settings.save')}
        </button>
      </footer>
    </form>
  );
}
