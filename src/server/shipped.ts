import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { formatProblems } from '@/core/base/result';
import { devicesFolder, readDeviceFolder } from '@/files/devices';
import { query } from './db';
import { log } from './log';
import { storePart } from './parts';
import { asServer, workspaceNow } from './people/who';

/** Raised when a new version of Mavrek must read the shipped folders again although they are unchanged. */
const READER = 1;

/**
 * Brings the parts in `devices/` into the database: new ones, and those whose folder has changed. What users have imported
 * under the same id, and their corrections, stay.
 */
export async function storeShippedParts(folder = devicesFolder()): Promise<void> {
  const workspaces = await query<{ id: string }>('select id from workspaces order by id');
  for (const { id } of workspaces) await asServer(() => storeShippedHere(folder), id);
}

/** The same for one workspace: each has its own, with its own corrections. */
export async function storeShippedHere(folder = devicesFolder()): Promise<void> {
  const rows = await query<{ id: string; shipped: string | null }>(
    'select id, shipped from parts where workspace_id = $1',
    [workspaceNow()],
  );
  const digests = new Set(rows.map((row) => row.shipped));
  for (const name of readdirSync(folder).sort()) {
    const path = join(folder, name);
    if (!statSync(path).isDirectory()) continue;
    const digest = digestOf(path);
    if (digests.has(digest)) continue;
    const device = readDeviceFolder(path);
    if (!device.ok) {
      log.error({ part: name, problems: formatProblems(device.problems) }, 'part left out');
      continue;
    }
    const { original } = device.value;
    const known = rows.find((row) => row.id === original.id);
    if (known && known.shipped === null) continue;
    const stored = await storePart(original, { shipped: digest });
    if (!stored.ok)
      log.error({ part: name, problems: formatProblems(stored.problems) }, 'part could not be stored');
  }
}

function digestOf(folder: string): string {
  const hash = createHash('sha256').update(`reader ${READER}`);
  for (const file of ['pinout.csv', 'functions.csv', 'recipe.json']) {
    hash.update(file);
    try {
      hash.update(readFileSync(join(folder, file)));
    } catch {
      // A missing file is reported when the folder is read.
    }
  }
  return hash.digest('hex').slice(0, 32);
}
