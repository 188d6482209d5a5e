import { Fragment, type ReactNode } from 'react';
import { useTranslation } from 'react-i18next';
import type { Schemas } from '../api/client';
import { Blank, Choice, Tick } from './Blank';
import type { Draft } from './draft';
import { AudiencePicker, CoversPicker } from './Pickers';

const acts = ['open', 'price', 'buy', 'download', 'listen'] as const;
const answers = ['auto', 'sign-in', 'register', 'password', 'message', 'redirect', 'not-found'] as const;

/** The gate as a sentence whose underlined parts edit it. The words come from the service; before it can say them, from here. */
export function SentenceEditor({
  draft,
  parts,
  rows,
  set,
}: {
  draft: Draft;
  parts: Schemas['SentencePart'][] | undefined;
  rows?: string[][] | null | undefined;
  set: (change: Partial<Draft>) => void;
}) {
  const { t } = useTranslation();
  const covers = draft.covers ?? [];
  const shown = parts ?? [
    { edits: 'covers', text: t('gate.choose') },
    { edits: null, text: t('gate.draft.and') },
    { edits: 'reach', text: t('pick.branch') },
    { edits: null, text: t('gate.draft.only') },
    { edits: 'audience', text: t('gate.draft.audience') },
    { edits: null, text: t('gate.draft.may') },
    { edits: 'acts', text: t('gate.draft.acts') },
    { edits: null, text: t('gate.draft.others') },
    { edits: 'presence', text: t('pick.listed') },
    { edits: null, text: t('gate.draft.at') },
    { edits: 'answer', text: t('pick.sign-in') },
    { edits: null, text: '.' },
  ];
  const answerWords = (answer: string) => t(answer === 'password' ? 'pick.password-answer' : `pick.${answer}`);
  const pickers: Record<string, { name: string; picker: ReactNode }> = {
    covers: {
      name: t('pick.covers'),
      picker: <CoversPicker covers={covers} set={(next, title) => set({ covers: next, ...(title && !draft.title ? { title } : {}) })} />,
    },
    reach: {
      name: t('pick.reach'),
      picker: (
        <Choice
          legend={t('pick.reach')}
          value={draft.reach ?? 'branch'}
          options={[
            { value: 'branch', words: t('pick.branch'), hint: t('pick.branchHint') },
            { value: 'item', words: t('pick.item'), hint: t('pick.itemHint') },
          ]}
          choose={(reach) => set({ reach })}
        />
      ),
    },
    audience: {
      name: t('pick.audience'),
      picker: <AudiencePicker audience={draft.audience ?? ''} rows={rows} set={(audience) => set({ audience })} />,
    },
    acts: {
      name: t('pick.acts'),
      picker: (
        <fieldset>
          <legend>{t('pick.acts')}</legend>
          {acts.map((act) => (
            <Tick
              key={act}
              words={t(`pick.${act}`)}
              on={draft.acts?.includes(act) ?? true}
              set={(on) => set({ acts: acts.filter((a) => (a === act ? on : draft.acts?.includes(a))) })}
            />
          ))}
        </fieldset>
      ),
    },
    presence: {
      name: t('pick.presence'),
      picker: (
        <Choice
          legend={t('pick.presence')}
          value={draft.presence ?? 'default'}
          options={[
            { value: 'listed', words: t('pick.listed'), hint: t('pick.listedHint') },
            { value: 'hidden', words: t('pick.hidden'), hint: t('pick.hiddenHint') },
            { value: 'default', words: t('pick.default'), hint: t('pick.defaultHint') },
          ]}
          choose={(presence) => set({ presence })}
        />
      ),
    },
    answer: {
      name: t('pick.answer'),
      picker: (
        <Choice
          legend={t('pick.answer')}
          value={draft.answer ?? 'auto'}
          options={answers.map((answer) => {
            const hint = ['auto', 'sign-in', 'message'].includes(answer) ? t(`pick.${answer}Hint`) : '';
            return { value: answer as string, words: answerWords(answer), ...(hint ? { hint } : {}) };
          })}
          choose={(answer) => set({ answer })}
        />
      ),
    },
    kind: {
      name: t('gate.kind'),
      picker: (
        <Choice
          legend={t('gate.kind')}
          value={draft.kind ?? 'requirement'}
          options={[
            { value: 'requirement', words: t('gate.kindGate') },
            { value: 'exemption', words: t('gate.kindExemption') },
          ]}
          choose={(kind) => set(kind === 'exemption' ? { kind, audience: null } : { kind, audience: draft.audience ?? 'signed-in' })}
        />
      ),
    },
  };
  return (
    <div className="line">
      {shown.map((part, at) => {
        const picker = part.edits ? pickers[part.edits] : undefined;
        return picker ? (
          <Blank key={part.edits} name={picker.name} words={part.text} todo={part.edits === 'covers' && covers.length === 0}>
            {picker.picker}
          </Blank>
        ) : (
          <Fragment key={at}>{part.text}</Fragment>
        );
      })}
    </div>
  );
}
