import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { AddOrder } from './AddOrder';

const around = {
  'GET fulfilment': {
    body: {
      items: [
        { key: 'r1', code: 'YEAR-12' },
        { key: 'r2', code: 'MAP-*' },
      ],
    },
  },
  'POST fulfilment/try': { body: { would: ['ada@x.example gets the plan Year until 30 November 2027.'] } },
  'POST orders': { status: 201, body: { order: { id: 'o-77' } } },
};
const page = (
  <Routes>
    <Route path="/orders" element={<AddOrder close={() => {}} />} />
    <Route path="/orders/:id" element={<p>the order</p>} />
  </Routes>
);
const fill = async (email: string, code: string) => {
  await userEvent.type(screen.getByLabelText('E-mail of who buys'), email);
  await userEvent.type(screen.getByLabelText('Stock code'), code);
};
const sent = (calls: { method: string; path: string; body: string }[], path: string) =>
  calls.filter((c) => c.method === 'POST' && c.path === path).map((c) => JSON.parse(c.body));

describe('an order by hand', () => {
  it('says what it would do before it is taken in, asked once for what was typed', async () => {
    const calls = show(page, around, '/orders');
    await fill('ada@x.example', 'YEAR-12');
    expect(await screen.findByText(/^ada@x\.example gets the plan Year/)).toBeTruthy();
    expect(sent(calls, 'fulfilment/try').at(-1)).toEqual({ lines: [{ code: 'YEAR-12', quantity: 1 }], email: 'ada@x.example' });
    expect(sent(calls, 'fulfilment/try').every((asked) => asked.lines[0].code !== '')).toBe(true);
    expect(sent(calls, 'orders')).toEqual([]);
  });

  it('asks nothing as long as there is no whole address', async () => {
    const calls = show(page, around, '/orders');
    await fill('ada@x', 'YEAR-12');
    await waitFor(() => expect(calls.some((c) => c.path === 'fulfilment')).toBe(true));
    expect(sent(calls, 'fulfilment/try')).toEqual([]);
  });

  it('offers the stock codes of the rules, but no patterns', async () => {
    show(page, around, '/orders');
    await waitFor(() => expect([...document.querySelectorAll('option')].map((o) => o.value)).toEqual(['YEAR-12']));
  });

  it('is taken in with what was said and nothing else, and then shown', async () => {
    const calls = show(page, around, '/orders');
    await fill('ada@x.example', 'YEAR-12');
    fireEvent.change(screen.getByLabelText('How many'), { target: { value: '3' } });
    await userEvent.type(screen.getByLabelText('Paid'), '120.00');
    fireEvent.submit(screen.getByLabelText('Paid').closest('form') as HTMLFormElement);
    expect(await screen.findByText('the order')).toBeTruthy();
    expect(sent(calls, 'orders')).toEqual([
      { source: 'hand', email: 'ada@x.example', lines: [{ code: 'YEAR-12', quantity: 3 }], amount: '120.00', currency: 'EUR' },
    ]);
  });

  it('says beside the field what is wrong, also in a line of it', async () => {
    const refusal = { detail: 'No.', code: 'order', errors: [{ field: 'lines.0.code', message: 'No rule knows that code.' }] };
    show(page, { ...around, 'POST orders': { status: 400, body: refusal } }, '/orders');
    await fill('ada@x.example', 'NOPE');
    fireEvent.submit(screen.getByLabelText('Paid').closest('form') as HTMLFormElement);
    expect(await screen.findByText('No rule knows that code.')).toBeTruthy();
  });
});
