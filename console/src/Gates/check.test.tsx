import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import { SharedPasswords } from '../Passwords/SharedPasswords';
import { SweepPage } from '../Sweep/SweepPage';
import { show } from '../setupRender';
import { audienceOf, rowsOf } from './draft';
import { HistoryPage } from './HistoryPage';
import { SettingsPage } from './SettingsPage';
import { UndoButton } from './UndoButton';

const finding = {
  kind: 'listed',
  isLeak: true,
  address: '/products.json',
  item: null,
  as: 'guest',
  via: 'public',
  gate: null,
  what: 'It names what is hidden.',
  mend: 'Guard /products.json with a gate.',
};
const report = {
  id: '1',
  startedAt: '2026-05-03T00:00:00Z',
  lettersGivenUp: 0,
  endedAt: '2026-05-03T00:00:02Z',
  by: 'me',
  site: 'http://s',
  origin: null,
  cache: null,
  as: ['guest'],
  addresses: 95,
  guarded: 38,
  requests: 190,
  leftOut: 3,
  leaks: 1,
  closed: 1,
  missing: 0,
  findings: [
    finding,
    { ...finding, as: 'signed-in' },
    { ...finding, kind: 'closed', isLeak: false, address: '/shop/books', what: 'It is closed to them.', mend: 'Look at /shop/books.' },
    { ...finding, kind: 'closed', isLeak: false, address: '/shop/mounts', what: 'It is closed to them.', mend: 'Look at /shop/mounts.' },
  ],
};

