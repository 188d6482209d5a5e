import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { EntriesPage } from './EntriesPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const rule = {
  key: 'cards',
  at: ['/shop/**'],
  sort: 'card',
  entry: '.card',
  link: null,
  price: '.price',
  about: null,
  behind: null,
  blank: false,
  beside: [],
  points: [],
  isUnreadable: false,
  version: 1,
};
const proposal = (draft: object) => ({
  draft: { at: ['/lookbook'], link: null, price: null, about: null, behind: null, blank: null, beside: null, points: null, ...draft },
  count: 12,
  items: 11,
  example: 'Fern 40 mm',
});
const around = {
  'GET entries': { body: { items: [rule], next: null } },
  'GET viewpoints': { body: [{ key: 'guest', title: 'Guest', kind: 'guest' }] },
  'POST entries/propose': {
    body: {
      address: '/lookbook',
      proposals: [proposal({ sort: 'card', entry: 'div.piece' }), proposal({ sort: 'data', entry: '$[*]', behind: 'window.D' })],
    },
  },
  'POST entries/try': {
    body: {
      who: 'Guest',
      goes: 1,
      stays: 1,
      entries: [
        { words: 'Open one', about: '/o', item: 'Open one', fate: 'stays' },
        { words: 'Secret', about: '/s', item: null, fate: 'goes' },
      ],
      page: '<html><head></head><body></body></html>',
    },
  },
  'PUT entries/lookbook': { body: { ...rule, key: 'lookbook' } },
};
const page = (
  <MeContext value={owner}>
    <EntriesPage />
  </MeContext>
);

describe('entries', () => {
  it('are taught: found, tried with what goes first, and kept', async () => {
    const calls = show(page, around, '/entries?at=/lookbook');
    await userEvent.click(await screen.findByRole('button', { name: 'Look' }));
    await userEvent.click(await screen.findByRole('radio', { name: /div\.piece/ }));
    expect(await screen.findByText('1 goes')).toBeTruthy();
    const seen = (await screen.findAllByRole('listitem')).map((item) => item.textContent);
    expect(seen[0]).toContain('goes');
    await userEvent.type(screen.getByLabelText('Its price'), '.price');
    await userEvent.click(screen.getByRole('button', { name: 'Keep the rule' }));
    await waitFor(() => {
      const put = calls.find((c) => c.path === 'entries/lookbook');
      expect(JSON.parse(put?.body ?? '{}')).toMatchObject({ at: ['/lookbook'], entry: 'div.piece', price: '.price' });
    });
  });

  it('ask for what data needs, and not for what cards do', async () => {
    show(page, around, '/entries?at=/lookbook');
    await userEvent.click(await screen.findByRole('button', { name: 'Look' }));
    await userEvent.click(await screen.findByRole('radio', { name: /window\.D/ }));
    expect(screen.getByLabelText('Name in the script')).toHaveProperty('value', 'window.D');
    expect(screen.getByLabelText('Lists in step')).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText('What they are'), 'card');
    expect(screen.queryByLabelText('Name in the script')).toBeNull();
  });

  it('are told as sentences, and changed by nobody who may not', async () => {
    show(<EntriesPage />, around, '/entries');
    expect(await screen.findByText('.card')).toBeTruthy();
    expect(screen.getByText(/price: \.price/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Teach an entry' })).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: /At \/shop/ }));
    expect((await screen.findByLabelText('One entry is')).matches(':disabled')).toBe(true);
    expect(screen.queryByRole('button', { name: 'Keep the rule' })).toBeNull();
  });
});
