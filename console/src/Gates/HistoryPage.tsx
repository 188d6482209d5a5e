import { useInfiniteQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { ChangeList } from './Changes';

const kinds = ['gate.', 'password.', 'item.', 'member.', 'settings.', 'redirect.', 'apply'] as const;

/** Who changed what, and when. */
export function HistoryPage() {
  const { t } = useTranslation();
  const [action, setAction] = useState('');
  const history = useInfiniteQuery({
    queryKey: ['history', 'all', action],
    queryFn: ({ pageParam }) =>
      good(
        api.GET('/api/v1/history', {
          params: { query: { limit: 50, ...(action ? { action } : {}), ...(pageParam ? { cursor: pageParam } : {}) } },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
  const entries = history.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <>
      <PageHead
        title={t('history.title')}
        lead={t('history.lead')}
        tools={
          <select className="field" aria-label={t('history.kind')} value={action} onChange={(e) => setAction(e.currentTarget.value)}>
            <option value="">{t('history.all')}</option>
            {kinds.map((kind) => (
              <option key={kind} value={kind}>
                {t(`history.kinds.${kind.replace('.', '')}`)}
              </option>
            ))}
          </select>
        }
      />
      {history.isPending && <Loading />}
      {history.isError && <Failed fault={history.error} again={() => void history.refetch()} />}
      {history.isSuccess && entries.length === 0 && <Empty title={t('history.empty')} lead={t('history.emptyLead')} />}
      {entries.length > 0 && (
        <section className="sheet">
          <ChangeList entries={entries} withSubject />
          {history.hasNextPage && (
            <button type="button" className="btn" onClick={() => void history.fetchNextPage()}>
              {t('catalogue.more')}
            </button>
          )}
        </section>
      )}
    </>
  );
}
