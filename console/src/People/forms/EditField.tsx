import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../../api/client';
import { Dialog } from '../../frame/Dialog';
import { Field } from '../../frame/Field';
import { moved, Order } from '../../frame/Order';
import { type FieldDraft, keyOf, kinds, replaced, without } from './draft';
import { InLanguages } from './InLanguages';

const formats = ['any', 'vat', 'iban', 'postal-code', 'email'] as const;
const types = ['pdf', 'png', 'jpg', 'gif', 'zip', 'txt'] as const;

/** Adds a field, changes one, removes one. It is stored at once: other forms use it too. */
export function EditField({
  field,
  all,
  close,
  added,
}: {
  field: Schemas['FieldView'] | undefined;
  all: Schemas['FieldView'][];
  close: () => void;
  added?: ((key: string) => void) | undefined;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState<FieldDraft>(field?.field ?? { kind: 'text', label: '' });
  const set = (change: Partial<FieldDraft>) => setDraft({ ...draft, ...change });
  const key =
    field?.field.key ??
    keyOf(
      draft.label ?? '',
      all.map((one) => one.field.key ?? ''),
    );
  const save = useMutation({
    mutationFn: () => good(api.PUT('/api/v1/fields/{key}', { params: { path: { key } }, body: { ...draft, key } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      added?.(key);
      close();
    },
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/fields/{key}', { params: { path: { key } } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  const kind = draft.kind ?? 'text';
  const isText = kind === 'text' || kind === 'long-text';
  const number = (text: string) => (text.trim() === '' ? null : Number(text));
  const text = (name: 'help' | 'placeholder' | 'message' | 'pattern' | 'least' | 'most' | 'country', hint?: string) => (
    <Field
      id={`field-${name}`}
      label={t(`forms.field.${name}`)}
      hint={hint}
      bad={refused?.about(name)}
      value={draft[name] ?? ''}
      onChange={(e) => set({ [name]: e.currentTarget.value || null })}
    />
  );
  return (
    <Dialog title={t(field ? 'forms.field.change' : 'forms.field.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {fault && (!refused || refused.about('key') || refused.faults.length === 0) && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        <div className="pair">
          <Field
            id="field-label"
            label={t('forms.field.label')}
            required
            bad={refused?.about('label')}
            value={draft.label ?? ''}
            onChange={(e) => set({ label: e.currentTarget.value })}
          />
          <Field
            as="select"
            id="field-kind"
            label={t('forms.field.kind')}
            disabled={field !== undefined}
            hint={field ? t('forms.field.fixed') : undefined}
            bad={refused?.about('kind')}
            value={kind}
            onChange={(e) => setDraft({ label: draft.label ?? '', help: draft.help ?? null, kind: e.currentTarget.value })}
          >
            {kinds.map((one) => (
              <option key={one} value={one}>
                {t(`forms.kinds.${one}`)}
              </option>
            ))}
          </Field>
        </div>
        {text('help')}
        {(kind === 'one-of' || kind === 'several-of') && (
          <Options options={draft.options ?? []} bad={refused?.about('options')} set={(options) => set({ options })} />
        )}
        {kind === 'text' && (
          <div className="pair">
            <Field
              as="select"
              id="field-format"
              label={t('forms.field.format')}
              value={draft.format ?? 'any'}
              onChange={(e) => set({ format: e.currentTarget.value === 'any' ? null : e.currentTarget.value })}
            >
              {formats.map((one) => (
                <option key={one} value={one}>
                  {t(`forms.formats.${one}`)}
                </option>
              ))}
            </Field>
            {text('placeholder')}
          </div>
        )}
        {isText && (
          <div className="pair">
            <Field
              id="field-shortest"
              type="number"
              min={0}
              label={t('forms.field.shortest')}
              bad={refused?.about('shortest')}
              value={draft.shortest ?? ''}
              onChange={(e) => set({ shortest: number(e.currentTarget.value) })}
            />
            <Field
              id="field-longest"
              type="number"
              min={1}
              label={t('forms.field.longest')}
              bad={refused?.about('longest')}
              value={draft.longest ?? ''}
              onChange={(e) => set({ longest: number(e.currentTarget.value) })}
            />
          </div>
        )}
        {isText && text('pattern', t('forms.field.patternHint'))}
        {['number', 'date', 'several-of'].includes(kind) && (
          <div className="pair">
            {text('least')}
            {text('most')}
          </div>
        )}
        {(kind === 'phone' || draft.format === 'vat' || draft.format === 'postal-code' || kind === 'address') &&
          text('country', t('forms.field.countryHint'))}
        {kind === 'file' && (
          <fieldset className="bare">
            <legend>{t('forms.field.types')}</legend>
            <span className="several">
              {types.map((type) => (
                <label key={type} className="opt">
                  <input
                    type="checkbox"
                    checked={draft.types?.includes(type) ?? false}
                    onChange={(e) => {
                      const next = e.currentTarget.checked
                        ? [...(draft.types ?? []), type]
                        : (draft.types ?? []).filter((one) => one !== type);
                      set({ types: next.length > 0 ? next : null });
                    }}
                  />
                  <span>{type}</span>
                </label>
              ))}
            </span>
          </fieldset>
        )}
        {kind === 'file' && (
          <Field
            id="field-kilobytes"
            type="number"
            min={1}
            label={t('forms.field.kilobytes')}
            bad={refused?.about('kilobytes')}
            value={draft.kilobytes ?? ''}
            placeholder="2048"
            onChange={(e) => set({ kilobytes: number(e.currentTarget.value) })}
          />
        )}
        <Field
          as="select"
          id="field-profile"
          label={t('forms.field.profile')}
          value={draft.profile ?? 'hidden'}
          onChange={(e) => set({ profile: e.currentTarget.value })}
        >
          {(['hidden', 'shown', 'editable'] as const).map((one) => (
            <option key={one} value={one}>
              {t(`forms.profiles.${one}`)}
            </option>
          ))}
        </Field>
        {text('message', t('forms.field.messageHint'))}
        <InLanguages
          draft={draft}
          parts={['label', 'help', ...(kind === 'text' ? ['placeholder' as const] : []), 'message']}
          more={(language, words: Schemas['FieldWords'], say) =>
            draft.options?.map((option) => (
              <Field
                key={option.key}
                id={`in-${language}-${option.key}`}
                label={t('forms.languages.option', { option: option.label })}
                value={words.options?.[option.key ?? ''] ?? ''}
                placeholder={option.label ?? ''}
                onChange={(e) => {
                  const { [option.key ?? '']: _, ...others } = words.options ?? {};
                  say({ options: e.currentTarget.value ? { ...others, [option.key ?? '']: e.currentTarget.value } : others });
                }}
              />
            ))
          }
          set={(words) => set({ in: words })}
        />
        <p className="hint">
          {t('forms.field.key')} <code>{key}</code>
        </p>
        <div className="bar">
          {field && (
            <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
              {t('forms.field.remove')}
            </button>
          )}
          <button type="submit" className="btn prime" disabled={save.isPending}>
            {t('roles.save')}
          </button>
          <button type="button" className="btn" onClick={close}>
            {t('members.form.cancel')}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function Options({
  options,
  bad,
  set,
}: {
  options: Schemas['OptionDraft'][];
  bad: string | undefined;
  set: (options: Schemas['OptionDraft'][]) => void;
}) {
  const { t } = useTranslation();
  const [label, setLabel] = useState('');
  const add = () => {
    if (label.trim()) {
      set([
        ...options,
        {
          key: keyOf(
            label,
            options.map((one) => one.key ?? ''),
          ),
          label: label.trim(),
        },
      ]);
      setLabel('');
    }
  };
  return (
    <fieldset className="bare">
      <legend>{t('forms.field.options')}</legend>
      <ol className="options">
        {options.map((option, at) => (
          <li key={option.key}>
            <input
              className="field"
              aria-label={t('forms.field.option', { number: at + 1 })}
              value={option.label ?? ''}
              onChange={(e) => set(replaced(options, at, { ...option, label: e.currentTarget.value }))}
            />
            <Order
              name={option.label ?? ''}
              at={at}
              count={options.length}
              move={(to) => set(moved(options, at, to))}
              drop={() => set(without(options, at))}
            />
          </li>
        ))}
      </ol>
      <span className="adding">
        <input
          className="field"
          aria-label={t('forms.field.optionNew')}
          placeholder={t('forms.field.optionNew')}
          value={label}
          onChange={(e) => setLabel(e.currentTarget.value)}
          onKeyDown={(e) => {
            if (e.key === 'Enter') {
              e.preventDefault();
              add();
            }
          }}
        />
        <button type="button" className="btn" onClick={add}>
          {t('forms.field.optionAdd')}
        </button>
      </span>
      {bad && <p className="bad">{bad}</p>}
    </fieldset>
  );
}
