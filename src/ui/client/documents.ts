import { workspaceHeader } from './me';

/** Documents that tables were read from, by the hash of their content, kept at the server beside the parts. */
const addressOf = (sha256: string): string => `/api/documents/${sha256}`;

/** Stores a document; true when it is there. */
export async function storeDocument(sha256: string, file: File): Promise<boolean> {
  try {
    const answer = await fetch(`${addressOf(sha256)}?name=${encodeURIComponent(file.name)}`, {
      method: 'PUT',
      headers: { ...workspaceHeader(), 'content-type': 'application/pdf' },
      body: file,
    });
    return answer.ok;
  } catch {
    return false;
  }
}

/** A document's bytes; undefined when it is not there. */
export async function fetchDocument(sha256: string): Promise<ArrayBuffer | undefined> {
  try {
    const answer = await fetch(addressOf(sha256), { headers: workspaceHeader() });
    return answer.ok ? await answer.arrayBuffer() : undefined;
  } catch {
    return undefined;
  }
}
