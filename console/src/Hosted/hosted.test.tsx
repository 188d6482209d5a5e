import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { MemoryRouter } from 'react-router';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { GuardedBy } from './Guarding';
import { PageLook } from './PageLook';
import { keyOf, PageState } from './WrittenPages';

const guarding = (kind: string, own: string | null, by: Schemas['GuardedBy'][] = []): Schemas['GuardingView'] => ({ kind, own, by });
const page: Schemas['HostedPageView'] = {
  key: 'night',
  section: 'handbook',
  title: 'Night',
  address: '/handbook/night',
  position: 10,
  state: 'published',
  published: 1,
  publishedAt: '2026-05-03T12:00:00Z',
  next: null,
  nextAt: null,
  draft: 0,
  guarding: guarding('inherits', null),
  look: null,
  version: 1,
};

afterEach(() => vi.unstubAllGlobals());

describe('what guards a page', () => {
  it.each([
    [guarding('open', null, [{ gate: 'g', title: 'G', from: 'section:x', admits: 'role:a' }]), 'everybody'],
    [guarding('inherits', null), 'everybody'],
    [guarding('inherits', null, [{ gate: 'g', title: 'G', from: 'section:x', admits: 'role:a' }]), 'role:a'],
    [guarding('own', 'role:b'), 'role:b'],
  ])('is said in a word', (guard, words) => {
    const { container } = render(<GuardedBy guarding={guard} />);
    expect(container.textContent).toBe(words);
  });
});

describe('the state of a page', () => {
  it('says what is served, what will be, and what is being written', () => {
    const { container } = render(<PageState page={{ ...page, draft: 2, next: 2, nextAt: '2090-01-01T00:00:00Z' }} />);
    expect(container.textContent).toMatch(/^publishedfrom .*2090.*draft beside it$/);
  });
});

describe('the name of a section', () => {
  it.each([
    ['Night book', 'night-book'],
    ['  Über uns! ', 'uber-uns'],
    ['***', ''],
  ])('is made of its title', (title, key) => expect(keyOf(title)).toBe(key));
});

describe('a page beside its text', () => {
  const answer = (status: number, body: unknown) =>
    new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } });
  const shown = (jump: (line: number) => void) =>
    render(
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        <MemoryRouter>
          <PageLook page="night" draft={{ title: 'Night', description: '', text: '- ::: for role:a' }} jump={jump} />
        </MemoryRouter>
      </QueryClientProvider>,
    );

  it('leads to the line of what cannot be published', async () => {
    const fault = { field: 'text', message: 'Line 1, column 3: a mark inside a list.', line: 1, column: 3 };
    vi.stubGlobal('fetch', async (request: Request) =>
      request.url.includes('viewpoints')
        ? answer(200, [{ key: 'guest', title: 'Guest', kind: 'guest' }])
        : answer(422, { code: 'page-text-invalid', detail: 'The text cannot be published as it is.', errors: [fault] }),
    );
    const jump = vi.fn();
    shown(jump);
    await userEvent.click(await screen.findByRole('button', { name: fault.message }));
    expect(jump).toHaveBeenCalledWith(1);
    expect(screen.queryByTitle('As a visitor sees it')).toBeNull();
  });

  it('shows it through the eyes that are chosen', async () => {
    const asked: string[] = [];
    vi.stubGlobal('fetch', async (request: Request) => {
      if (request.url.includes('viewpoints')) {
        return answer(200, [
          { key: 'guest', title: 'Guest', kind: 'guest' },
          { key: 'role:guide', title: 'Guides', kind: 'role' },
        ]);
      }

      asked.push(((await request.json()) as { as: string }).as);
      return answer(200, { address: 'http://site.example/account/page-preview?draft=x' });
    });
    shown(() => {});
    expect(await screen.findByTitle('As a visitor sees it')).toHaveProperty('src', 'http://site.example/account/page-preview?draft=x');
    await userEvent.selectOptions(screen.getByLabelText('Through whose eyes'), 'role:guide');
    await waitFor(() => expect(asked).toEqual(['guest', 'role:guide']));
  });
});
