import { afterEach, describe, expect, it, vi } from 'vitest';
import { moment } from '../frame/dates';
import { nameOfLanguage } from '../frame/languages';
import { number } from '../frame/numbers';
import de from './de.json';
import en from './en.json';
import { choose, chosen, i18next, reader, speak } from './i18n';

type Words = { [key: string]: string | Words };

const all = (words: Words, before = ''): [string, string][] =>
  Object.entries(words).flatMap(([key, said]) => (typeof said === 'string' ? [[before + key, said]] : all(said, `${before}${key}.`)));
const values = (said: string) => [...said.matchAll(/\{\{?\w+\}?\}/g)].map(([value]) => value).sort();

afterEach(async () => {
  localStorage.clear();
  vi.unstubAllGlobals();
  await speak('en');
});

describe('the words of the console', () => {
  it('are the same in each language, with the same values and blanks at their ends', () => {
    const german = new Map(all(de));
    expect([...german.keys()].sort()).toEqual(
      all(en)
        .map(([key]) => key)
        .sort(),
    );
    for (const [key, said] of all(en)) {
      const other = german.get(key) ?? '';
      expect(values(other), key).toEqual(values(said));
      expect([other.startsWith(' '), other.endsWith(' '), other === ''], key).toEqual([
        said.startsWith(' '),
        said.endsWith(' '),
        said === '',
      ]);
    }
  });

  it('are all said somewhere', () => {
    const sources = import.meta.glob(['../**/*.ts', '../**/*.tsx', '!../**/*.test.*', '!../api/schema.d.ts'], {
      query: '?raw',
      import: 'default',
      eager: true,
    });
    const code = Object.values(sources as Record<string, string>).join('\n');
    const named = new Set([...code.matchAll(/['"`]([\w.-]+)['"`]/g)].map(([, name]) => name));
    const made = [...code.matchAll(/`([\w.-]*\.[\w.-]*)\$\{/g)].map(([, start]) => start ?? '');
    const idle = all(en)
      .map(([key]) => key)
      .filter((key) => !named.has(key.replace(/_(zero|one|other)$/, '')) && !made.some((start) => key.startsWith(start)));
    expect(made.length).toBeGreaterThan(20);
    expect(idle).toEqual([]);
  });

  it('are in the language that was chosen, else the first of the browser’s that we speak', async () => {
    vi.stubGlobal('navigator', { ...navigator, languages: ['fi-FI', 'de-AT', 'en'] });
    expect(chosen()).toBe('de');
    await choose('en');
    expect(chosen()).toBe('en');
    localStorage.setItem('wary-language', 'toString');
    expect(chosen()).toBe('de');
    vi.stubGlobal('navigator', { ...navigator, languages: ['fi'] });
    expect(chosen()).toBe('en');
  });

  it('are there in a browser that keeps nothing', async () => {
    const forbid = () => {
      throw new DOMException('forbidden', 'SecurityError');
    };
    vi.stubGlobal('localStorage', { getItem: forbid, setItem: forbid, clear: () => {} });
    vi.stubGlobal('navigator', { ...navigator, languages: ['de'] });
    expect(chosen()).toBe('de');
    await choose('de');
    expect(reader()).toBe('de');
  });

  it('bring dates, numbers and names of languages along, and the language of the page', async () => {
    await speak('de');
    expect([reader(), document.documentElement.lang]).toEqual(['de', 'de']);
    expect(i18next.t('rail.members')).toBe('Mitglieder');
    expect([number(1234567), nameOfLanguage('fr'), nameOfLanguage('not a tag')]).toEqual(['1.234.567', 'Französisch', 'not a tag']);
    expect(moment('2026-05-03T12:00:00Z')).toContain('2026');
    await speak('en');
    expect([number(1234567), nameOfLanguage('fr')]).toEqual(['1,234,567', 'French']);
  });
});
