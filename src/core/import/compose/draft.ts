import { bare } from '../../base/bare';
import { LIMITS, overLimit } from '../../base/limits';
import type { RecipeSource } from '../../description/recipe';
import type { RecipeFile } from '../../description/recipe-file';
import type { Correction, DeviceDescription, Package } from '../../description/types';
import type { Grid } from '../tables/grid';
import { guessMapping } from '../tables/guess';
import { type Mapping, mappingProblems, type TableKind } from '../tables/mapping';
import { readFunctions } from '../tables/read-functions';
import { readPinout } from '../tables/read-pinout';
import {
  type Answers,
  type CellRef,
  type Fate,
  type FunctionRecord,
  note,
  type PadRecord,
  type TableProblem,
} from '../tables/records';
import { suspects } from '../tables/suspects';
import { assemble, type TableSource } from './compose';
import { inferRest } from './infer';

/** One of the user's tables as it stands in the import view: cells as edited, and what its columns are. */
export interface TableDraft {
  grid: Grid;
  mapping: Mapping;
  source: TableSource;
  /** Answers to questions that were asked about it, by the question's key. */
  answers?: Answers;
  /** The part whose own table this is, while nobody has put another in its place: its sources stay. */
  kept?: DeviceDescription;
  /** The functions stand in the pinout table: its cells are read, whatever they become. */
  shared?: true;
}

/** The table that functions are read from. */
export const functionGrid = (draft: PartDraft): Grid | undefined =>
  draft.functions?.shared ? draft.pinout?.grid : draft.functions?.grid;

/** Everything that is brought together into a description. */
export interface PartDraft {
  pinout: TableDraft | null;
  functions: TableDraft | null;
  device: RecipeFile['device'];
  /** What is said beside the tables: from a recipe file, from the part as it was, and by the user. */
  rest: Rest;
  corrections: Correction[];
  /** Numbers of pads that an attached recipe needs. */
  padColumns: Record<string, Record<string, number>>;
}

export interface Rest {
  packages: Record<string, Partial<Omit<Package, 'id' | 'pins'>>>;
  supplies: Record<string, Partial<Omit<RecipeFile['supplies'][number], 'id'>>>;
  padClasses: RecipeFile['padClasses'];
  peripheralKinds: RecipeFile['peripheralKinds'];
  /** Kinds and rates of instances, by instance. */
  peripherals: Record<string, Partial<RecipeFile['peripherals'][number]>>;
  forced: NonNullable<RecipeFile['forced']>;
  interrupts?: RecipeFile['interrupts'];
  unconfirmed?: RecipeFile['unconfirmed'];
  notes: RecipeFile['notes'];
  recipe: RecipeSource | null;
}

export const EMPTY_REST: Rest = {
  packages: {},
  supplies: {},
  padClasses: {},
  peripheralKinds: {},
  peripherals: {},
  forced: [],
  notes: {},
  recipe: null,
};

/** A recipe file, as what is said beside the tables. */
export function restOf(file: Omit<RecipeFile, 'format' | 'device'>): Rest {
  const byId = <T extends { id: string }>(list: readonly T[]): Record<string, Omit<T, 'id'>> =>
    Object.fromEntries(list.map(({ id, ...one }) => [id, one]));
  return {
    packages: byId(file.packages),
    supplies: byId(file.supplies),
    padClasses: file.padClasses,
    peripheralKinds: file.peripheralKinds,
    peripherals: byId(file.peripherals),
    forced: file.forced ?? [],
    ...(file.interrupts ? { interrupts: file.interrupts } : {}),
    ...(file.unconfirmed ? { unconfirmed: file.unconfirmed } : {}),
    notes: file.notes,
    recipe: file.recipe.encode.length > 0 ? file.recipe : null,
  };
}

export interface TableState {
  problems: TableProblem[];
  fates: Map<number, Fate>;
  /** What is wrong with the columns as such; nothing is read then. */
  mapping: string[];
}

export interface DraftReading {
  pads: PadRecord[];
  functions: FunctionRecord[];
  pinout: TableState;
  functionTable: TableState;
  file: RecipeFile;
  /** Present as soon as there are pads; it can be used when nothing has severity error. */
  description: DeviceDescription | null;
  errors: number;
  /** Questions without an answer. */
  questions: number;
  warnings: number;
}

const untouched = (): TableState => ({ problems: [], fates: new Map(), mapping: [] });

