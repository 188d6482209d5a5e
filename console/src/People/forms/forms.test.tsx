import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { show } from '../../setupRender';
import { MeContext } from '../me';
import { RequestsPage } from '../RequestsPage';
import { ConditionEditor } from './ConditionEditor';
import { asking, askOf, asksOf, type Condition, type FieldDraft, fieldOf, isRow, keyOf, valuesOf } from './draft';
import { FormPage } from './FormPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const fields: FieldDraft[] = [
  { key: 'resale', kind: 'yes-no', label: 'For resale?' },
  {
    key: 'sky',
    kind: 'several-of',
    label: 'What?',
    options: [
      { key: 'sun', label: 'The sun' },
      { key: 'moon', label: 'The moon' },
    ],
  },
  { key: 'shops', kind: 'number', label: 'How many shops?' },
  { key: 'about', kind: 'long-text', label: 'About' },
];
const viewOf = (field: FieldDraft) => ({ field, forms: [], version: 1 });
const page = (items: unknown[]) => ({ body: { items, next: null } });

describe('a condition', () => {
  it('is read and said again as it was, whatever is asked of whatever field', () => {
    for (const field of fields) {
      for (const ask of asksOf(field)) {
        const made = asking(field.key ?? '', ask, ['1']);
        expect([askOf(made), fieldOf(made), isRow(made)]).toEqual([ask, field.key, true]);
        expect(asking(fieldOf(made), askOf(made), valuesOf(made))).toEqual(made);
      }
    }
    expect(asksOf(fields[3])).toEqual(['given', 'missing']);
    expect(isRow({ all: [] })).toBe(false);
    expect(isRow({ not: { all: [] } })).toBe(false);
  });

  it('is made of rows and groups, and gone when its last row is', async () => {
    let last: Condition | undefined;
    function Box() {
      const [condition, set] = useState<Condition>();
      last = condition;
      return <ConditionEditor id="c" condition={condition} fields={fields} set={set} />;
    }
    show(<Box />, {});
    await userEvent.click(screen.getByRole('button', { name: 'Only if …' }));
    expect(last).toEqual({ all: [{ field: 'resale', is: ['yes'] }] });
    await userEvent.selectOptions(screen.getByLabelText('Field'), 'sky');
    await userEvent.click(screen.getByLabelText('The moon'));
    expect(last).toEqual({ all: [{ field: 'sky', is: ['sun', 'moon'] }] });
    await userEvent.selectOptions(screen.getByLabelText('Asked'), 'not-is');
    expect(last).toEqual({ all: [{ not: { field: 'sky', is: ['sun', 'moon'] } }] });
    await userEvent.click(screen.getByRole('button', { name: 'and another' }));
    await userEvent.selectOptions(screen.getByLabelText('How many have to hold'), 'any');
    await userEvent.click(screen.getAllByRole('button', { name: 'a group inside' })[0] as HTMLElement);
    expect(last?.any).toHaveLength(3);
    expect(last?.any?.[2]).toEqual({ all: [{ field: 'resale', is: ['yes'] }] });
    for (let left = 3; left > 0; left--) {
      await userEvent.click(screen.getAllByRole('button', { name: /^Take out/ })[0] as HTMLElement);
    }
    expect(last).toBeUndefined();
  });

  it('says so where there is nothing to look at', () => {
    show(<ConditionEditor id="c" condition={undefined} fields={[]} set={() => undefined} />, {});
    expect(screen.getByText('There is no other field yet to look at.')).toBeTruthy();
  });
});

describe('a key', () => {
  it('is made of the label, and is nobody else’s', () => {
    expect(keyOf('Größe & Höhe!', [])).toBe('gro-e-ho-he');
    expect(keyOf('VAT number', ['vat-number', 'vat-number-2'])).toBe('vat-number-3');
    expect(keyOf('数', [])).toBe('field');
    expect(keyOf('x'.repeat(90), [])).toHaveLength(40);
  });
});

