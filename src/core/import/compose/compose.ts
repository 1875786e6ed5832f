import { bare } from '../../base/bare';
import { LIMITS, overLimit } from '../../base/limits';
import type { Problem } from '../../base/problems';
import { failWith, ok, type Result } from '../../base/result';
import { closest } from '../../base/text/near';
import { bareParts } from '../../description/bare-maps';
import type { RecipeFile } from '../../description/recipe-file';
import {
  linesOf,
  type Named,
  namesIn,
  type Referable,
  whyNoLine,
  whyNoSuch,
} from '../../description/references';
import type { Source } from '../../description/source';
import {
  DEVICE_FORMAT,
  type DeviceDescription,
  type Package,
  type Pad,
  type PadFunction,
  splitSignal,
} from '../../description/types';
import { type Grid, headingsOf } from '../tables/grid';
import { guessMapping } from '../tables/guess';
import { type Mapping, mappingProblems } from '../tables/mapping';
import { readFunctions } from '../tables/read-functions';
import { readPinout } from '../tables/read-pinout';
import {
  type Answers,
  countFates,
  type Fate,
  type FunctionRecord,
  note,
  type PadRecord,
  type TableProblem,
} from '../tables/records';
import { checkPins } from './check-pins';

/** Where a table was taken from, kept with each datum. */
export interface TableSource {
  document: string;
  revision?: string;
  page?: number;
  /** SHA-256 of the document, where it has pages that can be shown. */
  file?: string;
}

export interface Assembly {
  pads: readonly PadRecord[];
  functions: readonly FunctionRecord[];
  file: RecipeFile;
  sources: { pinout: TableSource; functions: TableSource };
}

/** A description made of records, and what does not agree, at the cell that says it. */
export interface Assembled {
  description: DeviceDescription;
  pinout: TableProblem[];
  functions: TableProblem[];
}

/**
 * Brings pads, functions and the rest together. What the tables name and the rest does not have (a supply, a class, a note, a
 * port, a peripheral, a line) is a problem at the cell's row.
 */
export function assemble({ pads, functions, file: given, sources }: Assembly): Assembled {
  const file: RecipeFile = { ...given, ...bareParts(given) };
  // Pads and functions are what is being made; the tables lead to the rest.
  const named: Named = { ...file, pads: [], functions: [] };
  const pinoutProblems: TableProblem[] = [];
  const functionProblems: TableProblem[] = [];
  const packages = file.packages.map((one): Package => ({ ...one, pins: bare() }));
  for (const record of pads) {
    checkPad(record, named, pinoutProblems);
    for (const { package: id, pin, at } of record.pins) {
      const pkg = packages.find((one) => one.id === id);
      if (pkg) pkg.pins[pin] = record.id;
      else note(pinoutProblems, () => ({ ...at, severity: 'error', message: `there is no package ${id}` }));
    }
  }
  for (const one of packages) for (const problem of checkPins(one)) note(pinoutProblems, () => problem);
  const pairs = functions.reduce((sum, one) => sum + (one.pad === '*' ? pads.length : 1), 0);
  if (pairs > LIMITS.functions)
    note(functionProblems, () => ({
      severity: 'error',
      message: `the table ${overLimit('functions', pairs)}`,
    }));
  const checked = (pairs > LIMITS.functions ? [] : functions).filter((record) =>
    checkFunction(record, named, functionProblems),
  );
  const { forced, interrupts, unconfirmed } = file;
  const description: DeviceDescription = {
    format: DEVICE_FORMAT,
    ...file.device,
    packages,
    pads: pads.map((record) => padOf(record, sources.pinout)),
    padClasses: file.padClasses,
    supplies: file.supplies,
    peripheralKinds: file.peripheralKinds,
    peripherals: file.peripherals,
    functions: checked.flatMap((record) => functionsOf(record, pads, sources.functions)),
    ...(forced ? { forced } : {}),
    ...(interrupts ? { interrupts } : {}),
    notes: file.notes,
    recipe: file.recipe,
    ...(unconfirmed && unconfirmed.length > 0 ? { unconfirmed } : {}),
  };
  return { description, pinout: pinoutProblems, functions: functionProblems };
}

