import { isRecord } from '@/core/base/migrations';
import type { Edit } from '@/core/plan/edits/edits';
import { EDIT_FORMAT, migrateEdit } from '@/core/plan/migrations';
import type { MetEdit, PendingEdit } from './plan-session';

/** What a browser keeps of a plan beyond the tab: edits that are not stored yet, and those that wait for a decision. */
export interface KeptEdits {
  pending: PendingEdit[];
  met: MetEdit[];
}

/** As the browser keeps them: with the number of their format, for they may wait past an update. */
export const printKept = (pending: readonly PendingEdit[], met: readonly MetEdit[]): string =>
  JSON.stringify([...pending, ...met].map((entry) => ({ ...entry, format: EDIT_FORMAT })));

/** What {@link printKept} wrote, by this version or by an earlier one, which wrote no number. Nothing where it cannot be read. */
export function readKept(text: string | null): KeptEdits {
  const kept: KeptEdits = { pending: [], met: [] };
  for (const entry of listIn(text)) {
    if (!isRecord(entry) || typeof entry.editId !== 'string') continue;
    const format = typeof entry.format === 'number' ? entry.format : 1;
    const { editId, words, why } = entry;
    const edit = editIn(entry.edit, format);
    if (!edit) continue;
    if (typeof words === 'string' && typeof why === 'string') kept.met.push({ editId, edit, words, why });
    else kept.pending.push({ editId, edit });
  }
  return kept;
}

function editIn(value: unknown, format: number): Edit | undefined {
  try {
    return migrateEdit(value, format) as Edit;
  } catch {
    return undefined;
  }
}

function listIn(text: string | null): unknown[] {
  try {
    const list: unknown = JSON.parse(text ?? '[]');
    return Array.isArray(list) ? list : [];
  } catch {
    return [];
  }
}
