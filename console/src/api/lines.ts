import { type Fault, ourHeaders, Refused } from './client';

/** Posts something, a file of a type, or a form with one, that is answered line by line; tells each line and gives the last. */
export async function lines<T>(path: string, body: unknown, told: (line: T) => void, type = 'text/csv'): Promise<T> {
  const file = body instanceof File;
  const form = body instanceof FormData;
  const response = await fetch(`/api/v1/${path}`, {
    method: 'POST',
    headers: { ...(form ? {} : { 'Content-Type': file ? type : 'application/json' }), ...ourHeaders() },
    body: file || form ? body : JSON.stringify(body),
  });
  if (!response.ok || !response.body) {
    const problem = (await response.json().catch(() => ({}))) as { detail?: string; code?: string; errors?: Fault[] };
    throw new Refused(response.status, problem.code ?? 'http', problem.detail ?? `Status ${response.status}`, problem.errors ?? []);
  }

  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  let last: T | undefined;
  for (;;) {
    const { done, value } = await reader.read();
    rest += value ?? '';
    const parts = rest.split('\n');
    rest = parts.pop() ?? '';
    for (const part of done ? [...parts, rest] : parts) {
      if (part.trim()) {
        last = JSON.parse(part) as T;
        told(last);
      }
    }

    if (done) {
      break;
    }
  }

  if (last === undefined) {
    throw new Refused(500, 'no-answer', 'The service ended without an answer.', []);
  }

  return last;
}