function checkPad(record: PadRecord, named: Named, problems: TableProblem[]): void {
  const check = (role: string, kind: Referable, name: string | undefined): void => {
    const why = name === undefined ? undefined : whyNoSuch(named, kind, name);
    if (name === undefined || why === undefined) return;
    note(problems, () => ({
      line: record.line,
      severity: 'error',
      message: why,
      suggestions: SUGGESTED.has(kind) ? closest(name, namesIn(named, kind), 3) : [],
      role,
    }));
  };
  check('port', 'port', record.port);
  check('supply', 'supply', record.supply);
  check('class', 'pad class', record.class);
  for (const one of record.notes) check('notes', 'note', one);
}

/** Names that are slips of each other; ports and notes are single letters and numbers, of which any is near any other. */
const SUGGESTED: ReadonlySet<Referable> = new Set<Referable>(['supply', 'pad class']);

function checkFunction(record: FunctionRecord, named: Named, problems: TableProblem[]): boolean {
  const complain = (message: string, suggest: () => string[]): false => {
    note(problems, () => ({
      ...record.at,
      severity: 'error',
      message,
      suggestions: suggest(),
      word: record.text,
    }));
    return false;
  };
  const why = whyNoLine(named, record.signal);
  if (why !== undefined) {
    const [instance, line] = splitSignal(record.signal);
    return complain(why, () => {
      const lines = linesOf(named, instance);
      return lines
        ? closest(line, lines, 3).map((one) => `${instance}.${one}`)
        : closest(instance, namesIn(named, 'peripheral'), 2).map((id) => `${id}.${line}`);
    });
  }
  for (const one of record.notes) {
    const missing = whyNoSuch(named, 'note', one);
    if (missing !== undefined) return complain(missing, () => []);
  }
  return true;
}

/** Where a record was read: its document and row, and where the document has pages its place on one. */
function sourceOf(
  source: TableSource,
  row: number,
  { page, place }: Pick<PadRecord, 'page' | 'place'>,
): Source {
  const at = page ?? source.page;
  const { document, revision, file } = source;
  const rounded = (value: number): number => Math.min(1, Math.max(0, Number(value.toFixed(4))));
  const [left = 0, top = 0, right = 0, bottom = 0] = place?.box ?? [];
  return {
    document,
    ...(revision ? { revision } : {}),
    ...(at === undefined ? {} : { page: at }),
    row: Math.floor(row),
    ...(file && place?.box && at === place.page
      ? { file, box: [rounded(left), rounded(top), rounded(right), rounded(bottom)] }
      : {}),
  };
}

function padOf(record: PadRecord, source: TableSource): Pad {
  const {
    id,
    kind,
    port,
    bit,
    supply,
    class: padClass,
    aliases,
    boot,
    bootNote,
    bootSignals,
    notes,
    columns,
  } = record;
  return {
    id,
    kind,
    ...(port === undefined ? {} : { port, bit }),
    ...(supply === undefined ? {} : { supply }),
    ...(padClass === undefined ? {} : { class: padClass }),
    ...(aliases.length > 0 ? { aliases } : {}),
    ...(boot
      ? { boot: { kind: boot, note: bootNote, ...(bootSignals.length > 0 ? { signals: bootSignals } : {}) } }
      : {}),
    ...(notes.length > 0 ? { notes } : {}),
    ...(Object.keys(columns).length > 0 ? { columns } : {}),
    source: sourceOf(source, record.line, record),
  };
}

function functionsOf(record: FunctionRecord, pads: readonly PadRecord[], source: TableSource): PadFunction[] {
  const { signal, mux, itself, notes, columns } = record;
  const targets =
    record.pad === '*' ? pads.filter((pad) => pad.kind === 'io').map((pad) => pad.id) : [record.pad];
  return targets.map((pad) => ({
    pad,
    signal,
    mux,
    ...(itself ? { itself } : {}),
    ...(notes.length > 0 ? { notes } : {}),
    ...(Object.keys(columns).length > 0 ? { columns } : {}),
    source: sourceOf(source, record.at.line, record),
  }));
}

/** Column roles that the user wants other than guessed, by heading. */
export interface TableMaps {
  pinout?: Record<string, string>;
  functions?: Record<string, string>;
  /** Answers to questions about the tables, by the question's key. */
  answers?: { pinout?: Answers; functions?: Answers };
}

/** A description out of tables, with what became of every row of them. */
export interface Composed {
  description: DeviceDescription;
  fates: { pinout: Partial<Record<Fate, number>>; functions: Partial<Record<Fate, number>> };
  warnings: Problem[];
}

/**
 * pinout table + function table + recipe → description, without a person looking on: columns are known by their headings.
 * Every problem names file, row and column. `documents` is what is kept as the source of each datum, where that is not the
 * tables' own name.
 */