describe('a form', () => {
  const around = {
    'GET fields': page(fields.map(viewOf)),
    'GET forms': page([]),
    'GET roles': page([
      { key: 'dealer', title: 'Dealers' },
      { key: 'owner', title: 'Owner' },
    ]),
    'GET groups': page([]),
    'GET plans': page([]),
    'POST forms/trade/preview': { body: { address: 'http://localhost/account/register/trade?preview=1' } },
    'PUT forms/trade': {
      status: 422,
      body: {
        code: 'form-ring',
        detail: 'These fields are shown by each other.',
        errors: [{ field: 'sections[0].fields[0]', message: 'In a ring.' }],
      },
    },
  };

  it('is put together from fields, given what it gives, and keeps what was made when it is refused', async () => {
    const calls = show(
      <MeContext value={owner}>
        <Routes>
          <Route path="/forms/:key" element={<FormPage />} />
        </Routes>
      </MeContext>,
      around,
      '/forms/new',
    );
    await userEvent.type(await screen.findByLabelText('Heading'), 'Trade');
    await userEvent.selectOptions(screen.getByLabelText('Add a field …'), 'shops');
    await userEvent.selectOptions(screen.getByLabelText('Add a field …'), 'resale');
    await userEvent.click(screen.getByRole('button', { name: 'Move For resale? up' }));
    await userEvent.click(
      within(screen.getByRole('button', { name: 'How many shops?' }).closest('li') as HTMLElement).getByLabelText('needed'),
    );
    await userEvent.click(screen.getByRole('button', { name: 'Give something' }));
    const what = (await screen.findByLabelText('What they get')) as HTMLSelectElement;
    expect([...what.options].map((one) => one.value)).not.toContain('role:owner');
    expect(await screen.findByTitle('The page as visitors see it')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Save form' }));
    expect(await screen.findByText('In a ring.')).toBeTruthy();
    const sent = JSON.parse(calls.find((call) => call.method === 'PUT')?.body ?? '{}');
    expect(sent.sections).toEqual([
      {
        fields: [
          { field: 'resale', required: false },
          { field: 'shops', required: true },
        ],
      },
    ]);
    expect(sent.grants[0].grant).toBe('role:dealer');
    expect((screen.getByLabelText('Heading') as HTMLInputElement).value).toBe('Trade');
  });
});

describe('requests', () => {
  const request = (n: number, state: string) => ({
    id: `r${n}`,
    member: `m${n}`,
    email: `a${n}@x.example`,
    name: `Asker ${n}`,
    form: 'trade',
    title: 'Trade',
    at: '2027-03-01T20:00:00Z',
    state,
    answers: [{ field: 'proof', label: 'Proof', values: ['f'], words: 'proof.pdf', file: { id: 'f1', name: 'proof.pdf', bytes: 9 } }],
    signs: state === 'held' ? [{ kind: 'decoy', words: 'filled in a field that people do not see' }] : [],
    grants: ['role:dealer'],
    words: null,
    decidedAt: null,
    by: null,
    nearby: 1,
  });
  const around = (state: string) => ({
    'GET requests': page([request(1, state), request(2, state)]),
    'GET requests/counts': { body: { waiting: 2, asked: 0, held: 2 } },
    'GET settings': { body: { joining: { way: 'approval' } } },
    'GET forms': page([]),
    'GET requests/m1/nearby': page([request(2, state)]),
    'POST requests/decide': { body: { done: 1, failed: [{ member: 'm2', why: 'It was decided already.' }] } },
    'POST members/m1/ask-back': { body: {} },
  });
  const open = (state: string, at: string) =>
    show(
      <MeContext value={owner}>
        <RequestsPage />
      </MeContext>,
      around(state),
      at,
    );

  it('that are held back say why, and go many at once, with what was not done', async () => {
    const calls = open('held', '/requests?show=held');
    expect(await screen.findAllByText('filled in a field that people do not see')).toHaveLength(2);
    await userEvent.click(screen.getAllByRole('button', { name: 'Choose one more from the same network' })[0] as HTMLElement);
    await userEvent.click(await screen.findByRole('button', { name: 'Remove as shams' }));
    await waitFor(() => expect(screen.getByText(/It was decided already/)).toBeTruthy());
    expect(JSON.parse(calls.find((call) => call.path === 'requests/decide')?.body ?? '{}')).toEqual({
      members: ['m1', 'm2'],
      decision: 'sham',
    });
  });

  it('are asked back in words of one’s own; their files are kept, not shown', async () => {
    const calls = open('waiting', '/requests');
    const file = (await screen.findAllByRole('link', { name: 'proof.pdf' }))[0] as HTMLAnchorElement;
    expect([file.getAttribute('href'), file.hasAttribute('download')]).toEqual(['/api/v1/members/m1/files/f1', true]);
    await userEvent.type(screen.getAllByLabelText('Words to them')[0] as HTMLElement, ' Who are you? ');
    await userEvent.click(screen.getAllByRole('button', { name: 'Ask back' })[0] as HTMLElement);
    await waitFor(() => expect(calls.some((call) => call.path === 'members/m1/ask-back')).toBe(true));
    expect(JSON.parse(calls.find((call) => call.path === 'members/m1/ask-back')?.body ?? '{}')).toEqual({ words: 'Who are you?' });
    expect(screen.queryByRole('button', { name: 'Remove as shams' })).toBeNull();
  });
});
