import { reader } from '../words/i18n';

/** A number as those who read the console write it. */
export const number = (many: number) => many.toLocaleString(reader());
