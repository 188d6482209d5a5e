import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { MeContext } from './me';
import { RolePage } from './RolePage';
import { RolesPage } from './RolesPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const support = { ...owner, isOwner: false, right: 'support', scopes: ['read', 'people'] };
const bare = {
  home: null,
  links: [],
  rule: null,
  length: null,
  grace: null,
  remind: null,
  starts: null,
  builtIn: false,
  version: 4,
  members: 0,
};
const dealer = { ...bare, key: 'dealer', title: 'Dealer', members: 1, home: '/dealers', links: [{ words: 'Prices', address: '/prices' }] };
const tester = { ...bare, key: 'tester', title: 'Tester', members: 12 };
const editor = { ...bare, key: 'editor', title: 'Editor', builtIn: true };
const early = { ...bare, key: 'early', title: 'Early birds', rule: 'plan:year and not role:dealer', members: 0 };
const year = { ...bare, key: 'year', title: 'Year', length: 'P1Y', grace: 'P3D', starts: 'on-use' };
const listed = (items: unknown[]) => ({ body: { items } });
const uses = {
  members: 12,
  named: [
    { kind: 'gate', key: 'vault', audience: 'role:tester' },
    { kind: 'group', key: 'early', audience: 'role:tester or plan:year' },
  ],
  organisations: ['hill-school'],
};
const none = { members: 0, named: [], organisations: [] };
const around = {
  'GET roles': listed([dealer, tester, editor]),
  'GET groups': listed([early]),
  'GET plans': listed([year]),
  'GET pass-kinds': listed([]),
  'GET roles/tester': { body: tester },
  'GET roles/dealer': { body: dealer },
  'GET groups/early': { body: early },
  'GET plans/year': { body: year },
  'GET roles/tester/uses': { body: uses },
  'GET roles/dealer/uses': { body: none },
  'GET groups/early/uses': { body: none },
  'GET plans/year/uses': { body: none },
};
const pages = (me = owner) => (
  <MeContext value={me}>
    <Routes>
      <Route path="/roles" element={<RolesPage />} />
      <Route path="/roles/:kind/:key" element={<RolePage />} />
    </Routes>
  </MeContext>
);
const part = async (name: string) => within(await screen.findByRole('region', { name }));
const body = (calls: { method: string; path: string; body: string }[], call: string) =>
  JSON.parse(calls.find((c) => `${c.method} ${c.path}` === call)?.body ?? 'null');
const press = async (name: string) => fireEvent.click(await screen.findByRole('button', { name }));
const inDialog = () => within(screen.getByRole('dialog'));

describe('roles, groups and plans', () => {
  it('say how many hold each, and keep staff rights apart', async () => {
    show(pages(), around, '/roles');
    const roles = await part('Roles');
    expect(await roles.findByText('1 member')).toBeTruthy();
    expect(roles.getByText('12 members').getAttribute('href')).toBe('/members?holds=role:tester');
    expect(roles.getByText('at home on /dealers · one link')).toBeTruthy();
    expect(roles.queryByText('Editor')).toBeNull();
    expect(await (await part('Staff rights')).findByText('Editor')).toBeTruthy();
    const groups = await part('Groups');
    expect(groups.getByText('By rule')).toBeTruthy();
    expect(groups.getByText('by rule')).toBeTruthy();
    expect(await (await part('Kinds of passes')).findByText('No kinds of passes yet.')).toBeTruthy();
  });

  it('are added like another, and then shown', async () => {
    const calls = show(pages(), { ...around, 'POST roles': { status: 201, body: tester } }, '/roles');
    await press('Add a role');
    await userEvent.type(inDialog().getByLabelText('Name'), 'Tester');
    fireEvent.change(inDialog().getByLabelText('Like'), { target: { value: 'dealer' } });
    fireEvent.submit(inDialog().getByLabelText('Name').closest('form') as HTMLFormElement);
    expect(await screen.findByRole('heading', { name: 'Tester' })).toBeTruthy();
    expect(body(calls, 'POST roles')).toEqual({ title: 'Tester', like: 'dealer' });
  });

  it('are only looked at by who may not change them', async () => {
    show(pages(support), around, '/roles');
    await screen.findByText('12 members');
    expect(screen.queryAllByRole('button')).toEqual([]);
  });
});

