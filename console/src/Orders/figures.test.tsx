import { screen } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { addedUp, FiguresPage, monthsOf } from './FiguresPage';

const row = (month: string, what: string, sales: number, salesAmount: string, refunds = 0, refundsAmount = '0.00') => ({
  month,
  what,
  title: what === 'plan:patron' ? 'Patron' : 'Atlas',
  currency: 'EUR',
  sales,
  salesAmount,
  renewals: 0,
  renewalsAmount: '0.00',
  refunds,
  refundsAmount,
  lapses: 1,
});
const rows = [
  row('2026-10', 'plan:patron', 2, '98.00'),
  row('2026-11', 'plan:patron', 1, '49.10', 1, '0.05'),
  row('2026-11', 'bought:a', 1, '19.00'),
];

describe('figures', () => {
  it('add up to the unit, the largest first', () => {
    const sums = addedUp(rows);
    expect(sums.map((one) => [one.title, one.sales, one.salesAmount, one.refundsAmount, one.net])).toEqual([
      ['Patron', 3, '147.10', '0.05', 14705],
      ['Atlas', 1, '19.00', '0.00', 1900],
    ]);
    const yen = { ...row('2026-11', 'plan:patron', 1, '900'), currency: 'JPY', refundsAmount: '0', renewalsAmount: '0' };
    expect(addedUp([yen, yen])[0]?.salesAmount).toBe('1800');
    const none = { ...yen, currency: null, salesAmount: null, renewalsAmount: null, refundsAmount: null };
    expect(addedUp([none, none])[0]?.salesAmount).toBeNull();
  });

  it('know their months across the turn of the year', () => {
    const now = new Date(2026, 1, 14);
    expect(monthsOf('12', now)).toEqual({ from: '2025-03' });
    expect(monthsOf('last', now)).toEqual({ from: '2025-01', until: '2025-12' });
    expect(monthsOf('all', now)).toEqual({});
  });

  it('say what is about to lapse and what it is worth', async () => {
    const soon = [{ what: 'plan:patron', title: 'Patron', currency: 'EUR', members: 3, amount: '147.00' }];
    show(<FiguresPage />, { 'GET orders/figures': { body: { rows, days: 30, soon } } }, '/figures');
    expect(await screen.findByText(/Patron lapses for 3 members, who last paid €147.00 together/)).toBeTruthy();
    expect(screen.getByText('€147.05')).toBeTruthy();
    expect(screen.getAllByRole('rowheader').map((head) => head.textContent)).toEqual(['Patron', 'Atlas', '2026-10', '2026-11']);
    expect(screen.getByRole('link', { name: 'As CSV' }).getAttribute('href')).toContain('figures.csv?from=');
  });

  it('say so where there is nothing yet', async () => {
    show(<FiguresPage />, { 'GET orders/figures': { body: { rows: [], days: 30, soon: [] } } }, '/figures');
    expect(await screen.findByText('No orders in these months')).toBeTruthy();
    expect(screen.getByText('Nothing by order lapses within 30 days.')).toBeTruthy();
  });
});
