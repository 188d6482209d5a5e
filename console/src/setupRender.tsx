import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import type { ReactElement } from 'react';
import { MemoryRouter } from 'react-router';
import { vi } from 'vitest';

type Answer = { status?: number; body: unknown };

/** Renders a page of the console against answers of the API, by method and path, with or without what is asked. Unknown calls answer 404. */
export function show(page: ReactElement, answers: Record<string, Answer>, at = '/') {
  const calls: { method: string; path: string; query: URLSearchParams; body: string; headers: Headers }[] = [];
  vi.stubGlobal('fetch', async (input: Request | string, init?: RequestInit) => {
    const request = input instanceof Request ? input : new Request(new URL(input, 'http://localhost'), init);
    const { pathname, search, searchParams: query } = new URL(request.url);
    const path = pathname.replace('/api/v1/', '');
    calls.push({ method: request.method, path, query, body: await request.clone().text(), headers: request.headers });
    const answer = answers[`${request.method} ${path}${search}`] ??
      answers[`${request.method} ${path}`] ?? {
        status: 404,
        body: { detail: 'There is nothing.', code: 'not-found', errors: [] },
      };
    const { status = 200 } = answer;
    return new Response(status === 204 ? null : JSON.stringify(answer.body), { status, headers: { 'Content-Type': 'application/json' } });
  });
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[at]}>{page}</MemoryRouter>
    </QueryClientProvider>,
  );
  return calls;
}
