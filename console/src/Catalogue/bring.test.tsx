import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import { show } from '../setupRender';
import { BringIn } from './BringIn';

const result = {
  find: 'p1',
  found: 12,
  whole: false,
  result: { added: 1, changed: 1, same: 10, faults: [], faultyRows: 0, stored: false },
  changes: [
    { section: 'items', key: 'product:lamp', what: 'added', changes: [] },
    { section: 'items', key: 'product:torch', what: 'changed', changes: [{ field: 'title', before: 'Torch', after: 'Torch two' }] },
  ],
  moreChanges: 0,
  vanished: [{ id: 'product:old', title: 'Old lamp' }],
};

describe('what the site brings in', () => {
  it('is shown before it is stored', async () => {
    const close = vi.fn();
    const calls = show(<BringIn close={close} />, {
      'POST items/discover': { body: { stage: 'done', done: 12, total: 12, result } },
      'POST items/discover/p1/store': { body: result.result },
    });
    await userEvent.type(screen.getByLabelText('What addresses stand for'), '/x/*=product, /y/*=page');
    await userEvent.click(screen.getByRole('button', { name: 'Look' }));
    expect(await screen.findByText('12 found: 1 to add, 1 to change, 10 the same.')).toBeTruthy();
    expect(screen.getByText('title: Torch → Torch two')).toBeTruthy();
    expect(screen.getByText(/One known item is no longer named/).textContent).toContain('Old lamp');
    expect(screen.getByText(/has not come to its end/)).toBeTruthy();
    expect(JSON.parse(calls[0]?.body ?? '{}').map).toEqual(['/x/*=product', '/y/*=page']);
    await userEvent.click(screen.getByRole('button', { name: 'Store this' }));
    await vi.waitFor(() => expect(close).toHaveBeenCalled());
  });

  it('reads what people ask for out of a log', async () => {
    const calls = show(<BringIn close={() => {}} />, {
      'POST items/discover/file': {
        body: {
          stage: 'done',
          done: 1,
          total: 1,
          result: { ...result, whole: true, vanished: [], lines: 900, requests: 300, asked: [{ address: '/guide', times: 41 }] },
        },
      },
    });
    await userEvent.selectOptions(screen.getByLabelText('Read'), 'log');
    await userEvent.upload(screen.getByLabelText(/The log file/), new File(['x'], 'access.log'));
    await userEvent.type(screen.getByLabelText('Asked for so often at least'), '5');
    await userEvent.click(screen.getByRole('button', { name: 'Look' }));
    expect((await screen.findByText('/guide')).closest('li')?.textContent).toContain('41 times');
    expect(calls[0]?.method).toBe('POST');
  });

  it('says why nothing came', async () => {
    show(<BringIn close={() => {}} />, {
      'POST items/discover': { body: { stage: 'failed', done: 0, total: 0, detail: 'http://x does not answer.' } },
    });
    await userEvent.click(screen.getByRole('button', { name: 'Look' }));
    expect((await screen.findByRole('alert')).textContent).toBe('http://x does not answer.');
  });
});
