import { reader } from '../words/i18n';

/** What a language is called by those who read the console; its tag where nobody knows it. */
export function nameOfLanguage(tag: string): string {
  try {
    return new Intl.DisplayNames(reader(), { type: 'language', fallback: 'code' }).of(tag) ?? tag;
  } catch {
    return tag;
  }
}
