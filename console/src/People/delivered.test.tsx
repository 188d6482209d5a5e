import { fireEvent, screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { DeliveredPage } from './DeliveredPage';
import { MeContext } from './me';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const link = (id: string, purpose: string, state: string, way = 'link') => ({
  id,
  purpose,
  way,
  email: `${id}@x.example`,
  member: `m-${id}`,
  createdAt: `2026-11-0${id.length}T10:00:00Z`,
  until: '2026-12-01T10:00:00Z',
  state,
  closedAt: state === 'open' ? null : '2026-11-20T10:00:00Z',
});
const pass = (holder: string, uses: number, more = {}) => ({
  id: holder,
  kind: 'frames',
  kindTitle: 'Frames',
  name: holder,
  holder,
  email: null,
  createdAt: '2026-10-01T10:00:00Z',
  standing: 'in-force',
  uses,
  withdrawnAt: null,
  lastUsedAt: uses ? '2026-11-01T10:00:00Z' : null,
  until: null,
  ...more,
});
const around = {
  'GET links': { body: { items: [link('a', 'invitation', 'open'), link('bb', 'sign-in', 'used', 'code')], next: null } },
  'GET passes': { body: { items: [pass('Hill Lab', 2), pass('Old Lab', 0, { standing: 'over' }), pass('New Lab', 0)], next: null } },
  'GET letters': {
    body: {
      items: [
        {
          id: 's1',
          to: 'club@x.example',
          subject: 'The word',
          kind: 'shared-password',
          state: 'sent',
          createdAt: '2026-11-09T10:00:00Z',
          sentAt: null,
        },
      ],
      next: null,
    },
  },
  'DELETE links/a': { status: 204, body: null },
  'POST members/m-a/links': { body: link('a', 'invitation', 'open') },
};
const page = (
  <MeContext value={owner}>
    <DeliveredPage />
  </MeContext>
);

describe('what was delivered', () => {
  it('stands together, the newest first, with how it came and whether it was used', async () => {
    show(page, around, '/delivered');
    expect(await screen.findByText('An invitation')).toBeTruthy();
    const rows = screen.getAllByRole('row').map((row) => row.textContent ?? '');
    expect(rows[1]).toContain('club@x.example');
    expect(rows[1]).toContain('A shared password');
    expect(rows[1]).toContain('Sent');
    expect(rows[2]).toContain('bb@x.example');
    expect(rows[2]).toContain('a code in a letter');
    expect(rows.find((row) => row.startsWith('Hill Lab'))).toContain('Used');
    expect(rows.find((row) => row.startsWith('Old Lab'))).toContain('Too late');
    expect(rows.find((row) => row.startsWith('New Lab'))).toContain('Not used yet');
  });

  it('is taken back, or sent anew', async () => {
    const calls = show(page, around, '/delivered');
    fireEvent.click(await screen.findByRole('button', { name: 'Withdraw' }));
    await waitFor(() => expect(calls.some((c) => c.method === 'DELETE')).toBe(true));
    fireEvent.click(screen.getByRole('button', { name: 'Send anew' }));
    await waitFor(() => expect(calls.find((c) => c.method === 'POST')?.body).toBe('{"purpose":"invitation"}'));
    expect(screen.getAllByRole('button', { name: 'Send anew' })).toHaveLength(1);
  });
});
