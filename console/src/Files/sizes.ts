import { reader } from '../words/i18n';

const units = ['byte', 'kilobyte', 'megabyte', 'gigabyte'] as const;

/** How large a file is, in units of a thousand (IEC 80000-13), as readers of the page's language write it. */
export function sizeOf(bytes: number): string {
  let [at, size] = [0, bytes];
  while (size >= 999.5 && at < units.length - 1) {
    [at, size] = [at + 1, size / 1000];
  }

  return new Intl.NumberFormat(reader(), {
    style: 'unit',
    unit: units[at],
    unitDisplay: at === 0 ? 'long' : 'short',
    maximumFractionDigits: at === 0 || size >= 99.5 ? 0 : 1,
  }).format(size);
}
