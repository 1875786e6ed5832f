import { fail, ok, type Result } from '@/core/base/result';
import { migrateCorrections, migrateDescription } from '@/core/description/migrations';
import type { Correction, DeviceDescription } from '@/core/description/types';
import { DEVICE_FORMAT } from '@/core/description/types';
import type { PartFacts, PartSummary } from '@/core/device/part-facts';
import { database, type Queryable, query, transaction } from './db';
import { workspaceNow } from './people/who';
import type { JobName, Jobs, LoadedPart, PartInput, PartToLoad } from './work/jobs';
import { work } from './work/pool';

/** A stored description: the fingerprint it is kept under, and when it was last worded so (comments and sources may differ). */
export interface StoredDescription {
  id: string;
  fingerprint: string;
  worded: string;
}

/** A part as jobs take it, text and all: for those that need several parts, where a worker can ask for one only. */
export const wholePart = async (part: StoredDescription) => ({
  key: keyOf(part),
  text: await partText(part),
});

/** What a worker knows a part by: parts of other workspaces, and other wordings of what means the same, are others. */
const keyOf = ({ id, fingerprint, worded }: StoredDescription): string =>
  [workspaceNow(), id, fingerprint, worded].join(' ');

/** A moment in digits, to the microsecond. */
const WORDED = 'YYYYMMDDHH24MISSUS';

/** A part as it is now, or as it was under a fingerprint; undefined when there is no such part, or it never was like that. */
export async function findPart(
  id: string,
  fingerprint?: string,
  client: Queryable = database,
): Promise<StoredDescription | undefined> {
  const { rows } = await client.query<StoredDescription>(
    fingerprint === undefined
      ? `select p.id, p.fingerprint, to_char(v.at, '${WORDED}') as worded from parts p
           join part_versions v on v.workspace_id = p.workspace_id and v.part_id = p.id and v.fingerprint = p.fingerprint
           where p.workspace_id = $1 and p.id = $2`
      : `select part_id as id, fingerprint, to_char(at, '${WORDED}') as worded from part_versions
           where workspace_id = $1 and part_id = $2 and fingerprint = $3`,
    fingerprint === undefined ? [workspaceNow(), id] : [workspaceNow(), id, fingerprint],
  );
  return rows[0];
}

/** The description's text in today's format, in the order of keys in which it was stored. */
export async function partText(
  { id, fingerprint }: StoredDescription,
  client: Queryable = database,
): Promise<string> {
  const { rows } = await client.query<{ format: string; text: string }>(
    `select description->>'format' as format, description::text as text
     from part_versions where workspace_id = $1 and part_id = $2 and fingerprint = $3`,
    [workspaceNow(), id, fingerprint],
  );
  if (!rows[0]) throw new Error(`part ${id} has no version ${fingerprint}`);
  const { format, text } = rows[0];
  return format === DEVICE_FORMAT ? text : JSON.stringify(migrateDescription(JSON.parse(text)));
}

/** The part as a plan wants it: the description it was made against, or today's where that one is not known here. */
export async function findPlanPart(
  plan: { device: string; deviceFingerprint: string },
  client: Queryable = database,
): Promise<StoredDescription | undefined> {
  const recorded =
    plan.deviceFingerprint === '' ? undefined : await findPart(plan.device, plan.deviceFingerprint, client);
  return recorded ?? findPart(plan.device, undefined, client);
}

/** Name and packages of a description: all that is needed to say whether a plan can stand on it. */
export async function packagesOf(
  { id, fingerprint }: StoredDescription,
  client: Queryable = database,
): Promise<{ name: string; packages: string[] }> {
  const { rows } = await client.query<{ name: string; packages: string[] }>(
    `select description->>'name' as name,
       array(select one->>'id' from json_array_elements(description->'packages') as one) as packages
     from part_versions where workspace_id = $1 and part_id = $2 and fingerprint = $3`,
    [workspaceNow(), id, fingerprint],
  );
  return rows[0] ?? { name: id, packages: [] };
}

type PartJob = {
  [Name in JobName]: Parameters<Jobs[Name]>[0] extends { part: PartInput } ? Name : never;
}[JobName];

/** Work on a stored part, in a worker thread, which is sent the description only where it does not have it yet. */
export const workOnPart = <Name extends PartJob>(
  job: Name,
  part: StoredDescription,
  input: Omit<Parameters<Jobs[Name]>[0], 'part'>,
): Promise<ReturnType<Jobs[Name]>> =>
  work(job, { ...input, part: { key: keyOf(part) } } as Parameters<Jobs[Name]>[0], {
    partText: () => partText(part),
  });

