import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { MeContext } from './me';
import { OrganisationPage } from './OrganisationPage';
import { OrganisationsPage } from './OrganisationsPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const reader = { ...owner, isOwner: false, right: 'support', scopes: ['read'] };
const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString();
const school = {
  key: 'hill-school',
  title: 'Hill School',
  seats: 3,
  taken: 2,
  until: null,
  over: false,
  facts: [{ fact: 'group:pupils', from: null, until: null }],
  people: [
    { member: 'm1', name: 'Ada', email: 'ada@hill.example', manages: true, status: 'active', joinedAt: '2026-01-10T00:00:00Z' },
    { member: 'm2', name: 'Bo', email: 'bo@hill.example', manages: false, status: 'suspended', joinedAt: '2026-02-10T00:00:00Z' },
  ],
  invitations: [
    { id: 'i1', email: 'cleo@hill.example', manages: false, by: 'Owner', sentAt: '2026-03-01T00:00:00Z', until: inDays(5) },
    { id: 'i2', email: 'dora@hill.example', manages: false, by: 'Ada', sentAt: '2026-03-01T00:00:00Z', until: inDays(-5) },
  ],
  version: 7,
};
const full = {
  ...school,
  key: 'club',
  title: 'Full Club',
  taken: 3,
  until: inDays(10),
  facts: [],
  people: undefined,
  invitations: undefined,
};
const over = { ...full, key: 'past', title: 'Past Club', taken: 1, until: inDays(-10), over: true };
const facts = {
  'GET roles': { body: { items: [] } },
  'GET groups': { body: { items: [{ key: 'pupils', title: 'Pupils' }] } },
  'GET plans': { body: { items: [] } },
  'GET audit': { body: { items: [], next: null } },
};
const around = { ...facts, 'GET organisations/hill-school': { body: school } };
const list = (items: unknown[]) => ({ ...facts, 'GET organisations': { body: { items, next: null } } });
const many = (me = owner) => (
  <MeContext value={me}>
    <Routes>
      <Route path="/organisations" element={<OrganisationsPage />} />
      <Route path="/organisations/:key" element={<OrganisationPage />} />
    </Routes>
  </MeContext>
);
const sent = (calls: { method: string; body: string }[], method: string) =>
  JSON.parse(calls.find((c) => c.method === method)?.body ?? 'null');

describe('the list of organisations', () => {
  it('says by word whose seats are taken and whose time ends', async () => {
    show(many(), list([school, full, over]), '/organisations');
    const row = (title: string) => within(screen.getByText(title).closest('tr') as HTMLElement);
    await screen.findByText('Hill School');
    expect(row('Hill School').queryByText('Full')).toBeNull();
    expect(row('Full Club').getByText('Full')).toBeTruthy();
    expect(row('Full Club').getByText('Soon')).toBeTruthy();
    expect(row('Past Club').getByText('Ended')).toBeTruthy();
    await waitFor(() => expect(row('Hill School').getByText(/Pupils/)).toBeTruthy());
  });

  it('is empty in words, and in others where a search finds nobody', async () => {
    show(many(), list([]), '/organisations');
    expect(await screen.findByText('No organisations yet')).toBeTruthy();
    show(many(), list([]), '/organisations?search=zzz');
    expect(await screen.findByText('No organisation like that')).toBeTruthy();
  });

  it('keeps the search in the address and asks for it once it settles', async () => {
    const calls = show(many(), list([school]), '/organisations');
    await screen.findByText('Hill School');
    const before = calls.filter((c) => c.path === 'organisations').length;
    await userEvent.type(screen.getByRole('searchbox'), 'hill');
    await waitFor(() => expect(calls.filter((c) => c.path === 'organisations').length).toBe(before + 1));
  });

  it('offers to add one only to who may', async () => {
    show(many(reader), list([school]), '/organisations');
    await screen.findByText('Hill School');
    expect(screen.queryByRole('button', { name: /add/i })).toBeNull();
  });

  it('adds one with what was written, and goes to it', async () => {
    const calls = show(many(), { ...list([]), ...around, 'POST organisations': { status: 201, body: { ...school } } }, '/organisations');
    fireEvent.click(await screen.findByRole('button', { name: /add/i }));
    const dialog = within(screen.getByRole('dialog'));
    await userEvent.type(dialog.getByLabelText(/^Name/), 'Hill School');
    fireEvent.change(dialog.getByLabelText(/seats/i), { target: { value: '12' } });
    fireEvent.change(dialog.getByRole('combobox'), { target: { value: 'group:pupils' } });
    fireEvent.submit(dialog.getByLabelText(/^Name/).closest('form') as HTMLFormElement);
    expect(await screen.findByText('cleo@hill.example')).toBeTruthy();
    expect(sent(calls, 'POST')).toEqual({ title: 'Hill School', seats: 12, facts: [{ fact: 'group:pupils' }] });
  });

  it('says beside the field what the service refuses', async () => {
    const refusal = { detail: 'It is taken.', code: 'organisation-exists', errors: [{ field: 'key', message: 'hill is taken.' }] };
    show(many(), { ...list([]), 'POST organisations': { status: 409, body: refusal } }, '/organisations');
    fireEvent.click(await screen.findByRole('button', { name: /add/i }));
    const dialog = within(screen.getByRole('dialog'));
    await userEvent.type(dialog.getByLabelText(/^Name/), 'Hill');
    fireEvent.submit(dialog.getByLabelText(/^Name/).closest('form') as HTMLFormElement);
    expect(await dialog.findByText('hill is taken.')).toBeTruthy();
  });
});

