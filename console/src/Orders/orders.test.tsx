import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { EndsPage } from '../Insights/EndsPage';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { FulfilmentPage } from './FulfilmentPage';
import { ImportOrders } from './ImportOrders';
import { OrderPage } from './OrderPage';
import { OrdersPage } from './OrdersPage';
import { SourcesPage } from './SourcesPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const order = {
  id: '0190aaaa-0000-7000-8000-000000000001',
  source: 'pay',
  order: 'FO-1',
  standing: 'paid',
  handling: 'waiting',
  waitsFor: 'code',
  email: 'ada@quill.example',
  name: 'Ada',
  codes: 'ALMANAC',
  total: '12.00',
  currency: 'EUR',
  refunded: null,
  at: '2026-11-27T10:00:00Z',
  dueAt: null,
  member: null,
};
const rule = {
  key: 'patron',
  code: 'PATRON',
  gives: ['plan:patron'],
  length: null,
  way: 'account',
  quantity: 'nothing',
  most: null,
  landsOn: null,
  sentence: 'An order for PATRON gives the plan Patron.',
  version: 1,
};
const story = {
  order,
  lines: [{ code: 'ALMANAC', variant: null, quantity: 1, amount: '12.00', rule: null, until: null }],
  pausedAt: null,
  waits: [],
  seats: null,
  gift: null,
  given: [],
  events: [
    { id: 'e', name: 'ev', kind: 'order.paid', at: order.at, receivedAt: order.at, state: 'taken', amount: '12.00 EUR', address: null },
  ],
  letters: [],
  would: ['No rule is for ALMANAC: that waits for you, and the buyer is told so.'],
};
const around = {
  'GET orders': { body: { items: [order], next: null } },
  [`GET orders/${order.id}`]: { body: story },
  [`POST orders/${order.id}/again`]: { body: order },
  [`POST orders/${order.id}/events`]: { body: { order, told: true } },
  'GET orders/unreadable': { body: { items: [], next: null } },
  'GET fulfilment': { body: { items: [rule], next: null } },
  'POST fulfilment/try': { body: { sentence: rule.sentence, would: ['They have the plan Patron until 27 November 2027.'] } },
  'GET plans': {
    body: {
      items: [{ key: 'patron', title: 'Patron', members: 0, version: 1, builtIn: false, home: null, links: [], rule: null }],
      next: null,
    },
  },
  'GET roles': { body: { items: [], next: null } },
  'GET groups': { body: { items: [], next: null } },
  'GET order-sources': { body: { items: [], next: null } },
  'PUT fulfilment/night-pass': { body: rule },
};

describe('orders', () => {
  it('say which wait for the owner, and why', async () => {
    show(
      <MeContext value={owner}>
        <OrdersPage />
      </MeContext>,
      around,
      '/orders',
    );
    expect(await screen.findByText('Waits for you', { selector: '.state' })).toBeTruthy();
    expect(screen.getByText(/no rule for a code/)).toBeTruthy();
  });

  it('show what could not be read, with what is wrong, and read it again', async () => {
    const id = '0190aaaa-0000-7000-8000-000000000009';
    const bad = { id, source: 'pay', name: 'x', receivedAt: order.at, faults: ['/data/order: “order” is missing.'], raw: '{"a":1}' };
    const calls = show(
      <MeContext value={owner}>
        <OrdersPage />
      </MeContext>,
      {
        ...around,
        'GET orders/unreadable': { body: { items: [bad], next: null } },
        [`POST orders/unreadable/${id}/again`]: {
          status: 422,
          body: { code: 'order-needed', detail: 'It still cannot be read.', errors: [] },
        },
      },
      '/orders',
    );
    expect(await screen.findByText(/is missing/)).toBeTruthy();
    await userEvent.click(screen.getByText(/is missing/));
    await userEvent.click(screen.getByRole('button', { name: 'Read again' }));
    await waitFor(() => expect(calls.some((c) => c.path === `orders/unreadable/${id}/again`)).toBe(true));
    expect(await screen.findByText('It still cannot be read.')).toBeTruthy();
  });

  it('tell their story, and are taken up and refunded from there', async () => {
    const calls = show(
      <MeContext value={owner}>
        <Routes>
          <Route path="/orders/:id" element={<OrderPage />} />
        </Routes>
      </MeContext>,
      around,
      `/orders/${order.id}`,
    );
    expect(await screen.findByText(/No rule is for ALMANAC/)).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Take it up now' }));
    await userEvent.click(screen.getByRole('button', { name: 'Refund' }));
    await userEvent.type(screen.getByLabelText(/How much/), '5.00');
    await userEvent.click(screen.getAllByRole('button', { name: 'Refund' }).at(-1) as HTMLElement);
    await waitFor(() =>
      expect(JSON.parse(calls.find((c) => c.path === `orders/${order.id}/events`)?.body ?? '{}')).toEqual({
        kind: 'order.refunded',
        amount: '5.00',
      }),
    );
  });
});

