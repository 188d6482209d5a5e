import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good } from '../api/client';

export type Chosen = { item: string; title: string; viewpoint: string; who: string };

/** Why a cell says what it says, beside the board. */
export function WhyPanel({ chosen, at }: { chosen: Chosen | null; at: string | null }) {
  const { t } = useTranslation();
  const why = useQuery({
    queryKey: ['why', chosen?.item, chosen?.viewpoint, at],
    queryFn: () =>
      good(api.POST('/api/v1/decisions/why', { body: { visitor: chosen?.viewpoint ?? '', act: 'open', item: chosen?.item ?? '', at } })),
    enabled: chosen !== null,
    placeholderData: (old) => old,
  });
  if (!chosen) {
    return (
      <aside className="why" aria-label={t('board.why')}>
        <p className="hint">{t('board.choose')}</p>
      </aside>
    );
  }

  return (
    <aside className="why" aria-label={t('board.why')} aria-live="polite" aria-busy={why.isFetching}>
      <p className="kicker">{t('board.whyOf', { item: chosen.title, who: chosen.who })}</p>
      {why.isError && <p className="bad">{why.error.message}</p>}
      {why.data && (
        <>
          <h2>{why.data.headline}</h2>
          {why.data.steps.length > 0 && (
            <ol>
              {why.data.steps.map((step) => (
                <li key={step.title + step.way}>
                  <b>{step.title}</b> {step.way}.{step.sentence && <p className="sent">{step.sentence}</p>}
                  {step.verdict && <p>{step.verdict}</p>}
                </li>
              ))}
            </ol>
          )}
          {why.data.opens.length > 0 && (
            <>
              <h3>{t('board.opens')}</h3>
              {why.data.opens.map((line) => (
                <p key={line}>{line}</p>
              ))}
            </>
          )}
          <h3>{t('board.meets')}</h3>
          <p>{why.data.meets}</p>
          <div className="acts">
            {why.data.gate && (
              <Link className="btn" to={`/gates/${why.data.gate}`}>
                {t('board.edit')}
              </Link>
            )}
            <Link className="btn" to={`/viewpoint?as=${encodeURIComponent(chosen.viewpoint)}`}>
              {t('board.see')}
            </Link>
          </div>
        </>
      )}
    </aside>
  );
}
