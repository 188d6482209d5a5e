import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { FoldersPage } from './FoldersPage';
import { sizeOf } from './sizes';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const area = {
  key: 'sky-atlas',
  title: 'Autumn sky atlas',
  item: 'download:sky-atlas',
  folder: 'sky-atlas',
  path: '/data/files/sky-atlas',
  opens: 'gate',
  guarded: true,
  every: 'P1M',
  overlap: 'P1D',
  since: '2026-11-01T00:00:00Z',
  until: '2026-12-01T00:00:00Z',
  files: 2,
  bytes: 1_234_000,
  version: 3,
};
const bare = {
  ...area,
  key: 'log',
  title: 'Log sheets',
  item: 'download:log',
  guarded: false,
  until: null,
  every: null,
  files: null,
  bytes: null,
};
const address = {
  address: 'https://site.example/account/files/0a1b/',
  standing: 'https://site.example/account/folder/sky-atlas',
  until: '2026-12-02T00:00:00Z',
};
const around = {
  'GET areas': { body: { items: [area, bare], next: null } },
  'GET areas/sky-atlas/address': { body: address },
  'POST areas/sky-atlas/address': { body: { ...address, address: 'https://site.example/account/files/ffff/' } },
  'GET areas/sky-atlas/files': {
    body: {
      items: [
        { name: 'plates', bytes: null, at: '2026-11-01T00:00:00Z' },
        { name: 'stars.csv', bytes: 315, at: '2026-11-01T00:00:00Z' },
      ],
      next: null,
    },
  },
  'PUT areas/sky-atlas/files/new.txt': { status: 204, body: null },
  'DELETE areas/sky-atlas/files/stars.csv': { status: 204, body: null },
};
const page = (
  <MeContext value={owner}>
    <FoldersPage />
  </MeContext>
);

describe('folders', () => {
  it('say who gets in, when the address changes and what is in them', async () => {
    show(page, around, '/folders');
    expect(await screen.findByText('Whom its gates let')).toBeTruthy();
    expect(screen.getByText('Everybody: no gate guards it')).toBeTruthy();
    expect(screen.getByText('2 files, 1.2 MB')).toBeTruthy();
    expect(screen.getByText('folder missing')).toBeTruthy();
    expect(screen.getByText('changes by hand')).toBeTruthy();
  });

  it('show their address, and give another only to who is sure', async () => {
    const copy = vi.fn();
    Object.defineProperty(navigator, 'clipboard', { value: { writeText: copy }, configurable: true });
    const calls = show(page, around, '/folders');
    fireEvent.click(await screen.findByRole('button', { name: 'Autumn sky atlas' }));
    expect(await screen.findByText(address.address)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'Copy the address' }));
    expect(copy).toHaveBeenCalledWith(address.address);
    fireEvent.click(screen.getByRole('button', { name: 'Another address at once' }));
    expect(calls.some((c) => c.method === 'POST')).toBe(false);
    fireEvent.click(screen.getByRole('button', { name: 'Sure? The old one ends now' }));
    await waitFor(() => expect(calls.some((c) => c.method === 'POST')).toBe(true));
  });

  it('take files in and let them go', async () => {
    const calls = show(page, around, '/folders');
    fireEvent.click(await screen.findByRole('button', { name: 'Autumn sky atlas' }));
    fireEvent.click(await screen.findByRole('button', { name: 'Remove stars.csv' }));
    await waitFor(() => expect(calls.some((c) => c.method === 'DELETE')).toBe(true));
    await userEvent.upload(screen.getByLabelText('Put files in'), new File(['x'], 'new.txt'));
    await waitFor(() => expect(calls.some((c) => c.method === 'PUT')).toBe(true));
  });

  it('are sized as people read it', () => {
    expect([0, 999, 1000, 99_449, 1_500_000_000].map(sizeOf)).toEqual(['0 bytes', '999 bytes', '1 kB', '99.4 kB', '1.5 GB']);
  });
});
