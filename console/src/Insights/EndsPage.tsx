import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { lastDay } from '../frame/dates';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';

const spans = ['7', '31', '92', '366'] as const;
type End = Schemas['EndView'];

/** A calendar of ends: who lapses when, day by day. What is followed by more is not among it. */
export function EndsPage() {
  const { t } = useTranslation();
  const [days, setDays] = useState<string>('31');
  const ends = useQuery({
    queryKey: ['ends', days],
    queryFn: () => good(api.GET('/api/v1/ends', { params: { query: { days: Number(days), limit: 1000 } } })),
  });
  const all = ends.data?.ends ?? [];
  const byDay = new Map<string, End[]>();
  for (const end of all) {
    const on = lastDay(end.until);
    byDay.set(on, [...(byDay.get(on) ?? []), end]);
  }

  const csv = ['until,name,what,member', ...all.map((e) => [e.until, e.name, e.title, e.member].map(quoted).join(','))].join('\r\n');
  return (
    <>
      <PageHead
        title={t('ends.title')}
        lead={t('ends.lead')}
        tools={
          <>
            <select className="field" aria-label={t('ends.days')} value={days} onChange={(e) => setDays(e.currentTarget.value)}>
              {spans.map((span) => (
                <option key={span} value={span}>
                  {t(`ends.within_${span}`)}
                </option>
              ))}
            </select>
            {all.length > 0 && (
              <a className="btn" download="ends.csv" href={`data:text/csv;charset=utf-8,${encodeURIComponent(csv)}`}>
                {t('ends.file')}
              </a>
            )}
          </>
        }
      />
      {ends.isPending && <Loading />}
      {ends.isError && <Failed fault={ends.error} again={() => void ends.refetch()} />}
      {ends.isSuccess && all.length === 0 && <Empty title={t('ends.empty')} lead={t('ends.emptyLead')} />}
      {ends.isSuccess && all.length > 0 && (
        <p className="hint">
          {t('ends.inAll', { count: ends.data.inAll })} {ends.data.inAll > all.length && t('ends.first', { count: all.length })}
        </p>
      )}
      <ol className="ends">
        {[...byDay].map(([on, those]) => (
          <li key={on}>
            <h2>{on}</h2>
            <ul className="bought">
              {those.map((end) => (
                <li key={`${end.member} ${end.fact} ${end.until}`}>
                  <Link to={`/members/${end.member}`}>{end.name}</Link> <span>{end.title}</span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ol>
    </>
  );
}

/** A field of a CSV file (RFC 4180); one that begins as a formula would is kept from being one. */
const quoted = (text: string) => `"${text.replace(/^[=+\-@\t]/, "'$&").replaceAll('"', '""')}"`;
