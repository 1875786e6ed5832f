import type { ExportHead, ExportRecord } from '@/core/output/exports';
import { query } from './db';

type Row<T> = Omit<T, 'at'> & { at: Date };
const told = <T extends { at: string }>(row: Row<T>): T =>
  ({ ...row, at: row.at.toISOString() }) as unknown as T;

const HEAD = 'id::int, seq, target, revision, fingerprint, options, at';
/** The most that a list of exports tells. */
const LISTED = 200;

/** The newest export of a plan, for a target or for any. */
export async function lastExport(planId: string, target?: string): Promise<ExportRecord | undefined> {
  const rows = await query<Row<ExportRecord>>(
    `select ${HEAD}, files, image from exports
      where plan_id = $1 and ($2::text is null or target = $2) order by exports.id desc limit 1`,
    [planId, target ?? null],
  );
  return rows[0] && told(rows[0]);
}

/** The exports of a plan, newest first. */
export async function exportHistory(planId: string): Promise<ExportHead[]> {
  const rows = await query<Row<ExportHead>>(
    `select ${HEAD} from exports where plan_id = $1 order by exports.id desc limit ${LISTED}`,
    [planId],
  );
  return rows.map((row) => told(row));
}

/** An export as it was, byte for byte. */
export async function oneExport(planId: string, id: number): Promise<ExportRecord | undefined> {
  const rows = await query<Row<ExportRecord>>(
    `select ${HEAD}, files, image from exports where plan_id = $1 and exports.id = $2`,
    [planId, id],
  );
  return rows[0] && told(rows[0]);
}

export async function recordExport(planId: string, record: Omit<ExportRecord, 'at' | 'id'>): Promise<void> {
  await query(
    'insert into exports (plan_id, seq, target, revision, fingerprint, files, image, options) values ($1, $2, $3, $4, $5, $6, $7, $8)',
    [
      planId,
      record.seq,
      record.target,
      record.revision,
      record.fingerprint,
      JSON.stringify(record.files),
      JSON.stringify(record.image),
      JSON.stringify(record.options),
    ],
  );
}
