import { screen, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { TodayPage } from './TodayPage';

const today = {
  needs: [
    { kind: 'pending', count: 1 },
    { kind: 'leaks', count: 3 },
    { kind: 'orders', count: 2 },
  ],
  joined: 12,
  ends: [{ member: 'm1', name: 'Ada', fact: 'plan:year', title: 'Year', until: '2026-12-02T00:00:00Z' }],
  endsInAll: 9,
  nextStep: null,
  figures: {
    at: ['2026-10-01T00:00:00Z', '2026-11-01T00:00:00Z', '2026-11-29T00:00:00Z'],
    members: [900, 1000, 1234],
    held: [{ fact: 'plan:year', title: 'Year', counts: [1, 20, 300] }],
  },
};
const around = (change = {}) => ({ 'GET today': { body: { ...today, ...change } }, 'GET history': { body: { items: [], next: null } } });
const part = async (name: string) => within(await screen.findByRole('region', { name }));

describe('today', () => {
  it('says what needs a hand, each with where that is done', async () => {
    show(<TodayPage />, around());
    const needs = await part('Needs a hand');
    const to = (words: string) => needs.getByText(words).getAttribute('href');
    expect(to('One waits to be let in')).toBe('/members?status=pending');
    expect(to('The last sweep found 3 leaks')).toBe('/sweep');
    expect(to('2 orders wait for you')).toBe('/orders?handling=waiting');
    expect(to('12 joined this week')).toBe('/members?joined=7&sort=-joined');
    expect(needs.queryByText(/^Nothing needs a hand/)).toBeNull();
  });

  it('says whose plan ends on which last day, and how many more', async () => {
    show(<TodayPage />, around());
    const ends = await part('Ends this week');
    expect(ends.getByText('Ada').getAttribute('href')).toBe('/members/m1');
    expect(ends.getByText(/^Year, on .*1/)).toBeTruthy();
    expect(ends.getByText('and 8 more')).toBeTruthy();
  });

  it('has words where nothing does', async () => {
    show(<TodayPage />, around({ needs: [], ends: [], endsInAll: 0, joined: 0 }));
    expect((await part('Needs a hand')).getByText(/^Nothing needs a hand/)).toBeTruthy();
    expect((await part('Needs a hand')).getByText('Nobody joined this week')).toBeTruthy();
    expect((await part('Ends this week')).getByText('Nothing ends this week.')).toBeTruthy();
  });

  it('gives the figures as a table, too, with now as its last month', async () => {
    show(<TodayPage />, around());
    const figures = await part('Members over time');
    const rows = figures.getAllByRole('row', { hidden: true }).map((row) => [...row.children].map((cell) => cell.textContent));
    expect(rows).toEqual([
      ['Month', 'Oct 26', 'Nov 26', 'now'],
      ['All accounts', '900', '1,000', '1,234'],
      ['Year', '1', '20', '300'],
    ]);
  });

  it.each([
    ['setup', '/set-up'],
    ['items', '/catalogue'],
    ['gates', '/gates/new'],
    ['members', '/members/import'],
    ['sweep', '/sweep'],
  ])('leads a new site to its next step: %s', async (step, path) => {
    show(<TodayPage />, around({ nextStep: step }));
    const next = await part('Next step');
    expect(next.getByRole('link').getAttribute('href')).toBe(path);
    expect(next.getByRole('link').textContent?.length).toBeGreaterThan(5);
  });

  it('says that it could not be read, and lets one try again', async () => {
    show(<TodayPage />, { 'GET today': { status: 503, body: { detail: 'The database is away.', code: 'store-away', errors: [] } } });
    expect(await screen.findByText('The database is away.')).toBeTruthy();
    expect(screen.getByRole('button')).toBeTruthy();
  });
});