/** Reads both tables by their mappings, infers what nobody said, and brings all together. */
export function readDraft(draft: PartDraft): DraftReading {
  const pinout = untouched();
  const functionTable = untouched();
  let pads: PadRecord[] = [];
  let functions: FunctionRecord[] = [];
  let texts: Record<string, string> = {};
  if (draft.pinout) {
    const { grid, mapping } = draft.pinout;
    pinout.mapping = mappingProblems('pinout', mapping);
    if (pinout.mapping.length === 0) {
      const read = readPinout(grid, mapping, {
        fromDocument: draft.pinout.kept === undefined,
        answers: draft.pinout.answers,
      });
      texts = { ...texts, ...read.notes };
      pads = read.records;
      pinout.problems = read.problems;
      pinout.fates = read.fates;
    }
  }
  if (draft.functions) {
    const { mapping } = draft.functions;
    const grid = functionGrid(draft) ?? draft.functions.grid;
    functionTable.mapping = mappingProblems('functions', mapping);
    if (functionTable.mapping.length === 0 && pads.length > 0) {
      const read = readFunctions(grid, mapping, pads, {
        answers: draft.functions.answers,
        checks: !draft.functions.shared && draft.functions.kept === undefined,
      });
      texts = { ...texts, ...read.notes };
      functions = read.records;
      functionTable.problems = read.problems;
      functionTable.fates = read.fates;
    }
  }
  const tooMany = overLimits(pads, functions);
  if (tooMany) {
    pinout.mapping.push(tooMany);
    pads = [];
    functions = [];
  }
  const file = fileOf(draft, pads, functions, texts);
  let description: DeviceDescription | null = null;
  if (pads.length > 0) {
    const sources = {
      pinout: draft.pinout?.source ?? { document: '' },
      functions: draft.functions?.source ?? { document: '' },
    };
    const assembled = assemble({ pads, functions, file, sources });
    const slips = suspects(pads, functions);
    for (const one of [...assembled.pinout, ...slips.pinout]) note(pinout.problems, () => one);
    for (const one of [...assembled.functions, ...slips.functions]) note(functionTable.problems, () => one);
    description = withExtras(assembled.description, draft);
  }
  const all = [...pinout.problems, ...functionTable.problems];
  const mapping = pinout.mapping.length + functionTable.mapping.length;
  return {
    pads,
    functions,
    pinout,
    functionTable,
    file,
    description,
    errors: all.filter((one) => one.severity === 'error').length + mapping,
    questions: all.filter((one) => one.severity === 'question').length,
    warnings: all.filter((one) => one.severity === 'warning').length,
  };
}

/** A part has far fewer pads and functions than a table has cells. */
function overLimits(pads: readonly PadRecord[], functions: readonly FunctionRecord[]): string | undefined {
  if (pads.length > LIMITS.pads) return `the table ${overLimit('pads', pads.length)}`;
  const pairs = functions.reduce((sum, one) => sum + (one.pad === '*' ? pads.length : 1), 0);
  return pairs > LIMITS.functions ? `the function table ${overLimit('functions', pairs)}` : undefined;
}

function withExtras(description: DeviceDescription, draft: PartDraft): DeviceDescription {
  const { padColumns, corrections } = draft;
  const keptPads = new Map(draft.pinout?.kept?.pads.map((pad) => [pad.id, pad.source]));
  const keptFunctions = new Map(
    draft.functions?.kept?.functions.map((fn) => [`${fn.pad} ${fn.signal} ${fn.mux}`, fn.source]),
  );
  const pads = description.pads.map((pad) => {
    const extra = Object.hasOwn(padColumns, pad.id) ? padColumns[pad.id] : undefined;
    const source = keptPads.get(pad.id) ?? pad.source;
    return {
      ...pad,
      ...(extra ? { columns: { ...pad.columns, ...extra } } : {}),
      ...(source ? { source } : {}),
    };
  });
  const functions = description.functions.map((fn) => {
    const source = keptFunctions.get(`${fn.pad} ${fn.signal} ${fn.mux}`) ?? fn.source;
    return source ? { ...fn, source } : fn;
  });
  return { ...description, pads, functions, ...(corrections.length > 0 ? { corrections } : {}) };
}

