import { reader } from '../words/i18n';

/** A day as lists show it. */
export const day = (moment: string) => new Date(moment).toLocaleDateString(reader(), { dateStyle: 'medium' });

/** The last day that counts, of an end that is the beginning of the next. */
export const lastDay = (until: string) => day(new Date(new Date(until).getTime() - 1).toISOString());

/** A moment as pages show it. */
export const moment = (at: string) => new Date(at).toLocaleString(reader(), { dateStyle: 'medium', timeStyle: 'short' });
