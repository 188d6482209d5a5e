import { useTranslation } from 'react-i18next';
import type { Refused } from '../api/client';
import { Tick } from './Blank';
import type { Draft } from './draft';

const unlockTimes = ['session', 'PT8H', 'P1D', 'P7D', 'P14D', 'P30D', 'P365D'] as const;

/** What the sentence does not say: dates, words, unlock time. */
export function MoreFields({ draft, refused, set }: { draft: Draft; refused: Refused | null; set: (change: Partial<Draft>) => void }) {
  const { t } = useTranslation();
  const kindOf = (at: string | null | undefined) => (at?.includes('T') ? 'datetime-local' : 'date');
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
            type={kindOf(draft.from)}
            className="field"
            value={draft.from ?? ''}
            onChange={(e) => set({ from: e.currentTarget.value || null })}
          />
          {refused?.about('from') && <p className="bad">{refused.about('from')}</p>}
        </div>
        <div>
          <label className="name" htmlFor="until">
            {t('gate.until')}
          </label>
          <input
            id="until"
            type={kindOf(draft.until)}
            className="field"
            aria-describedby="until-hint"
            value={draft.until ?? ''}
            onChange={(e) => set({ until: e.currentTarget.value || null })}
          />
          <p className="hint" id="until-hint">
            {t('gate.untilHint')}
          </p>
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
        {isGate && (
          <>
            <TextField
              id="link-to"
              words={t('gate.linkTo')}
              hint={t('gate.linkHint')}
              value={draft.link?.address ?? ''}
              bad={refused?.about('link')}
              set={(address) => set({ link: address || draft.link?.words ? { address, words: draft.link?.words ?? '' } : null })}
            />
            <TextField
              id="link-words"
              words={t('gate.linkWords')}
              value={draft.link?.words ?? ''}
              set={(words) => set({ link: words || draft.link?.address ? { address: draft.link?.address ?? '', words } : null })}
            />
          </>
        )}
        {isGate && draft.audience?.includes('password') && <PasswordFields draft={draft} refused={refused} set={set} />}
        <Tick words={t('gate.enabled')} on={draft.enabled ?? true} set={(enabled) => set({ enabled })} />
      </div>
    </details>
  );
}

const promptFields = ['heading', 'text', 'label', 'placeholder', 'button'] as const;
const rotations = ['P7D', 'P14D', 'P30D', 'P90D', 'P365D'] as const;

/** The words of the password prompt, and how its passwords change by themselves. */
function PasswordFields({ draft, refused, set }: { draft: Draft; refused: Refused | null; set: (change: Partial<Draft>) => void }) {
  const { t } = useTranslation();
  const nothing = { heading: null, text: null, label: null, placeholder: null, button: null };
  const every = draft.rotation?.every ?? '';
  const times = !every || rotations.some((time) => time === every) ? rotations : [...rotations, every];
  const rotate = (change: { every?: string; overlap?: string; tell?: string[] }) =>
    set({ rotation: { every, overlap: draft.rotation?.overlap ?? 'P2D', tell: draft.rotation?.tell ?? [], ...change } });
  return (
    <>
      <h3 className="wide">{t('gate.prompt')}</h3>
      {promptFields.map((field) => (
        <TextField
          key={field}
          id={`prompt-${field}`}
          words={t(`gate.prompts.${field}`)}
          value={draft.prompt?.[field] ?? ''}
          bad={refused?.about(`prompt.${field}`)}
          set={(said) => set({ prompt: { ...nothing, ...draft.prompt, [field]: said || null } })}
        />
      ))}
      <h3 className="wide">{t('gate.rotation')}</h3>
      <div>
        <label className="name" htmlFor="rotate-every">
          {t('gate.rotateEvery')}
        </label>
        <select
          id="rotate-every"
          className="field"
          value={every}
          onChange={(e) => (e.currentTarget.value ? rotate({ every: e.currentTarget.value }) : set({ rotation: null }))}
        >
          <option value="">{t('gate.rotateNever')}</option>
          {times.map((time) => (
            <option key={time} value={time}>
              {t(`days.${time}`, time)}
            </option>
          ))}
        </select>
        {refused?.about('rotation.every') && <p className="bad">{refused.about('rotation.every')}</p>}
      </div>
      {every && (
        <>
          <TextField
            id="rotate-overlap"
            words={t('gate.rotateOverlap')}
            hint={t('gate.rotateOverlapHint')}
            value={draft.rotation?.overlap ?? 'P2D'}
            bad={refused?.about('rotation.overlap')}
            set={(overlap) => rotate({ overlap })}
          />
          <TextField
            id="rotate-tell"
            words={t('gate.rotateTell')}
            hint={t('gate.rotateTellHint')}
            value={draft.rotation?.tell?.join(', ') ?? ''}
            bad={refused?.about('rotation.tell')}
            set={(said) => rotate({ tell: said.split(',').map((one) => one.trim()) })}
          />
        </>
      )}
    </>
  );
}

function TextField({
  id,
  words,
  hint,
  value,
  bad,
  set,
}: {
  id: string;
  words: string;
  hint?: string;
  value: string;
  bad?: string | undefined;
  set: (said: string) => void;
}) {
  return (
    <div>
      <label className="name" htmlFor={id}>
        {words}
      </label>
      <input
        id={id}
        className="field"
        value={value}
        aria-invalid={bad !== undefined}
        aria-describedby={hint ? `${id}-hint` : undefined}
        onChange={(e) => set(e.currentTarget.value)}
      />
      {hint && (
        <p className="hint" id={`${id}-hint`}>
          {hint}
        </p>
      )}
      {bad && <p className="bad">{bad}</p>}
    </div>
  );
}