/** What was said, in its order, filled up with what the tables let infer. Packages that no column speaks of fall away. */
function fileOf(
  draft: PartDraft,
  pads: readonly PadRecord[],
  functions: readonly FunctionRecord[],
  texts: Readonly<Record<string, string>>,
): RecipeFile {
  const inferred = inferRest(pads, functions, texts);
  const { rest } = draft;
  const kinds = bare(inferred.peripheralKinds);
  for (const [id, kind] of Object.entries(rest.peripheralKinds)) {
    kinds[id] = { ...kind, lines: { ...kinds[id]?.lines, ...kind.lines } };
  }
  const peripherals = inOrderOf(rest.peripherals, inferred.peripherals, (id) => ({
    id,
    kind: id.replace(/\d+$/, '') || id,
  }));
  // Lines of an instance whose kind was named otherwise belong to that kind.
  for (const one of peripherals) {
    const own = inferred.peripherals.find((other) => other.id === one.id)?.kind ?? one.kind;
    const kind = kinds[one.kind] ?? { title: one.kind, lines: {} };
    if (one.kind !== own) kinds[one.kind] = { ...kind, lines: { ...kinds[own]?.lines, ...kind.lines } };
  }
  const named = new Set(peripherals.map((one) => one.kind));
  // The order of ports is what `p` counts: the recipe's own first, as they stand there.
  const ports = { ...rest.recipe?.ports, ...missingFrom(rest.recipe?.ports, inferred.recipe.ports) };
  return {
    format: 'mavrek-recipe/3',
    device: draft.device,
    packages: inOrderOf(rest.packages, inferred.packages, () => undefined),
    supplies: inOrderOf(rest.supplies, inferred.supplies, (id) => ({ id, title: id, nominalVolts: 3.3 })),
    padClasses: { ...rest.padClasses, ...missingFrom(rest.padClasses, inferred.padClasses) },
    peripheralKinds: bare(Object.fromEntries(Object.entries(kinds).filter(([id]) => named.has(id)))),
    peripherals,
    ...(rest.forced.length > 0 ? { forced: rest.forced } : {}),
    ...(rest.interrupts ? { interrupts: rest.interrupts } : {}),
    ...(rest.unconfirmed && rest.recipe ? { unconfirmed: rest.unconfirmed } : {}),
    notes: { ...rest.notes, ...missingFrom(rest.notes, inferred.notes) },
    recipe: rest.recipe ? { ...rest.recipe, ports } : inferred.recipe,
  };
}

/** What one record has and the other lacks. */
const missingFrom = <T>(
  said: Readonly<Record<string, T>> | undefined,
  all: Readonly<Record<string, T>>,
): Record<string, T> =>
  Object.fromEntries(Object.entries(all).filter(([key]) => !Object.hasOwn(said ?? {}, key)));

/** Items by id: those that were said, in that order, then those that are inferred only. `make` gives one that no table has. */
function inOrderOf<Item extends { id: string }>(
  said: Readonly<Record<string, Partial<Item>>>,
  inferred: readonly Item[],
  make: (id: string) => Item | undefined,
): Item[] {
  const byId = new Map(inferred.map((one) => [one.id, one]));
  const first = Object.entries(said).flatMap(([id, change]) => {
    const item = byId.get(id) ?? make(id);
    return item ? [{ ...item, ...change }] : [];
  });
  return [...first, ...inferred.filter((one) => !Object.hasOwn(said, one.id))];
}

/** The grid with another text in a cell; rows that are too short grow. */
export function withCell(grid: Grid, line: number, column: number, text: string): Grid {
  return {
    ...grid,
    rows: grid.rows.map((row) => {
      if (row.line !== line) return row;
      const cells = [...row.cells];
      while (cells.length < column) cells.push('');
      cells[column] = text;
      return { ...row, cells };
    }),
  };
}

/** Several cells as a clipboard gives them, laid over the grid from a place on; what goes over its end falls away. */
export function withCells(grid: Grid, { line, column }: CellRef, text: string): Grid {
  const lines = text.replace(/\r?\n$/, '').split(/\r?\n/);
  const start = grid.rows.findIndex((row) => row.line === line);
  let next = grid;
  if (start < 0) return next;
  lines.forEach((row, down) => {
    const target = grid.rows[start + down];
    if (!target) return;
    row.split('\t').forEach((cell, right) => {
      next = withCell(next, target.line, column + right, cell);
    });
  });
  return next;
}

/** The same columns under headings in other rows: they are guessed anew; without headings they stay as they are. */
export function withHeadings(
  kind: TableKind,
  grid: Grid,
  mapping: Mapping,
  headerRow: number,
  headerRows = 1,
): Mapping {
  if (headerRow === mapping.headerRow && headerRows === (mapping.headerRows ?? 1)) return mapping;
  const { headerRows: _, ...rest } = mapping;
  if (headerRow < 0) return { ...rest, headerRow };
  const first = Math.max(0, headerRow - headerRows + 1);
  const below: Grid = { ...grid, rows: grid.rows.slice(first) };
  const { roles } = guessMapping(kind, below, { unknown: 'ignore' });
  const rows = headerRow - first + 1;
  return { ...rest, headerRow, ...(rows > 1 ? { headerRows: rows } : {}), roles };
}
