import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { lines } from '../api/lines';
import { Field } from '../frame/Field';

type Result = Schemas['DiscoverResult'];
type Line = { stage: string; done: number; total: number; result?: Result; detail?: string };
const sources = ['walk', 'sitemap', 'feed'] as const;

/** Lets the catalogue come in from the site itself: shows what would change before anything is stored. */
export function BringIn({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [line, setLine] = useState<Line | null>(null);
  const [result, setResult] = useState<Result | null>(null);
  const look = useMutation({
    mutationFn: async (asked: Record<string, unknown>) => {
      setResult(null);
      const last = await lines<Line>('items/discover', asked, setLine);
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
    const map = String(said.get('map') ?? '').split(',');
    look.mutate({
      source: said.get('source'),
      url: String(said.get('url') ?? '').trim() || null,
      map: map.flatMap((one) => (one.trim() ? [one.trim()] : [])),
      pages: said.get('pages') === 'on',
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
          <Field as="select" id="bring-source" name="source" label={t('bring.source')}>
            {sources.map((source) => (
              <option key={source} value={source}>
                {t(`bring.${source}`)}
              </option>
            ))}
          </Field>
          <Field id="bring-url" name="url" type="url" label={t('bring.url')} placeholder={t('bring.urlHint')} />
          <Field id="bring-map" name="map" label={t('bring.map')} placeholder="/product/*=product, /shop/*=category" />
          <label className="wide">
            <input type="checkbox" name="pages" /> {t('bring.pages')}
          </label>
        </div>
        <p className="go">
          <button type="submit" className="btn prime" disabled={look.isPending}>
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
