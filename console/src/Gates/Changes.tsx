import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';

/** The last changes of one thing. */
export function Changes({ subject }: { subject: string }) {
  const { t } = useTranslation();
  const history = useQuery({
    queryKey: ['history', subject],
    queryFn: () => good(api.GET('/api/v1/history', { params: { query: { subject, limit: 20 } } })),
  });
  return (
    history.isSuccess &&
    history.data.items.length > 0 && (
      <details className="sheet">
        <summary>{t('history.of', { count: history.data.items.length })}</summary>
        <ChangeList entries={history.data.items} />
      </details>
    )
  );
}

/** Changes as a readable difference, newest first. */
export function ChangeList({ entries, withSubject }: { entries: Schemas['HistoryView'][]; withSubject?: boolean }) {
  const { t } = useTranslation();
  return (
    <ol className="changes">
      {entries.map((entry) => (
        <li key={entry.id}>
          <p>
            <b>{t(`history.actions.${entry.action.replace('.', '-')}`, entry.action)}</b> {withSubject && <code>{entry.subject}</code>}{' '}
            <span className="hint">
              {entry.by} · <time dateTime={entry.at}>{moment(entry.at)}</time>
            </span>
          </p>
          {entry.changes.length > 0 ? (
            <dl>
              {entry.changes.map((change) => (
                <div key={change.field}>
                  <dt>{t(`history.fields.${change.field}`, change.field)}</dt>
                  <dd>
                    {change.before === null ? <span className="hint">{t('history.nothing')}</span> : <del>{change.before}</del>} →{' '}
                    {change.after === null ? <span className="hint">{t('history.nothing')}</span> : <ins>{change.after}</ins>}
                  </dd>
                </div>
              ))}
            </dl>
          ) : (
            (entry.after ?? entry.before) && <p className="said">{entry.after ?? entry.before}</p>
          )}
        </li>
      ))}
    </ol>
  );
}
