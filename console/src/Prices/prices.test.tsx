import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { PriceListPage } from './PriceListPage';
import { PricesPage } from './PricesPage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const list = {
  key: 'trade',
  title: 'Trade prices',
  audience: 'role:dealer',
  currency: 'EUR',
  from: null,
  until: '2026-12-25T00:00:00Z',
  rounding: '0.50',
  count: 2,
  lines: null,
  version: 4,
};
const lines = [
  { item: 'category:mounts', quantity: 1, price: null, off: '30' },
  { item: 'product:fern-25', quantity: 10, price: '88.00', off: null },
];
const coupon = {
  key: 'sky',
  code: 'DARKSKY',
  title: 'Ten off',
  audience: 'plan:patron',
  off: '10',
  amount: null,
  currency: null,
  items: [],
  from: null,
  until: null,
  perPerson: 1,
  most: null,
  used: 1,
  version: 2,
};
const cart = { key: 'shop', at: ['/cart/add'], fields: ['product'], item: 'product:{value}', unknown: 'refuse', version: 1 };
const around = {
  'GET prices': { body: { items: [list], next: null } },
  'GET prices/trade': { body: { ...list, lines } },
  'PUT prices/trade': { body: { ...list, lines } },
  'GET coupons': { body: { items: [coupon], next: null } },
  'GET coupons/sky/uses': {
    body: { items: [{ coupon: 'sky', order: 'o-7', person: 'm@x.example', serial: 1, at: '2026-11-01T10:00:00Z' }], next: null },
  },
  'PUT coupons/sky': { body: coupon },
  'GET carts': { body: { items: [cart], next: null } },
  'PUT carts/shop': {
    status: 400,
    body: { code: 'cart-item', detail: 'It does not say what.', faults: [{ field: 'item', message: 'It does not say what.' }] },
  },
  'POST quotes': {
    body: {
      who: 'Nell',
      lines: [
        {
          item: 'product:fern-25',
          quantity: 12,
          mayPrice: true,
          mayBuy: true,
          price: '88.00',
          usual: '119.00',
          list: 'trade',
          total: '1056.00',
        },
        { item: 'product:gear', quantity: 1, mayPrice: false, mayBuy: false },
      ],
      currency: 'EUR',
      total: '1056.00',
      couponFault: 'DARKSKY is for others.',
    },
  },
};
const sent = (calls: { method: string; body?: string | undefined }[], method: string) =>
  JSON.parse(calls.find((call) => call.method === method)?.body ?? 'null');
const page = (
  <MeContext value={owner}>
    <PricesPage />
  </MeContext>
);
const one = (
  <MeContext value={owner}>
    <Routes>
      <Route path="/prices/:key" element={<PriceListPage />} />
    </Routes>
  </MeContext>
);

describe('prices', () => {
  it('say for whom a list is, and reckon what a cart would cost', async () => {
    const calls = show(page, around, '/prices');
    expect(await screen.findByText('Trade prices')).toBeTruthy();
    expect(screen.getByText(/until Dec 24, 2026/)).toBeTruthy();
    await userEvent.clear(screen.getByLabelText('Who pays'));
    await userEvent.type(screen.getByLabelText('Who pays'), 'nell@x.example');
    await userEvent.type(screen.getByLabelText('In the cart'), 'product:fern-25=12 product:gear');
    fireEvent.click(screen.getByRole('button', { name: 'Reckon' }));
    expect(await screen.findByText('1056.00 EUR')).toBeTruthy();
    expect(screen.getByText('not told')).toBeTruthy();
    expect(screen.getByText('may not buy it')).toBeTruthy();
    expect(screen.getByText('DARKSKY is for others.')).toBeTruthy();
    expect(sent(calls, 'POST')).toEqual({
      visitor: 'nell@x.example',
      coupon: null,
      lines: [
        { item: 'product:fern-25', quantity: 12 },
        { item: 'product:gear', quantity: null },
      ],
    });
  });

  it('change a coupon as it was, and tell who used it', async () => {
    const calls = show(page, around, '/prices');
    fireEvent.click(await screen.findByRole('button', { name: /Takes 10 % off for plan:patron, once for one person/ }));
    expect(await screen.findByText(/o-7: m@x.example/)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(calls.some((call) => call.method === 'PUT')).toBe(true));
    expect(sent(calls, 'PUT')).toMatchObject({
      code: 'DARKSKY',
      off: '10',
      amount: null,
      perPerson: '1',
      items: null,
    });
  });

  it('say beside its field what is wrong with a cart', async () => {
    show(page, around, '/prices');
    fireEvent.click(await screen.findByRole('button', { name: /What is sent to \/cart\/add/ }));
    fireEvent.click(await screen.findByRole('button', { name: 'Save' }));
    expect(await screen.findByText('It does not say what.')).toBeTruthy();
  });

  it('keep the other lines of a list when one is changed', async () => {
    const calls = show(one, around, '/prices/trade');
    fireEvent.click(await screen.findByRole('button', { name: 'product:fern-25' }));
    const value = await screen.findByLabelText('Price');
    await userEvent.clear(value);
    await userEvent.type(value, '85');
    fireEvent.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(calls.some((call) => call.method === 'PUT')).toBe(true));
    expect(sent(calls, 'PUT').lines).toEqual([lines[0], { item: 'product:fern-25', quantity: 10, price: '85', off: null }]);
  });
});
