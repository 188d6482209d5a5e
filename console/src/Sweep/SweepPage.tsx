import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { lines } from '../api/lines';
import { day, moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { number } from '../frame/numbers';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';

type Report = Schemas['SweepReport'];
type Line = { stage: string; done: number; total: number; leaks: number; report?: Report; detail?: string };

/** Requests every guarded address as outsiders would, and says what leaks and how to mend it. */
export function SweepPage() {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [line, setLine] = useState<Line | null>(null);
  const [as, setAs] = useState<string[]>([]);
  const viewpoints = useQuery({ queryKey: ['viewpoints'], queryFn: () => good(api.GET('/api/v1/viewpoints')) });
  const [chosen, setChosen] = useState<string>();
  const past = useQuery({ queryKey: ['sweep', 'past'], queryFn: () => good(api.GET('/api/v1/sweeps')) });
  const newest = past.data?.items[0]?.id;
  const shown = chosen ?? newest;
  const report = useQuery({
    queryKey: ['sweep', shown],
    enabled: shown !== undefined,
    queryFn: () => good(api.GET('/api/v1/sweeps/{id}', { params: { path: { id: shown as string } } })),
  });
  const left = useQuery({
    queryKey: ['sweep', 'unfinished'],
    queryFn: () => good(api.GET('/api/v1/sweeps/unfinished')).then((found) => found || null),
  });
  const run = useMutation({
    mutationFn: async (asked: Record<string, unknown>) => {
      const last = await lines<Line>('sweeps', asked, setLine);
      if (last.stage === 'failed') {
        throw new Error(last.detail);
      }
    },
    onSettled: async () => {
      setLine(null);
      setChosen(undefined);
      await queries.invalidateQueries({ queryKey: ['sweep'] });
    },
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const said = new FormData(event.currentTarget);
    run.mutate({
      as,
      origin: String(said.get('origin') ?? '') || null,
      cache: String(said.get('cache') ?? '') || null,
      atOnce: Number(said.get('atOnce')) || null,
      draw: said.get('draw') === '' ? null : Number(said.get('draw')),
    });
  };
  const others = viewpoints.data?.filter((v) => v.key !== 'guest') ?? [];
  return (
    <>
      <PageHead title={t('sweep.title')} lead={t('sweep.lead')} />
      <form className="sheet" onSubmit={submit}>
        <fieldset className="ticks">
          <legend>{t('sweep.as')}</legend>
          <label>
            <input type="checkbox" checked disabled /> {t('sweep.guest')}
          </label>
          {others.map((viewpoint) => (
            <label key={viewpoint.key}>
              <input
                type="checkbox"
                checked={as.includes(viewpoint.key)}
                onChange={(e) => setAs(e.currentTarget.checked ? [...as, viewpoint.key] : as.filter((key) => key !== viewpoint.key))}
              />{' '}
              {viewpoint.title}
            </label>
          ))}
        </fieldset>
        <details>
          <summary>{t('sweep.more')}</summary>
          <div className="more">
            <Field id="origin" name="origin" label={t('sweep.origin')} hint={t('sweep.originHint')} placeholder="http://192.0.2.7:8080" />
            <Field id="cache" name="cache" label={t('sweep.cache')} hint={t('sweep.cacheHint')} placeholder="https://www.example.org" />
            <Field
              id="at-once"
              name="atOnce"
              label={t('sweep.atOnce')}
              hint={t('sweep.atOnceHint')}
              type="number"
              min={1}
              max={64}
              placeholder="8"
            />
            <Field
              id="draw"
              name="draw"
              label={t('sweep.draw')}
              hint={t('sweep.drawHint')}
              type="number"
              min={0}
              max={5000}
              placeholder="100"
            />
          </div>
        </details>
        <p className="go">
          <button type="submit" className="btn prime" disabled={run.isPending}>
            {t(run.isPending ? 'sweep.running' : 'sweep.run')}
          </button>
          {line && (
            <>
              <progress max={Math.max(1, line.total)} value={line.done} aria-label={t('sweep.running')} />
              <span role="status">
                {t(line.stage === 'drawing' ? 'sweep.drawing' : 'sweep.progress', {
                  done: line.done,
                  total: line.total,
                  leaks: line.leaks,
                })}
              </span>
            </>
          )}
        </p>
        {run.isError && (
          <p className="bad" role="alert">
            {run.error.message}
          </p>
        )}
      </form>
      {left.data && !run.isPending && <Unfinished left={left.data} goOn={() => run.mutate({ resume: true })} />}
      {(past.isPending || (shown !== undefined && report.isPending)) && <Loading />}
      {past.isError && <Failed fault={past.error} again={() => void past.refetch()} />}
      {report.isError && <Failed fault={report.error} again={() => void report.refetch()} />}
      {past.data?.items.length === 0 && !run.isPending && <Empty title={t('sweep.empty')} lead={t('sweep.emptyLead')} />}
      {past.data && past.data.items.length > 1 && <Trend past={past.data.items} shown={shown} choose={setChosen} newest={newest} />}
      {report.data && <Found report={report.data} />}
    </>
  );
}

/** A sweep that was broken off, and the way on from there. */
function Unfinished({ left, goOn }: { left: Schemas['SweepUnfinished']; goOn: () => void }) {
  const { t } = useTranslation();
  const said = {
    when: moment(left.startedAt),
    by: left.by,
    count: left.notes,
  };
  return (
    <section className="sheet left-over" aria-label={t('sweep.unfinished')}>
      <p>{t(left.isRunning ? 'sweep.elsewhere' : left.canResume ? 'sweep.brokenOff' : 'sweep.moved', said)}</p>
      {left.canResume && (
        <button type="button" className="btn" onClick={goOn}>
          {t('sweep.goOn')}
        </button>
      )}
    </section>
  );
}

type Summary = Schemas['SweepSummary'];
const dayOf = (sweep: Summary) => day(sweep.endedAt);
const most = 30;

/** How sweeps went over time: a bar each, as high as what leaked, and what that comes to in words. */
function Trend({
  past,
  shown,
  choose,
  newest,
}: {
  past: Summary[];
  shown: string | undefined;
  choose: (id: string | undefined) => void;
  newest: string | undefined;
}) {
  const { t } = useTranslation();
  const bars = past.slice(0, most).reverse();
  const highest = Math.max(1, ...bars.map((sweep) => sweep.leaks));
  const clean = past.findIndex((sweep) => sweep.leaks > 0);
  const row = clean < 0 ? past.length : clean;
  const leaking = past.findIndex((sweep) => sweep.leaks === 0);
  const first = past[(row > 0 ? row : leaking < 0 ? past.length : leaking) - 1];
  return (
    <section className="sheet trend" aria-label={t('sweep.trend')}>
      <h2>{t('sweep.trend')}</h2>
      {first && (
        <p>
          <b>{row > 0 ? t('sweep.since', { count: row, day: dayOf(first) }) : t('sweep.leaksSince', { day: dayOf(first) })}</b>{' '}
          <span className="hint">{t('sweep.trendLead')}</span>
        </p>
      )}
      <ol>
        {bars.map((sweep) => {
          const words = t('sweep.bar', {
            when: moment(sweep.endedAt),
            count: sweep.leaks,
            guarded: sweep.guarded,
            by: sweep.by,
          });
          return (
            <li key={sweep.id}>
              <button
                type="button"
                title={words}
                aria-label={words}
                aria-pressed={sweep.id === shown}
                className={sweep.leaks > 0 ? 'leaks' : undefined}
                onClick={() => choose(sweep.id)}
              >
                <i style={{ blockSize: `${sweep.leaks === 0 ? 4 : 10 + (54 * sweep.leaks) / highest}px` }} />
                <span>{sweep.leaks}</span>
              </button>
            </li>
          );
        })}
      </ol>
      {shown !== newest && (
        <button type="button" className="link" onClick={() => choose(undefined)}>
          {t('sweep.newest')}
        </button>
      )}
    </section>
  );
}

function Found({ report }: { report: Report }) {
  const { t } = useTranslation();
  const groups = new Map<string, Report['findings']>();
  for (const finding of report.findings) {
    const name = [finding.kind, finding.via, finding.what].join('\n');
    groups.set(name, [...(groups.get(name) ?? []), finding]);
  }

  const figures = [
    { count: report.leaks, words: 'sweep.leaks', care: true },
    { count: report.closed, words: 'sweep.closed', care: false },
    { count: report.missing, words: 'sweep.missing', care: false },
    { count: report.guarded, words: 'sweep.guarded', care: false },
    { count: report.addresses, words: 'sweep.addresses', care: false },
  ];
  return (
    <section className="sheet" aria-live="polite">
      <h2>{t(report.leaks > 0 ? 'sweep.found' : report.guarded > 0 ? 'sweep.clean' : 'sweep.nothing', { count: report.leaks })}</h2>
      <p className="hint">
        {t('sweep.when', {
          when: moment(report.endedAt),
          by: report.by,
          site: [report.site, report.origin, report.cache].filter(Boolean).join(', '),
          as: report.as.join(', '),
        })}
      </p>
      <div className="nums">
        {figures.map((figure) => (
          <div key={figure.words} className={figure.care && figure.count > 0 ? 'care' : undefined}>
            <b>{number(figure.count)}</b>
            <span>{t(figure.words, { count: figure.count })}</span>
          </div>
        ))}
      </div>
      {(report.drawn ?? 0) > 0 && (
        <p className="hint">
          {t((report.undrawn ?? 0) > 0 ? 'sweep.drawnSome' : 'sweep.drawn', { count: report.drawn, more: report.undrawn })}
        </p>
      )}
      {report.warnings?.map((warning) => (
        <p className="note" key={warning}>
          {warning}
        </p>
      ))}
      {report.leftOut > 0 && <p className="note">{t('sweep.leftOut', { count: report.leftOut })}</p>}
      <ul className="findings">
        {[...groups.values()].map((group) => {
          const first = group[0];
          const addresses = [...new Set(group.map((f) => f.address))];
          return (
            first && (
              <li key={first.kind + first.via + first.what} className={first.isLeak ? 'leak' : 'wrong'}>
                <p>
                  <span className="sort">{t(`sweep.kinds.${first.kind}`)}</span>{' '}
                  <span className="hint">
                    {[...new Set(group.map((f) => f.as))].join(', ')}
                    {first.via !== 'public' && ` · ${t(`sweep.via.${first.via}`)}`}
                  </span>
                </p>
                <p className="what">{first.what}</p>
                <p>
                  {addresses.map((address) => (
                    <code key={address}>{address} </code>
                  ))}
                </p>
                <p className="mend">
                  <b>{t('sweep.mend')}</b> {addresses.length === 1 ? first.mend : first.mend.replace(first.address, t('sweep.them'))}{' '}
                  {(first.kind === 'listed' || first.kind === 'copied' || first.kind === 'told') && first.via === 'public' && (
                    <Link to={`/gates/new?covers=${encodeURIComponent(`path:${first.address}`)}`}>{t('sweep.guard')}</Link>
                  )}{' '}
                  {(first.kind === 'listed' || first.kind === 'husk' || first.kind === 'told') && first.via === 'public' && (
                    <Link to={`/entries?at=${encodeURIComponent(first.address)}`}>{t('sweep.teach')}</Link>
                  )}
                </p>
              </li>
            )
          );
        })}
      </ul>
    </section>
  );
}