const SUMMARY = `select id, name, maker, summary, fingerprint, revision, facts, shipped is not null as shipped,
  updated_at as "updatedAt",
  (select count(*)::int from plans where plans.workspace_id = parts.workspace_id and plans.device = parts.id
    and plans.deleted_at is null) as plans, workspace_id from parts where workspace_id = $1`;

type SummaryRow = Omit<PartSummary, keyof PartFacts | 'updatedAt'> & {
  facts: PartFacts;
  updatedAt: Date;
  workspace_id: string;
};

const summaryOf = ({ facts, updatedAt, workspace_id: _own, ...row }: SummaryRow): PartSummary => ({
  ...row,
  ...facts,
  updatedAt: updatedAt.toISOString(),
});

export async function listParts(): Promise<PartSummary[]> {
  return (await query<SummaryRow>(`${SUMMARY} order by lower(name), id`, [workspaceNow()])).map(summaryOf);
}

/** What lists and the part's page show of a part; undefined when there is no such part. */
export async function partSummary(id: string): Promise<PartSummary | undefined> {
  const [row] = await query<SummaryRow>(`${SUMMARY} and id = $2`, [workspaceNow(), id]);
  return row && summaryOf(row);
}

/** The corrections of a part as JSON text; undefined when there is no such part. */
export async function correctionsText(part: StoredDescription): Promise<string> {
  const [row] = await query<{ corrections: unknown }>(
    `select description->'corrections' as corrections from part_versions
     where workspace_id = $1 and part_id = $2 and fingerprint = $3`,
    [workspaceNow(), part.id, part.fingerprint],
  );
  return `${JSON.stringify(migrateCorrections(row?.corrections ?? []), null, 2)}\n`;
}

export async function readPart(
  id: string,
): Promise<{ summary: PartSummary; description: DeviceDescription } | undefined> {
  const rows = await query<SummaryRow & { description: DeviceDescription }>(
    `select s.*, v.description from (${SUMMARY}) s
     join part_versions v on v.workspace_id = s.workspace_id and v.part_id = s.id and v.fingerprint = s.fingerprint
     where s.id = $2`,
    [workspaceNow(), id],
  );
  const row = rows[0];
  if (!row) return undefined;
  const { description, ...rest } = row;
  return { summary: summaryOf(rest), description };
}

/** Plans that use a part, and whether they were made against today's description. */
export async function plansOfPart(
  id: string,
): Promise<{ id: string; name: string; revision: string; package: string; fingerprint: string }[]> {
  return query(
    `select id, name, revision, package, device_fingerprint as fingerprint from plans
     where workspace_id = $1 and device = $2 and deleted_at is null order by updated_at desc limit 200`,
    [workspaceNow(), id],
  );
}

/** What a part was before, newest first. */
export async function versionsOfPart(id: string): Promise<{ fingerprint: string; at: string }[]> {
  const rows = await query<{ fingerprint: string; at: Date }>(
    'select fingerprint, at from part_versions where workspace_id = $1 and part_id = $2 order by at desc limit 100',
    [workspaceNow(), id],
  );
  return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
}

interface StoreOptions {
  /** The revision its author had seen; 0 for a part that must not be there yet, undefined to store whatever is there. */
  expected?: number;
  /** Digest of the folder a shipped part comes from. */
  shipped?: string;
  /** It still counts as shipped, if it did. */
  keepShipped?: boolean;
}

/**
 * Stores a description under its id. Corrections that the stored part has are laid over the new description as well; those
 * that no longer match stay in the list and are reported on the part's page. Refused with the problems when the description
 * cannot be used.
 */
export const storePart = (
  description: DeviceDescription,
  options: StoreOptions = {},
): Promise<Result<StoredPart>> =>
  storePartText({ id: description.id, text: JSON.stringify(description) }, options);

/** The same of a description as text, as the job `readPart` gives it: it is only looked into where nobody waits. */
export async function storePartText(
  { id, text }: { id: string; text: string },
  options: StoreOptions = {},
): Promise<Result<StoredPart>> {
  return checkedThenWritten(id, options, (old) =>
    options.expected !== undefined && options.expected !== (old?.revision ?? 0)
      ? moved(id)
      : ok({ text, stored: old?.corrections ?? [] }),
  );
}

interface StoredPart {
  revision: number;
  fingerprint: string;
}

