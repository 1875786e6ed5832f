import { fail, ok, type Problem, type Result } from '../result';
import {
  DEVICE_FORMAT,
  type DeviceDescription,
  PAD_KINDS,
  type Package,
  type Pad,
  type PadFunction,
  type PadKind,
  splitSignal,
} from './types';

/** A table as read from a file: the header and the rows, each with the line it stands on. */
export interface Table {
  name: string;
  header: string[];
  rows: { line: number; cells: string[] }[];
}

/** `recipe.json` beside the tables: all that is not in them. Its shape is checked by JSON Schema before. */
export interface RecipeFile
  extends Pick<
    DeviceDescription,
    'supplies' | 'padClasses' | 'peripheralKinds' | 'peripherals' | 'notes' | 'recipe'
  > {
  format: 'mavrek-recipe/1';
  device: Pick<DeviceDescription, 'id' | 'name' | 'maker' | 'summary' | 'source'>;
  packages: Pick<Package, 'id' | 'name' | 'shape' | 'notes'>[];
}

const PAD_COLUMNS = [
  'pad',
  'kind',
  'port',
  'bit',
  'supply',
  'class',
  'alias',
  'boot',
  'boot note',
  'boot signals',
  'notes',
];

/**
 * pinout table + function table + recipe → description. Every problem names file, row and column; all are listed.
 * Further columns of the pinout table must be numeric and are kept as `pad.<name>` for the recipe.
 */
export function composeDevice(pinout: Table, functions: Table, file: RecipeFile): Result<DeviceDescription> {
  const problems: Problem[] = [];
  const packages = file.packages.map((one): Package => ({ ...one, terminals: {} }));
  const pads = readPads(pinout, packages, file, problems);
  const known = new Map(pads.map((pad) => [pad.id, pad]));
  const fns = readFunctions(functions, known, file, problems);
  for (const one of packages) checkTerminals(one, pinout, problems);
  if (problems.length > 0) return fail(...problems);
  return ok({
    format: DEVICE_FORMAT,
    ...file.device,
    packages,
    pads,
    padClasses: file.padClasses,
    supplies: file.supplies,
    peripheralKinds: file.peripheralKinds,
    peripherals: file.peripherals,
    functions: fns,
    notes: file.notes,
    recipe: file.recipe,
  });
}

/** Reads cells by column name and remembers where they stand. */
function cellReader(table: Table, row: Table['rows'][number], problems: Problem[]) {
  const at = (column: string): string => `${table.name}, row ${row.line}, column ${column}`;
  return {
    at,
    text: (column: string): string => {
      const position = table.header.indexOf(column);
      return position < 0 ? '' : (row.cells[position] ?? '').trim();
    },
    problem: (column: string, message: string): void => {
      problems.push({ place: at(column), message });
    },
  };
}

const isEmptyCell = (cell: string): boolean => cell === '' || cell === '-' || cell === '–' || cell === '—';
const words = (cell: string): string[] => (isEmptyCell(cell) ? [] : cell.split(/[\s;]+/).filter(Boolean));

function readPads(table: Table, packages: Package[], file: RecipeFile, problems: Problem[]): Pad[] {
  for (const column of ['pad', 'kind', ...packages.map((one) => one.id)]) {
    if (!table.header.includes(column)) {
      problems.push({ place: `${table.name}, row 1`, message: `there is no column "${column}"` });
    }
  }
  const extra = table.header.filter(
    (column) => !PAD_COLUMNS.includes(column) && !packages.some((one) => one.id === column),
  );
  const pads: Pad[] = [];
  const seen = new Map<string, number>();
  for (const row of table.rows) {
    const { text, problem, at } = cellReader(table, row, problems);
    const id = text('pad');
    if (id === '') {
      problem('pad', 'a pad needs a name');
      continue;
    }
    const before = seen.get(id);
    if (before !== undefined) problem('pad', `${id} stands in row ${before} already`);
    seen.set(id, row.line);
    const kind = text('kind') as PadKind;
    if (!PAD_KINDS.includes(kind)) problem('kind', `"${kind}" is none of ${PAD_KINDS.join(', ')}`);
    const pad: Pad = { id, kind };
    if (!isEmptyCell(text('port'))) {
      pad.port = text('port');
      pad.bit = Number(text('bit'));
      if (!file.recipe.ports[pad.port]) problem('port', `the recipe has no port ${pad.port}`);
      if (!/^\d+$/.test(text('bit'))) problem('bit', `"${text('bit')}" is no bit number`);
    }
    if (!isEmptyCell(text('supply'))) {
      pad.supply = text('supply');
      if (!file.supplies.some((supply) => supply.id === pad.supply))
        problem('supply', `there is no supply ${pad.supply}`);
    }
    if (!isEmptyCell(text('class'))) {
      pad.class = text('class');
      if (!file.padClasses[pad.class]) problem('class', `there is no pad class ${pad.class}`);
    }
    const aliases = words(text('alias'));
    if (aliases.length > 0) pad.aliases = aliases;
    const boot = text('boot');
    if (!isEmptyCell(boot)) {
      if (boot !== 'debug' && boot !== 'strap' && boot !== 'clock' && boot !== 'reset') {
        problem('boot', `"${boot}" is none of debug, strap, clock, reset`);
      } else {
        pad.boot = { kind: boot, note: text('boot note') };
        const signals = words(text('boot signals'));
        if (signals.length > 0) pad.boot.signals = signals;
      }
    }
    const notes = words(text('notes'));
    for (const note of notes) if (!file.notes[note]) problem('notes', `there is no note ${note}`);
    if (notes.length > 0) pad.notes = notes;
    for (const column of extra) {
      const cell = text(column);
      if (isEmptyCell(cell)) continue;
      if (!/^-?(0x[0-9A-Fa-f]+|\d+)$/.test(cell)) problem(column, `"${cell}" is not a whole number`);
      pad.columns = { ...pad.columns, [column]: Number(cell) };
    }
    pad.source = { document: table.name, row: row.line };
    pads.push(pad);
    for (const one of packages) {
      for (const terminal of words(text(one.id))) {
        const other = one.terminals[terminal];
        if (other !== undefined)
          problems.push({ place: at(one.id), message: `terminal ${terminal} is bonded to ${other} already` });
        one.terminals[terminal] = id;
      }
    }
  }
  return pads;
}

