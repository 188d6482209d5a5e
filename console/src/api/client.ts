import createClient, { type Middleware } from 'openapi-fetch';
import { reader } from '../words/i18n';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Gate = Schemas['GateView'];
export type GateDraft = Schemas['GateDraft'];
export type Effect = Schemas['EffectView'];
export type Item = Schemas['ItemView'];
export type Board = Schemas['BoardView'];
export type Why = Schemas['WhyView'];
export type Standing = Schemas['FactDefinitionView'];
export type Fault = { field: string; message: string; line?: number | null; column?: number | null };

/** The service refused; it says why in words that people can read. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly faults: Fault[],
  ) {
    super(message);
  }

  /** What is wrong with one field, if that is what it is about. */
  about(field: string): string | undefined {
    return this.faults.find((fault) => fault.field === field)?.message;
  }
}

/** What every call bears: a header that no other site can make a browser send, and the language that the page around the answer is in. */
export const ourHeaders = () => ({ 'X-Wary-Console': '1', 'Accept-Language': reader() });

const ours: Middleware = {
  onRequest({ request }) {
    for (const [name, value] of Object.entries(ourHeaders())) {
      request.headers.set(name, value);
    }

    return request;
  },
};

export const api = createClient<paths>({ baseUrl: window.location.origin, fetch: (request) => globalThis.fetch(request) });
api.use(ours);

/** The data of an answer, or a throw that says why there is none. */
export async function good<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await call;
  if (!response.ok) {
    const problem = (error ?? {}) as { detail?: string; code?: string; errors?: Fault[] };
    throw new Refused(response.status, problem.code ?? 'http', problem.detail ?? `Status ${response.status}`, problem.errors ?? []);
  }

  return data as T;
}
