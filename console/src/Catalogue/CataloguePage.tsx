import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useRef, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good } from '../api/client';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { AddItem } from './AddItem';
import { BringIn } from './BringIn';
import { type ImportOutcome, importFile } from './importFile';
import { RemoveItem } from './RemoveItem';

const kinds = ['section', 'page', 'category', 'tag', 'product', 'download', 'show', 'episode'];

/** Everything that can be guarded. */
export function CataloguePage() {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState('');
  const [kind, setKind] = useState('');
  const [adding, setAdding] = useState(false);
  const [bringing, setBringing] = useState(false);
  const [going, setGoing] = useState<{ id: string; version: number } | null>(null);
  const [outcome, setOutcome] = useState<ImportOutcome | 'busy' | null>(null);
  const search = useDeferredValue(typed.trim());
  const items = useInfiniteQuery({
    queryKey: ['items', search, kind],
    queryFn: ({ pageParam }) =>
      good(
        api.GET('/api/v1/items', {
          params: {
            query: { limit: 100, ...(search ? { search } : {}), ...(kind ? { kind } : {}), ...(pageParam ? { cursor: pageParam } : {}) },
          },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    placeholderData: (old) => old,
  });
  const take = async (chosen: File | undefined) => {
    if (chosen) {
      setOutcome('busy');
      setOutcome(await importFile(chosen));
      await queries.invalidateQueries();
    }
  };
  const rows = items.data?.pages.flatMap((page) => page.items) ?? [];
  const isBare = !search && !kind && rows.every((row) => row.id === 'site');
  return (
    <>
      <PageHead
        title={t('catalogue.title')}
        lead={t('catalogue.lead')}
        tools={
          <>
            <Link className="btn" to="/entries">
              {t('catalogue.entries')}
            </Link>
            <input
              className="field"
              type="search"
              placeholder={t('catalogue.find')}
              aria-label={t('catalogue.find')}
              value={typed}
              onChange={(e) => setTyped(e.currentTarget.value)}
            />
            <select
              className="field"
              style={{ width: 130 }}
              aria-label={t('catalogue.kind')}
              value={kind}
              onChange={(e) => setKind(e.currentTarget.value)}
            >
              <option value="">{t('catalogue.all')}</option>
              {kinds.map((k) => (
                <option key={k}>{k}</option>
              ))}
            </select>
            <input ref={file} type="file" accept=".csv,.yaml,.yml" hidden onChange={(e) => void take(e.currentTarget.files?.[0])} />
            <May scope="write">
              <button type="button" className="btn" title={t('catalogue.importHint')} onClick={() => file.current?.click()}>
                {t('catalogue.import')}
              </button>
              <button type="button" className="btn" onClick={() => setBringing(true)}>
                {t('bring.open')}
              </button>
              <button type="button" className="btn prime" onClick={() => setAdding(true)}>
                {t('catalogue.add')}
              </button>
            </May>
          </>
        }
      />
      {outcome && <ImportNote outcome={outcome} />}
      {bringing && <BringIn close={() => setBringing(false)} />}
      {adding && <AddItem close={() => setAdding(false)} />}
      {going && <RemoveItem id={going.id} version={going.version} close={() => setGoing(null)} />}
      {items.isPending && <Loading />}
      {items.isError && <Failed fault={items.error} again={() => void items.refetch()} />}
      {items.isSuccess && isBare && <Empty title={t('catalogue.empty')} lead={t('catalogue.emptyLead')} />}
      {items.isSuccess && !isBare && (
        <section className="sheet scrollx">
          {rows.length === 0 && <p className="hint">{t('catalogue.nothing')}</p>}
          {rows.length > 0 && (
            <table className="plain">
              <thead>
                <tr>
                  <th scope="col">{t('catalogue.item')}</th>
                  <th scope="col">{t('catalogue.kind')}</th>
                  <th scope="col">{t('catalogue.parents')}</th>
                  <th scope="col">{t('catalogue.addresses')}</th>
                  <th scope="col">
                    <span className="sr">{t('remove.title')}</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {rows.map((item) => (
                  <tr key={item.id}>
                    <td>
                      {item.title} <br />
                      <code>{item.id}</code>
                    </td>
                    <td>{item.kind}</td>
                    <td>{item.parents.length > 0 ? item.parents.join(', ') : item.id === 'site' ? '' : t('catalogue.site')}</td>
                    <td>
                      <code>{item.addresses.join(' ')}</code>
                    </td>
                    <td>
                      {item.id !== 'site' && (
                        <button
                          type="button"
                          className="btn"
                          aria-label={t('remove.which', { title: item.title })}
                          onClick={() => setGoing({ id: item.id, version: item.version })}
                        >
                          {t('remove.button')}
                        </button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {items.hasNextPage && (
            <button type="button" className="btn" onClick={() => void items.fetchNextPage()}>
              {t('catalogue.more')}
            </button>
          )}
        </section>
      )}
    </>
  );
}

function ImportNote({ outcome }: { outcome: ImportOutcome | 'busy' }) {
  const { t } = useTranslation();
  if (outcome === 'busy') {
    return <p role="status">{t('catalogue.reading')}</p>;
  }

  if (outcome.stored || outcome.faults.length === 0) {
    return (
      <p role="status">{outcome.detail ?? t('catalogue.done', { added: outcome.added, changed: outcome.changed, same: outcome.same })}</p>
    );
  }

  return (
    <div className="note" role="alert">
      <b>{outcome.detail ?? t('catalogue.bad', { count: Math.max(1, outcome.faultyRows) })}</b>
      {outcome.faults.slice(0, 12).map((fault) => (
        <p key={`${fault.line}-${fault.column}-${fault.message}`} className="bad">
          {fault.line ? `${t('catalogue.place', { line: fault.line, column: fault.column ?? 1 })}: ` : ''}
          {fault.message}
        </p>
      ))}
    </div>
  );
}
