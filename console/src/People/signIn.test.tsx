import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { FirstOwnerPage } from './FirstOwnerPage';
import { SignedIn } from './SignedIn';

const page = (
  <Routes>
    <Route element={<SignedIn />}>
      <Route path="/" element={<p>Inside</p>} />
    </Route>
    <Route path="/first-owner" element={<FirstOwnerPage />} />
    <Route path="/gates" element={<p>All gates</p>} />
  </Routes>
);

describe('coming in', () => {
  it('asks a stranger, tells what was wrong, lets the right one in', async () => {
    const answers: Record<string, { status?: number; body: unknown }> = {
      'GET set-up': { body: { needsOwner: false, siteName: 'Fernlight', me: null } },
      'POST sign-in': { status: 401, body: { detail: 'That didn’t match.', code: 'wrong-credentials', errors: [] } },
    };
    show(page, answers);
    await userEvent.type(await screen.findByLabelText('E-mail or user name'), 'owner@x.example');
    await userEvent.type(screen.getByLabelText('Password'), 'wrong');
    await userEvent.click(screen.getByRole('button', { name: 'Sign in' }));
    expect((await screen.findByRole('alert')).textContent).toBe('That didn’t match.');
    answers['POST sign-in'] = { body: { name: 'Juniper', email: 'owner@x.example', isOwner: true } };
    await userEvent.click(screen.getByRole('button', { name: 'Sign in' }));
    expect(await screen.findByText('Inside')).toBeTruthy();
  });

  it('speaks another language at once, what was typed stays, and the service is asked for it', async () => {
    const calls = show(page, {
      'GET set-up': { body: { needsOwner: false, siteName: 'Fernlight', me: null } },
      'POST sign-in': { status: 401, body: { detail: 'Das passte nicht.', code: 'wrong-credentials', errors: [] } },
    });
    await userEvent.type(await screen.findByLabelText('E-mail or user name'), 'owner@x.example');
    await userEvent.selectOptions(screen.getByLabelText('The console speaks'), 'Deutsch');
    expect(await screen.findByRole('heading', { name: 'Anmelden' })).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>('E-Mail oder Benutzername').value).toBe('owner@x.example');
    await userEvent.type(screen.getByLabelText('Passwort'), 'falsch');
    await userEvent.click(screen.getByRole('button', { name: 'Anmelden' }));
    expect((await screen.findByRole('alert')).textContent).toBe('Das passte nicht.');
    expect(calls.at(-1)?.headers.get('Accept-Language')).toBe('de');
    await userEvent.selectOptions(screen.getByLabelText('Die Konsole spricht'), 'English');
    expect(await screen.findByRole('heading', { name: 'Sign in' })).toBeTruthy();
    localStorage.clear();
  });

  it('shows and hides the password', async () => {
    show(page, { 'GET set-up': { body: { needsOwner: false, siteName: 'Fernlight', me: null } } });
    const field = (await screen.findByLabelText('Password')) as HTMLInputElement;
    await userEvent.click(screen.getByRole('button', { name: 'Show' }));
    expect(field.type).toBe('text');
    await userEvent.click(screen.getByRole('button', { name: 'Hide' }));
    expect(field.type).toBe('password');
  });

  it('leads to the first owner while there is none', async () => {
    show(page, {
      'GET set-up': { body: { needsOwner: true, siteName: 'New', me: null } },
      'POST first-owner': {
        status: 422,
        body: { detail: 'x', code: 'set-up-code', errors: [{ field: 'code', message: 'The code is not right.' }] },
      },
    });
    await userEvent.type(await screen.findByLabelText('Code'), 'guess');
    await userEvent.type(screen.getByLabelText('Your name'), 'Juniper');
    await userEvent.type(screen.getByLabelText('E-mail'), 'owner@x.example');
    await userEvent.type(screen.getByLabelText(/Password/), 'keep-the-lamp-lit');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    expect(await screen.findByText('The code is not right.')).toBeTruthy();
  });
});
