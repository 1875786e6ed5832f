import type { Result } from '../../base/result';
import { failWith, ok } from '../../base/result';
import { printDevice } from '../../description/print-device';
import type { DeviceDescription } from '../../description/types';
import type { Grid, GridRow } from '../tables/grid';
import type { TableKind } from '../tables/mapping';
import { type DraftReading, type PartDraft, readDraft, type TableDraft } from './draft';

/** A draft without the rows of its tables and the parts they were, which are sent by themselves and only when they change. */
export interface LightDraft extends Omit<PartDraft, TableKind> {
  pinout: LightTable | null;
  functions: LightTable | null;
}
export type LightTable = Omit<TableDraft, 'grid' | 'kept'> & { grid: Omit<Grid, 'rows'> };

/** What the worker that reads a draft is told and asked. */
export type DraftTask =
  | { kind: 'rows'; table: TableKind; rows: GridRow[]; first: boolean }
  | { kind: 'changed'; table: TableKind; rows: [index: number, row: GridRow][] }
  | { kind: 'kept'; table: TableKind; kept: DeviceDescription | undefined }
  /** `whole`: with functions and description, which a page has seldom need of. */
  | { kind: 'read'; id: number; draft: LightDraft; whole: boolean }
  | { kind: 'print'; id: number; draft: LightDraft };

export type DraftAnswer =
  | { kind: 'reading'; id: number; reading: DraftReading }
  | { kind: 'printed'; id: number; result: Result<string> };

/** Holds the tables of a draft, and answers what is asked of them. `check` is what a description must pass before it is stored. */
export function draftKeeper(check: (description: DeviceDescription) => Result<unknown>) {
  const rows: Record<TableKind, GridRow[]> = { pinout: [], functions: [] };
  const kept: Partial<Record<TableKind, DeviceDescription>> = {};
  const whole = (draft: LightDraft): PartDraft => {
    const table = (kind: TableKind): TableDraft | null => {
      const light = draft[kind];
      const own = kept[kind];
      return light && { ...light, grid: { ...light.grid, rows: rows[kind] }, ...(own ? { kept: own } : {}) };
    };
    return { ...draft, pinout: table('pinout'), functions: table('functions') };
  };
  return (task: DraftTask): DraftAnswer | undefined => {
    switch (task.kind) {
      case 'rows':
        rows[task.table] = task.first ? task.rows : rows[task.table].concat(task.rows);
        return undefined;
      case 'changed': {
        const next = [...rows[task.table]];
        for (const [index, row] of task.rows) next[index] = row;
        rows[task.table] = next;
        return undefined;
      }
      case 'kept':
        kept[task.table] = task.kept;
        return undefined;
      case 'read': {
        const reading = readDraft(whole(task.draft));
        return {
          kind: 'reading',
          id: task.id,
          reading: task.whole ? reading : { ...reading, functions: [], description: null },
        };
      }
      case 'print': {
        const { description } = readDraft(whole(task.draft));
        if (!description)
          return {
            kind: 'printed',
            id: task.id,
            result: failWith([{ place: 'part', message: 'has no pads yet' }]),
          };
        const checked = check(description);
        return {
          kind: 'printed',
          id: task.id,
          result: checked.ok ? ok(printDevice(description)) : checked,
        };
      }
    }
  };
}
