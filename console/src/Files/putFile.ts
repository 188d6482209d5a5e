import { ourHeaders, Refused } from '../api/client';

/** Puts a file into a folder as it is; what is wrong with it is said as everywhere. */
export async function putFile(of: string, file: File) {
  const response = await fetch(`/api/v1/${of}/files/${encodeURIComponent(file.name)}`, {
    method: 'PUT',
    headers: { ...ourHeaders(), 'Content-Type': 'application/octet-stream' },
    body: file,
  });
  if (!response.ok) {
    const problem = await response.json().catch(() => ({}));
    throw new Refused(response.status, problem.code ?? 'http', problem.detail ?? `Status ${response.status}`, problem.errors ?? []);
  }
}