describe('one organisation', () => {
  const at = '/organisations/hill-school';

  it('shows its people, whom it asked, and whose invitation is too old', async () => {
    show(many(), around, at);
    const line = (text: string) => within(screen.getByText(text, { exact: false }).closest('li') as HTMLElement);
    await screen.findByText('Ada');
    expect(line('ada@hill.example').getByText('Manager')).toBeTruthy();
    expect(line('bo@hill.example').getByText('Suspended')).toBeTruthy();
    expect(line('cleo@hill.example').getByText('Invited')).toBeTruthy();
    expect(line('dora@hill.example').getByText('Link has run out')).toBeTruthy();
  });

  it('sends the version that was read with each change, and all that is not changed', async () => {
    const calls = show(many(), { ...around, 'PUT organisations/hill-school': { body: school } }, at);
    fireEvent.change(await screen.findByLabelText(/seats/i), { target: { value: '9' } });
    fireEvent.submit(screen.getByLabelText(/seats/i).closest('form') as HTMLFormElement);
    await waitFor(() => expect(calls.some((c) => c.method === 'PUT')).toBe(true));
    const put = calls.find((c) => c.method === 'PUT');
    expect(put?.headers.get('If-Match')).toBe('"7"');
    expect(sent(calls, 'PUT')).toEqual({
      key: 'hill-school',
      title: 'Hill School',
      seats: 9,
      until: null,
      facts: [{ fact: 'group:pupils', from: null, until: null }],
    });
  });

  it('tells who was faster', async () => {
    const moved = { detail: 'Somebody else changed it meanwhile.', code: 'version', errors: [] };
    show(many(), { ...around, 'PUT organisations/hill-school': { status: 412, body: moved } }, at);
    fireEvent.change(await screen.findByLabelText(/seats/i), { target: { value: '4' } });
    fireEvent.submit(screen.getByLabelText(/seats/i).closest('form') as HTMLFormElement);
    expect(await screen.findByText(moved.detail)).toBeTruthy();
  });

  it('takes a fact from all of its people and leaves the others', async () => {
    const two = { ...school, facts: [...school.facts, { fact: 'role:tester', from: '2026-01-01T00:00:00Z', until: null }] };
    const calls = show(
      many(),
      { ...around, 'GET organisations/hill-school': { body: two }, 'PUT organisations/hill-school': { body: two } },
      at,
    );
    fireEvent.click(await screen.findByRole('button', { name: /group:pupils/ }));
    await waitFor(() => expect(sent(calls, 'PUT')?.facts).toEqual([two.facts[1]]));
  });

  it('asks somebody by address, makes managers, reminds and withdraws', async () => {
    const calls = show(
      many(),
      {
        ...around,
        'POST organisations/hill-school/invitations': { status: 201, body: {} },
        'PUT organisations/hill-school/people/m2': { body: school },
        'POST organisations/hill-school/invitations/i1/letter': { status: 204, body: null },
        'DELETE organisations/hill-school/invitations/i2': { status: 204, body: null },
      },
      at,
    );
    const email = await screen.findByLabelText('Invite by e-mail');
    await userEvent.type(email, 'eve@hill.example');
    fireEvent.click(screen.getByRole('checkbox'));
    fireEvent.submit(email.closest('form') as HTMLFormElement);
    await waitFor(() => expect(sent(calls, 'POST')).toEqual({ email: 'eve@hill.example', manages: true }));
    const button = (name: string) => screen.getByRole('button', { name });
    await waitFor(() => expect((email as HTMLInputElement).value).toBe(''));
    for (const [name, path] of [
      ['Make manager: Bo', 'PUT organisations/hill-school/people/m2'],
      ['Write again: cleo@hill.example', 'POST organisations/hill-school/invitations/i1/letter'],
      ['Take back: dora@hill.example', 'DELETE organisations/hill-school/invitations/i2'],
    ] as const) {
      await waitFor(() => expect((button(name) as HTMLButtonElement).disabled).toBe(false));
      fireEvent.click(button(name));
      await waitFor(() => expect(calls.map((c) => `${c.method} ${c.path}`)).toContain(path));
    }
  });

  it('asks nobody more than it has seats', async () => {
    show(many(), { ...around, 'GET organisations/hill-school': { body: { ...school, taken: 3 } } }, at);
    const email = await screen.findByLabelText('Invite by e-mail');
    const go = within(email.closest('form') as HTMLElement).getByRole('button');
    expect((go as HTMLButtonElement).disabled).toBe(true);
  });

  it('ends or goes only once that is confirmed', async () => {
    const calls = show(many(), { ...around, ...list([]), 'DELETE organisations/hill-school': { status: 204, body: null } }, at);
    fireEvent.click(await screen.findByRole('button', { name: 'Remove…' }));
    expect(calls.some((c) => c.method === 'DELETE')).toBe(false);
    const dialog = screen.getByRole('dialog');
    fireEvent.submit(dialog.querySelector('form') as HTMLFormElement);
    await waitFor(() => expect(calls.some((c) => c.method === 'DELETE')).toBe(true));
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });

  it('shows whoever may only look nothing to press', async () => {
    show(many(reader), around, at);
    await screen.findByText('Ada');
    expect(screen.getAllByRole('button').every((b) => (b as HTMLButtonElement).disabled)).toBe(true);
  });
});