describe('one of them', () => {
  it('is nowhere where there is no such kind', async () => {
    show(pages(), around, '/roles/wands/elder');
    expect((await screen.findAllByRole('heading')).length).toBeGreaterThan(0);
    expect(screen.queryByRole('button', { name: 'Retire…' })).toBeNull();
  });

  it('says what hangs on it', async () => {
    show(pages(), around, '/roles/roles/tester');
    const hangs = await part('What hangs on it');
    expect((await hangs.findByText('vault')).getAttribute('href')).toBe('/gates/vault');
    expect(hangs.getByText('role:tester or plan:year')).toBeTruthy();
    expect(hangs.getByText('hill-school').getAttribute('href')).toBe('/organisations/hill-school');
  });

  it.each([
    ['roles/dealer', { title: 'New name', home: '/dealers', links: dealer.links }],
    ['groups/early', { title: 'New name', rule: early.rule }],
    ['plans/year', { title: 'New name', length: 'P1Y', grace: 'P3D', remind: null, starts: 'on-use' }],
  ])('keeps all that is not changed of %s, under the version that was read', async (path, whole) => {
    const calls = show(pages(), { ...around, [`PUT ${path}`]: { body: dealer } }, `/roles/${path}`);
    const name = await screen.findByLabelText('Name');
    fireEvent.change(name, { target: { value: 'New name' } });
    fireEvent.submit(name.closest('form') as HTMLFormElement);
    expect(await screen.findByText('Saved.')).toBeTruthy();
    expect(body(calls, `PUT ${path}`)).toEqual(whole);
    expect(calls.find((c) => c.method === 'PUT')?.headers.get('If-Match')).toBe('"4"');
  });

  it('gets another key only where that is another, and says what is wrong with it', async () => {
    const refusal = { detail: 'There is one.', code: 'fact-exists', errors: [{ field: 'to', message: 'dealer is there already.' }] };
    show(pages(), { ...around, 'POST roles/tester/rename': { status: 409, body: refusal } }, '/roles/roles/tester');
    await press('Rename its key…');
    const to = inDialog().getByLabelText('Key');
    expect((inDialog().getByRole('button', { name: 'Rename' }) as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(to, { target: { value: 'dealer' } });
    fireEvent.submit(to.closest('form') as HTMLFormElement);
    expect(await inDialog().findByText('dealer is there already.')).toBeTruthy();
  });

  it('retires only into another where something names it', async () => {
    const calls = show(pages(), { ...around, 'POST roles/tester/retire': { status: 204, body: null } }, '/roles/roles/tester');
    await screen.findByText('vault');
    await press('Retire…');
    expect(inDialog().getByText('12 members hold it. 2 things name it.')).toBeTruthy();
    const instead = inDialog().getByLabelText('In its place') as HTMLSelectElement;
    expect(instead.required).toBe(true);
    // Neither itself nor a staff right can take its place.
    await waitFor(() => expect([...instead.options].map((o) => o.value)).toEqual(['', 'dealer']));
    fireEvent.change(instead, { target: { value: 'dealer' } });
    fireEvent.submit(instead.closest('form') as HTMLFormElement);
    expect(await screen.findByRole('heading', { name: 'Roles and groups' })).toBeTruthy();
    expect(body(calls, 'POST roles/tester/retire')).toEqual({ to: 'dealer' });
  });

  it('ends for all where nothing takes its place', async () => {
    const calls = show(pages(), { ...around, 'POST roles/dealer/retire': { status: 204, body: null } }, '/roles/roles/dealer');
    await screen.findByText('Nothing names it.');
    await press('Retire…');
    expect(inDialog().getByText('Nobody holds it. Nothing names it.')).toBeTruthy();
    expect(inDialog().getByText('It ends for whoever holds it.')).toBeTruthy();
    fireEvent.submit(inDialog().getByLabelText('In its place').closest('form') as HTMLFormElement);
    await waitFor(() => expect(body(calls, 'POST roles/dealer/retire')).toEqual({}));
  });
});
