import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { MemberPage } from './MemberPage';
import { MembersPage } from './MembersPage';
import { MeContext } from './me';

const dov = {
  id: 'd0',
  email: 'dov@meadow.example',
  name: 'Dov Meadow',
  userName: null,
  status: 'active',
  cause: null,
  roles: ['dealer'],
  grants: [
    {
      id: 'g1',
      fact: 'role:dealer',
      kind: 'role',
      key: 'dealer',
      from: '2026-01-02T00:00:00Z',
      until: null,
      source: 'order:4711',
      inForce: true,
    },
    {
      id: 'g2',
      fact: 'plan:patron',
      kind: 'plan',
      key: 'patron',
      from: null,
      until: '2026-02-01T00:00:00Z',
      source: 'hand',
      inForce: false,
    },
  ],
  byRule: ['friends'],
  createdAt: '2026-01-01T10:00:00Z',
  seenAt: null,
  version: 3,
};
const none = { body: { items: [], next: null } };
const around = {
  'GET set-up': {
    body: {
      needsOwner: false,
      siteName: 'Fernlight',
      me: { name: 'Owner', email: 'owner@fernlight.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] },
    },
  },
  'GET members': { body: { items: [dov], next: null } },
  'GET members/d0': { body: dov },
  'GET roles': { body: { items: [{ key: 'dealer', title: 'Dealers', held: 1, version: 1, builtIn: false }], next: null } },
  'GET plans': none,
  'GET groups': none,
  'GET sessions': none,
  'GET members/d0/notes': none,
  'GET letters': none,
  'GET history': none,
};

describe('members', () => {
  it('shows who they are and what they hold now, and asks by what the address says', async () => {
    const calls = show(<MembersPage />, around, '/members?holds=role%3Adealer&search=dov');
    expect(await screen.findByRole('link', { name: 'Dov Meadow' })).toBeTruthy();
    expect(screen.getByText('role:dealer')).toBeTruthy();
    expect(screen.queryByText('plan:patron')).toBeNull();
    expect(screen.getByRole<HTMLInputElement>('searchbox').value).toBe('dov');
    await waitFor(() => expect(screen.getByLabelText<HTMLSelectElement>('Holds').value).toBe('role:dealer'));
    expect(calls.filter((c) => c.path === 'members')).toHaveLength(1);
  });

  it('says so where nobody is like that', async () => {
    show(<MembersPage />, { ...around, 'GET members': none }, '/members?status=suspended');
    expect(await screen.findByText('Nobody like that')).toBeTruthy();
  });
});

describe('many members', () => {
  const line = { done: 1, total: 0, changed: 1, same: 0, refused: 0, whom: ['Dov Meadow'], refusals: [], stage: 'done', detail: null };
  const listed = () =>
    show(
      <MeContext value={around['GET set-up'].body.me}>
        <MembersPage />
      </MeContext>,
      { ...around, 'POST members/bulk': { body: line } },
      '/members',
    );

  it('are shown what would change before anything does', async () => {
    const calls = listed();
    expect(await screen.findByText('group:friends')).toBeTruthy();
    await userEvent.click(screen.getByLabelText('Choose Dov Meadow'));
    expect(screen.getByText('One chosen')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Suspend…' }));
    await userEvent.click(screen.getByRole('button', { name: 'Show what would change' }));
    expect(await screen.findByText('1 of 1 would change; 0 are so already.')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Suspend them' }));
    expect(await screen.findByText('Done: 1 changed, 0 were so already.')).toBeTruthy();
    const sent = calls.filter((c) => c.path === 'members/bulk').map((c) => JSON.parse(c.body ?? ''));
    expect(sent).toEqual([
      { do: 'suspend', members: ['d0'], dryRun: true },
      { do: 'suspend', members: ['d0'], dryRun: false },
    ]);
  });

  it('are invited with words of one’s own', async () => {
    const calls = listed();
    await userEvent.click(await screen.findByLabelText('Choose Dov Meadow'));
    await userEvent.click(screen.getByRole('button', { name: 'Invite…' }));
    expect(screen.getByText(/passed over/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText('Words of your own'), 'The dome opens.');
    await userEvent.click(screen.getByRole('button', { name: 'Show what would change' }));
    await userEvent.click(await screen.findByRole('button', { name: 'Send the invitations' }));
    expect(await screen.findByText('Done: 1 changed, 0 were so already.')).toBeTruthy();
    const sent = calls.filter((c) => c.path === 'members/bulk').map((c) => JSON.parse(c.body ?? ''));
    expect(sent[1]).toEqual({ do: 'invite', members: ['d0'], words: 'The dome opens.', dryRun: false });
  });

  it('are not chosen by who may not change them', async () => {
    show(<MembersPage />, around, '/members');
    expect(await screen.findByText('Dov Meadow')).toBeTruthy();
    expect(screen.queryByRole('checkbox')).toBeNull();
    expect(screen.queryByRole('button', { name: 'Add a member' })).toBeNull();
  });
});

describe('a member', () => {
  const page = (answers = {}) =>
    show(
      <MeContext
        value={{
          name: 'Owner',
          email: 'owner@fernlight.example',
          isOwner: true,
          right: 'owner',
          scopes: ['read', 'write', 'people', 'tokens'],
        }}
      >
        <Routes>
          <Route path="/members/:id" element={<MemberPage />} />
        </Routes>
      </MeContext>,
      { ...around, ...answers },
      '/members/d0',
    );

  it('says of each fact since when, until when and by what', async () => {
    page();
    expect(await screen.findByText(/given by order:4711/)).toBeTruthy();
    expect(screen.getByText(/ended/)).toBeTruthy();
    expect(screen.getAllByRole('button', { name: /^End (role|plan):/ })).toHaveLength(1);
  });

  it('suspends with words, and shows what is wrong with them beside them', async () => {
    const refusal = { detail: 'Too long.', code: 'status-words', errors: [{ field: 'words', message: 'At most 500.' }] };
    const calls = page({ 'PUT members/d0/status': { status: 422, body: refusal } });
    await userEvent.click(await screen.findByRole('button', { name: 'Suspend…' }));
    await userEvent.type(screen.getByLabelText('What they read when they sign in'), 'Call us.');
    await userEvent.click(screen.getByRole('button', { name: 'Suspend' }));
    expect(await screen.findByText('At most 500.')).toBeTruthy();
    const sent = calls.find((c) => c.method === 'PUT');
    expect(JSON.parse(sent?.body ?? '')).toEqual({ status: 'suspended', words: 'Call us.' });
  });

  it('erases only after the address was typed', async () => {
    const calls = page({ 'DELETE members/d0': { status: 409, body: { detail: 'Named by gate x.', code: 'member-named', errors: [] } } });
    await userEvent.click(await screen.findByRole('button', { name: 'Erase…' }));
    const go = screen.getByRole('button', { name: 'Erase' });
    expect((go as HTMLButtonElement).disabled).toBe(true);
    await userEvent.type(screen.getByLabelText(/Type dov@meadow/), 'dov@meadow.example');
    await userEvent.click(go);
    expect(await screen.findByText('Named by gate x.')).toBeTruthy();
    expect(calls.some((c) => c.method === 'DELETE')).toBe(true);
  });
});
