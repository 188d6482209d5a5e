import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { Failed, Loading, PageHead } from '../frame/Page';

type Settings = Schemas['SettingsView'];
const promptFields = ['heading', 'text', 'label', 'placeholder', 'button'] as const;

/** What is set once for the whole site. */
export function SettingsPage() {
  const { t } = useTranslation();
  const [saved, setSaved] = useState<number>();
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => good(api.GET('/api/v1/settings')) });
  return (
    <>
      <PageHead title={t('settings.title')} lead={t('settings.lead')} />
      {settings.isPending && <Loading />}
      {settings.isError && <Failed fault={settings.error} again={() => void settings.refetch()} />}
      {settings.data && (
        <SettingsForm key={settings.data.version} settings={settings.data} saved={saved === settings.data.version} told={setSaved} />
      )}
    </>
  );
}

/** It is made anew with each version: whether that was just saved is known outside. */
function SettingsForm({ settings, saved, told }: { settings: Settings; saved: boolean; told: (version: number) => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: (body: Schemas['SettingsDraft']) =>
      good(api.PUT('/api/v1/settings', { headers: { 'If-Match': `"${settings.version}"` }, body })),
    onSuccess: async (stored) => {
      told(stored.version);
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
      language: text('language'),
      paths: { ...settings.paths, indexNames: list('indexNames') },
      presence: text('presence'),
      hiddenWords: text('hiddenWords'),
      originLearns: said.getAll('originLearns').map(String),
      prompt: {
        heading: text('heading'),
        text: text('text'),
        label: text('label'),
        placeholder: text('placeholder'),
        button: text('button'),
      },
      crawlers,
      sweep: { everyHours: Number(text('everyHours') ?? 0), as: list('sweepAs'), alertTo: text('alertTo') },
      letters: {
        signIn: said.get('signInByLetter') === 'on',
        codes: said.get('codes') === 'on',
        noticesTo: text('noticesTo'),
        hold: settings.letters.hold,
      },
      joining: {
        way: text('joinWay') ?? 'closed',
        confirm: said.get('joinConfirm') === 'on',
        first: said.get('joinFirst') === 'on',
        blocked: (text('blocked') ?? '').split(/[\s,;]+/).filter(Boolean),
        trusted: (text('trusted') ?? '').split(/[\s,;]+/).filter(Boolean),
      },
    });
  };
  const faults = save.error instanceof Refused ? save.error.faults : [];
  const bad = (field: string) => faults.find((fault) => fault.field === field)?.message;
  const crawlersKnown = settings.crawlers
    .map((crawler) => `${crawler.name}: ${[...crawler.hosts, ...crawler.ranges].join(', ')}`)
    .join('\n');
  return (
    <form onSubmit={submit}>
      <section className="sheet">
        <h2>{t('settings.site')}</h2>
        <div className="more">
          <Field id="set-siteName" name="siteName" label={t('settings.siteName')} defaultValue={settings.siteName} bad={bad('siteName')} />
          <Field
            as="select"
            id="set-presence"
            name="presence"
            label={t('settings.presence')}
            hint={t('settings.presenceHint')}
            defaultValue={settings.presence}
            bad={bad('presence')}
          >
            <option value="listed">{t('settings.listed')}</option>
            <option value="hidden">{t('settings.hidden')}</option>
          </Field>
          <Field
            as="select"
            id="set-hiddenWords"
            name="hiddenWords"
            label={t('settings.hiddenWords.title')}
            hint={t('settings.hiddenWords.hint')}
            defaultValue={settings.hiddenWords}
            bad={bad('hiddenWords')}
          >
            {(['kept', 'marked', 'left-out'] as const).map((one) => (
              <option key={one} value={one}>
                {t(`settings.hiddenWords.${one}`)}
              </option>
            ))}
          </Field>
          <fieldset className="bare wide learns">
            <legend className="name">{t('settings.learns.title')}</legend>
            <small>{t('settings.learns.hint')}</small>
            {(['member', 'roles', 'groups', 'plans', 'gates', 'token'] as const).map((one) => (
              <label key={one}>
                <input type="checkbox" name="originLearns" value={one} defaultChecked={settings.originLearns?.includes(one) ?? false} />{' '}
                {t(`settings.learns.${one}`)}
              </label>
            ))}
          </fieldset>
          <div>
            <Field
              id="set-timeZone"
              name="timeZone"
              label={t('settings.timeZone')}
              hint={t('settings.timeZoneHint')}
              list="zones"
              defaultValue={settings.timeZone}
              bad={bad('timeZone')}
            />
            <datalist id="zones">
              {Intl.supportedValuesOf('timeZone').map((zone) => (
                <option key={zone} value={zone} />
              ))}
            </datalist>
          </div>
          <Field
            id="set-language"
            name="language"
            label={t('settings.language')}
            hint={t('settings.languageHint')}
            defaultValue={settings.language}
            bad={bad('language')}
          />
          <Field
            id="set-indexNames"
            name="indexNames"
            label={t('settings.indexNames')}
            hint={t('settings.indexNamesHint')}
            defaultValue={settings.paths.indexNames?.join(', ')}
            bad={bad('paths.indexNames')}
          />
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
            <Field
              key={name}
              id={`set-${name}`}
              name={name}
              label={t(`gate.prompts.${name}`)}
              defaultValue={settings.prompt?.[name] ?? ''}
              bad={bad(`prompt.${name}`)}
            />
          ))}
        </div>
      </section>
      <section className="sheet">
        <h2>{t('settings.sweep')}</h2>
        <div className="more">
          <Field
            id="set-everyHours"
            name="everyHours"
            type="number"
            label={t('settings.everyHours')}
            hint={t('settings.everyHoursHint')}
            defaultValue={settings.sweep.everyHours}
            bad={bad('sweep.everyHours')}
          />
          <Field
            id="set-alertTo"
            name="alertTo"
            type="email"
            label={t('settings.alertTo')}
            defaultValue={settings.sweep.alertTo ?? ''}
            bad={bad('sweep.alertTo')}
          />
          <Field
            id="set-sweepAs"
            name="sweepAs"
            label={t('settings.sweepAs')}
            hint={t('settings.sweepAsHint')}
            defaultValue={settings.sweep.as?.join(', ')}
            bad={bad('sweep.as')}
          />
        </div>
      </section>
      <section className="sheet">
        <h2>{t('settings.letters')}</h2>
        <div className="more">
          <Field
            id="set-noticesTo"
            name="noticesTo"
            type="email"
            label={t('settings.noticesTo')}
            hint={t('settings.noticesToHint')}
            defaultValue={settings.letters.noticesTo ?? ''}
            bad={bad('letters.noticesTo')}
          />
          <label className="wide">
            <input type="checkbox" name="signInByLetter" defaultChecked={settings.letters.signIn} /> {t('settings.signInByLetter')}
          </label>
          <label className="wide">
            <input type="checkbox" name="codes" defaultChecked={settings.letters.codes} /> {t('settings.codes')}
          </label>
        </div>
      </section>
      <section className="sheet">
        <h2>{t('settings.joining')}</h2>
        <div className="more">
          <label className="wide">
            <b>{t('settings.joinWay')}</b>
            <select className="field" name="joinWay" defaultValue={settings.joining.way}>
              {['closed', 'invitation', 'approval', 'open'].map((way) => (
                <option key={way} value={way}>
                  {t(`settings.joinWays.${way}`)}
                </option>
              ))}
            </select>
          </label>
          <label className="wide">
            <input type="checkbox" name="joinConfirm" defaultChecked={settings.joining.confirm} /> {t('settings.joinConfirm')}
          </label>
          <label className="wide">
            <input type="checkbox" name="joinFirst" defaultChecked={settings.joining.first ?? false} /> {t('settings.joinFirst')}
          </label>
          {(['trusted', 'blocked'] as const).map((name) => (
            <Field
              key={name}
              as="textarea"
              id={`set-${name}`}
              name={name}
              rows={2}
              label={t(`settings.${name}`)}
              hint={t(`settings.${name}Hint`)}
              placeholder="school.example"
              defaultValue={(settings.joining[name] ?? []).join('\n')}
              bad={bad(`joining.${name}`)}
            />
          ))}
        </div>
      </section>
      <section className="sheet">
        <h2>{t('settings.crawlers')}</h2>
        <Field
          as="textarea"
          id="set-crawlers"
          name="crawlers"
          rows={3}
          label={t('settings.crawlersLabel')}
          hint={t('settings.crawlersHint')}
          placeholder="searchbot: crawl.search.example, 192.0.2.0/24"
          defaultValue={crawlersKnown}
          bad={bad('crawlers')}
        />
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
