import { useTranslation } from 'react-i18next';
import type { Refused } from '../api/client';
import { Tick } from './Blank';
import type { Draft } from './draft';

const unlockTimes = ['PT8H', 'P1D', 'P7D', 'P14D', 'P30D', 'P365D'] as const;

/** What the sentence does not say: dates, words, unlock time. */
export function MoreFields({ draft, refused, set }: { draft: Draft; refused: Refused | null; set: (change: Partial<Draft>) => void }) {
  const { t } = useTranslation();
  const day = (at: string | null | undefined) => (at ? at.slice(0, 10) : '');
  const midnight = (typed: string) => (typed ? `${typed}T00:00:00Z` : null);
  const isGate = draft.kind !== 'exemption';
  const times = unlockTimes.some((time) => time === draft.unlockFor) ? unlockTimes : [...unlockTimes, draft.unlockFor ?? 'P14D'];
  return (
    <details open={draft.answer === 'message' || draft.answer === 'redirect'}>
      <summary>{t('gate.more')}</summary>
      <div className="more">
        <div>
          <label className="name" htmlFor="kind">
            {t('gate.kind')}
          </label>
          <select
            id="kind"
            className="field"
            value={draft.kind ?? 'requirement'}
            onChange={(e) =>
              set(
                e.currentTarget.value === 'exemption'
                  ? { kind: 'exemption', audience: null }
                  : { kind: 'requirement', audience: draft.audience ?? 'signed-in' },
              )
            }
          >
            <option value="requirement">{t('gate.kindGate')}</option>
            <option value="exemption">{t('gate.kindExemption')}</option>
          </select>
        </div>
        <div>
          <label className="name" htmlFor="from">
            {t('gate.from')}
          </label>
          <input
            id="from"
            type="date"
            className="field"
            value={day(draft.from)}
            onChange={(e) => set({ from: midnight(e.currentTarget.value) })}
          />
        </div>
        <div>
          <label className="name" htmlFor="until">
            {t('gate.until')}
          </label>
          <input
            id="until"
            type="date"
            className="field"
            value={day(draft.until)}
            onChange={(e) => set({ until: midnight(e.currentTarget.value) })}
          />
          {refused?.about('until') && <p className="bad">{refused.about('until')}</p>}
        </div>
        {isGate && draft.audience?.includes('password') && (
          <div>
            <label className="name" htmlFor="unlock">
              {t('gate.unlockFor')}
            </label>
            <select
              id="unlock"
              className="field"
              value={draft.unlockFor ?? 'P14D'}
              onChange={(e) => set({ unlockFor: e.currentTarget.value })}
            >
              {times.map((time) => (
                <option key={time} value={time}>
                  {t(`days.${time}`, time)}
                </option>
              ))}
            </select>
          </div>
        )}
        {isGate && draft.answer === 'redirect' && (
          <div>
            <label className="name" htmlFor="redirect">
              {t('gate.redirectTo')}
            </label>
            <input
              id="redirect"
              className="field"
              placeholder="/join"
              value={draft.redirectTo ?? ''}
              onChange={(e) => set({ redirectTo: e.currentTarget.value })}
            />
            {refused?.about('redirectTo') && <p className="bad">{refused.about('redirectTo')}</p>}
          </div>
        )}
        {isGate && (
          <div className="wide">
            <label className="name" htmlFor="message">
              {t('gate.message')}
            </label>
            <textarea
              id="message"
              className="field"
              value={draft.message ?? ''}
              onChange={(e) => set({ message: e.currentTarget.value || null })}
              aria-describedby="message-hint"
            />
            <p className="hint" id="message-hint">
              {t('gate.messageHint')}
            </p>
          </div>
        )}
        <Tick words={t('gate.enabled')} on={draft.enabled ?? true} set={(enabled) => set({ enabled })} />
      </div>
    </details>
  );
}