describe('an order whose time is managed', () => {
  const shown = (more: object) => ({
    ...around,
    [`GET orders/${order.id}`]: { body: { ...story, would: null, ...more } },
  });
  const at = (answers: Parameters<typeof show>[1]) =>
    show(
      <MeContext value={owner}>
        <Routes>
          <Route path="/orders/:id" element={<OrderPage />} />
        </Routes>
      </MeContext>,
      answers,
      `/orders/${order.id}`,
    );

  it('rests and goes on', async () => {
    const calls = at(shown({ order: { ...order, standing: 'paused' }, pausedAt: '2026-11-02T10:00:00Z' }));
    expect(await screen.findByText(/What is left of its time is kept/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Let it rest' })).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: 'Let it go on' }));
    await userEvent.click(screen.getAllByRole('button', { name: 'Let it go on' }).at(-1) as HTMLElement);
    await waitFor(() => expect(calls.find((c) => c.path === `orders/${order.id}/events`)?.body).toBe('{"kind":"order.resumed"}'));
  });

  it('waits to be begun, and becomes something else', async () => {
    const calls = at(shown({ order: { ...order, standing: 'paid' }, waits: ['Night pass'] }));
    expect(await screen.findByText('Not begun yet: Night pass')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Begin it' })).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Change what is bought' }));
    await userEvent.type(screen.getByLabelText('What is bought from now on'), 'PATRON/YEAR=2');
    await userEvent.type(screen.getByLabelText(/What it costs/), '98.00');
    await userEvent.click(screen.getAllByRole('button', { name: 'Change what is bought' }).at(-1) as HTMLElement);
    await waitFor(() =>
      expect(JSON.parse(calls.find((c) => c.path === `orders/${order.id}/events`)?.body ?? '{}')).toEqual({
        kind: 'order.changed',
        lines: [{ code: 'PATRON', variant: 'YEAR', quantity: 2, amount: '98.00' }],
      }),
    );
  });
});

describe('what orders give', () => {
  it('is said in a rule, with what it would do before it is saved', async () => {
    const calls = show(
      <MeContext value={owner}>
        <FulfilmentPage />
      </MeContext>,
      around,
      '/fulfilment',
    );
    await userEvent.click(await screen.findByRole('button', { name: 'Add a rule' }));
    await userEvent.type(screen.getByLabelText('Stock code'), 'NIGHT-PASS');
    await userEvent.click(await screen.findByLabelText(/^Patron/));
    expect(await screen.findByText('They have the plan Patron until 27 November 2027.')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() =>
      expect(JSON.parse(calls.find((c) => c.path === 'fulfilment/night-pass')?.body ?? '{}')).toMatchObject({
        code: 'NIGHT-PASS',
        gives: ['plan:patron'],
      }),
    );
  });
});

describe('who tells of orders', () => {
  it('is mapped by an example, in which everything can be pointed at', async () => {
    const calls = show(
      <MeContext value={owner}>
        <SourcesPage />
      </MeContext>,
      {
        ...around,
        'POST order-sources/try': {
          body: { kind: 'order.paid', read: { order: 'A-1' }, faults: [], pointers: [{ pointer: '/id', value: 'A-1' }] },
        },
      },
      '/order-sources',
    );
    expect(await screen.findByText('Nobody tells of orders yet')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Add a source' }));
    await userEvent.click(screen.getByLabelText(/They are CloudEvents/));
    await userEvent.click(screen.getByLabelText('An example of a call'));
    await userEvent.paste('{"id":"A-1"}');
    await userEvent.type(screen.getByLabelText('Order'), '/id');
    expect(await screen.findByText('A-1', { selector: 'dd' })).toBeTruthy();
    await waitFor(() =>
      expect(JSON.parse(calls.filter((c) => c.path === 'order-sources/try').at(-1)?.body ?? '{}').draft.fields).toEqual({ order: '/id' }),
    );
  });
});

describe('the calendar of ends', () => {
  it('goes day by day, and can be had as a file', async () => {
    const end = (name: string, until: string) => ({
      member: `0190aaaa-0000-7000-8000-0000000000${name.length.toString(16).padStart(2, '0')}`,
      name,
      fact: 'plan:patron',
      title: 'Patron',
      until,
    });
    show(
      <EndsPage />,
      {
        'GET ends': {
          body: {
            ends: [end('=Ada', '2026-12-02T00:00:00Z'), end('Bob', '2026-12-02T00:00:00Z'), end('Cy', '2026-12-09T00:00:00Z')],
            inAll: 5,
          },
        },
      },
      '/ends',
    );
    expect(await screen.findByText('Bob')).toBeTruthy();
    expect(screen.getAllByRole('heading', { level: 2 })).toHaveLength(2);
    expect(screen.getByText(/The first 3 of them/)).toBeTruthy();
    // No field begins a formula in a spreadsheet.
    expect(decodeURIComponent(screen.getByRole('link', { name: 'As a file' }).getAttribute('href') ?? '')).toContain(`"'=Ada"`);
  });
});

describe('a file of orders', () => {
  it('is looked through before it is taken in', async () => {
    const found = {
      rows: 3,
      orders: 2,
      new: 2,
      known: 0,
      columns: {},
      codes: [{ code: 'PATRON', orders: 2, rule: null }],
      faults: [{ line: 4, field: 'at', message: 'No day.' }],
      faultsInAll: 1,
    };
    const calls = show(
      <ImportOrders close={() => undefined} />,
      { 'POST orders/import': { body: { ...found, stored: false } } },
      '/orders',
    );
    await userEvent.upload(screen.getByLabelText('The file'), new File(['order,email,code'], 'orders.csv', { type: 'text/csv' }));
    expect(await screen.findByText(/2 new, 0 known. Nothing is stored yet/)).toBeTruthy();
    expect(screen.getByText(/Line 4: No day./)).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Take them in' }));
    await waitFor(() => expect(calls.filter((c) => c.path.startsWith('orders/import'))).toHaveLength(2));
  });
});
