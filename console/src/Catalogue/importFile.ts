import { type Fault, ourHeaders } from '../api/client';

export type ImportOutcome = {
  added: number;
  changed: number;
  same: number;
  faults: Fault[];
  faultyRows: number;
  stored: boolean;
  detail?: string;
};

/** Sends a file to be imported and gives what came of it. The answer comes line by line; the last line says. */
export async function importFile(file: File): Promise<ImportOutcome> {
  const nothing = { added: 0, changed: 0, same: 0, faults: [], faultyRows: 0, stored: false };
  const response = await fetch('/api/v1/items/import', {
    method: 'POST',
    headers: { 'Content-Type': /\.ya?ml$/i.test(file.name) ? 'application/yaml' : 'text/csv', ...ourHeaders() },
    body: file,
  });
  const text = await response.text();
  if (!response.ok) {
    const detail = (JSON.parse(text || '{}') as { detail?: string }).detail ?? `Status ${response.status}`;
    return { ...nothing, detail, faults: [{ field: 'file', message: detail }] };
  }

  const last = JSON.parse(text.trim().split('\n').at(-1) ?? '{}') as { result?: ImportOutcome; detail?: string };
  return { ...nothing, ...last.result, ...(last.detail ? { detail: last.detail } : {}) };
}
