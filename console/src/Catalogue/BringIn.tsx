import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { lines } from '../api/lines';
import { Field } from '../frame/Field';

type Result = Schemas['DiscoverResult'];
type Line = { stage: string; done: number; total: number; result?: Result; detail?: string };
const sources = ['walk', 'sitemap', 'feed', 'log'] as const;
type Source = (typeof sources)[number];

/** Where the log of a web server goes, with what is said beside it. */
const logPath = (map: string[], least: string) =>
  `items/discover/file?${new URLSearchParams([['source', 'log'], ...map.map((one) => ['map', one]), ...(least ? [['least', least]] : [])])}`;

/** Lets the catalogue come in from the site itself: shows what would change before anything is stored. */
export function BringIn({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [line, setLine] = useState<Line | null>(null);
  const [result, setResult] = useState<Result | null>(null);
  const [source, setSource] = useState<Source>('walk');
  const [sameAs, setSameAs] = useState('');
  const [log, setLog] = useState<File>();
  const look = useMutation({
    mutationFn: async ({ path, asked }: { path: string; asked: unknown }) => {
      setResult(null);
      const last = await lines<Line>(path, asked, setLine, 'text/plain');
      if (!last.result) {
        throw new Error(last.detail);
      }

      setResult(last.result);
    },
    onSettled: () => setLine(null),
  });
  const store = useMutation({
    mutationFn: (find: string) => good(api.POST('/api/v1/items/discover/{find}/store', { params: { path: { find } } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const said = new FormData(event.currentTarget);
    const map = String(said.get('map') ?? '')
      .split(',')
      .flatMap((one) => (one.trim() ? [one.trim()] : []));
    if (source === 'log') {
      look.mutate({ path: logPath(map, String(said.get('least') ?? '').trim()), asked: log });
      return;
    }

    look.mutate({
      path: 'items/discover',
      asked: {
        source,
        url: String(said.get('url') ?? '').trim() || null,
        map,
        pages: said.get('pages') === 'on',
        ...(sameAs.trim() ? { sameAs: [sameAs.trim()] } : {}),
      },
    });
  };
  const fault = look.error ?? store.error;
  const nothing = result !== null && result.result.added + result.result.changed === 0;
  return (
    <section className="sheet" aria-label={t('bring.title')}>
      <h2>{t('bring.title')}</h2>
      <p className="hint">{t('bring.lead')}</p>
      <form onSubmit={submit}>
        <div className="more">
          <Field
            as="select"
            id="bring-source"
            label={t('bring.source')}
            value={source}
            onChange={(e) => setSource(e.currentTarget.value as Source)}
          >
            {sources.map((one) => (
              <option key={one} value={one}>
                {t(`bring.${one}`)}
              </option>
            ))}
          </Field>
          {source === 'log' ? (
            <>
              <Field id="bring-file" type="file" label={t('bring.file')} onChange={(e) => setLog(e.currentTarget.files?.[0])} />
              <Field id="bring-least" name="least" type="number" min={1} label={t('bring.least')} placeholder="2" />
            </>
          ) : (
            <Field id="bring-url" name="url" type="url" label={t('bring.url')} placeholder={t('bring.urlHint')} />
          )}
          <Field id="bring-map" name="map" label={t('bring.map')} placeholder="/product/*=product, /shop/*=category" />
          {source === 'sitemap' && (
            <Field
              id="bring-same"
              label={t('bring.sameAs')}
              placeholder={t('bring.sameAsHint')}
              value={sameAs}
              onChange={(e) => setSameAs(e.currentTarget.value)}
            />
          )}
          {source === 'walk' && (
            <label className="wide">
              <input type="checkbox" name="pages" /> {t('bring.pages')}
            </label>
          )}
        </div>
        <p className="go">
          <button type="submit" className="btn prime" disabled={look.isPending || (source === 'log' && !log)}>
            {t(look.isPending ? 'bring.looking' : 'bring.look')}
          </button>
          <button type="button" className="btn" onClick={close}>
            {t('catalogue.cancel')}
          </button>
          {line && (
            <>
              <progress max={Math.max(1, line.total)} value={line.done} aria-label={t('bring.looking')} />
              <span role="status">{t('bring.progress', { done: line.done, total: line.total })}</span>
            </>
          )}
        </p>
      </form>
      {fault && (
        <p className="bad" role="alert">
          {fault.message}
        </p>
      )}
      {result && (
        <div aria-live="polite">
          <p>
            <b>
              {t('bring.found', {
                found: result.found,
                added: result.result.added,
                changed: result.result.changed,
                same: result.result.same,
              })}
            </b>{' '}
            {!result.whole && t('bring.part')}
          </p>
          {(result.lines ?? 0) > 0 && <p className="hint">{t('bring.logRead', { lines: result.lines, requests: result.requests })}</p>}
          {result.elsewhere?.map((host) => (
            <p className="note" key={host.host}>
              {t('bring.elsewhere', { count: host.addresses, host: host.host })}{' '}
              <button type="button" className="link" onClick={() => setSameAs(host.host)}>
                {t('bring.sameAs')} {host.host}
              </button>
            </p>
          ))}
          {(result.asked?.length ?? 0) > 0 && (
            <ul className="difference">
              {result.asked?.slice(0, 20).map((one) => (
                <li key={one.address}>
                  <code>{one.address}</code> {t('bring.asked', { count: one.times })}
                </li>
              ))}
            </ul>
          )}
          <ul className="difference">
            {result.changes.slice(0, 100).map((change) => (
              <li key={change.key} className={change.what}>
                <code>{change.key}</code> {t(`bring.whats.${change.what}`)}
                {change.changes.map((one) => (
                  <div key={one.field} className="hint">
                    {one.field}: {one.before ?? '–'} → {one.after ?? '–'}
                  </div>
                ))}
              </li>
            ))}
          </ul>
          {result.vanished.length > 0 && (
            <p className="hint">
              {t('bring.vanished', { count: result.vanished.length })}: {result.vanished.map((item) => item.title).join(', ')}
            </p>
          )}
          {!nothing && (
            <button type="button" className="btn prime" disabled={store.isPending} onClick={() => store.mutate(result.find)}>
              {t('bring.store')}
            </button>
          )}
        </div>
      )}
    </section>
  );
}
