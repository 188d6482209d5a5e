import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import { show } from '../setupRender';
import { CataloguePage } from './CataloguePage';
import { importFile } from './importFile';

const item = { id: 'page:a', kind: 'page', title: 'A page', parents: [], addresses: ['/a'], children: 0, version: 1 };

function answering(status: number, text: string) {
  vi.stubGlobal('fetch', () => Promise.resolve(new Response(text, { status })));
}

describe('an import', () => {
  it('takes the last line for the outcome', async () => {
    answering(
      200,
      [
        '{"stage":"reading","done":0,"total":0}\n',
        '{"stage":"done","done":2,"total":2,"result":{"added":2,"changed":0,"same":1,"faults":[],"faultyRows":0,"stored":true}}\n',
      ].join(''),
    );
    const outcome = await importFile(new File(['x'], 'catalogue.csv'));
    expect([outcome.added, outcome.same, outcome.stored]).toEqual([2, 1, true]);
  });

  it('tells why a file was not taken', async () => {
    answering(413, '{"detail":"The body is larger than the 64 MB that are taken."}');
    const outcome = await importFile(new File(['x'], 'catalogue.yaml'));
    expect(outcome.stored).toBe(false);
    expect(outcome.detail).toContain('64 MB');
  });

  it('shows each fault with its place, and that nothing is stored', async () => {
    show(<CataloguePage />, {
      'GET items': { body: { items: [item], next: null } },
      'POST items/import': {
        body: {
          stage: 'done',
          result: {
            added: 0,
            changed: 0,
            same: 0,
            faults: [{ field: 'id', message: 'Not kind:key.', line: 3, column: 1 }],
            faultyRows: 1,
            stored: false,
          },
        },
      },
    });
    await screen.findByText('A page');
    const input = document.querySelector('input[type=file]') as HTMLInputElement;
    await userEvent.upload(input, new File(['id,title\n'], 'catalogue.csv', { type: 'text/csv' }));
    expect(await screen.findByText('Nothing is stored: one row is not right.')).toBeTruthy();
    expect(screen.getByText(/line 3, column 1/)).toBeTruthy();
  });
});

describe('the catalogue', () => {
  it('offers the first step while it is empty', async () => {
    show(<CataloguePage />, { 'GET items': { body: { items: [{ ...item, id: 'site' }], next: null } } });
    expect(await screen.findByText('Nothing here yet')).toBeTruthy();
  });
});
