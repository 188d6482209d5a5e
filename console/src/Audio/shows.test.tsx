import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it, vi } from 'vitest';
import { MeContext } from '../People/me';
import { show as render } from '../setupRender';
import { ShowPage } from './ShowPage';
import { ShowsPage } from './ShowsPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const first = {
  item: 'episode:hours-01',
  title: 'The quiet radio',
  file: 'hours-01.mp3',
  at: '2026-03-01T00:00:00Z',
  day: '2026-03-01',
  isOut: true,
  notes: 'Notes',
  length: '0:07',
  bytes: 21_159,
  guarded: false,
};
const later = {
  ...first,
  item: 'episode:hours-02',
  title: 'A comet',
  file: 'two.mp3',
  day: '2026-04-02T18:00',
  isOut: false,
  bytes: null,
  guarded: true,
};
const hours = {
  key: 'hours',
  title: 'Hours of Dark',
  by: 'The dome',
  notes: 'A show a month.',
  language: null,
  picture: null,
  path: '/data/files/.shows/hours',
  address: 'https://site.example/account/listen/hours',
  guarded: true,
  episodes: [later, first],
  subscribers: 1,
  version: 4,
};
const mira = {
  member: '01890a5d-0000-7000-8000-000000000001',
  name: 'Mira',
  email: 'mira@x.example',
  since: '2026-05-01T10:00:00Z',
  readAt: null,
  readBy: null,
};
const around = {
  'GET shows': { body: { items: [hours], next: null } },
  'GET shows/hours': { body: hours },
  'PUT shows/hours': { body: hours },
  'GET shows/hours/subscribers': { body: { items: [mira], next: null } },
  [`POST shows/hours/subscribers/${mira.member}/address`]: { body: { address: 'x', since: mira.since, readAt: null, readBy: null } },
  'GET items': { body: { items: [{ id: 'episode:hours-03', title: 'Fog', parents: ['show:hours'], addresses: [] }], next: null } },
  'PUT shows/hours/files/hours-03.mp3': { status: 204, body: null },
};
const named = (call: { method: string; path: string }) => `${call.method} ${call.path}`;
const page = (
  <MeContext value={owner}>
    <Routes>
      <Route path="/shows" element={<ShowsPage />} />
      <Route path="/shows/:key" element={<ShowPage />} />
    </Routes>
  </MeContext>
);

describe('Shows', () => {
  it('are listed with what is newest and how many have a feed', async () => {
    render(page, around, '/shows');
    const row = (await screen.findByRole('link', { name: 'Hours of Dark' })).closest('tr') as HTMLElement;
    expect(within(row).getByText('2 episodes')).toBeTruthy();
    expect(within(row).getByText(/Apr 2, 2026/)).toBeTruthy();
  });

  it('say of each episode when it is out, who hears it and whether its file is there', async () => {
    render(page, around, '/shows/hours');
    const comet = (await screen.findByRole('button', { name: 'A comet' })).closest('tr') as HTMLElement;
    expect(within(comet).getByText('from Apr 2, 2026')).toBeTruthy();
    expect(within(comet).getByText('File missing')).toBeTruthy();
    const radio = screen.getByRole('button', { name: 'The quiet radio' }).closest('tr') as HTMLElement;
    expect(within(radio).getByText('Everybody')).toBeTruthy();
  });

  it('take an episode with its file, beside those that are there', async () => {
    const sent = render(page, around, '/shows/hours');
    await userEvent.click(await screen.findByRole('button', { name: 'Add an episode' }));
    await screen.findByRole('option', { name: 'Fog' });
    await userEvent.selectOptions(screen.getByLabelText('Episode'), 'episode:hours-03');
    await userEvent.upload(screen.getByLabelText('File'), new File(['sound'], 'hours-03.mp3', { type: 'audio/mpeg' }));
    fireEvent.change(screen.getByLabelText('Out since'), { target: { value: '2026-05-01' } });
    await userEvent.type(screen.getByLabelText('How long it lasts'), '9:30');
    // The file that was chosen is not seen by the checks of jsdom.
    fireEvent.submit(screen.getByRole('button', { name: 'Save' }).closest('form') as HTMLFormElement);
    await waitFor(() => expect(sent.find((one) => named(one) === 'PUT shows/hours')).toBeDefined());
    expect(sent.findIndex((one) => named(one).startsWith('PUT shows/hours/files'))).toBeLessThan(
      sent.findIndex((one) => named(one) === 'PUT shows/hours'),
    );
    const body = JSON.parse(sent.find((one) => named(one) === 'PUT shows/hours')?.body ?? '{}');
    expect(body.episodes.map((one: { item: string }) => one.item)).toEqual(['episode:hours-02', 'episode:hours-01', 'episode:hours-03']);
    expect(body.episodes[2]).toMatchObject({ at: '2026-05-01', length: '9:30', file: 'hours-03.mp3' });
  });

  it('put what is refused beside its field and store nothing else', async () => {
    const refusal = {
      status: 422,
      body: { code: 'show-length', detail: 'No length', errors: [{ field: 'episodes[1].length', message: 'Write 42:10' }] },
    };
    render(page, { ...around, 'PUT shows/hours': refusal }, '/shows/hours');
    await userEvent.click(await screen.findByRole('button', { name: 'A comet' }));
    await userEvent.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText('Write 42:10')).toBeTruthy();
    expect(screen.getByLabelText('How long it lasts')).toSatisfy((input: HTMLElement) => input.getAttribute('aria-invalid') === 'true');
  });

  it('give a member another address after a second click', async () => {
    vi.restoreAllMocks();
    const sent = render(page, around, '/shows/hours');
    const another = await screen.findByRole('button', { name: 'Another address for Mira' });
    await userEvent.click(another);
    expect(sent.some((one) => named(one).endsWith('/address'))).toBe(false);
    await userEvent.click(another);
    await waitFor(() => expect(sent.some((one) => named(one).endsWith('/address'))).toBe(true));
  });
});
