import type { Correction } from '@/core/device/corrections';
import { type PartFacts, type PartSummary, partFacts } from '@/core/device/part-facts';
import type { DeviceDescription } from '@/core/device/types';
import { compileDevice, type Device, loadDevice } from '@/core/recipe/device';
import { fail, formatProblems, ok, type Result } from '@/core/result';
import { database, type Queryable, query, transaction } from './db';

/** Compiled descriptions by part and fingerprint: what they say never changes, so any process may keep them. */
const shared = globalThis as typeof globalThis & { mavrekDevices?: Map<string, Device> };
const MOST_KEPT = 24;

function kept(): Map<string, Device> {
  shared.mavrekDevices ??= new Map();
  return shared.mavrekDevices;
}

function keep(key: string, device: Device): Device {
  const devices = kept();
  devices.delete(key);
  devices.set(key, device);
  // The least recently used one goes first.
  const oldest = devices.keys().next().value;
  if (devices.size > MOST_KEPT && oldest !== undefined) devices.delete(oldest);
  return device;
}

/** A part as it is now, or as it was under a fingerprint; undefined when there is no such part, or it never was like that. */
export async function partDevice(
  id: string,
  fingerprint?: string,
  client: Queryable = database,
): Promise<Device | undefined> {
  let wanted = fingerprint;
  if (wanted === undefined) {
    const { rows } = await client.query<{ fingerprint: string }>(
      'select fingerprint from parts where id = $1',
      [id],
    );
    wanted = rows[0]?.fingerprint;
  }
  if (wanted === undefined) return undefined;
  const key = `${id} ${wanted}`;
  const known = kept().get(key);
  if (known) return keep(key, known);
  const { rows } = await client.query<{ description: DeviceDescription }>(
    'select description from part_versions where part_id = $1 and fingerprint = $2',
    [id, wanted],
  );
  if (!rows[0]) return undefined;
  const device = compileDevice(rows[0].description);
  if (!device.ok)
    throw new Error(`part ${id} was stored but does not compile: ${formatProblems(device.problems)}`);
  return keep(key, device.value);
}

/** The part as a plan wants it: the description it was made against, or today's where that one is not known here. */
export async function planDevice(
  plan: { device: string; deviceFingerprint: string },
  client: Queryable = database,
): Promise<Device | undefined> {
  const recorded =
    plan.deviceFingerprint === '' ? undefined : await partDevice(plan.device, plan.deviceFingerprint, client);
  return recorded ?? partDevice(plan.device, undefined, client);
}

const SUMMARY = `select id, name, maker, summary, fingerprint, revision, facts, shipped is not null as shipped,
  updated_at as "updatedAt",
  (select count(*)::int from plans where plans.device = parts.id and plans.deleted_at is null) as plans from parts`;

type SummaryRow = Omit<PartSummary, keyof PartFacts | 'updatedAt'> & { facts: PartFacts; updatedAt: Date };

const summaryOf = ({ facts, updatedAt, ...row }: SummaryRow): PartSummary => ({
  ...row,
  ...facts,
  updatedAt: updatedAt.toISOString(),
});

export async function listParts(): Promise<PartSummary[]> {
  return (await query<SummaryRow>(`${SUMMARY} order by lower(name), id`)).map(summaryOf);
}

export async function readPart(
  id: string,
): Promise<{ summary: PartSummary; description: DeviceDescription } | undefined> {
  const rows = await query<SummaryRow & { description: DeviceDescription }>(
    `select s.*, v.description from (${SUMMARY}) s
     join part_versions v on v.part_id = s.id and v.fingerprint = s.fingerprint where s.id = $1`,
    [id],
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
    `select id, name, revision, package, device_fingerprint as fingerprint from plans where device = $1 and deleted_at is null
     order by updated_at desc limit 200`,
    [id],
  );
}

/** What a part was before, newest first. */
export async function versionsOfPart(id: string): Promise<{ fingerprint: string; at: string }[]> {
  const rows = await query<{ fingerprint: string; at: Date }>(
    'select fingerprint, at from part_versions where part_id = $1 order by at desc limit 100',
    [id],
  );
  return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
}

interface StoreOptions {
  /** The revision its author had seen; 0 for a part that must not be there yet, undefined to store whatever is there. */
  expected?: number;
  /** Digest of the folder a shipped part comes from. */
  shipped?: string;
}

