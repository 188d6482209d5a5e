import type { Schemas } from '../../api/client';

export type FieldDraft = Schemas['FieldDraft'];
export type FormDraft = Schemas['FormDraft'];
export type Section = Schemas['SectionDraft'];
export type Placed = Schemas['PlacedDraft'];
export type Condition = Schemas['ConditionDraft'];
export type FormGrant = Schemas['FormGrantDraft'];

export const kinds = [
  'text',
  'long-text',
  'one-of',
  'several-of',
  'yes-no',
  'number',
  'date',
  'country',
  'phone',
  'address',
  'url',
  'file',
  'consent',
] as const;

/** Kinds whose answer can be compared with values. */
const compared = ['text', 'one-of', 'several-of', 'yes-no', 'number', 'date', 'country', 'consent'];

/** What can be asked of a field in a condition. */
export const asksOf = (field: FieldDraft | undefined): ('is' | 'not-is' | 'given' | 'missing' | 'least' | 'most')[] => [
  ...(compared.includes(field?.kind ?? 'text') ? (['is', 'not-is'] as const) : []),
  'given',
  'missing',
  ...(['number', 'date'].includes(field?.kind ?? '') ? (['least', 'most'] as const) : []),
];

export const askOf = (condition: Condition) =>
  condition.not?.is
    ? 'not-is'
    : condition.is
      ? 'is'
      : condition.given === true
        ? 'given'
        : condition.given === false
          ? 'missing'
          : condition.atLeast != null
            ? 'least'
            : 'most';

/** A condition on one field; another ask keeps the values where it can. */
export const asking = (field: string, ask: string, values: string[]): Condition => {
  switch (ask) {
    case 'is':
      return { field, is: values };
    case 'not-is':
      return { not: { field, is: values } };
    case 'given':
      return { field, given: true };
    case 'missing':
      return { field, given: false };
    case 'least':
      return { field, atLeast: values[0] ?? '' };
    default:
      return { field, atMost: values[0] ?? '' };
  }
};

/** The field that a row of a condition looks at. */
export const fieldOf = (condition: Condition) => condition.field ?? condition.not?.field ?? '';

/** The values that a row compares with. */
export const valuesOf = (condition: Condition): string[] =>
  condition.is ?? condition.not?.is ?? [condition.atLeast ?? condition.atMost].filter((one) => one != null);

/** Whether the editor's rows can show it: one field, alone or turned round. */
export const isRow = (condition: Condition) => condition.field != null || condition.not?.is != null;

export const keyOf = (label: string, taken: string[]) => {
  const base =
    label
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 40) || 'field';
  for (let n = 1; ; n++) {
    const key = n === 1 ? base : `${base}-${n}`;
    if (!taken.includes(key)) {
      return key;
    }
  }
};

export const replaced = <T>(all: readonly T[], at: number, one: T) => all.map((old, n) => (n === at ? one : old));
export const without = <T>(all: readonly T[], at: number) => all.filter((_, n) => n !== at);
