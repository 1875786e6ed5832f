import type { GeneratedFile } from '@/core/output/code/types';
import { query } from './db';

/** What was last taken away of a plan's generated code. */
export interface ExportRecord {
  seq: number;
  target: string;
  fingerprint: string;
  files: GeneratedFile[];
  at: string;
}

export async function lastExport(planId: string, target: string): Promise<ExportRecord | undefined> {
  const rows = await query<Omit<ExportRecord, 'at'> & { at: Date }>(
    'select seq, target, fingerprint, files, at from exports where plan_id = $1 and target = $2 order by id desc limit 1',
    [planId, target],
  );
  return rows[0] && { ...rows[0], at: rows[0].at.toISOString() };
}

export async function recordExport(planId: string, record: Omit<ExportRecord, 'at'>): Promise<void> {
  await query('insert into exports (plan_id, seq, target, fingerprint, files) values ($1, $2, $3, $4, $5)', [
    planId,
    record.seq,
    record.target,
    record.fingerprint,
    JSON.stringify(record.files),
  ]);
}