/**
 * Stores a description under its id. Corrections that the stored part has are laid over the new description as well; those
 * that no longer match stay in the list and are reported on the part's page. Refused with the problems when the description
 * cannot be used.
 */
export async function storePart(
  description: DeviceDescription,
  options: StoreOptions = {},
): Promise<Result<{ revision: number; fingerprint: string }>> {
  return transaction(async (client) => {
    const { rows } = await client.query<{ revision: number; fingerprint: string }>(
      'select revision, fingerprint from parts where id = $1 for update',
      [description.id],
    );
    const old = rows[0];
    if (options.expected !== undefined && options.expected !== (old?.revision ?? 0))
      return moved(description.id);
    const before = old && (await partDevice(description.id, old.fingerprint, client));
    const corrections = merged(before?.original.corrections ?? [], description.corrections ?? []);
    return write(
      client,
      { ...description, ...(corrections.length > 0 ? { corrections } : {}) },
      options,
      old,
    );
  });
}

const moved = (id: string): Result<never> =>
  fail({ place: 'part', message: `${id} was changed meanwhile; reload the page to see how` });

/** The stored corrections with those of a file; the same id counts once, as the file has it. */
function merged(stored: readonly Correction[], brought: readonly Correction[]): Correction[] {
  const ids = new Set(brought.map((one) => one.id));
  return [...stored.filter((one) => !ids.has(one.id)), ...brought];
}

/** Replaces the corrections of a part. */
export async function storeCorrections(
  id: string,
  corrections: readonly Correction[],
  expected: number,
): Promise<Result<{ revision: number; fingerprint: string }> | undefined> {
  return transaction(async (client) => {
    const { rows } = await client.query<{ revision: number; fingerprint: string; shipped: string | null }>(
      'select revision, fingerprint, shipped from parts where id = $1 for update',
      [id],
    );
    const old = rows[0];
    const device = old && (await partDevice(id, old.fingerprint, client));
    if (!old || !device) return undefined;
    if (old.revision !== expected) return moved(id);
    const { corrections: _replaced, ...original } = device.original;
    const next = corrections.length > 0 ? { ...original, corrections: [...corrections] } : original;
    return write(client, next, { shipped: old.shipped ?? undefined }, old);
  });
}

async function write(
  client: Queryable,
  description: DeviceDescription,
  options: StoreOptions,
  old: { revision: number } | undefined,
): Promise<Result<{ revision: number; fingerprint: string }>> {
  const loaded = loadDevice(description);
  if (!loaded.ok) return loaded;
  const device = loaded.value;
  const { id, name, maker, summary } = description;
  const facts = JSON.stringify(partFacts(device));
  const revision = (old?.revision ?? 0) + 1;
  await client.query(
    `insert into parts (id, name, maker, summary, revision, fingerprint, facts, shipped)
     values ($1, $2, $3, $4, $5, $6, $7, $8)
     on conflict (id) do update set name = $2, maker = $3, summary = $4, revision = $5, fingerprint = $6,
       facts = $7, shipped = $8, updated_at = now()`,
    [id, name, maker, summary, revision, device.fingerprint, facts, options.shipped ?? null],
  );
  // The newest wording (sources, reasons) is kept under an unchanged fingerprint.
  await client.query(
    `insert into part_versions (part_id, fingerprint, description) values ($1, $2, $3)
     on conflict (part_id, fingerprint) do update set description = $3, at = now()`,
    [id, device.fingerprint, JSON.stringify(description)],
  );
  keep(`${id} ${device.fingerprint}`, device);
  return ok({ revision, fingerprint: device.fingerprint });
}

/** Takes a part out. Refused while plans use it, deleted ones that could be brought back included. */
export async function removePart(id: string): Promise<Result<string> | undefined> {
  return transaction(async (client) => {
    const { rows } = await client.query('select id from parts where id = $1 for update', [id]);
    if (!rows[0]) return undefined;
    const plans = await client.query<{ name: string }>(
      'select name from plans where device = $1 order by updated_at desc limit 4',
      [id],
    );
    if (plans.rows.length > 0) {
      const names = plans.rows.slice(0, 3).map((row) => row.name);
      const more = plans.rows.length > 3 ? ' and others' : '';
      return fail({ place: 'part', message: `${id} is used by ${names.join(', ')}${more}` });
    }
    await client.query('delete from parts where id = $1', [id]);
    return ok(id);
  });
}
