import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Route, Routes } from 'react-router';
import { describe, expect, it } from 'vitest';
import { show } from '../setupRender';
import { AnswerFilters, SearchAnswers } from './AnswerSelect';
import { DirectoryPage } from './DirectoryPage';
import { type Me, MeContext } from './me';
import { TermsEditorPage } from './TermsEditor';
import { TermsPage } from './TermsPage';

const owner = { scopes: ['read', 'write', 'people'] } as Me;
const reader = { scopes: ['read'] } as Me;
const page = (items: unknown[]) => ({ body: { items, next: null } });
const version = (number: number, state: string) => ({
  number,
  title: 'Use',
  note: null,
  from: '2027-03-01T20:00:00Z',
  minor: false,
  state,
  at: '2027-03-01T20:00:00Z',
  by: 'owner',
  agreed: 3,
  refused: 1,
  address: `http://site.example/account/terms/use/${number}`,
});
const use = {
  terms: { key: 'use', title: 'Use', audience: 'signed-in', text: 'Old.', from: '2027-03-01T20:00:00Z', note: 'Was new.', minor: true },
  who: 'people who are signed in',
  versions: [version(3, 'announced'), version(2, 'in-force'), version(1, 'past')],
  forms: ['trade'],
  version: 7,
};
const around = {
  'GET terms': page([use]),
  'GET roles': page([]),
  'GET plans': page([]),
  'GET groups': page([]),
  'POST terms/use/preview': { body: { address: 'http://site.example/account/terms/use?preview=A' } },
};
const open = (at: string, answers: Record<string, { status?: number; body: unknown }> = {}, me = owner) =>
  show(
    <MeContext value={me}>
      <Routes>
        <Route path="/terms" element={<TermsPage />} />
        <Route path="/terms/:key" element={<TermsEditorPage />} />
        <Route path="/directory" element={<DirectoryPage />} />
      </Routes>
    </MeContext>,
    { ...around, ...answers },
    at,
  );

describe('terms', () => {
  it('are listed with the version that counts and the one to come', async () => {
    open('/terms');
    expect(await screen.findByText(/version 2, 3 agreed/)).toBeTruthy();
    expect(screen.getByText(/Version 3 counts from/)).toBeTruthy();
  });

  it('are a new version only where the text is another, and say nothing of the old one’s day', async () => {
    const calls = open('/terms/use', {
      'PUT terms/use': { status: 412, body: { detail: 'Somebody was faster.', code: 'stale', errors: [] } },
    });
    expect(await screen.findByRole('button', { name: 'Save' })).toBeTruthy();
    await userEvent.type(await screen.findByLabelText('Text'), ' New.');
    await userEvent.type(screen.getByLabelText('What is new'), 'More.');
    await userEvent.click(screen.getByLabelText(/Nothing that matters has changed/));
    await userEvent.click(screen.getByRole('button', { name: 'Publish version 4' }));
    expect(await screen.findByText('Somebody was faster.')).toBeTruthy();
    const put = calls.find((call) => call.method === 'PUT');
    expect(put?.headers.get('If-Match')).toBe('"7"');
    expect(JSON.parse(put?.body ?? '{}')).toMatchObject({ text: 'Old. New.', note: 'More.', minor: true, from: null });
    expect((screen.getByLabelText('Text') as HTMLTextAreaElement).value).toBe('Old. New.');
  });

  it('let a version be taken back that does not count yet, and no other', async () => {
    const calls = open('/terms/use', { 'DELETE terms/use/versions/3': { status: 204, body: null } });
    const back = await screen.findAllByRole('button', { name: 'Take back' });
    expect(back).toHaveLength(1);
    await userEvent.click(back[0] as HTMLElement);
    await waitFor(() => expect(calls.some((call) => call.path === 'terms/use/versions/3')).toBe(true));
  });

  it('are only read by whoever may only read', async () => {
    open('/terms/use', {}, reader);
    expect(await screen.findByLabelText('Text')).toBeTruthy();
    expect(screen.queryByRole('button', { name: /Publish|Save|Remove|Take back/ })).toBeNull();
  });
});

describe('the directory', () => {
  it('is opened to an audience, with the fields that members may show', async () => {
    const calls = open('/directory', {
      'GET directory': {
        body: { directory: { audience: null, fields: ['town'] }, who: null, address: 'http://site.example/d', listed: 0, version: 0 },
      },
      'GET fields': page([
        { field: { key: 'town', label: 'Town', kind: 'text' } },
        { field: { key: 'sky', label: 'Sky', kind: 'one-of' } },
        { field: { key: 'proof', label: 'Proof', kind: 'file' } },
      ]),
      'PUT directory': {
        status: 422,
        body: { detail: 'No such group.', code: 'x', errors: [{ field: 'audience', message: 'No such group.' }] },
      },
    });
    await userEvent.click(await screen.findByLabelText('The site has a directory'));
    expect(screen.queryByLabelText('Proof')).toBeNull();
    await userEvent.click(screen.getByLabelText('Sky'));
    await userEvent.click(screen.getByLabelText('Town'));
    await userEvent.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(screen.getAllByText('No such group.').length).toBeGreaterThan(0));
    expect(JSON.parse(calls.find((call) => call.method === 'PUT')?.body ?? '{}')).toMatchObject({ audience: 'signed-in', fields: ['sky'] });
  });
});

describe('members by their answers', () => {
  const fields = page([
    { field: { key: 'town', label: 'Town', kind: 'text' } },
    { field: { key: 'sky', label: 'Sky', kind: 'one-of', options: [{ key: 'm', label: 'Moon' }] } },
  ]);

  it('are asked for by an option, or by a part of what was typed', async () => {
    const asked: string[] = [];
    show(<AnswerFilters values={['sky']} choose={(values) => asked.push(values.join('+'))} />, { 'GET fields': fields });
    await userEvent.selectOptions(await screen.findByLabelText('The answer'), 'm');
    await userEvent.selectOptions(screen.getByLabelText('Answered'), 'town');
    expect(asked).toEqual(['sky=m', 'town']);
  });

  it('are asked for by what was typed once it has settled', async () => {
    const asked: string[] = [];
    show(<AnswerFilters values={['town']} choose={(values) => asked.push(values.join('+'))} />, { 'GET fields': fields });
    await userEvent.type(await screen.findByLabelText('The answer'), 'port');
    await waitFor(() => expect(asked.at(-1)).toBe('town:port'));
  });

  it('narrow one another, and look into every field', async () => {
    const asked: string[] = [];
    show(<AnswerFilters values={['sky=m']} choose={(values) => asked.push(values.join('+'))} />, { 'GET fields': fields });
    await userEvent.click(await screen.findByText('Another answer'));
    await userEvent.selectOptions(screen.getAllByLabelText('Answered')[1] as HTMLElement, 'Any field');
    expect(asked).toEqual(['sky=m+*']);
  });

  it('are looked into for what no name has', async () => {
    const asked: string[] = [];
    show(<SearchAnswers part="port" go={(answer) => asked.push(answer)} />, { 'GET fields': fields });
    await userEvent.click(await screen.findByText('Look for “port” in answers'));
    expect(asked).toEqual(['*:port']);
  });
});
