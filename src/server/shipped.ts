import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { formatProblems } from '@/core/base/result';
import { describeDeviceFolder, devicesFolder } from '@/files/devices';
import { query } from './db';
import { log } from './log';
import { storePart } from './parts';
import { asServer, workspaceNow } from './people/who';

/** Raised when a new version of Mavrek must read the shipped folders again although they are unchanged. */
const READER = 1;
/** How many parts are checked at a time, each in a worker thread of its own. */
const WORKERS = 2;

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
  const shipped = readdirSync(folder)
    .sort()
    .map((name) => join(folder, name))
    .filter((path) => statSync(path).isDirectory())
    .map((path) => ({ path, digest: digestOf(path) }));
  await copyFromOthers(shipped.map(({ digest }) => digest));
  const rows = await query<{ id: string; shipped: string | null }>(
    'select id, shipped from parts where workspace_id = $1',
    [workspaceNow()],
  );
  const digests = new Set(rows.map((row) => row.shipped));
  const store = async ({ path, digest }: { path: string; digest: string }): Promise<void> => {
    const described = describeDeviceFolder(path);
    if (!described.ok) {
      log.error({ part: path, problems: formatProblems(described.problems) }, 'part left out');
      return;
    }
    const known = rows.find((row) => row.id === described.value.id);
    if (known && known.shipped === null) return;
    // It is checked as a whole when it is stored.
    const stored = await storePart(described.value, { shipped: digest });
    if (!stored.ok) log.error({ part: path, problems: formatProblems(stored.problems) }, 'part left out');
  };
  const waiting = shipped.filter(({ digest }) => !digests.has(digest));
  const storeNext = async (): Promise<void> => {
    for (let next = waiting.shift(); next; next = waiting.shift()) await store(next);
  };
  await Promise.all(Array.from({ length: WORKERS }, storeNext));
}

/** What another workspace has of the same folders, without corrections, was checked there: it is taken as it is. */
async function copyFromOthers(digests: readonly string[]): Promise<void> {
  await query(
    `with found as (
       select distinct on (p.id) p.* from parts p
       where p.workspace_id <> $1 and p.shipped = any($2) and (p.facts->>'corrections')::integer = 0
       order by p.id, p.workspace_id
     ), made as (
       insert into parts (workspace_id, id, name, maker, summary, fingerprint, facts, shipped)
       select $1, id, name, maker, summary, fingerprint, facts, shipped from found
       on conflict do nothing returning id, fingerprint
     )
     insert into part_versions (workspace_id, part_id, fingerprint, description)
     select $1, v.part_id, v.fingerprint, v.description from made
       join found on found.id = made.id
       join part_versions v on v.workspace_id = found.workspace_id and v.part_id = made.id and v.fingerprint = made.fingerprint`,
    [workspaceNow(), digests],
  );
}

function digestOf(folder: string): string {
  const hash = createHash('sha256').update(`reader ${READER}`);
  for (const file of ['pinout.csv', 'functions.csv', 'recipe.part']) {
    hash.update(file);
    try {
      hash.update(readFileSync(join(folder, file)));
    } catch {
      // A missing file is reported when the folder is read.
    }
  }
  return hash.digest('hex').slice(0, 32);
}
