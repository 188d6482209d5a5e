import { useTranslation } from 'react-i18next';
import type { Refused } from '../api/client';
import { Field } from '../frame/Field';
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
        <Field
          as="select"
          id="kind"
          label={t('gate.kind')}
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
        </Field>
        <Field
          id="from"
          label={t('gate.from')}
          type={kindOf(draft.from)}
          value={draft.from ?? ''}
          bad={refused?.about('from')}
          onChange={(e) => set({ from: e.currentTarget.value || null })}
        />
        <Field
          id="until"
          label={t('gate.until')}
          hint={t('gate.untilHint')}
          type={kindOf(draft.until)}
          value={draft.until ?? ''}
          bad={refused?.about('until')}
          onChange={(e) => set({ until: e.currentTarget.value || null })}
        />
        {isGate && draft.audience?.includes('password') && (
          <Field
            as="select"
            id="unlock"
            label={t('gate.unlockFor')}
            value={draft.unlockFor ?? 'P14D'}
            bad={refused?.about('unlockFor')}
            onChange={(e) => set({ unlockFor: e.currentTarget.value })}
          >
            {times.map((time) => (
              <option key={time} value={time}>
                {t(`days.${time}`, time)}
              </option>
            ))}
          </Field>
        )}
        {isGate && draft.answer === 'redirect' && (
          <Field
            id="redirect"
            label={t('gate.redirectTo')}
            placeholder="/join"
            value={draft.redirectTo ?? ''}
            bad={refused?.about('redirectTo')}
            onChange={(e) => set({ redirectTo: e.currentTarget.value })}
          />
        )}
        {isGate && (
          <Field
            as="textarea"
            id="message"
            wide
            label={t('gate.message')}
            hint={t('gate.messageHint')}
            value={draft.message ?? ''}
            bad={refused?.about('message')}
            onChange={(e) => set({ message: e.currentTarget.value || null })}
          />
        )}
        {isGate && (
          <>
            <Field
              id="link-to"
              label={t('gate.linkTo')}
              hint={t('gate.linkHint')}
              value={draft.link?.address ?? ''}
              bad={refused?.about('link')}
              onChange={({ currentTarget: { value: address } }) =>
                set({ link: address || draft.link?.words ? { address, words: draft.link?.words ?? '' } : null })
              }
            />
            <Field
              id="link-words"
              label={t('gate.linkWords')}
              value={draft.link?.words ?? ''}
              onChange={({ currentTarget: { value: words } }) =>
                set({ link: words || draft.link?.address ? { address: draft.link?.address ?? '', words } : null })
              }
            />
          </>
        )}
        {isGate && (
          <Field
            as="select"
            id="basic"
            label={t('gate.basic')}
            hint={t('gate.basicHint')}
            value={draft.basic ?? 'no'}
            bad={refused?.about('basic')}
            onChange={(e) => set({ basic: e.currentTarget.value })}
          >
            {(['no', 'tools', 'everybody'] as const).map((one) => (
              <option key={one} value={one}>
                {t(`gate.basics.${one}`)}
              </option>
            ))}
          </Field>
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
        <Field
          key={field}
          id={`prompt-${field}`}
          label={t(`gate.prompts.${field}`)}
          value={draft.prompt?.[field] ?? ''}
          bad={refused?.about(`prompt.${field}`)}
          onChange={({ currentTarget: { value: said } }) => set({ prompt: { ...nothing, ...draft.prompt, [field]: said || null } })}
        />
      ))}
      <h3 className="wide">{t('gate.rotation')}</h3>
      <Field
        as="select"
        id="rotate-every"
        label={t('gate.rotateEvery')}
        value={every}
        bad={refused?.about('rotation.every')}
        onChange={(e) => (e.currentTarget.value ? rotate({ every: e.currentTarget.value }) : set({ rotation: null }))}
      >
        <option value="">{t('gate.rotateNever')}</option>
        {times.map((time) => (
          <option key={time} value={time}>
            {t(`days.${time}`, time)}
          </option>
        ))}
      </Field>
      {every && (
        <>
          <Field
            id="rotate-overlap"
            label={t('gate.rotateOverlap')}
            hint={t('gate.rotateOverlapHint')}
            value={draft.rotation?.overlap ?? 'P2D'}
            bad={refused?.about('rotation.overlap')}
            onChange={({ currentTarget: { value: overlap } }) => rotate({ overlap })}
          />
          <Field
            id="rotate-tell"
            label={t('gate.rotateTell')}
            hint={t('gate.rotateTellHint')}
            value={draft.rotation?.tell?.join(', ') ?? ''}
            bad={refused?.about('rotation.tell')}
            onChange={({ currentTarget: { value: said } }) => rotate({ tell: said.split(',').map((one) => one.trim()) })}
          />
        </>
      )}
    </>
  );
}
