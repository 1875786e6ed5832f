import { largest } from '../../base/lists';
import { isEmptyCell, isPin, listCell } from './cells';
import { type Grid, headingsOf } from './grid';
import { type Mapping, splitRole, type TableKind } from './mapping';
import { type Answers, ask, note, type PadRecord, type TableProblem } from './records';
import { looksLikeSignals } from './signals';

const YES = (title: string) => [{ id: 'yes', title }] as const;

/**
 * What cannot be right in a list of pads, although each row can be read: I/O pads with several pins, or without port and bit;
 * two pads on one bit; holes in ports; packages that have lost pins; columns with pins or signals that are not read.
 */
export function checkPads(
  grid: Grid,
  mapping: Mapping,
  pads: readonly PadRecord[],
  problems: TableProblem[],
  answers: Answers,
): void {
  if (pads.length === 0) return;
  checkBonding(pads, problems, answers);
  checkPorts(mapping, pads, problems, answers);
  checkNames(mapping, pads, problems);
  checkCounts(grid, mapping, pads, problems, answers);
  checkLeftOut('pinout', grid, mapping, problems, answers);
}

function checkBonding(pads: readonly PadRecord[], problems: TableProblem[], answers: Answers): void {
  for (const pad of pads) {
    if (pad.pins.length === 0) {
      ask(problems, answers, {
        key: `no pin ${pad.id}`,
        line: pad.line,
        message: `${pad.id} has no pin in any package`,
        answers: YES('yes, it is in none of these packages'),
      });
      continue;
    }
    if (pad.kind !== 'io') continue;
    const counts = new Map<string, number>();
    for (const one of pad.pins) counts.set(one.package, (counts.get(one.package) ?? 0) + 1);
    const [name, most] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? ['', 0];
    if (most > 4)
      note(problems, () => ({
        line: pad.line,
        column: pad.pins[0]?.at.column,
        severity: 'error',
        message: `${pad.id} is an I/O pad with ${most} pins of ${name}: its row holds several pads, or rows were joined to it`,
      }));
    else if (most > 1)
      ask(problems, answers, {
        key: `pins ${pad.id}`,
        line: pad.line,
        column: pad.pins[0]?.at.column,
        message: `${pad.id} is an I/O pad with ${most} pins of ${name}`,
        answers: YES('yes, all of them are bonded to it'),
      });
  }
}

function checkPorts(
  mapping: Mapping,
  pads: readonly PadRecord[],
  problems: TableProblem[],
  answers: Answers,
): void {
  const io = pads.filter((pad) => pad.kind === 'io');
  const without = io.filter((pad) => pad.port === undefined || pad.bit === undefined);
  const kindColumn = mapping.roles.indexOf('kind');
  const column = kindColumn >= 0 ? kindColumn : Math.max(0, mapping.roles.indexOf('pad'));
  if (without.length > 8 && without.length > io.length / 3)
    note(problems, () => ({
      line: without[0]?.line,
      column,
      severity: 'error',
      message: `${without.length} of ${io.length} I/O pads have no port and bit (rows ${rowsOf(without)}): say which columns give them`,
    }));
  else
    for (const pad of without)
      ask(problems, answers, {
        key: `no port ${pad.id}`,
        line: pad.line,
        column,
        message: `${pad.id} is an I/O pad without port and bit`,
        answers: YES('yes, no port register reaches it'),
      });
  const places = new Map<string, PadRecord>();
  const bits = new Map<string, Set<number>>();
  for (const pad of io) {
    if (pad.port === undefined || pad.bit === undefined) continue;
    const key = `${pad.port} ${pad.bit}`;
    const other = places.get(key);
    if (other)
      note(problems, () => ({
        line: pad.line,
        column,
        severity: 'error',
        message: `${pad.id} and ${other.id} (row ${other.line}) are both bit ${pad.bit} of port ${pad.port}`,
      }));
    places.set(key, pad);
    bits.set(pad.port, (bits.get(pad.port) ?? new Set()).add(pad.bit));
  }
  for (const [port, has] of bits) {
    const last = largest(has);
    const holes = Array.from({ length: last }, (_, bit) => bit).filter((bit) => !has.has(bit));
    if (holes.length === 0 || holes.length > last / 2) continue;
    const line = io.find((pad) => pad.port === port && pad.bit === (holes[0] ?? 0) + 1)?.line;
    note(problems, () => ({
      ...(line === undefined ? {} : { line }),
      severity: 'warning',
      message: `port ${port} has no bit ${holes.slice(0, 6).join(', ')}${holes.length > 6 ? ' …' : ''}: was a row lost?`,
    }));
  }
}

const rowsOf = (pads: readonly PadRecord[]): string =>
  `${pads
    .slice(0, 5)
    .map((pad) => pad.line)
    .join(', ')}${pads.length > 5 ? ' …' : ''}`;

