import { createHash } from 'node:crypto';
import { query, transaction } from './db';
import { runAs, type Who, whoNow, workspaceNow } from './people/who';

/**
 * Documents that tables of parts were read from, under the hash of their content. They are tens of megabytes: hashed as they arrive,
 * and sent to and read from the database in pieces, so that nobody waits for one as a whole.
 */
const PIECE_BYTES = 1_000_000;

/** What has arrived of a document. */
export interface ArrivingDocument {
  add(piece: Uint8Array): void;
  /** Its first bytes, as many as there are of them. */
  readonly head: Uint8Array;
  /** The hash of all of it, in hexadecimal; the last thing asked. */
  sha256(): string;
  readonly pieces: readonly Uint8Array[];
}

export function arrivingDocument(): ArrivingDocument {
  const hash = createHash('sha256');
  const pieces: Uint8Array[] = [];
  let collected: Uint8Array[] = [];
  let bytes = 0;
  const close = (): void => {
    if (bytes > 0) pieces.push(new Uint8Array(Buffer.concat(collected)));
    collected = [];
    bytes = 0;
  };
  return {
    add(piece) {
      hash.update(piece);
      collected.push(piece);
      bytes += piece.length;
      if (bytes >= PIECE_BYTES) close();
    },
    get head() {
      return pieces[0] ?? new Uint8Array(Buffer.concat(collected));
    },
    sha256() {
      close();
      return hash.digest('hex');
    },
    pieces,
  };
}

/** Keeps a document under its hash; one that is there stays. */
export async function keepDocument(
  sha256: string,
  name: string,
  pieces: readonly Uint8Array[],
): Promise<void> {
  await transaction(async (client) => {
    await client.query('create temporary table arriving (at integer, content bytea) on commit drop');
    for (const [at, piece] of pieces.entries())
      await client.query('insert into arriving values ($1, $2)', [at, Buffer.from(piece)]);
    await client.query(
      `insert into documents (sha256, name, content, workspace_id)
       select $1, $2, coalesce(string_agg(content, ''::bytea order by at), ''), $3 from arriving on conflict do nothing`,
      [sha256, name, workspaceNow()],
    );
  });
}

/** A document's name and length in bytes; undefined when it is not there. */
export async function findDocument(sha256: string): Promise<{ name: string; bytes: number } | undefined> {
  const [row] = await query<{ name: string; bytes: number }>(
    'select name, octet_length(content) as bytes from documents where workspace_id = $1 and sha256 = $2',
    [workspaceNow(), sha256],
  );
  return row;
}

/** The pieces of a document that is there, in order; fetched for whoever asks now, wherever they are taken later. */
export const documentPieces = (sha256: string, bytes: number): AsyncGenerator<Uint8Array> =>
  piecesFor(whoNow(), sha256, bytes);

async function* piecesFor(who: Who, sha256: string, bytes: number): AsyncGenerator<Uint8Array> {
  for (let from = 0; from < bytes; from += PIECE_BYTES) {
    const [row] = await runAs(who, () =>
      query<{ piece: Buffer }>(
        'select substring(content from $3 for $4) as piece from documents where workspace_id = $1 and sha256 = $2',
        [workspaceNow(), sha256, from + 1, PIECE_BYTES],
      ),
    );
    if (!row) throw new Error(`document ${sha256} went while it was read`);
    yield row.piece;
  }
}
