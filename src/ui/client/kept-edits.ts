import { isRecord } from '@/core/base/migrations';
import type { Edit } from '@/core/plan/edits/edits';
import { EDIT_FORMAT, migrateEdit } from '@/core/plan/migrations';
import type { PendingEdit } from './plan-session';

/** Edits that are not stored yet, as the browser keeps them: with the number of their format, for they may wait past an update. */
export const printKept = (pending: readonly PendingEdit[]): string =>
  JSON.stringify(pending.map((one) => ({ ...one, format: EDIT_FORMAT })));

/** What {@link printKept} wrote, by this version or by an earlier one, which wrote no number. Nothing where it cannot be read. */
export function readKept(text: string | null): PendingEdit[] {
  try {
    const kept: unknown = JSON.parse(text ?? '[]');
    if (!Array.isArray(kept)) return [];
    return kept.flatMap((one): PendingEdit[] => {
      if (!isRecord(one) || typeof one.editId !== 'string') return [];
      const format = typeof one.format === 'number' ? one.format : 1;
      return [{ editId: one.editId, edit: migrateEdit(one.edit, format) as Edit }];
    });
  } catch {
    return [];
  }
}
