import { useTranslation } from 'react-i18next';
import type { Schemas } from '../../api/client';
import { Field } from '../../frame/Field';
import { replaced, type Section } from './draft';

type Said = Schemas['SectionWords'];
type InAll = Schemas['FormDraft']['in'];

/** Headings and lines of a form's sections in another language. Sections that say nothing themselves have none. */
export function SectionWords({
  language,
  sections,
  words,
  set,
}: {
  language: string;
  sections: Section[];
  words: Said[];
  set: (words: Said[]) => void;
}) {
  const { t } = useTranslation();
  const all = sections.map((_, at) => words[at] ?? { title: null, lead: null });
  return sections.map((section, at) =>
    (['title', 'lead'] as const)
      .filter((part) => section[part] || all[at]?.[part])
      .map((part) => (
        <Field
          key={`${at}-${part}`}
          id={`in-${language}-section-${at}-${part}`}
          label={t(`forms.languages.section.${part}`, { number: at + 1 })}
          value={all[at]?.[part] ?? ''}
          placeholder={section[part] ?? ''}
          onChange={(e) => set(replaced(all, at, { title: null, lead: null, ...all[at], [part]: e.currentTarget.value || null }))}
        />
      )),
  );
}

/** The words of sections in all languages, each where its section stands now. */
export const wordsMoved = (all: InAll, from: (number | undefined)[]): InAll =>
  all &&
  Object.fromEntries(
    Object.entries(all).map(([tag, words]) => [
      tag,
      words.sections
        ? { ...words, sections: from.map((at) => (at === undefined ? undefined : words.sections?.[at]) ?? { title: null, lead: null }) }
        : words,
    ]),
  );