function checkTerminals(one: Package, table: Table, problems: Problem[]): void {
  const place = `${table.name}, column ${one.id}`;
  if (one.shape.kind === 'ball-grid') {
    for (const terminal of Object.keys(one.terminals)) {
      const match = /^([A-Z]+)(\d+)$/.exec(terminal);
      if (!match || !one.shape.rows.includes(match[1] as string) || Number(match[2]) > one.shape.columns) {
        problems.push({ place, message: `ball ${terminal} is not on the grid` });
      }
    }
    return;
  }
  const missing: number[] = [];
  for (let terminal = 1; terminal <= one.shape.terminals; terminal++) {
    if (one.terminals[String(terminal)] === undefined) missing.push(terminal);
  }
  if (missing.length > 0)
    problems.push({ place, message: `no pad for terminal ${missing.slice(0, 8).join(', ')}` });
  for (const terminal of Object.keys(one.terminals)) {
    if (!/^\d+$/.test(terminal) || Number(terminal) < 1 || Number(terminal) > one.shape.terminals) {
      problems.push({ place, message: `terminal ${terminal} is outside 1…${one.shape.terminals}` });
    }
  }
}

const SIGNAL = /^[A-Za-z][A-Za-z0-9]*(\.[A-Za-z0-9_.]+)?$/;

/** Wide table: one row a pad, columns F0…F31 by mux code, AN for analog, cells with one or several signals. */
function readFunctions(
  table: Table,
  pads: Map<string, Pad>,
  file: RecipeFile,
  problems: Problem[],
): PadFunction[] {
  const muxColumns = table.header
    .map((column) => ({
      column,
      mux: /^F\d+$/.test(column) ? Number(column.slice(1)) : column === 'AN' ? null : undefined,
    }))
    .filter((entry): entry is { column: string; mux: number | null } => entry.mux !== undefined);
  for (const column of table.header) {
    if (!['pad', 'notes', ''].includes(column) && !muxColumns.some((entry) => entry.column === column)) {
      problems.push({
        place: `${table.name}, row 1`,
        message: `column "${column}" is none of pad, F0…F31, AN, notes`,
      });
    }
  }
  const instances = new Map(file.peripherals.map((peripheral) => [peripheral.id, peripheral]));
  const functions: PadFunction[] = [];
  for (const row of table.rows) {
    const { text, problem } = cellReader(table, row, problems);
    const pad = text('pad');
    if (pads.get(pad)?.kind !== 'io') {
      problem('pad', pads.has(pad) ? `${pad} is no I/O pad` : `the pinout has no pad ${pad || '(empty)'}`);
      continue;
    }
    for (const { column, mux } of muxColumns) {
      for (const signal of words(text(column))) {
        const [instance, line] = splitSignal(signal);
        const kind = file.peripheralKinds[instances.get(instance)?.kind ?? ''];
        if (!SIGNAL.test(signal)) problem(column, `"${signal}" is no signal; write it like UART2.TX`);
        else if (!kind) problem(column, `there is no peripheral ${instance}`);
        else if (!kind.lines[line]) problem(column, `${instance} has no line ${line}`);
        functions.push({ pad, signal, mux, source: { document: table.name, row: row.line } });
      }
    }
  }
  return functions;
}
