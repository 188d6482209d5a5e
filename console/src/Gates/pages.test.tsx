import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { ViewpointPage } from '../Access/ViewpointPage';
import type { Effect } from '../api/client';
import { SharedPasswords } from '../Passwords/SharedPasswords';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { BoardPage } from './BoardPage';
import { EffectPanel } from './EffectPanel';
import { GatePage } from './GatePage';
import { GatesPage } from './GatesPage';

const gate = {
  key: 'dealer-stock',
  title: 'Dealer stock',
  kind: 'requirement',
  covers: ['category:dealer-stock'],
  reach: 'branch',
  audience: 'role:dealer',
  acts: ['open'],
  presence: 'hidden',
  answer: 'auto',
  message: null,
  redirectTo: null,
  from: null,
  until: null,
  enabled: true,
  inForce: true,
  unlockFor: 'P14D',
  prompt: null,
  link: null,
  rotation: null,
  basic: 'no',
  audienceRows: [['role:dealer']],
  version: 3,
  sentence: 'Dealer stock: only dealers may open it.',
  parts: [
    { edits: 'covers', text: 'Dealer stock' },
    { edits: null, text: ': only ' },
    { edits: 'audience', text: 'dealers' },
    { edits: null, text: ' may open it.' },
  ],
};

const effect: Effect = {
  itemsClosing: 9,
  itemsOpening: 0,
  membersLosing: 1,
  membersGaining: 0,
  membersKeeping: 43,
  losingNames: ['Nell Orchard'],
  gainingNames: [],
  elsewhere: [{ id: 'product:barlow', title: 'Barlow lens' }],
  rows: [
    {
      item: 'category:x',
      title: 'Dealer eyepieces',
      alsoBeneath: 4,
      forWhom: ['Guest', 'Member'],
      before: 'open',
      after: 'hidden',
      gained: [],
      lost: ['open'],
    },
    { item: 'product:y', title: 'A price', alsoBeneath: 0, forWhom: ['Guest'], before: 'open', after: 'open', gained: [], lost: ['price'] },
  ],
  moreRows: 2,
  sentence: gate.sentence,
  parts: gate.parts,
  audience: gate.audience,
  audienceRows: gate.audienceRows,
};

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };

