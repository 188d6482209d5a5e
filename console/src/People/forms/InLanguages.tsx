import { type ReactNode, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Field } from '../../frame/Field';
import { nameOfLanguage } from '../../frame/languages';

type Words = { [part: string]: unknown };
type All = { [language: string]: Words };

/** Words in other languages; what is left empty stays in the site's own. */
export function InLanguages<T extends string>({
  draft,
  parts,
  long = [],
  more,
  set,
}: {
  draft: object & { in?: unknown };
  parts: T[];
  /** Those of them that are more than a line. */
  long?: T[];
  /** What there is to say in a language besides. */
  // biome-ignore lint/suspicious/noExplicitAny: fields and forms each have words of their own, and the same editor
  more?: (language: string, words: any, set: (words: Words) => void) => ReactNode;
  // biome-ignore lint/suspicious/noExplicitAny: fields and forms each have words of their own, and the same editor
  set: (words: any) => void;
}) {
  const { t } = useTranslation();
  const [language, setLanguage] = useState('');
  const all = (draft.in ?? {}) as All;
  const change = (next: All) => set(Object.keys(next).length > 0 ? next : null);
  return (
    <details className="languages">
      <summary>{t('forms.languages.title', { count: Object.keys(all).length })}</summary>
      {Object.entries(all).map(([tag, words]) => (
        <fieldset key={tag} className="bare">
          <legend>
            {nameOfLanguage(tag)} <code>{tag}</code>
          </legend>
          {parts.map((part) => (
            <Field
              key={part}
              as={long.includes(part) ? 'textarea' : 'input'}
              id={`in-${tag}-${part}`}
              label={t(`forms.words.${part}`)}
              value={String(words[part] ?? '')}
              placeholder={String((draft as Words)[part] ?? '')}
              // biome-ignore lint/suspicious/noExplicitAny: an input and a textarea tell alike
              onChange={(e: any) => change({ ...all, [tag]: { ...words, [part]: e.currentTarget.value || null } })}
            />
          ))}
          {more?.(nameOfLanguage(tag), words, (other) => change({ ...all, [tag]: { ...words, ...other } }))}
          <button
            type="button"
            className="link"
            onClick={() => change(Object.fromEntries(Object.entries(all).filter(([other]) => other !== tag)))}
          >
            {t('forms.languages.drop', { language: nameOfLanguage(tag) })}
          </button>
        </fieldset>
      ))}
      <span className="adding">
        <input
          className="field"
          aria-label={t('forms.languages.tag')}
          placeholder="de"
          value={language}
          onChange={(e) => setLanguage(e.currentTarget.value)}
        />
        <button
          type="button"
          className="btn"
          onClick={() => {
            if (language.trim() && !(language.trim() in all)) {
              change({ ...all, [language.trim()]: {} });
              setLanguage('');
            }
          }}
        >
          {t('forms.languages.add')}
        </button>
      </span>
    </details>
  );
}
