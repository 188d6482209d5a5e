import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { fileOf, ImportPasses } from './ImportPasses';
import { PassesPage } from './PassesPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const pass = {
  id: '0190aaaa-0000-7000-8000-000000000003',
  kind: 'frames',
  kindTitle: 'Calibration frames',
  name: 'frames-q7mkt',
  holder: 'Brookfield School',
  email: null,
  createdAt: '2026-11-27T10:00:00Z',
  from: null,
  until: null,
  withdrawnAt: null,
  standing: 'in-force',
  uses: 2,
  mostUses: 5,
  networks: 1,
  mostNetworks: null,
  lastUsedAt: '2026-11-27T10:00:00Z',
  oldUntil: null,
  order: null,
  version: 4,
  password: null,
  bits: null,
  text: null,
  fromText: null,
  untilText: null,
};
const fresh = { ...pass, password: 'amber-otter', bits: 66, text: 'This pass opens' };
const kinds = {
  body: { items: [{ key: 'frames', title: 'Calibration frames', members: 1, version: 1, builtIn: false, links: [] }], next: null },
};
const around = {
  'GET passes': { body: { items: [pass], next: null } },
  'GET pass-kinds': kinds,
  'POST passes': { status: 201, body: fresh },
  [`POST passes/${pass.id}/rotate`]: { body: fresh },
  [`POST passes/${pass.id}/withdraw`]: { body: { ...pass, standing: 'withdrawn' } },
};
const page = (
  <MeContext value={owner}>
    <PassesPage />
  </MeContext>
);

describe('passes', () => {
  it('say whose they are, how they stand and how often they were used', async () => {
    show(page, around, '/passes');
    expect(await screen.findByRole('button', { name: 'Brookfield School' })).toBeTruthy();
    expect(screen.getByText('2 / 5')).toBeTruthy();
    expect(screen.getByText('In force', { selector: '.state' })).toBeTruthy();
  });

  it('are made, and their password is told once', async () => {
    const calls = show(page, around, '/passes');
    await waitFor(() => expect((screen.getByRole('button', { name: 'Make a pass' }) as HTMLButtonElement).disabled).toBe(false));
    await userEvent.click(screen.getByRole('button', { name: 'Make a pass' }));
    await userEvent.type(screen.getByLabelText(/^For/), 'Hill School');
    await userEvent.type(screen.getByLabelText('Most uses'), '7');
    await userEvent.click(screen.getByRole('button', { name: 'Make it' }));
    expect(await screen.findByText('amber-otter')).toBeTruthy();
    expect(screen.getByText(/66 random bits/)).toBeTruthy();
    expect(JSON.parse(calls.find((c) => c.method === 'POST')?.body ?? '{}')).toEqual({
      kind: 'frames',
      holder: 'Hill School',
      name: null,
      email: null,
      from: null,
      until: null,
      mostUses: 7,
      mostNetworks: null,
      send: false,
    });
  });

  it('get another password, and are withdrawn', async () => {
    const calls = show(page, around, '/passes');
    await userEvent.click(await screen.findByRole('button', { name: 'Brookfield School' }));
    await userEvent.click(screen.getByRole('button', { name: 'New password' }));
    expect(await screen.findByText('amber-otter')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'I have noted it' }));
    await userEvent.click(screen.getByRole('button', { name: 'Brookfield School' }));
    await userEvent.click(screen.getByRole('button', { name: 'Withdraw' }));
    await waitFor(() => expect(calls.some((c) => c.path.endsWith('/withdraw'))).toBe(true));
  });

  it('say beside its field what is wrong', async () => {
    const refused = { status: 422, body: { code: 'pass-holder', detail: 'x', errors: [{ field: 'holder', message: 'Say whose it is.' }] } };
    show(page, { ...around, 'POST passes': refused }, '/passes');
    await waitFor(() => expect((screen.getByRole('button', { name: 'Make a pass' }) as HTMLButtonElement).disabled).toBe(false));
    await userEvent.click(screen.getByRole('button', { name: 'Make a pass' }));
    await userEvent.type(screen.getByLabelText(/^For/), 'x');
    await userEvent.click(screen.getByRole('button', { name: 'Make it' }));
    expect(await screen.findByText('Say whose it is.')).toBeTruthy();
  });

  it('come from a file, all or none, and are saved with their passwords', async () => {
    const faults = { stored: false, rows: 2, passes: [], faults: [{ line: 3, field: 'kind', message: 'There is no pass “x”.' }] };
    show(<ImportPasses close={() => {}} />, { 'POST passes/import': { body: faults } });
    await userEvent.upload(screen.getByLabelText('The file'), new File(['kind,holder\n'], 'a.csv', { type: 'text/csv' }));
    expect(await screen.findByText(/There is no pass/)).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Make them' }) as HTMLButtonElement).disabled).toBe(true);
    expect(fileOf([{ ...fresh, holder: 'A "B", C' }])).toContain('"frames-q7mkt","amber-otter","A ""B"", C"');
  });
});
