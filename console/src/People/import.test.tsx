import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { ImportPage } from './ImportPage';
import { MeContext } from './me';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const looked = {
  stage: 'done',
  rows: 1402,
  total: 1402,
  fresh: 1300,
  changed: 60,
  same: 40,
  refused: 2,
  refusals: [
    { line: 17, email: 'no-at-sign', field: 'email', reason: 'That is no e-mail address.' },
    { line: 90, email: 'twice@x.example', field: 'email', reason: 'Line 12 has the same address.' },
  ],
  samples: [{ line: 2, email: 'ada@x.example', effect: 'fresh', says: 'Ada, role:dealer' }],
  columns: [
    { column: 'Mail', field: 'email' },
    { column: 'Who', field: '' },
  ],
  encoding: 'Windows-1252',
  delimiter: ';',
  stored: false,
  told: 0,
  detail: null,
};
const around = {
  'GET fields': {
    body: { items: [{ field: { key: 'town', label: 'Town', kind: 'text' } }, { field: { key: 'paper', label: 'Paper', kind: 'file' } }] },
  },
  'POST members/import': { body: looked },
};
const page = (
  <MeContext value={owner}>
    <ImportPage />
  </MeContext>
);
const file = new File(['Mail;Who\nada@x.example;Ada'], 'list.csv', { type: 'text/csv' });
const choose = async () => userEvent.upload(screen.getByLabelText('File'), file);
const imports = (calls: { path: string; query: URLSearchParams }[]) => calls.filter((c) => c.path === 'members/import').map((c) => c.query);

describe('members from a file', () => {
  it('are looked through at once, and nothing is stored by that', async () => {
    const calls = show(page, around);
    await choose();
    expect(await screen.findByText('That is no e-mail address.')).toBeTruthy();
    expect(screen.getByText('Line 12 has the same address.')).toBeTruthy();
    expect(screen.getByText('Read as Windows-1252.')).toBeTruthy();
    expect(screen.getByText('Ada, role:dealer')).toBeTruthy();
    expect(imports(calls).map((q) => q.get('dryRun'))).toEqual(['true']);
    expect(screen.getByText('1,300').parentElement?.textContent).toBe('1,300new');
    expect(screen.getByText('2').parentElement?.className).toBe('care');
  });

  it('are looked through again with a column that is set right', async () => {
    const calls = show(page, around);
    await choose();
    fireEvent.change(await screen.findByLabelText('Who: Is taken as'), { target: { value: 'name' } });
    await waitFor(() => expect(imports(calls).length).toBe(2));
    expect(imports(calls)[1]?.getAll('map')).toEqual(['Who=name']);
    expect(imports(calls)[1]?.get('dryRun')).toBe('true');
    // A file is no answer that a table could hold.
    await waitFor(() => expect(screen.getByLabelText('Mail: Is taken as').textContent).toContain('Answer: Town'));
    expect(screen.getByLabelText('Mail: Is taken as').textContent).not.toContain('Paper');
  });

  it('are stored when that is said, under the name that they are called by', async () => {
    const calls = show(page, { ...around, 'POST members/import?dryRun=false&source=spring': { body: { ...looked, stored: true } } });
    await userEvent.type(screen.getByLabelText('What to call it'), ' spring ');
    await choose();
    fireEvent.click(await screen.findByRole('button', { name: 'Import 1360 members' }));
    expect(await screen.findByText('Done. 1,300 came in, 60 changed.')).toBeTruthy();
    expect(imports(calls).map((q) => [q.get('dryRun'), q.get('source')])).toEqual([
      ['true', 'spring'],
      ['false', 'spring'],
    ]);
    expect(screen.queryByRole('button', { name: /^Import \d/ })).toBeNull();
  });

  it('are not offered where there is nothing to store', async () => {
    show(page, { ...around, 'POST members/import': { body: { ...looked, fresh: 0, changed: 0, samples: [] } } });
    await choose();
    expect(((await screen.findByRole('button', { name: 'Nothing to import' })) as HTMLButtonElement).disabled).toBe(true);
  });

  it('are told of it only in words that are written', async () => {
    const calls = show(page, around);
    await choose();
    fireEvent.change(await screen.findByLabelText('Write to'), { target: { value: 'fresh' } });
    const go = screen.getByRole('button', { name: 'Import 1360 members' }) as HTMLButtonElement;
    expect(go.disabled).toBe(true);
    const tell = within(screen.getByRole('region', { name: 'Who is told' }));
    const [subject, text] = tell.getAllByRole('textbox');
    await userEvent.type(subject as HTMLElement, 'Welcome');
    expect(go.disabled).toBe(true);
    await userEvent.type(text as HTMLElement, 'Glad that you are here.');
    expect(go.disabled).toBe(false);
    fireEvent.click(go);
    await waitFor(() => expect(imports(calls).length).toBe(2));
    const sent = calls.filter((c) => c.path === 'members/import')[1];
    expect(sent?.headers.get('Content-Type') ?? '').toMatch(/^multipart\/form-data/);
    expect(sent?.body).toContain('"tell":"fresh"');
    expect(sent?.body).toContain('Glad that you are here.');
  });

  it('say what is wrong with a file that is none, and with what it is to be called', async () => {
    show(page, { ...around, 'POST members/import': { body: { ...looked, stage: 'failed', detail: 'No line of it has an address.' } } });
    await choose();
    expect((await screen.findByRole('alert')).textContent).toBe('No line of it has an address.');
    expect(screen.queryByRole('button', { name: /Import/ })).toBeNull();
  });

  it('say beside the field what the service refuses', async () => {
    const refusal = { detail: 'No such name.', code: 'source-form', errors: [{ field: 'source', message: 'A name has no spaces.' }] };
    show(page, { ...around, 'POST members/import': { status: 400, body: refusal } });
    await userEvent.type(screen.getByLabelText('What to call it'), 'a b');
    await choose();
    expect(await screen.findByText('A name has no spaces.')).toBeTruthy();
  });
});
