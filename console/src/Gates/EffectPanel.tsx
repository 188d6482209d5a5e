import { useTranslation } from 'react-i18next';
import { Mark, type SightWord } from '../Access/Mark';
import type { Effect, Refused } from '../api/client';
import { number } from '../frame/numbers';

/** What would change, under what is being changed. */
export function EffectPanel({
  effect,
  refused,
  stale,
  title,
}: {
  effect: Effect | undefined;
  refused: Refused | null;
  stale: boolean;
  title: string;
}) {
  const { t } = useTranslation();
  if (refused) {
    return (
      <section className="sheet" aria-live="polite">
        <h2>{t('effect.fix')}</h2>
        {(refused.faults.length > 0 ? refused.faults : [{ field: '', message: refused.message }]).map((fault) => (
          <p className="bad" key={fault.field + fault.message}>
            {fault.message}
          </p>
        ))}
      </section>
    );
  }

  if (!effect) {
    return (
      <section className="sheet hint" aria-busy="true">
        {t('effect.waiting')}
      </section>
    );
  }

  const said = (acts: readonly string[]) => acts.map((act) => t(`effect.acts.${act}`)).join(', ');
  const nothing = effect.rows.length === 0 && effect.membersLosing + effect.membersGaining === 0;
  return (
    <section className="sheet" aria-live="polite" aria-busy={stale}>
      <h3>{title}</h3>
      {nothing ? (
        <p>{t('effect.none')}</p>
      ) : (
        <>
          <div className="nums">
            <Figure count={effect.itemsClosing} words="effect.closing" />
            <Figure count={effect.itemsOpening} words="effect.opening" />
            <Figure count={effect.membersLosing} words="effect.losing" />
            <Figure count={effect.membersGaining} words="effect.gaining" />
            <Figure count={effect.membersKeeping} words="effect.keeping" />
            {effect.elsewhere.length > 0 && (
              <div className="care">
                <b>{effect.elsewhere.length}</b>
                <span>
                  {t('effect.elsewhere', { count: effect.elsewhere.length })}:{' '}
                  <i>{effect.elsewhere.map((item) => item.title).join(', ')}</i>
                </span>
              </div>
            )}
          </div>
          <Names words="effect.theyLose" names={effect.losingNames} all={effect.membersLosing} />
          <Names words="effect.theyGain" names={effect.gainingNames} all={effect.membersGaining} />
          <div className="scrollx">
            <table className="plain">
              <thead>
                <tr>
                  <th scope="col">{t('effect.item')}</th>
                  <th scope="col">{t('effect.whom')}</th>
                  <th scope="col">{t('effect.before')}</th>
                  <th scope="col">{t('effect.after')}</th>
                </tr>
              </thead>
              <tbody>
                {effect.rows.map((row) => (
                  <tr key={row.item + row.forWhom.join()}>
                    <td>
                      {row.title} {row.alsoBeneath > 0 && <span className="hint">{t('effect.beneath', { count: row.alsoBeneath })}</span>}
                    </td>
                    <td>{row.forWhom.join(', ')}</td>
                    <td>
                      <Mark sight={row.before as SightWord} />
                    </td>
                    <td>
                      <Mark sight={row.after as SightWord} />
                      {row.before === row.after && (
                        <span className="hint">
                          {row.lost.length > 0 && t('effect.loses', { acts: said(row.lost) })}{' '}
                          {row.gained.length > 0 && t('effect.gains', { acts: said(row.gained) })}
                        </span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {effect.moreRows > 0 && <p className="hint">{t('effect.moreRows', { count: effect.moreRows })}</p>}
        </>
      )}
    </section>
  );
}

function Figure({ count, words }: { count: number; words: string }) {
  const { t } = useTranslation();
  return (
    count > 0 && (
      <div>
        <b>{number(count)}</b>
        <span>{t(words, { count })}</span>
      </div>
    )
  );
}

function Names({ words, names, all }: { words: string; names: string[]; all: number }) {
  const { t } = useTranslation();
  return (
    names.length > 0 && (
      <p className="names">
        <b>{t(words)}</b> {names.join(', ')} {all > names.length && t('effect.andMore', { count: all - names.length })}
      </p>
    )
  );
}
