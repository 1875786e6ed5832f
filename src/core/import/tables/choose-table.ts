import { isBallMatrix, listOfBalls } from './ball-matrix';
import type { Grid } from './grid';
import { guessMapping } from './guess';
import { type Mapping, splitRole, type TableKind } from './mapping';

/** How much a table speaks for being a pinout or function table, by what its columns are guessed to be. */
export function likeness(
  kind: TableKind,
  grid: Grid,
  mapping = guessMapping(kind, grid, { unknown: 'ignore' }),
): number {
  const count = (base: string): number => mapping.roles.filter((role) => splitRole(role)[0] === base).length;
  const named = count('pad') > 0 || (count('port') > 0 && count('bit') > 0);
  if (!named) return 0;
  const size = Math.log2(2 + grid.rows.length);
  if (kind === 'pinout') return count('pin') > 0 ? size * (2 + Math.min(4, count('pin')) + count('kind')) : 0;
  const codes = count('mux') + (count('signal') > 0 && count('code') > 0 ? 4 : 0);
  const signals = count('signal') + count('analog');
  return codes + signals > 0 ? size * (1 + Math.min(8, codes) + signals) : 0;
}

/** Which of several tables is meant: the one most like a pinout or function table; hidden ones only where nothing else is. */
export function chooseTable<Table extends { grid: Grid; hidden?: true }>(
  kind: TableKind,
  tables: readonly Table[],
): Table | undefined {
  const scored = tables.map((table) => ({
    table,
    // Among tables that are nothing known, the larger one is meant: covers are short.
    score:
      Math.min(0.5, table.grid.rows.length / 1000) +
      (isBallMatrix(table.grid) ? (kind === 'pinout' ? 12 : 0) : likeness(kind, table.grid)) *
        (table.hidden ? 0.1 : 1),
  }));
  return scored.sort((a, b) => b.score - a.score)[0]?.table ?? tables[0];
}

/** A table as it is read: a ball grid that is given as a matrix becomes a list, and the columns are guessed. */
export function startTable(kind: TableKind, given: Grid): { grid: Grid; mapping: Mapping; matrix: boolean } {
  const matrix = kind === 'pinout' && !given.known && isBallMatrix(given);
  const grid = matrix ? listOfBalls(given) : given;
  return { grid, mapping: guessMapping(kind, grid, { unknown: 'ignore' }), matrix };
}
