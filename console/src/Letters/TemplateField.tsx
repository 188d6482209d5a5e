import { useLayoutEffect, useRef, useState } from 'react';
import { useTranslation } from 'react-i18next';
import type { Schemas } from '../api/client';

type Props = {
  id: string;
  label: string;
  value: string;
  bad: string | undefined;
  hint?: string;
  lines: number;
  variables: Schemas['LetterVariableView'][];
  readOnly: boolean;
  onChange: (value: string) => void;
};

/** What stands open before the caret: the part of a name after two braces; nothing where none is begun. */
const begun = (text: string) => /\{\{\s*([\w.]*)$/.exec(text)?.[1];

/** A part of a template. While a name is typed, those that fit are offered: arrows choose, Enter or Tab takes, Escape leaves. */
export function TemplateField({ id, label, value, bad, hint, lines, variables, readOnly, onChange }: Props) {
  const { t } = useTranslation();
  const field = useRef<HTMLTextAreaElement>(null);
  const [at, setAt] = useState<number>();
  const [chosen, setChosen] = useState(0);
  const [place, setPlace] = useState<number>();
  // The caret stands behind a name that was put in as soon as the name stands there: nothing that is typed meanwhile goes elsewhere.
  useLayoutEffect(() => {
    if (place !== undefined) {
      field.current?.focus();
      field.current?.setSelectionRange(place, place);
      setPlace(undefined);
    }
  }, [place]);
  const part = at === undefined ? undefined : begun(value.slice(0, at));
  const fitting = part === undefined ? [] : variables.filter((one) => one.name.startsWith(part));
  const put = (name: string) => {
    const caret = field.current?.selectionStart ?? value.length;
    const open = begun(value.slice(0, caret));
    const before = open === undefined ? `${value.slice(0, caret)}{{ ` : value.slice(0, caret - open.length);
    const after = value.slice(caret).replace(/^\s*\}\}/, '');
    onChange(`${before}${name} }}${after}`);
    setAt(undefined);
    setPlace(before.length + name.length + 3);
  };
  const beneath = [hint && `${id}-hint`, bad && `${id}-bad`].filter(Boolean).join(' ');
  return (
    <div className="template-field">
      <label className="name" htmlFor={id}>
        {label}
      </label>
      <textarea
        ref={field}
        id={id}
        className="field mono"
        rows={lines}
        spellCheck={false}
        readOnly={readOnly}
        value={value}
        aria-invalid={bad !== undefined}
        aria-describedby={beneath || undefined}
        aria-expanded={fitting.length > 0}
        aria-controls={`${id}-names`}
        aria-activedescendant={fitting.length > 0 ? `${id}-${chosen}` : undefined}
        role="combobox"
        aria-autocomplete="list"
        onChange={(e) => {
          onChange(lines === 1 ? e.currentTarget.value.replaceAll('\n', ' ') : e.currentTarget.value);
          setAt(e.currentTarget.selectionStart);
          setChosen(0);
        }}
        onBlur={() => setTimeout(() => setAt(undefined), 150)}
        onKeyDown={(e) => {
          if (fitting.length === 0) {
            return;
          }

          const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
          if (step) {
            e.preventDefault();
            setChosen((chosen + step + fitting.length) % fitting.length);
          } else if (e.key === 'Enter' || e.key === 'Tab') {
            e.preventDefault();
            put(fitting[chosen]?.name ?? '');
          } else if (e.key === 'Escape') {
            e.stopPropagation();
            setAt(undefined);
          }
        }}
      />
      <div className="offered" id={`${id}-names`} role="listbox" aria-label={t('words.names')} hidden={fitting.length === 0}>
        {fitting.map((one, line) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: keys are read where the text is typed
          <div
            key={one.name}
            id={`${id}-${line}`}
            role="option"
            aria-selected={line === chosen}
            tabIndex={-1}
            onClick={() => put(one.name)}
          >
            <code>{one.name}</code> {one.about}
          </div>
        ))}
      </div>
      {hint && (
        <p className="hint" id={`${id}-hint`}>
          {hint}
        </p>
      )}
      {bad && (
        <p className="bad" id={`${id}-bad`}>
          {bad}
        </p>
      )}
      {lines > 1 && !readOnly && (
        <p className="names">
          {variables.map((one) => (
            <button key={one.name} type="button" className="chip" title={one.about} onClick={() => put(one.name)}>
              {one.name}
              {one.needed && <em> {t('words.needed')}</em>}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}
