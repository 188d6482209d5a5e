import i18next from 'i18next';
import { initReactI18next } from 'react-i18next';
import en from './en.json';

/** The languages that the console speaks, as each calls itself. English is always there; the others are loaded when they are read. */
export const spoken = { en: 'English', de: 'Deutsch' } as const;
export type Tongue = keyof typeof spoken;

const others: Record<Exclude<Tongue, 'en'>, () => Promise<{ default: object }>> = { de: () => import('./de.json') };
const kept = 'wary-language';

void i18next.use(initReactI18next).init({
  lng: 'en',
  fallbackLng: 'en',
  resources: { en: { translation: en } },
  interpolation: { escapeValue: false },
  keySeparator: '.',
  showSupportNotice: false,
});

/** What this browser keeps, where it keeps anything: some forbid it. */
const remembered = () => {
  try {
    return localStorage.getItem(kept) ?? '';
  } catch {
    return '';
  }
};

const isSpoken = (tag: string): tag is Tongue => Object.hasOwn(spoken, tag);

/** The language that is read now. */
export const reader = () => i18next.language as Tongue;

/** The language that was chosen in this browser, else the first that the browser asks for and the console speaks, else English. */
export function chosen(): Tongue {
  const asked = [remembered(), ...navigator.languages].map((tag) => tag.split('-', 1)[0]?.toLowerCase() ?? '');
  return asked.find(isSpoken) ?? 'en';
}

/** From here on everything is said in that language, by the service too, which reads it from the page. Where its words do not come, the language stays. */
export async function speak(language: Tongue) {
  if (language !== 'en' && !i18next.hasResourceBundle(language, 'translation')) {
    i18next.addResourceBundle(language, 'translation', (await others[language]()).default);
  }

  document.documentElement.lang = language;
  await i18next.changeLanguage(language);
}

/** The same, and remembered in this browser. */
export async function choose(language: Tongue) {
  await speak(language);
  try {
    localStorage.setItem(kept, language);
  } catch {
    // It holds until the page is left.
  }
}

export { i18next };
