import type { Gate, GateDraft } from '../api/client';

/** A gate as it is being written. */
export type Draft = Required<{ [K in keyof GateDraft]: GateDraft[K] }>;

export const fresh: Draft = {
  key: null,
  title: '',
  covers: [],
  reach: 'branch',
  kind: 'requirement',
  audience: 'signed-in',
  acts: ['open', 'price', 'buy', 'download', 'listen'],
  presence: 'default',
  answer: 'auto',
  message: null,
  redirectTo: null,
  from: null,
  until: null,
  enabled: true,
  unlockFor: 'P14D',
  prompt: null,
  link: null,
  rotation: null,
  basic: 'no',
};

/** The draft that says what a gate says. */
export function draftOf(gate: Gate): Draft {
  const { key, title, covers, reach, kind, audience, acts, presence, answer, message, redirectTo, enabled, unlockFor, basic } = gate;
  // Dates as people type them, in the zone of the site.
  const { prompt, link, rotation, fromText: from = null, untilText: until = null } = gate;
  return {
    key,
    title,
    covers,
    reach,
    kind,
    audience,
    acts,
    presence,
    answer,
    message,
    redirectTo,
    from,
    until,
    enabled,
    unlockFor,
    prompt,
    link,
    rotation,
    basic,
  };
}

/** The atoms of an audience that is a plain any-of list, or null for one that is more. */
export function anyOf(audience: string): string[] | null {
  const parts = audience.trim().split(/\s+or\s+/);
  return parts.every((part) => /^[a-z-]+(:[^\s()]+)?$/.test(part) && !['and', 'not', 'or'].includes(part)) ? parts : null;
}

/** The audience with an atom put in or taken out. Taking the last one out leaves nobody. */
export function toggled(atoms: string[], atom: string, on: boolean): string {
  const single = ['anyone', 'nobody'];
  const kept = atoms.filter((a) => a !== atom && !single.includes(a));
  const next = single.includes(atom) ? (on ? [atom] : kept) : on ? [...kept, atom] : kept;
  return next.length === 0 ? 'nobody' : next.join(' or ');
}

/** One term of a row: an atom, or its contrary. */
export type Term = { not: boolean; atom: string };

/** An audience as rows of which any admits; null where brackets stand in it. */
export function rowsOf(audience: string): Term[][] | null {
  if (/[()]/.test(audience) || audience.trim() === '') {
    return null;
  }

  const rows = audience
    .trim()
    .split(/\s+or\s+/)
    .map((row) => row.split(/\s+and\s+/).map(termOf));
  return rows.every((row) => row.every((term) => /^[a-z-]+(:\S+)?$/.test(term.atom))) ? rows : null;
}

/** A term as it is written. */
export function termOf(text: string): Term {
  const not = text.trim().startsWith('not ');
  return { not, atom: not ? text.trim().slice(4).trim() : text.trim() };
}

/** Rows as an audience. Without any row it admits nobody. */
export function audienceOf(rows: Term[][]): string {
  const kept = rows.filter((row) => row.length > 0);
  return kept.length === 0
    ? 'nobody'
    : kept.map((row) => row.map((term) => (term.not ? `not ${term.atom}` : term.atom)).join(' and ')).join(' or ');
}
