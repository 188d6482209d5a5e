import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { answersOf, draftOf, placesOf, shownOf } from './answers';
import { SetUpPage } from './SetUpPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const fresh = {
  answers: { name: 'This site', language: 'en', timeZone: 'UTC', joining: 'closed', signIn: 'password' },
  isNew: true,
  siteUrl: 'http://hill.example',
  origin: 'http://127.0.0.1:8080',
  revision: 0,
};
const site = {
  at: 'http://127.0.0.1:8080/',
  fault: null,
  title: 'The hill',
  language: 'de',
  parts: [
    { address: '/blog', title: 'Blog' },
    { address: '/membership', title: 'Members' },
  ],
};
const gate = 'all beneath /membership: only members may open it.';
const made = {
  difference: {
    added: 1,
    changed: 1,
    removed: 0,
    same: 0,
    beside: 0,
    moreChanges: 0,
    kept: [],
    faults: [],
    isEmpty: false,
    changes: [
      { section: 'settings', key: 'site', what: 'changed', changes: [{ field: 'siteName', before: 'This site', after: 'The hill' }] },
      { section: 'gates', key: 'members', what: 'added', changes: [] },
    ],
  },
  stored: false,
  revision: 0,
  gate,
};
const page = (
  <MeContext value={owner}>
    <SetUpPage />
  </MeContext>
);

describe('places', () => {
  it.each([
    ['/members', ['/members', '/members/**']],
    ['/members/', ['/members', '/members/**']],
    ['members', ['/members', '/members/**']],
    ['/', ['/**']],
    ['/a/*', ['/a/*']],
    ['/files/atlas.pdf', ['/files/atlas.pdf']],
    ['product:atlas', ['product:atlas']],
    ['site', ['site']],
  ])('%s closes %s', (said, places) => expect(placesOf(said)).toEqual(places));

  it('of a folder and all beneath it are shown as one', () =>
    expect(shownOf(['/a', '/a/**', '/b/**', 'product:x'])).toEqual([
      { said: '/a', all: true },
      { said: '/b/**', all: false },
      { said: 'product:x', all: false },
    ]));
});

describe('answers', () => {
  it('of a new site are what its front page says, and whoever sets it up is told', () => {
    const answers = answersOf(fresh, site, owner.email);
    expect(answers).toMatchObject({
      name: 'The hill',
      language: 'de',
      closed: ['/membership', '/membership/**'],
      notices: owner.email,
      look: '/',
    });
  });

  it('of a site that is there are the site’s own, and say nothing that was never said', () => {
    const there = {
      ...fresh,
      isNew: false,
      answers: { ...fresh.answers, name: 'Mine', closed: ['/x/**'], who: 'role:dealer', notices: null },
    };
    const answers = answersOf(there, site, owner.email);
    expect(answers).toMatchObject({
      name: 'Mine',
      closed: ['/x/**'],
      way: 'other',
      who: 'role:dealer',
      notices: '',
      look: '',
      others: null,
    });
    expect(draftOf(answers)).toMatchObject({ who: 'role:dealer', others: null, look: null, sells: null });
  });

  it('leave it to what is sold whom it lets in', () => {
    const answers = { ...answersOf(fresh, site, ''), way: 'plans' as const, sells: [{ title: 'Night pass', length: 'P30D' }] };
    expect(draftOf(answers)).toMatchObject({ who: null, sells: [{ title: 'Night pass', length: 'P30D' }] });
    expect(draftOf({ ...answers, sells: [] })).toMatchObject({ who: 'signed-in' });
  });
});

describe('set-up', () => {
  it('shows what it makes, makes it against what was seen, and sends what was answered', async () => {
    const calls = show(page, {
      'GET setup': { body: fresh },
      'GET setup/site': { body: site },
      'POST setup': { body: made },
      'POST setup/check': { body: { stage: 'done' } },
      'GET visitor-pages': { body: { items: [], next: null } },
    });
    expect(await screen.findByText(gate)).toBeTruthy();
    await userEvent.type(screen.getByLabelText('Lasts'), '14');
    await userEvent.type(screen.getByLabelText('A membership you sell'), 'Fortnight{Enter}');
    expect(screen.getByText('(14 days)')).toBeTruthy();
    expect((screen.getByLabelText('whoever holds one of these memberships') as HTMLInputElement).checked).toBe(true);
    await userEvent.click(screen.getByLabelText(/Blog/));
    await waitFor(() => expect((screen.getByRole('button', { name: 'Set it up' }) as HTMLButtonElement).disabled).toBe(false));
    await userEvent.click(screen.getByRole('button', { name: 'Set it up' }));
    await screen.findByText('Your pages');
    const sent = JSON.parse(calls.filter((c) => c.path === 'setup' && c.method === 'POST').at(-1)?.body ?? '{}');
    expect(sent).toMatchObject({
      closed: ['/membership', '/membership/**', '/blog', '/blog/**'],
      sells: [{ title: 'Fortnight', length: 'P14D' }],
    });
  });

  it('says beside each answer what is wrong with it, and makes nothing', async () => {
    show(page, {
      'GET setup': { body: fresh },
      'GET setup/site': { body: { ...site, fault: 'nothing listens there', title: null, language: null, parts: [] } },
      'POST setup': {
        status: 422,
        body: { detail: 'x', code: 'setup-invalid', errors: [{ field: 'lands', message: 'That leads elsewhere.' }] },
      },
    });
    expect(await screen.findByText('That leads elsewhere.')).toBeTruthy();
    expect(screen.getByText(/nothing listens there/)).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Set it up' }) as HTMLButtonElement).disabled).toBe(true);
    expect((screen.getByLabelText('Name') as HTMLInputElement).value).toBe('This site');
  });

  it('lists what was tried, with what to do, and offers a letter', async () => {
    const calls = show(page, {
      'GET setup': { body: { ...fresh, isNew: false, answers: { ...fresh.answers, notices: 'owner@hill.example' } } },
      'GET setup/site': { body: site },
      'POST setup': { body: { ...made, difference: { ...made.difference, isEmpty: true, changes: [] } } },
      'POST setup/check': {
        body: { stage: 'tried', check: { what: 'letter', state: 'waiting', said: 'No letter has gone.', mend: 'Send one.' } },
      },
      'GET visitor-pages': { body: { items: [], next: null } },
      'POST setup/letter': { status: 200, body: null },
    });
    expect(await screen.findByText('No letter has gone.')).toBeTruthy();
    expect(await screen.findByText('It holds, as far as could be tried')).toBeTruthy();
    expect(screen.getByText('All of it is so already.')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Send one to owner@hill.example' }));
    await waitFor(() => expect(calls.some((c) => c.path === 'setup/letter')).toBe(true));
  });
});