/** A second name that is another pad's own. */
function checkNames(mapping: Mapping, pads: readonly PadRecord[], problems: TableProblem[]): void {
  const ids = new Map(pads.map((pad) => [pad.id, pad]));
  for (const pad of pads)
    for (const alias of pad.aliases) {
      const other = ids.get(alias);
      if (other && other !== pad)
        note(problems, () => ({
          line: pad.line,
          column: Math.max(0, mapping.roles.indexOf('pad')),
          severity: 'error',
          message: `${pad.id} is also called ${alias}, which is a pad of its own in row ${other.line}`,
        }));
    }
}

/** How many pins a package's heading speaks of. */
function saidPins(heading: string): number | undefined {
  const numbers = (heading.match(/\d+/g) ?? []).map(Number).filter((one) => one >= 6 && one <= 2000);
  return numbers.length === 1 ? numbers[0] : undefined;
}

function checkCounts(
  grid: Grid,
  mapping: Mapping,
  pads: readonly PadRecord[],
  problems: TableProblem[],
  answers: Answers,
): void {
  const headings = headingsOf(grid, mapping);
  mapping.roles.forEach((role, column) => {
    const [base, name] = splitRole(role);
    if (base !== 'pin') return;
    const pins = pads.flatMap((pad) => pad.pins.filter((one) => one.package === name).map((one) => one.pin));
    const said = saidPins(headings[column] ?? '') ?? saidPins(name);
    const plain = pins.filter((pin) => !/^\d+$/.test(pin) || said === undefined || Number(pin) <= said);
    // Holes among numbers are told with the numbers; here it is about pins that are lost at the end, and about balls.
    if (said !== undefined && plain.includes(String(said))) return;
    if (said !== undefined && pins.length > 0 && plain.length !== said)
      ask(problems, answers, {
        key: `count ${name} ${pins.length}`,
        column,
        message: `package ${name} has ${plain.length} pins here, its name speaks of ${said}`,
        answers: YES(`yes, it has ${plain.length}`),
      });
    if (pins.length === 0)
      note(problems, () => ({ column, severity: 'error', message: `package ${name} has no pins at all` }));
  });
}

/** Rows that are longer than the headings. */
function checkLength(grid: Grid, mapping: Mapping, problems: TableProblem[]): void {
  grid.rows.forEach((row, index) => {
    if (index <= mapping.headerRow || row.out) return;
    const extra = row.cells.slice(mapping.roles.length).find((cell) => cell.trim() !== '');
    if (extra !== undefined)
      note(problems, () => ({
        line: row.line,
        severity: 'error',
        message: `"${extra}" stands behind the last column`,
      }));
  });
}

/** Columns that look like pins of another package, or like signals, and are not read. */
export function checkLeftOut(
  kind: TableKind,
  grid: Grid,
  mapping: Mapping,
  problems: TableProblem[],
  answers: Answers,
): void {
  checkLength(grid, mapping, problems);
  const headings = headingsOf(grid, mapping);
  mapping.roles.forEach((role, column) => {
    if (role !== 'ignore') return;
    const cells = grid.rows
      .slice(mapping.headerRow + 1)
      .filter((row) => !row.out)
      .map((row) => (row.cells[column] ?? '').trim())
      .filter((cell) => !isEmptyCell(cell) && cell !== headings[column]);
    if (cells.length === 0) return;
    const title = headings[column] || `column ${column + 1}`;
    const hidden = grid.hiddenColumns?.includes(column) === true;
    const words = cells.flatMap((cell) => listCell(cell).map((word) => word.text));
    const pins = words.filter((word) => isPin(word));
    const bonded =
      pins.length > 5 &&
      pins.length > words.length * 0.9 &&
      new Set(pins).size > pins.length * 0.9 &&
      !pins.includes('0');
    const leave = (looks: string, answer: string): void =>
      void ask(problems, answers, {
        key: `left out ${title}`,
        column,
        message: `"${title}" ${looks}`,
        answers: YES(answer),
      });
    if (!headings[column] && mapping.headerRow >= 0 && !hidden && !(kind === 'pinout' && bonded))
      leave(
        `has no heading, and ${cells.length === 1 ? `"${cells[0]}"` : `${cells.length} cells`} in it`,
        'yes, leave it out',
      );
    else if (kind === 'pinout' && bonded)
      leave('looks like the pins of a package, and is left out', 'yes, leave it out');
    else if (looksLikeSignals(cells))
      leave(
        kind === 'pinout'
          ? 'looks like signals: in the step Functions they are read from this table too'
          : 'looks like signals, and is left out',
        kind === 'pinout' ? 'they are read there, or not needed' : 'yes, leave it out',
      );
  });
}
