import { createHash } from 'node:crypto';
import { query } from './db';
import { workspaceNow } from './people/who';

/** Keeps a document under the hash of its content. False when it has another hash than was said. */
export async function keepDocument(sha256: string, name: string, content: Uint8Array): Promise<boolean> {
  if (createHash('sha256').update(content).digest('hex') !== sha256) return false;
  await query(
    'insert into documents (sha256, name, content, workspace_id) values ($1, $2, $3, $4) on conflict do nothing',
    [sha256, name, Buffer.from(content), workspaceNow()],
  );
  return true;
}

export async function readDocument(
  sha256: string,
): Promise<{ name: string; content: Uint8Array } | undefined> {
  const rows = await query<{ name: string; content: Buffer }>(
    'select name, content from documents where workspace_id = $1 and sha256 = $2',
    [workspaceNow(), sha256],
  );
  return rows[0];
}
