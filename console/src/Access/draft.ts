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
  presence: 'listed',
  answer: 'auto',
  message: null,
  redirectTo: null,
  from: null,
  until: null,
  enabled: true,
  unlockFor: 'P14D',
};

/** The draft that says what a gate says. */
export function draftOf(gate: Gate): Draft {
  const { key, title, covers, reach, kind, audience, acts, presence, answer, message, redirectTo, from, until, enabled, unlockFor } = gate;
  return { key, title, covers, reach, kind, audience, acts, presence, answer, message, redirectTo, from, until, enabled, unlockFor };
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
