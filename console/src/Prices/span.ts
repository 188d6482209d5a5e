import type { TFunction } from 'i18next';
import { day, lastDay } from '../frame/dates';

/** Since when and until when something counts, as lists say it. */
export function span(t: TFunction, { from, until }: { from: string | null; until: string | null }): string {
  if (from && until) {
    return t('prices.span.both', { from: day(from), until: lastDay(until) });
  }

  return from
    ? t('prices.span.from', { from: day(from) })
    : until
      ? t('prices.span.until', { until: lastDay(until) })
      : t('prices.span.always');
}