describe('the gates page', () => {
  it('tells each gate as its sentence and whether it counts', async () => {
    show(<GatesPage />, { 'GET gates': { body: { items: [gate, { ...gate, key: 'off', enabled: false, inForce: false }], next: null } } });
    expect((await screen.findAllByText('dealers')).length).toBe(2);
    expect(screen.getByText('In force')).toBeTruthy();
    expect(screen.getByText('Switched off')).toBeTruthy();
  });

  it('says what belongs there while nothing is guarded', async () => {
    show(
      <MeContext value={owner}>
        <GatesPage />
      </MeContext>,
      { 'GET gates': { body: { items: [], next: null } } },
    );
    expect(await screen.findByText('Nothing is guarded yet')).toBeTruthy();
    expect(screen.getByRole('link', { name: 'Add the first gate' }).getAttribute('href')).toBe('/gates/new');
  });

  it('says what failed and offers another try', async () => {
    show(<GatesPage />, { 'GET gates': { status: 503, body: { detail: 'The store does not answer.', code: 'x', errors: [] } } });
    expect(await screen.findByText('The store does not answer.')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Try again' })).toBeTruthy();
  });
});

describe('the effect', () => {
  it('tells numbers, names and what closes elsewhere', () => {
    show(<EffectPanel effect={effect} refused={null} stale={false} title="If you save this" />, {});
    expect(screen.getByText('9').parentElement?.textContent).toContain('items close for somebody');
    expect(screen.getByText('43').parentElement?.textContent).toContain('members keep');
    expect(screen.getByText('Barlow lens')).toBeTruthy();
    expect(screen.getByText('They lose:').parentElement?.textContent).toContain('Nell Orchard');
    expect(screen.getByText('and 4 beneath')).toBeTruthy();
    expect(screen.getByText(/loses the price/)).toBeTruthy();
    expect(screen.getByText('and 2 more lines')).toBeTruthy();
  });

  it('says when nothing changes', () => {
    show(<EffectPanel effect={{ ...effect, rows: [], membersLosing: 0 }} refused={null} stale={false} title="x" />, {});
    expect(screen.getByText('Nothing changes for anybody.')).toBeTruthy();
  });
});

describe('a gate', () => {
  const page = (
    <Routes>
      <Route path="/gates/:key" element={<GatePage />} />
      <Route path="/gates" element={<p>All gates</p>} />
    </Routes>
  );
  const answers = {
    'GET gates/dealer-stock': { body: gate },
    'POST gates/preview': { body: effect },
    'GET roles': { body: { items: [{ key: 'keeper', title: 'Keepers' }], next: null } },
  };

  it('is saved with the version that was read', async () => {
    const calls = show(page, { ...answers, 'PUT gates/dealer-stock': { body: gate } }, '/gates/dealer-stock');
    const name = await screen.findByLabelText('Name of the gate');
    await userEvent.clear(name);
    await userEvent.type(name, 'Trade');
    await userEvent.click(await screen.findByRole('button', { name: 'Save the gate' }));
    expect(await screen.findByText('All gates')).toBeTruthy();
    const saved = calls.find((call) => call.method === 'PUT');
    expect(saved?.headers.get('If-Match')).toBe('"3"');
    expect(saved?.headers.get('X-Wary-Console')).toBe('1');
    expect(saved?.headers.get('Accept-Language')).toBe('en');
    expect(JSON.parse(saved?.body ?? '{}').title).toBe('Trade');
  });

  it('keeps what was typed when somebody else was faster', async () => {
    show(
      page,
      {
        ...answers,
        'PUT gates/dealer-stock': { status: 412, body: { detail: 'It was changed by somebody else.', code: 'stale', errors: [] } },
      },
      '/gates/dealer-stock',
    );
    await userEvent.type(await screen.findByLabelText('Name of the gate'), ' two');
    await userEvent.click(await screen.findByRole('button', { name: 'Save the gate' }));
    expect(await screen.findByText('It was changed by somebody else.')).toBeTruthy();
    expect((screen.getByLabelText('Name of the gate') as HTMLInputElement).value).toBe('Dealer stock two');
  });

  it('puts back what was', async () => {
    show(page, answers, '/gates/dealer-stock');
    await userEvent.type(await screen.findByLabelText('Name of the gate'), ' two');
    await userEvent.click(screen.getByRole('button', { name: 'Put back' }));
    expect((screen.getByLabelText('Name of the gate') as HTMLInputElement).value).toBe('Dealer stock');
    expect(screen.queryByRole('button', { name: 'Save the gate' })).toBeNull();
  });
});

describe('shared passwords', () => {
  const row = {
    id: '1',
    gate: 'vault',
    label: 'Dome movers',
    createdAt: '2026-05-03T00:00:00Z',
    from: null,
    until: null,
    withdrawnAt: null,
    inForce: true,
    uses: 0,
    mostUses: null,
    lastUsedAt: null,
    networks: 0,
    asked: 'anyone',
    replaces: null,
    password: null,
    text: null,
  };

  it('are listed with their use and can be withdrawn', async () => {
    const calls = show(<SharedPasswords gate="vault" />, {
      'GET passwords': { body: { items: [row, { ...row, id: '2', label: 'Old', withdrawnAt: '2026-05-04T00:00:00Z' }], next: null } },
      'POST passwords/1/withdraw': { body: row },
    });
    expect((await screen.findAllByText('not used yet')).length).toBe(2);
    await userEvent.click(screen.getByRole('button', { name: 'Withdraw' }));
    expect(calls.some((call) => call.path === 'passwords/1/withdraw')).toBe(true);
  });

  it('tell a fault beside its field', async () => {
    show(<SharedPasswords gate="vault" />, {
      'GET passwords': { body: { items: [], next: null } },
      'POST passwords': {
        status: 422,
        body: {
          detail: 'x',
          code: 'shared-password-length',
          errors: [{ field: 'password', message: 'A shared password has 6 to 200 characters.' }],
        },
      },
    });
    expect(await screen.findByText(/None yet/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText('For whom'), 'Friends');
    await userEvent.click(screen.getByLabelText('I choose the password myself'));
    await userEvent.type(screen.getByLabelText('Password'), 'short');
    await userEvent.click(screen.getByRole('button', { name: 'Add a password' }));
    expect(await screen.findByText('A shared password has 6 to 200 characters.')).toBeTruthy();
  });
});

describe('the access board', () => {
  it('says why beside the cell that is chosen', async () => {
    show(<BoardPage />, {
      'GET board': {
        body: {
          columns: [
            { key: 'guest', title: 'Guest', kind: '' },
            { key: 'role:dealer', title: 'Dealers', kind: 'role' },
          ],
          beneath: 'site',
          rows: [
            { item: 'site', title: 'Fernlight', kind: 'site', children: 1, cells: ['open+part', 'open'] },
            { item: 'section:x', title: 'Stock', kind: 'section', children: 0, cells: ['hidden', 'open'] },
          ],
          more: 0,
        },
      },
      'POST decisions/why': {
        body: {
          allowed: false,
          who: 'A guest',
          what: 'Stock',
          act: 'open',
          headline: 'A guest may not open Stock.',
          steps: [
            { gate: 'g', title: 'Dealer stock', way: 'covers it', sentence: 'Only dealers.', verdict: 'A guest is none.', admitted: false },
          ],
          opens: ['Signing in.'],
          meets: 'Not listed.',
          answer: 'sign-in',
          gate: 'g',
        },
      },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Stock, Guest: hidden' }));
    const why = within(screen.getByRole('complementary', { name: 'Why' }));
    expect(await why.findByText('A guest may not open Stock.')).toBeTruthy();
    expect(why.getByRole('link', { name: 'Edit this gate' }).getAttribute('href')).toBe('/gates/g');
    expect(screen.getByRole('button', { name: 'Fernlight, Guest: in part' })).toBeTruthy();
  });
});

describe('the viewpoint', () => {
  it('counts what is seen of all', async () => {
    show(
      <ViewpointPage />,
      {
        'GET viewpoints': { body: [{ key: 'guest', title: 'Guest', kind: '' }] },
        'GET seen': {
          body: {
            who: 'A guest',
            open: 51,
            listed: 24,
            hidden: 14,
            items: [{ item: 'page:a', title: 'A page', kind: 'page', sight: 'listed', parents: ['Shop'], address: null }],
            next: null,
          },
        },
      },
      '/viewpoint?as=guest',
    );
    expect(await screen.findByText('A guest finds 51 open and 24 listed of 89; 14 are hidden.')).toBeTruthy();
    expect(screen.getByText('A page')).toBeTruthy();
  });
});
