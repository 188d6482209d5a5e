import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { type Draft, fresh } from './draft';
import { SentenceEditor } from './SentenceEditor';

const parts = [
  { edits: 'covers', text: 'Dealer stock' },
  { edits: null, text: ' and ' },
  { edits: 'reach', text: 'all in it' },
  { edits: null, text: ': only ' },
  { edits: 'audience', text: 'dealers' },
  { edits: null, text: ' may ' },
  { edits: 'acts', text: 'open it' },
  { edits: null, text: '. Others ' },
  { edits: 'presence', text: 'see it listed' },
  { edits: null, text: '; at its address, they ' },
  { edits: 'answer', text: 'are asked to sign in' },
  { edits: null, text: '.' },
];

function show(draft: Draft, set: (change: Partial<Draft>) => void, shown: typeof parts | undefined = parts) {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <SentenceEditor draft={draft} parts={shown} set={set} />
    </QueryClientProvider>,
  );
}

describe('the gate sentence', () => {
  beforeEach(() => {
    vi.stubGlobal('fetch', () =>
      Promise.resolve(
        new Response(JSON.stringify({ items: [{ key: 'dealer', title: 'Dealers' }], next: null }), {
          headers: { 'Content-Type': 'application/json' },
        }),
      ),
    );
  });

  it('reads as the service says it', () => {
    show(fresh, () => {});
    expect(document.querySelector('.line')?.textContent).toBe(parts.map((part) => part.text).join(''));
  });

  it('invites to choose what to protect before anything is chosen', () => {
    show(fresh, () => {}, undefined);
    expect(screen.getByRole('button', { name: /What it covers/ }).className).toContain('todo');
  });

  it('edits what others find from its own words', async () => {
    const set = vi.fn();
    show(fresh, set);
    await userEvent.click(screen.getByRole('button', { name: /In listings and menus/ }));
    await userEvent.click(await screen.findByRole('radio', { name: /don’t see it listed/ }));
    expect(set).toHaveBeenCalledWith({ presence: 'hidden' });
  });

  it('puts a role into the audience', async () => {
    const set = vi.fn();
    show(fresh, set);
    await userEvent.click(screen.getByRole('button', { name: /Who may/ }));
    await userEvent.click((await screen.findAllByRole('checkbox', { name: /Dealers/ }))[0] as HTMLElement);
    expect(set).toHaveBeenCalledWith({ audience: 'signed-in or role:dealer' });
  });

  it('edits an audience that is more than a list in rows', async () => {
    const set = vi.fn();
    show({ ...fresh, audience: 'role:dealer and not guest or password' }, set);
    await userEvent.click(screen.getByRole('button', { name: /Who may/ }));
    expect(await screen.findByRole('group', { name: 'Row 2' })).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'is not' }));
    expect(set).toHaveBeenCalledWith({ audience: 'role:dealer and guest or password' });
    await userEvent.click(screen.getByRole('button', { name: 'Take out holder of a shared password' }));
    expect(set).toHaveBeenCalledWith({ audience: 'role:dealer and not guest' });
    await userEvent.selectOptions(screen.getByLabelText('Add a row …'), 'group:dealer');
    expect(set).toHaveBeenCalledWith({ audience: 'role:dealer and not guest or password or group:dealer' });
  });

  it('takes the rows of an audience with brackets from the service', async () => {
    render(
      <QueryClientProvider client={new QueryClient()}>
        <SentenceEditor
          draft={{ ...fresh, audience: 'role:a and (role:b or guest)' }}
          parts={parts}
          rows={[
            ['role:a', 'role:b'],
            ['role:a', 'guest'],
          ]}
          set={() => {}}
        />
      </QueryClientProvider>,
    );
    await userEvent.click(screen.getByRole('button', { name: /Who may/ }));
    expect((await screen.findAllByRole('group', { name: /Row/ })).length).toBe(2);
  });
});
