import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { reader } from '../words/i18n';

const Curves = lazy(() => import('../Insights/Curves').then((page) => ({ default: page.Curves })));
type Row = Schemas['OrderFiguresRow'];
const spans = ['12', 'year', 'last', 'all'] as const;
type Span = (typeof spans)[number];
const mostCurves = 5;

const monthOf = (date: Date) => `${date.getFullYear()}-${`${date.getMonth() + 1}`.padStart(2, '0')}`;

/** The months of a span: the last twelve, this year, the one before, or all there are. */
export function monthsOf(span: Span, now: Date): { from?: string; until?: string } {
  const year = now.getFullYear();
  switch (span) {
    case '12':
      return { from: monthOf(new Date(year, now.getMonth() - 11, 1)) };
    case 'year':
      return { from: `${year}-01` };
    case 'last':
      return { from: `${year - 1}-01`, until: `${year - 1}-12` };
    default:
      return {};
  }
}

/** Rows of one thing and currency added up, the largest first. Amounts stay exact: they are added in the smallest unit of the currency. */
export function addedUp(rows: Row[]): (Row & { net: number })[] {
  const sums = new Map<string, Row & { net: number }>();
  for (const row of rows) {
    const key = `${row.what} ${row.currency ?? ''}`;
    const there = sums.get(key);
    const net = unitsOf(row.salesAmount) + unitsOf(row.renewalsAmount) - unitsOf(row.refundsAmount);
    sums.set(
      key,
      there
        ? {
            ...there,
            sales: Number(there.sales) + Number(row.sales),
            renewals: Number(there.renewals) + Number(row.renewals),
            refunds: Number(there.refunds) + Number(row.refunds),
            lapses: Number(there.lapses) + Number(row.lapses),
            salesAmount: plus(there.salesAmount, row.salesAmount),
            renewalsAmount: plus(there.renewalsAmount, row.renewalsAmount),
            refundsAmount: plus(there.refundsAmount, row.refundsAmount),
            net: there.net + net,
          }
        : { ...row, net },
    );
  }

  return [...sums.values()].sort((a, b) => b.net - a.net || a.title.localeCompare(b.title));
}

/** An amount in decimals, in its smallest unit. */
const unitsOf = (amount: string | null) => Number((amount ?? '0').replace('.', ''));

function plus(one: string | null, other: string | null): string | null {
  const decimals = (one ?? other ?? '').split('.')[1]?.length ?? 0;
  const sum = `${unitsOf(one) + unitsOf(other)}`.padStart(decimals + 1, '0');
  return one === null && other === null ? null : decimals ? `${sum.slice(0, -decimals)}.${sum.slice(-decimals)}` : sum;
}

/** An amount as readers of the page's language write it. */
const said = (amount: string | null, currency: string | null) =>
  amount === null || !currency ? '' : new Intl.NumberFormat(reader(), { style: 'currency', currency }).format(Number(amount));

/** What orders came to: by what was bought and by month, what lapsed, and what is about to. */
export function FiguresPage() {
  const { t } = useTranslation();
  const [span, setSpan] = useState<Span>('12');
  const query = monthsOf(span, new Date());
  const figures = useQuery({
    queryKey: ['orders', 'figures', query],
    queryFn: () => good(api.GET('/api/v1/orders/figures', { params: { query } })),
  });
  const rows = figures.data?.rows ?? [];
  const months = [...new Set(rows.map((row) => row.month))];
  const file = `/api/v1/orders/figures.csv?${new URLSearchParams(query)}`;
  return (
    <>
      <PageHead
        title={t('figures.title')}
        lead={t('figures.lead')}
        tools={
          <>
            <select className="field" aria-label={t('figures.span')} value={span} onChange={(e) => setSpan(e.currentTarget.value as Span)}>
              {spans.map((one) => (
                <option key={one} value={one}>
                  {t(`figures.spans.${one}`)}
                </option>
              ))}
            </select>
            {rows.length > 0 && (
              <a className="btn" href={file} download="figures.csv">
                {t('figures.file')}
              </a>
            )}
          </>
        }
      />
      {figures.isPending && <Loading />}
      {figures.isError && <Failed fault={figures.error} again={() => void figures.refetch()} />}
      {figures.isSuccess && <Soon soon={figures.data.soon} days={Number(figures.data.days)} />}
      {figures.isSuccess && rows.length === 0 && <Empty title={t('figures.empty')} lead={t('figures.emptyLead')} />}
      {rows.length > 0 && <Sums rows={addedUp(rows)} head={t('figures.what')} />}
      {months.length > 1 && (
        <section className="months">
          <h2>{t('figures.byMonth')}</h2>
          {months.length > 2 && (
            <Suspense fallback={<Loading />}>
              <MonthCurves rows={rows} months={months} />
            </Suspense>
          )}
          <Sums
            rows={months.flatMap((month) =>
              addedUp(rows.filter((row) => row.month === month).map((row) => ({ ...row, what: month, title: month }))),
            )}
            head={t('figures.month')}
          />
        </section>
      )}
    </>
  );
}

function Soon({ soon, days }: { soon: Schemas['LapsingView'][]; days: number }) {
  const { t } = useTranslation();
  return (
    <p className="lapsing">
      {soon.length === 0
        ? t('figures.nothingSoon', { days })
        : soon.map((one) => (
            <span key={`${one.what} ${one.currency}`}>
              {t(one.amount ? 'figures.soonWorth' : 'figures.soon', {
                count: Number(one.members),
                title: one.title,
                days,
                amount: said(one.amount, one.currency),
              })}{' '}
            </span>
          ))}
      {soon.length > 0 && <Link to="/ends">{t('figures.toEnds')}</Link>}
    </p>
  );
}

function MonthCurves({ rows, months }: { rows: Row[]; months: string[] }) {
  const largest = addedUp(rows)
    .filter((row) => row.currency)
    .slice(0, mostCurves);
  const curves = largest.map((one) => ({
    fact: `${one.what} ${one.currency}`,
    title: one.title,
    counts: months.map((month) => {
      const those = addedUp(rows.filter((row) => row.month === month && row.what === one.what && row.currency === one.currency));
      return Number(those[0]?.salesAmount ?? 0) + Number(those[0]?.renewalsAmount ?? 0) - Number(those[0]?.refundsAmount ?? 0);
    }),
  }));
  return <Curves names={months} rows={curves} />;
}

function Sums({ rows, head }: { rows: (Row & { net: number })[]; head: string }) {
  const { t } = useTranslation();
  const cell = (count: number, amount: string | null, currency: string | null) => (
    <td>
      {count || <span className="none">0</span>}
      {count > 0 && amount !== null && <small>{said(amount, currency)}</small>}
    </td>
  );
  return (
    <div className="people sums">
      <table>
        <thead>
          <tr>
            <th scope="col">{head}</th>
            {(['sales', 'renewals', 'refunds', 'lapses', 'net'] as const).map((name) => (
              <th key={name} scope="col">
                {t(`figures.${name}`)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={`${row.what} ${row.currency}`}>
              <th scope="row">{row.title}</th>
              {cell(Number(row.sales), row.salesAmount, row.currency)}
              {cell(Number(row.renewals), row.renewalsAmount, row.currency)}
              {cell(Number(row.refunds), row.refundsAmount, row.currency)}
              {cell(Number(row.lapses), null, null)}
              <td>
                <b>{said(netOf(row), row.currency)}</b>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function netOf(row: Row & { net: number }): string | null {
  const decimals = (row.salesAmount ?? '').split('.')[1]?.length ?? 0;
  return row.currency ? `${row.net / 10 ** decimals}` : null;
}
