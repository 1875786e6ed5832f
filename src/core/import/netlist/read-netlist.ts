import { LIMITS, overLimit, tooLarge } from '../../base/limits';
import { collectProblems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import { isBlank, linesOf, type Meter } from '../../base/text/scan';
import type { Package, PinNumber } from '../../description/types';
import { readText } from '../tables/read-text';

/** A netlist of a whole board: which net is on which pin of which part. */
export interface Netlist {
  file: string;
  /** Designator → its pins. */
  parts: Map<string, { pin: PinNumber; net: string }[]>;
}

/** Reads IPC-D-356 (and A), or a table of net, part and pin; what it is shows in its first lines. Reads the text once. */
export function readNetlist(file: string, text: string, meter: Meter = { steps: 0 }): Result<Netlist> {
  if (text.length > LIMITS.netlistBytes)
    return fail({ place: file, message: `the file ${tooLarge('netlistBytes')}` });
  const body = text.replace(/^\uFEFF/, '');
  const lines = linesOf(body);
  meter.steps += body.length;
  const records = lines.some((line) => isRecord(line.text)) && !body.includes('\t');
  return records ? readTestRecords(file, lines, meter) : readTable(file, body, meter);
}

const isRecord = (line: string): boolean => line.startsWith('317') || line.startsWith('327');

/**
 * IPC-D-356A: fixed columns. 1–3 operation (317 through hole, 327 surface mount), 4–17 net, 21–26 part, 27 a dash, 28–31 pin.
 * Long net names stand for themselves in `P  NNAMEn` records.
 */
function readTestRecords(
  file: string,
  lines: readonly { line: number; text: string }[],
  meter: Meter,
): Result<Netlist> {
  const aliases = new Map<string, string>();
  const netlist: Netlist = { file, parts: new Map() };
  const problems = collectProblems();
  let pins = 0;
  for (const { line: number, text: line } of lines) {
    meter.steps += Math.min(line.length, 400);
    const alias = aliasOf(line);
    if (alias) aliases.set(alias.short, alias.name);
    if (!isRecord(line)) continue;
    const net = line.slice(3, 17).trim();
    const part = line.slice(20, 26).trim();
    const pin = line.slice(27, 31).trim();
    // A via belongs to no part.
    if (part === '' || part.toUpperCase() === 'VIA') continue;
    if (pin === '' || line[26] !== '-') {
      const message = `part and pin are not where they should be: "${line.slice(20, 31)}"`;
      problems.push({ place: `${file}:${number}:21`, message });
      continue;
    }
    if (++pins > LIMITS.netlistPins) return fail({ place: file, message: overLimit('netlistPins', pins) });
    add(netlist, part, pin, net);
  }
  if (problems.length > 0) return failWith(problems.list());
  for (const list of netlist.parts.values())
    for (const pin of list) pin.net = aliases.get(pin.net) ?? pin.net;
  return pins === 0 ? fail({ place: file, message: 'names no pin of any part' }) : ok(netlist);
}

/** `P  NNAME3  A_LONG_NAME`. Records have 80 columns; names that go on are cut where nothing can use them. */
function aliasOf(line: string): { short: string; name: string } | undefined {
  if (line[0] !== 'P' || !isBlank(line[1] ?? '')) return undefined;
  const rest = line.slice(1, 400).trimStart();
  const end = rest.search(/\s/);
  const short = rest.slice(0, end);
  const name = rest.slice(end).trim();
  return end > 0 && short.startsWith('NNAME') && name !== '' ? { short, name } : undefined;
}

const COLUMNS = {
  net: ['net', 'net name', 'netname', 'signal', 'signal name'],
  part: ['part', 'ref', 'refdes', 'designator', 'component', 'reference'],
  pin: ['pin', 'terminal', 'pin number', 'ball', 'pad', 'number'],
} as const;

/** A table with columns net, part and pin by any usual heading; without headings in that order. `U1-34` names both. */
function readTable(file: string, text: string, meter: Meter): Result<Netlist> {
  const grid = readText(file, text);
  if (!grid.ok) return grid;
  const { rows } = grid.value;
  const head = rows[0]?.cells.map((cell) => cell.trim().toLowerCase()) ?? [];
  const at = (names: readonly string[]): number => head.findIndex((cell) => names.includes(cell));
  const headed = at(COLUMNS.net) >= 0 && at(COLUMNS.pin) >= 0;
  const [net, part, pin] = headed ? [at(COLUMNS.net), at(COLUMNS.part), at(COLUMNS.pin)] : [0, 1, 2];
  const netlist: Netlist = { file, parts: new Map() };
  const problems = collectProblems();
  for (const row of headed ? rows.slice(1) : rows) {
    const cells = row.cells.map((cell) => cell.trim());
    if (cells.every((cell) => cell === '')) continue;
    const [partCell = '', pinCell = ''] = [cells[part], cells[pin]];
    const both =
      partAndPin(partCell, meter) ?? (/^[A-Za-z]+\d/.test(pinCell) ? partAndPin(pinCell, meter) : undefined);
    const designator = part >= 0 && pinCell !== '' && part !== pin ? partCell : both?.part;
    const number = both && (pinCell === '' || part < 0) ? both.pin : pinCell;
    if (!designator || !number) {
      const message = 'needs a net, a part and a pin, as in "FAN_1,U1,34"';
      problems.push({ place: `${file}:${row.line}:1`, message });
      continue;
    }
    add(netlist, designator, number, cells[net] ?? '');
  }
  if (problems.length > 0) return failWith(problems.list());
  return netlist.parts.size === 0 ? fail({ place: file, message: 'names no pin of any part' }) : ok(netlist);
}

/** `U1-34` or `U1.34`: cut at the first dash or dot; none of it with a blank inside. */
function partAndPin(cell: string, meter: Meter): { part: string; pin: string } | undefined {
  meter.steps += cell.length;
  const cut = cell.search(/[-.]/);
  if (cut < 1 || cut === cell.length - 1 || /\s/.test(cell)) return undefined;
  return { part: cell.slice(0, cut), pin: cell.slice(cut + 1) };
}

function add({ parts }: Netlist, part: string, pin: string, net: string): void {
  const list = parts.get(part);
  if (list) list.push({ pin, net });
  else parts.set(part, [{ pin, net }]);
}

/** Parts of a netlist that could be the one in a package, likeliest first: most pins that the package has, fewest that it has not. */
export function likelyParts(
  { parts }: Netlist,
  pkg: Package,
): { designator: string; known: number; strange: number }[] {
  return [...parts]
    .map(([designator, pins]) => {
      const known = new Set(pins.map((pin) => pin.pin).filter((one) => Object.hasOwn(pkg.pins, one))).size;
      return {
        designator,
        known,
        strange: pins.filter((pin) => !Object.hasOwn(pkg.pins, pin.pin)).length,
      };
    })
    .filter((one) => one.known > 0)
    .sort(
      (a, b) =>
        b.known - 2 * b.strange - (a.known - 2 * a.strange) || a.designator.localeCompare(b.designator),
    );
}
