import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { lastDay } from '../frame/dates';
import { number } from '../frame/numbers';
import { Failed, Loading, PageHead } from '../frame/Page';
import { ChangeList } from '../Gates/Changes';
import { reader } from '../words/i18n';

// The curves come after the rest of the page: they weigh as much as all else.
const Curves = lazy(() => import('./Curves').then((part) => ({ default: part.Curves })));
type Today = Schemas['TodayView'];

const places: Record<string, string> = {
  pending: '/members?status=pending',
  letters: '/letters',
  leaks: '/sweep',
  unreadable: '/settings',
  orders: '/orders?handling=waiting',
  setup: '/set-up',
  items: '/catalogue',
  gates: '/gates/new',
  members: '/members/import',
  sweep: '/sweep',
};

/** The daily face of the console: what needs a hand, what ends, what changed, and members over time. */
export function TodayPage() {
  const { t } = useTranslation();
  const today = useQuery({ queryKey: ['today'], queryFn: () => good(api.GET('/api/v1/today')) });
  if (today.isPending) {
    return <Loading />;
  }

  if (today.isError) {
    return <Failed fault={today.error} again={() => void today.refetch()} />;
  }

  return (
    <>
      <PageHead title={t('today.title')} lead={t('today.lead')} />
      {today.data.nextStep && <NextStep step={today.data.nextStep} />}
      <div className="today">
        <Needs today={today.data} />
        <Ends today={today.data} />
      </div>
      <Figures figures={today.data.figures} />
      <Changes />
    </>
  );
}

function NextStep({ step }: { step: string }) {
  const { t } = useTranslation();
  return (
    <section className="sheet next" aria-label={t('today.next')}>
      <h2>{t('today.next')}</h2>
      <p>{t(`today.steps.${step}`)}</p>
      <Link className="btn prime" to={places[step] ?? '/'}>
        {t(`today.go.${step}`)}
      </Link>
    </section>
  );
}

function Needs({ today }: { today: Today }) {
  const { t } = useTranslation();
  return (
    <section className="sheet part" aria-label={t('today.needs')}>
      <header>
        <h2>{t('today.needs')}</h2>
      </header>
      {today.needs.length === 0 && <p className="hint">{t('today.nothing')}</p>}
      <ul className="rows">
        {today.needs.map((need) => (
          <li key={need.kind}>
            <Link to={places[need.kind] ?? '/'}>{t(`today.kinds.${need.kind}`, { count: need.count })}</Link>
          </li>
        ))}
        <li>
          <Link className="quiet" to="/members?joined=7&sort=-joined">
            {t('today.joined', { count: today.joined })}
          </Link>
        </li>
      </ul>
    </section>
  );
}

function Ends({ today }: { today: Today }) {
  const { t } = useTranslation();
  return (
    <section className="sheet part" aria-label={t('today.ends')}>
      <header>
        <h2>{t('today.ends')}</h2>
      </header>
      {today.ends.length === 0 && <p className="hint">{t('today.endsNone')}</p>}
      <ul className="rows">
        {today.ends.map((end) => (
          <li key={end.member + end.fact}>
            <div>
              <Link to={`/members/${end.member}`}>{end.name}</Link>{' '}
              <span className="hint">{t('today.ends_line', { title: end.title, at: lastDay(end.until) })}</span>
            </div>
          </li>
        ))}
      </ul>
      {today.endsInAll > today.ends.length && <p className="hint">{t('today.endsMore', { count: today.endsInAll - today.ends.length })}</p>}
    </section>
  );
}

function Figures({ figures }: { figures: Today['figures'] }) {
  const { t } = useTranslation();
  const names = figures.at.map((at, n) => monthOf(at, n === figures.at.length - 1 ? t('today.now') : undefined));
  const rows = [{ fact: 'all', title: t('today.all'), counts: figures.members }, ...figures.held];
  return (
    <section className="sheet part" aria-label={t('today.figures')}>
      <header>
        <h2>{t('today.figures')}</h2>
      </header>
      <p className="hint">{t('today.figuresLead')}</p>
      <Suspense fallback={<div className="curves" />}>
        <Curves names={names} rows={rows} />
      </Suspense>
      <details>
        <summary>{t('today.table')}</summary>
        <div className="scrollx">
          <table className="plain">
            <thead>
              <tr>
                <th>{t('today.month')}</th>
                {names.map((name) => (
                  <th key={name}>{name}</th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.fact}>
                  <th scope="row">{row.title}</th>
                  {row.counts.map((count, n) => (
                    <td key={names[n]}>{number(count)}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
    </section>
  );
}

const monthOf = (at: string, instead?: string) =>
  instead ?? new Date(at).toLocaleDateString(reader(), { month: 'short', year: '2-digit', timeZone: 'UTC' });

function Changes() {
  const { t } = useTranslation();
  const history = useQuery({
    queryKey: ['history', 'today'],
    queryFn: () => good(api.GET('/api/v1/history', { params: { query: { limit: 6 } } })),
  });
  return (
    <section className="sheet part" aria-label={t('today.changes')}>
      <header>
        <h2>{t('today.changes')}</h2>
        <Link className="quiet" to="/history">
          {t('today.allChanges')}
        </Link>
      </header>
      {history.data && <ChangeList entries={history.data.items} />}
    </section>
  );
}