export function composeDevice(
  pinout: Grid,
  functions: Grid | null,
  file: RecipeFile,
  maps: TableMaps = {},
  documents = { pinout: pinout.name, functions: functions?.name ?? '' },
): Result<Composed> {
  const ids = file.packages.map((one) => one.id);
  const padMapping = mapped(
    guessMapping('pinout', pinout, { packages: ids, unknown: 'number' }),
    pinout,
    maps.pinout,
  );
  const fnMapping =
    functions &&
    mapped(guessMapping('functions', functions, { unknown: 'number' }), functions, maps.functions);
  const problems: Problem[] = [
    ...mappingProblems('pinout', padMapping).map((message) => ({ place: `${pinout.name}, row 1`, message })),
    ...(functions && fnMapping
      ? mappingProblems('functions', fnMapping).map((message) => ({
          place: `${functions.name}, row 1`,
          message,
        }))
      : []),
    ...ids
      .filter((id) => !padMapping.roles.includes(`pin:${id}`))
      .map((id) => ({ place: `${pinout.name}, row 1`, message: `there is no column "${id}"` })),
    ...raggedRows(pinout, padMapping),
    ...(functions && fnMapping ? raggedRows(functions, fnMapping) : []),
  ];
  if (problems.length > 0) return failWith(problems);
  const pads = readPinout(pinout, padMapping, { fromDocument: false, answers: maps.answers?.pinout });
  const fns =
    functions && fnMapping
      ? readFunctions(functions, fnMapping, pads.records, { answers: maps.answers?.functions })
      : { records: [], problems: [], fates: new Map(), notes: {} };
  const sources = { pinout: { document: documents.pinout }, functions: { document: documents.functions } };
  const assembled = assemble({ pads: pads.records, functions: fns.records, file, sources });
  const errors = [
    ...placed(pinout, padMapping, [...pads.problems, ...assembled.pinout]),
    ...(functions && fnMapping
      ? placed(functions, fnMapping, [...fns.problems, ...assembled.functions])
      : []),
  ];
  if (errors.length > 0) return failWith(errors);
  const warnings = [
    ...placed(pinout, padMapping, pads.problems, 'warning'),
    ...(functions && fnMapping ? placed(functions, fnMapping, fns.problems, 'warning') : []),
  ];
  const fates = { pinout: countFates(pads.fates), functions: countFates(fns.fates) };
  return ok({ description: assembled.description, fates, warnings });
}

/** The guessed roles with those that the user wants for columns, by their headings. */
export function mapped(guess: Mapping, grid: Grid, wishes: Record<string, string> | undefined): Mapping {
  if (!wishes) return guess;
  const headings = headingsOf(grid, guess);
  const wished = new Set(Object.values(wishes));
  // A role that the user gives to one column is no longer guessed for another.
  const roles = guess.roles.map(
    (role, i) => wishes[headings[i] ?? ''] ?? (wished.has(role) ? 'ignore' : role),
  );
  return { ...guess, roles };
}

/** A row with fewer or more cells than headings has lost or gained one somewhere; nobody is here to look. */
function raggedRows(grid: Grid, mapping: Mapping): Problem[] {
  const width = grid.rows[mapping.headerRow]?.cells.length ?? 0;
  return grid.rows
    .filter((row) => row.cells.length !== width && row.cells.some((cell) => cell.trim() !== ''))
    .map((row) => ({
      place: `${grid.name}, row ${row.line}`,
      message: `has ${row.cells.length} cells, the headings are ${width}`,
    }));
}

/**
 * Problems of a table with a place for people: `pinout.csv, row 41, column F7`. Among errors are questions that nobody has
 * answered, with what they are kept under and what can be answered.
 */
export function placed(
  grid: Grid,
  mapping: Mapping,
  problems: readonly TableProblem[],
  severity: 'error' | 'warning' = 'error',
): Problem[] {
  const headings = headingsOf(grid, mapping);
  return problems
    .filter((one) => one.severity === severity || (severity === 'error' && one.severity === 'question'))
    .map(({ line, column, message, key, answers = [] }) => ({
      place: `${grid.name}${line === undefined ? '' : `, row ${line}`}${column === undefined ? '' : `, column ${headings[column]?.trim() || column + 1}`}`,
      message:
        key === undefined
          ? message
          : `${message} (answer "${key}" with ${answers.map(({ id, title }) => `"${id}": ${title}`).join(', or ')})`,
    }));
}
