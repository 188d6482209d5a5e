import { fireEvent, screen, waitFor } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { MeContext } from '../People/me';
import { show } from '../setupRender';
import { TemplatePage } from './TemplatePage';

const owner = { name: 'Owner', email: 'o@x.example', isOwner: true, right: 'owner', scopes: ['read', 'write', 'people', 'tokens'] };
const reader = { ...owner, isOwner: false, right: 'support', scopes: ['read', 'people'] };
const kind = { key: 'welcome', title: 'Welcome', about: 'Goes to whoever comes in.', variables: [], own: ['de'], ours: ['en', 'de', 'fr'] };
const ours = { kind: 'welcome', language: 'en', subject: 'Come in', html: '<p>Hello</p>', text: null, own: false, from: 'en', version: 0 };
const german = { ...ours, language: 'de', subject: 'Herein', own: true, from: 'de', version: 6 };
const around = {
  'GET letter-templates': { body: { items: [kind] } },
  'GET letter-templates/welcome/en': { body: ours },
  'GET letter-templates/welcome/de': { body: german },
  'GET letter-templates/welcome/fi': { body: { ...ours, language: 'fi' } },
  'POST letter-templates/welcome/en/preview': { body: { subject: 'Come in', html: '<p>Hello</p>', text: 'Hello' } },
  'POST letter-templates/welcome/de/preview': { body: { subject: 'Herein', html: '<p>Hallo</p>', text: 'Hallo' } },
  'POST letter-templates/welcome/fi/preview': { body: { subject: 'Come in', html: '<p>Hello</p>', text: 'Hello' } },
};
const page = (me = owner) => (
  <MeContext value={me}>
    <Routes>
      <Route path="/letters/words/:kind" element={<TemplatePage />} />
    </Routes>
  </MeContext>
);
const at = (language: string) => `/letters/words/welcome?language=${language}`;
const save = () => screen.getByRole('button', { name: 'Save' }) as HTMLButtonElement;
const write = async (subject: string) => fireEvent.change(await screen.findByLabelText('Subject'), { target: { value: subject } });

describe('a letter', () => {
  it('says whose words it has: ours, one’s own, or another language’s', async () => {
    show(page(), around, at('en'));
    expect(await screen.findByText(/^This letter comes with the service/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Back to ours' })).toBeNull();
    show(page(), around, at('de'));
    expect(await screen.findByText('These are your own words.')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Back to ours' })).toBeTruthy();
    show(page(), around, at('fi'));
    expect(await screen.findByText(/^There is none in this language yet; readers get the one in English/)).toBeTruthy();
  });

  it('offers every language that there is, and the one that is asked for', async () => {
    show(page(), around, at('fi'));
    const languages = (await screen.findByLabelText('Language')) as HTMLSelectElement;
    expect([...languages.options].map((o) => o.value)).toEqual(['de', 'en', 'fi', 'fr', '+']);
  });

  it('is saved once it is another, under the version that was read', async () => {
    const calls = show(page(), { ...around, 'PUT letter-templates/welcome/de': { body: german } }, at('de'));
    await screen.findByText('These are your own words.');
    expect(save().disabled).toBe(true);
    await write('Nur herein');
    expect(save().disabled).toBe(false);
    fireEvent.click(save());
    await waitFor(() => expect(calls.some((c) => c.method === 'PUT')).toBe(true));
    const put = calls.find((c) => c.method === 'PUT');
    expect(put?.headers.get('If-Match')).toBe('"6"');
    expect(JSON.parse(put?.body ?? '')).toEqual({ subject: 'Nur herein', html: '<p>Hello</p>', text: '' });
  });

  it('goes to its writer as a test, as it stands there and not as it is kept', async () => {
    const calls = show(page(), { ...around, 'POST letter-templates/welcome/en/test': { body: { to: 'o@x.example' } } }, at('en'));
    await write('Tried');
    fireEvent.click(screen.getByRole('button', { name: 'Send me a test' }));
    expect(await screen.findByText('A test is on its way to o@x.example.')).toBeTruthy();
    expect(JSON.parse(calls.find((c) => c.path.endsWith('/test'))?.body ?? '').subject).toBe('Tried');
    // What is typed after it is not what was sent.
    await write('Tried again');
    expect(screen.queryByText(/on its way/)).toBeNull();
  });

  it('says beside its field what is wrong with it', async () => {
    const refusal = { detail: 'No.', code: 'template', errors: [{ field: 'subject', message: 'There is no name {{ nobody }}.' }] };
    show(page(), { ...around, 'PUT letter-templates/welcome/en': { status: 400, body: refusal } }, at('en'));
    await write('{{ nobody }}');
    fireEvent.click(save());
    expect(await screen.findByText('There is no name {{ nobody }}.')).toBeTruthy();
    expect(screen.queryByRole('alert')?.textContent).not.toBe('No.');
  });

  it('is only read by who may not write it', async () => {
    show(page(reader), around, at('en'));
    expect(((await screen.findByLabelText('Subject')) as HTMLInputElement).readOnly).toBe(true);
    expect(screen.queryByRole('button', { name: 'Save' })).toBeNull();
  });
});