interface OldPart extends StoredPart {
  shipped: string | null;
  corrections: Correction[] | null;
}

/**
 * Makes the next version of a part from the one that is there. Checking it can take long and is done outside of the transaction,
 * which then writes only if the part is still the one that was looked at; otherwise all is done again.
 */
async function checkedThenWritten(
  id: string,
  options: StoreOptions,
  next: (old: OldPart | undefined) => Result<PartToLoad>,
): Promise<Result<StoredPart>> {
  for (let tries = 0; tries < 5; tries++) {
    const old = await oldPart(database, id, false);
    const wanted = next(old);
    if (!wanted.ok) return wanted;
    const loaded = await work('loadPart', wanted.value);
    if (!loaded.ok) return loaded;
    const shipped = options.shipped ?? (options.keepShipped ? (old?.shipped ?? undefined) : undefined);
    const stored = await transaction(async (client) => {
      const now = await oldPart(client, id, true);
      if (now?.revision !== old?.revision) return undefined;
      return write(client, loaded.value, shipped, old);
    });
    if (stored) return ok(stored);
  }
  return moved(id);
}

async function oldPart(client: Queryable, id: string, lock: boolean): Promise<OldPart | undefined> {
  const { rows } = await client.query<OldPart>(
    `select p.revision, p.fingerprint, p.shipped, v.description->'corrections' as corrections
     from parts p join part_versions v
       on v.workspace_id = p.workspace_id and v.part_id = p.id and v.fingerprint = p.fingerprint
     where p.workspace_id = $1 and p.id = $2 ${lock ? 'for update of p' : ''}`,
    [workspaceNow(), id],
  );
  const [part] = rows;
  return part && { ...part, corrections: migrateCorrections(part.corrections) as Correction[] | null };
}

const moved = (id: string): Result<never> =>
  fail({ place: 'part', message: `${id} was changed meanwhile; reload the page to see how` });

/** Replaces the corrections of a part; undefined when there is no such part. */
export async function storeCorrections(
  id: string,
  corrections: readonly Correction[],
  expected: number,
): Promise<Result<StoredPart> | undefined> {
  const part = await findPart(id);
  if (!part) return undefined;
  const text = await partText(part);
  return checkedThenWritten(id, { keepShipped: true }, (old) =>
    old?.revision === expected && old.fingerprint === part.fingerprint
      ? ok({ text, replacing: [...corrections] })
      : moved(id),
  );
}

async function write(
  client: Queryable,
  { head: { id, name, maker, summary }, fingerprint, facts, text }: LoadedPart,
  shipped: string | undefined,
  old: { revision: number } | undefined,
): Promise<StoredPart> {
  const revision = (old?.revision ?? 0) + 1;
  await client.query(
    `insert into parts (id, name, maker, summary, revision, fingerprint, facts, shipped, workspace_id)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
     on conflict (workspace_id, id) do update set name = $2, maker = $3, summary = $4, revision = $5, fingerprint = $6,
       facts = $7, shipped = $8, updated_at = now()`,
    [id, name, maker, summary, revision, fingerprint, JSON.stringify(facts), shipped ?? null, workspaceNow()],
  );
  // The newest wording (sources, reasons) is kept under an unchanged fingerprint.
  await client.query(
    `insert into part_versions (part_id, fingerprint, description, workspace_id) values ($1, $2, $3, $4)
     on conflict (workspace_id, part_id, fingerprint) do update set description = $3, at = now()`,
    [id, fingerprint, text, workspaceNow()],
  );
  return { revision, fingerprint };
}

/** Takes a part out. Refused while plans use it, deleted ones that could be brought back included. */
export async function removePart(id: string): Promise<Result<string> | undefined> {
  return transaction(async (client) => {
    const { rows } = await client.query(
      'select id from parts where workspace_id = $1 and id = $2 for update',
      [workspaceNow(), id],
    );
    if (!rows[0]) return undefined;
    const plans = await client.query<{ name: string }>(
      'select name from plans where workspace_id = $1 and device = $2 order by updated_at desc limit 4',
      [workspaceNow(), id],
    );
    if (plans.rows.length > 0) {
      const names = plans.rows.slice(0, 3).map((row) => row.name);
      const more = plans.rows.length > 3 ? ' and others' : '';
      return fail({ place: 'part', message: `${id} is used by ${names.join(', ')}${more}` });
    }
    await client.query('delete from parts where workspace_id = $1 and id = $2', [workspaceNow(), id]);
    return ok(id);
  });
}
