import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { MeContext } from '../People/me';
import { RolePage } from '../People/RolePage';
import { show } from '../setupRender';
import { RedirectsPage } from './RedirectsPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const redirect = (key: string) => ({ key, on: 'sign-in', audience: `role:${key}`, to: `/${key}`, position: 1, insists: false, version: 1 });
const landing = {
  who: 'Member',
  to: '/members',
  why: 'rule',
  rule: 'b',
  reason: 'The redirect “b” says so.',
  ways: [
    { why: 'rule', rule: 'a', to: '/a', step: 'not-for-them' },
    { why: 'rule', rule: 'b', to: '/members', step: 'taken' },
  ],
};
const around = {
  'GET redirects': { body: { items: [redirect('a'), redirect('b')], next: null } },
  'GET viewpoints': { body: [{ key: 'guest', title: 'Guest', kind: 'guest' }] },
  'POST redirects/try': { body: landing },
  'POST redirects/order': { body: { items: [redirect('b'), redirect('a')], next: null } },
};
const fact = { key: 'dealer', title: 'Dealers', members: 4, version: 1, builtIn: false, home: null, links: [], rule: null };

describe('redirects', () => {
  it('are put into another order by keyboard, and say who lands where', async () => {
    const calls = show(
      <MeContext value={owner}>
        <RedirectsPage />
      </MeContext>,
      around,
      '/redirects',
    );
    expect(await screen.findByText('The redirect “b” says so.')).toBeTruthy();
    expect(screen.getByText(/is not for them/)).toBeTruthy();
    await userEvent.click(await screen.findByRole('button', { name: 'Move a down' }));
    await waitFor(() => expect(JSON.parse(calls.find((c) => c.path === 'redirects/order')?.body ?? '{}')).toEqual({ keys: ['b', 'a'] }));
  });

  it('are read, and nothing more, by who may not change them', async () => {
    show(<RedirectsPage />, around, '/redirects');
    expect(await screen.findByText('/a')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Add a redirect' })).toBeNull();
    expect(screen.queryByRole('button', { name: /^Move/ })).toBeNull();
  });
});

describe('a role', () => {
  it('shows what hangs on it before it is retired, and what takes its place', async () => {
    const calls = show(
      <MeContext value={owner}>
        <Routes>
          <Route path="/roles/:kind/:key" element={<RolePage />} />
          <Route path="/roles" element={<p>The roles</p>} />
        </Routes>
      </MeContext>,
      {
        'GET roles/dealer': { body: fact },
        'GET roles/dealer/uses': {
          body: { named: [{ kind: 'gate', key: 'stock', audience: 'role:dealer' }], members: 4, organisations: [] },
        },
        'GET roles': { body: { items: [fact, { ...fact, key: 'trade', title: 'Trade' }], next: null } },
        'POST roles/dealer/retire': { body: null },
      },
      '/roles/roles/dealer',
    );
    expect(await screen.findByRole('link', { name: 'stock' })).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Retire…' }));
    expect(await screen.findByText(/4 members hold it. One thing names it./)).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText('In its place'), 'trade');
    await userEvent.click(screen.getByRole('button', { name: 'Retire' }));
    expect(await screen.findByText('The roles')).toBeTruthy();
    expect(JSON.parse(calls.find((c) => c.path === 'roles/dealer/retire')?.body ?? '{}')).toEqual({ to: 'trade' });
  });
});
