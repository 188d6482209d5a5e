import { fireEvent, screen, waitFor } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';
import { show } from '../setupRender';
import { Bulk } from './Bulk';
import type { Act, Whom } from './BulkBar';

const line = { stage: 'done', done: 40, total: 40, changed: 30, same: 9, refused: 1, whom: ['Ada', 'Bo'], detail: null };
const looked = { ...line, refusals: [{ member: 'owner@x.example', reason: 'Only an owner changes staff.' }] };
const around = {
  'GET roles': { body: { items: [{ key: 'tester', title: 'Tester' }] } },
  'GET groups': { body: { items: [] } },
  'GET plans': { body: { items: [] } },
  'POST members/bulk': { body: looked },
};
const filter: Whom = { filter: { search: 'ada' } };
const dialog = (act: Act, whom: Whom = filter) => <Bulk act={act} whom={whom} close={close} />;
const close = vi.fn();
const submit = () => fireEvent.submit(document.querySelector('form') as HTMLFormElement);
const sent = (calls: { path: string; body: string }[]) => calls.filter((c) => c.path === 'members/bulk').map((c) => JSON.parse(c.body));

describe('one thing for many', () => {
  it('shows first whom it would change and who cannot be, and then does just that', async () => {
    const calls = show(dialog('suspend'), around);
    fireEvent.change(screen.getByLabelText('What they read when they sign in'), { target: { value: 'Until Monday.' } });
    submit();
    expect(await screen.findByText('30 of 40 would change; 9 are so already.')).toBeTruthy();
    expect(screen.getByText('Ada, Bo and others')).toBeTruthy();
    expect(screen.getByText('One cannot:')).toBeTruthy();
    expect(screen.getByText('owner@x.example').parentElement?.textContent).toContain('Only an owner changes staff.');
    fireEvent.click(screen.getByRole('button', { name: 'Suspend them' }));
    expect(await screen.findByText('Done: 30 changed, 9 were so already.')).toBeTruthy();
    expect(sent(calls).map((s) => s.dryRun)).toEqual([true, false]);
    expect(sent(calls)[1]).toEqual({ do: 'suspend', filter: { search: 'ada' }, words: 'Until Monday.', dryRun: false });
    expect(screen.queryByRole('button', { name: 'Suspend them' })).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'Close' }));
    expect(close).toHaveBeenCalled();
  });

  it('is looked at anew once anything of it is changed', async () => {
    const calls = show(dialog('give', { members: ['m1', 'm2'] }), around);
    await screen.findByRole('option', { name: /Tester/ });
    fireEvent.change(screen.getByLabelText('What'), { target: { value: 'role:tester' } });
    submit();
    await screen.findByRole('button', { name: 'Give it' });
    fireEvent.change(document.getElementById('bulk-until') as HTMLElement, { target: { value: '2027-01-31' } });
    expect(screen.queryByRole('button', { name: 'Give it' })).toBeNull();
    submit();
    await screen.findByRole('button', { name: 'Give it' });
    expect(sent(calls)).toEqual([
      { do: 'give', members: ['m1', 'm2'], fact: 'role:tester', dryRun: true },
      { do: 'give', members: ['m1', 'm2'], fact: 'role:tester', until: '2027-01-31', dryRun: true },
    ]);
  });

  it('is not done where it would change nothing', async () => {
    show(dialog('reinstate'), {
      ...around,
      'POST members/bulk': { body: { ...looked, changed: 0, same: 40, refused: 0, refusals: [], whom: [] } },
    });
    submit();
    expect(await screen.findByText('Nothing would change for any of the 40.')).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Let them back in' }) as HTMLButtonElement).disabled).toBe(true);
  });

  it('says why it broke off', async () => {
    show(dialog('sign-out'), {
      ...around,
      'POST members/bulk': { body: { ...looked, stage: 'failed', detail: 'The database is away.', refused: 0 } },
    });
    submit();
    expect(await screen.findByText('The database is away.')).toBeTruthy();
  });

  it('says beside its field what was wrong with it', async () => {
    const refusal = { detail: 'Unknown.', code: 'fact-unknown', errors: [{ field: 'fact', message: 'There is no such role.' }] };
    show(dialog('end'), { ...around, 'POST members/bulk': { status: 400, body: refusal } });
    submit();
    expect(await screen.findByText('There is no such role.')).toBeTruthy();
    await waitFor(() => expect(screen.queryByRole('alert')?.className).not.toBe('note'));
  });
});
