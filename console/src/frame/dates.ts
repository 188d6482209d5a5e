import { reader } from '../words/i18n';

/** A day as lists show it. */
export const day = (moment: string) => new Date(moment).toLocaleDateString(reader(), { dateStyle: 'medium' });

/** The last day that counts, of an end that is the beginning of the next. */
export const lastDay = (until: string) => day(new Date(new Date(until).getTime() - 1).toISOString());

/** A moment as pages show it. */
export const moment = (at: string) => new Date(at).toLocaleString(reader(), { dateStyle: 'medium', timeStyle: 'short' });

/** A day that was typed, or the day of a moment that was, as lists show it: in whatever zone it was typed, it is that day. */
export const dayOf = (typed: string) =>
  new Date(`${typed.slice(0, 10)}T12:00:00Z`).toLocaleDateString(reader(), { dateStyle: 'medium', timeZone: 'UTC' });