describe('the sweep', () => {
  it('tells what leaks, to whom, and how to mend it', async () => {
    show(<SweepPage />, {
      'GET viewpoints': { body: [] },
      'GET sweeps': { body: { items: [report], next: null } },
      'GET sweeps/1': { body: report },
    });
    expect(await screen.findByRole('heading', { name: 'One leak' })).toBeTruthy();
    expect(screen.getByText('3 addresses were left out of this sweep.')).toBeTruthy();
    const leak = screen.getByText('It names what is hidden.').closest('li') as HTMLElement;
    expect(within(leak).getByText('guest, signed-in')).toBeTruthy();
    expect(within(leak).getByRole('link', { name: 'Add a gate for it' }).getAttribute('href')).toBe(
      '/gates/new?covers=path%3A%2Fproducts.json',
    );
    const closed = screen.getByText('It is closed to them.').closest('li') as HTMLElement;
    expect(closed.textContent).toContain('Look at them.');
    expect(closed.textContent).toContain('/shop/mounts');
  });

  it('goes over time, and each of before can be read', async () => {
    const past = [0, 0, 3].map((leaks, n) => ({ ...report, id: `s${n}`, leaks, endedAt: `2026-05-0${5 - n}T10:00:00Z` }));
    show(<SweepPage />, {
      'GET viewpoints': { body: [] },
      'GET sweeps': { body: { items: past, next: null } },
      'GET sweeps/s0': { body: { ...report, leaks: 0, findings: [], leftOut: 0 } },
      'GET sweeps/s2': { body: { ...report, leaks: 3 } },
    });
    expect(await screen.findByRole('heading', { name: 'Nothing leaks' })).toBeTruthy();
    expect(screen.getByText('Nothing has leaked since May 4, 2026: 2 sweeps in a row.')).toBeTruthy();
    const bars = within(screen.getByRole('region', { name: 'Over time' })).getAllByRole('button');
    expect(bars.map((bar) => bar.textContent)).toEqual(['3', '0', '0']);
    await userEvent.click(bars[0] as HTMLElement);
    expect(await screen.findByRole('heading', { name: '3 leaks' })).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Back to the newest' }));
    expect(await screen.findByRole('heading', { name: 'Nothing leaks' })).toBeTruthy();
  });

  it('runs with what was chosen and says why it could not', async () => {
    const calls = show(<SweepPage />, {
      'GET viewpoints': { body: [{ key: 'role:dealer', title: 'Dealers', kind: 'role' }] },
      'GET sweeps': { body: { items: [], next: null } },
      'POST sweeps': { body: { stage: 'failed', done: 0, total: 0, leaks: 0, detail: 'A sweep is running already.' } },
    });
    expect(await screen.findByText('No sweep has run yet')).toBeTruthy();
    await userEvent.click(await screen.findByLabelText('Dealers'));
    await userEvent.click(screen.getByText('Around the service, pace, browser'));
    await userEvent.type(screen.getByLabelText('A page cache in front'), 'http://cache');
    await userEvent.click(screen.getByRole('button', { name: 'Run the sweep' }));
    expect(await screen.findByText('A sweep is running already.')).toBeTruthy();
    const sent = JSON.parse(calls.find((call) => call.method === 'POST')?.body ?? '{}');
    expect(sent).toEqual({ as: ['role:dealer'], origin: null, cache: 'http://cache', atOnce: null, draw: null });
  });

  it('goes on with one that was broken off, and not once things have changed', async () => {
    const left = { startedAt: '2026-05-03T10:00:00Z', by: 'juniper', notes: 40, isRunning: false, canResume: true };
    const calls = show(<SweepPage />, {
      'GET viewpoints': { body: [] },
      'GET sweeps': { body: { items: [report], next: null } },
      'GET sweeps/1': { body: { ...report, drawn: 2, undrawn: 3 } },
      'GET sweeps/unfinished': { body: left },
      'POST sweeps': { body: { stage: 'done', done: 1, total: 1, leaks: 0 } },
    });
    expect(await screen.findByText(/was broken off after 40 steps/)).toBeTruthy();
    expect(await screen.findByText('2 pages were drawn in a browser; 3 more have scripts.')).toBeTruthy();
    left.canResume = false;
    await userEvent.click(screen.getByRole('button', { name: 'Go on with it' }));
    expect(JSON.parse(calls.find((call) => call.method === 'POST')?.body ?? '{}')).toEqual({ resume: true });
    expect(await screen.findByText(/have changed since/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Go on with it' })).toBeNull();
  });
});

describe('the changes', () => {
  it('read as a difference, or as what became of it', async () => {
    show(<HistoryPage />, {
      'GET history': {
        body: {
          items: [
            {
              id: 2,
              at: '2026-05-03T10:00:00Z',
              by: 'juniper',
              action: 'gate.set',
              subject: 'vault',
              before: 'a',
              after: 'b',
              changes: [
                { field: 'audience', before: 'password', after: 'role:dealer' },
                { field: 'until', before: null, after: '2027' },
              ],
            },
            {
              id: 1,
              at: '2026-05-03T09:00:00Z',
              by: 'juniper',
              action: 'gate.add',
              subject: 'vault',
              before: null,
              after: 'Only holders may.',
              changes: [],
            },
          ],
          next: null,
        },
      },
    });
    expect(await screen.findByText('Changed a gate')).toBeTruthy();
    expect(document.querySelector('del')?.textContent).toBe('password');
    expect(document.querySelector('ins')?.textContent).toBe('role:dealer');
    expect(screen.getByText('Only holders may.')).toBeTruthy();
  });

  it('are taken back, or it is said why not', async () => {
    const done = vi.fn();
    show(<UndoButton gate="vault" done={done} />, {
      'POST gates/vault/undo': { status: 404, body: { detail: 'No change is on record.', code: 'nothing-to-undo', errors: [] } },
    });
    await userEvent.click(screen.getByRole('button', { name: 'Undo the last change' }));
    expect((await screen.findByRole('alert')).textContent).toBe('No change is on record.');
    expect(done).not.toHaveBeenCalled();
  });
});

describe('the settings', () => {
  const settings = {
    siteName: 'Fernlight',
    staffPasses: true,
    presence: 'listed',
    paths: {},
    look: {},
    prompt: null,
    crawlers: [{ name: 'moonbot', hosts: ['crawl.moon.example'], ranges: ['2001:db8::/32'] }],
    sweep: { everyHours: 0, as: null, alertTo: null },
    letters: { signIn: false, codes: false, noticesTo: null, hold: false },
    joining: { way: 'closed', confirm: true },
    version: 4,
  };

  it('are sent as they stand, with the version that was read', async () => {
    const calls = show(<SettingsPage />, { 'GET settings': { body: settings }, 'PUT settings': { body: { ...settings, version: 5 } } });
    await userEvent.type(await screen.findByLabelText('Heading'), 'For friends');
    await userEvent.selectOptions(screen.getByLabelText('In listings, what is guarded'), 'hidden');
    await userEvent.click(screen.getByRole('button', { name: 'Save the settings' }));
    const put = calls.find((call) => call.method === 'PUT');
    expect(put?.headers.get('If-Match')).toBe('"4"');
    const sent = JSON.parse(put?.body ?? '{}');
    expect(sent.prompt.heading).toBe('For friends');
    expect(sent.presence).toBe('hidden');
    expect(sent.crawlers).toEqual(settings.crawlers);
  });

  it('tell a fault beside its field', async () => {
    show(<SettingsPage />, {
      'GET settings': { body: settings },
      'PUT settings': {
        status: 422,
        body: { detail: 'x', code: 'settings-invalid', errors: [{ field: 'sweep.alertTo', message: 'That is no e-mail address.' }] },
      },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Save the settings' }));
    expect(await screen.findByText('That is no e-mail address.')).toBeTruthy();
  });
});

describe('a password that was made', () => {
  it('is told once, with words to copy', async () => {
    const made = { id: '1', gate: 'vault', label: 'Club', text: 'Password: abcd-efgh', password: 'abcd-efgh' };
    const calls = show(<SharedPasswords gate="vault" />, {
      'GET passwords': { body: { items: [], next: null } },
      'POST passwords': { status: 201, body: made },
    });
    await userEvent.type(await screen.findByLabelText('For whom'), 'Club');
    await userEvent.type(screen.getByLabelText('Most uses'), '5');
    await userEvent.click(screen.getByRole('button', { name: 'Make a strong password' }));
    expect(await screen.findByText('Password: abcd-efgh')).toBeTruthy();
    const sent = JSON.parse(calls.find((call) => call.method === 'POST')?.body ?? '{}');
    expect(sent).toEqual({
      gate: 'vault',
      label: 'Club',
      password: null,
      from: null,
      until: null,
      mostUses: 5,
      asked: null,
      tell: null,
      forOrders: false,
    });
    await userEvent.click(screen.getByRole('button', { name: 'Done' }));
    expect(screen.queryByText('Password: abcd-efgh')).toBeNull();
  });
});

describe('rows of an audience', () => {
  it('are read from text without brackets and written back the same', () => {
    for (const text of ['role:a', 'role:a and not guest or plan:b', 'nobody', 'network:10.2.0.0/16 or member:a@b.example']) {
      expect(audienceOf(rowsOf(text) ?? [])).toBe(text);
    }
  });

  it('are not guessed where brackets stand', () => {
    expect(rowsOf('(role:a or role:b) and guest')).toBeNull();
    expect(rowsOf('role:a and')).toBeNull();
    expect(audienceOf([[], []])).toBe('nobody');
  });
});
