import { draftFrom, tableFrom } from '@/testing/documents/compare';
import { divided, encoded } from '@/testing/documents/forms';
import { functionTable, pinoutTable } from '@/testing/documents/tables';
import { truePart } from '@/testing/documents/truth';
import { randomFrom } from '@/testing/random';
import { loadDevice } from '../../device/compile/load';
import type { GridRow } from '../tables/grid';
import type { TableKind } from '../tables/mapping';
import { type PartDraft, readDraft, type TableDraft, withCell } from './draft';
import { draftKeeper, type LightDraft, type LightTable } from './draft-task';

const light = (draft: PartDraft): LightDraft => {
  const table = (own: TableDraft | null): LightTable | null => {
    if (!own) return null;
    const { kept: _, grid, ...rest } = own;
    const { rows: _rows, ...about } = grid;
    return { ...rest, grid: about };
  };
  return { ...draft, pinout: table(draft.pinout), functions: table(draft.functions) };
};

test('tables that go over in pieces, and then row by row, give what they give on the spot', () => {
  const random = randomFrom(31);
  const part = truePart(random, { pads: 60, packages: 3, codes: 8 });
  const habits = { merged: false, raised: false, wrapped: true };
  const draft = draftFrom(
    tableFrom('pinout', 'p.csv', encoded(divided(pinoutTable(random, part, habits), ','), 'utf-8')),
    tableFrom('functions', 'f.csv', encoded(divided(functionTable(random, part, habits), ','), 'utf-8')),
  );
  const keeper = draftKeeper(loadDevice);
  const send = (table: TableKind, rows: readonly GridRow[]): void => {
    for (let at = 0; at < rows.length; at += 40)
      keeper({ kind: 'rows', table, rows: rows.slice(at, at + 40), first: at === 0 });
  };
  send('pinout', draft.pinout?.grid.rows ?? []);
  send('functions', draft.functions?.grid.rows ?? []);
  expect(keeper({ kind: 'read', id: 1, draft: light(draft), whole: true })).toEqual({
    kind: 'reading',
    id: 1,
    reading: readDraft(draft),
  });

  const pinout = draft.pinout as TableDraft;
  const column = pinout.mapping.roles.indexOf('pad');
  const index = pinout.grid.rows.findIndex((row) => row.cells[column]?.startsWith(part.pads[5]?.id ?? '?'));
  const row = pinout.grid.rows[index] as GridRow;
  const edited = {
    ...draft,
    pinout: { ...pinout, grid: withCell(pinout.grid, row.line, column, 'not a name') },
  };
  keeper({ kind: 'changed', table: 'pinout', rows: [[index, edited.pinout.grid.rows[index] as GridRow]] });
  const answer = keeper({ kind: 'read', id: 2, draft: light(edited), whole: false });
  const expected = readDraft(edited);
  expect(expected.errors).toBeGreaterThan(0);
  expect(answer).toEqual({
    kind: 'reading',
    id: 2,
    reading: { ...expected, functions: [], description: null },
  });
  const printed = keeper({ kind: 'print', id: 3, draft: light(draft) });
  expect(printed?.kind === 'printed' && printed.result.ok).toBe(true);
});
