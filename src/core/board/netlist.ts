import type { Package, TerminalNo } from '../device/types';
import { fail, ok, type Problem, type Result } from '../result';
import { readGrid } from '../tables/grid';

/** A netlist of a whole board: which net is on which terminal of which part. */
export interface Netlist {
  file: string;
  /** Designator → its pins. */
  parts: Map<string, { terminal: TerminalNo; net: string }[]>;
}

/** Netlists have a line a pin; the largest boards stay far below this. */
const MOST_PINS = 200_000;

/** Reads IPC-D-356 (and A), or a table of net, part and pin; what it is shows in its first lines. */
export function readNetlist(file: string, text: string): Result<Netlist> {
  const body = text.replace(/^\uFEFF/, '');
  const lines = body.split(/\r?\n/);
  return lines.some((line) => /^(317|327)/.test(line)) && !lines.some((line) => line.includes('\t'))
    ? readTestRecords(file, lines)
    : readTable(file, body);
}

/**
 * IPC-D-356A: fixed columns. 1–3 operation (317 through hole, 327 surface mount), 4–17 net, 21–26 part, 27 a dash, 28–31 pin.
 * Long net names stand for themselves in `P  NNAMEn` records.
 */
function readTestRecords(file: string, lines: readonly string[]): Result<Netlist> {
  const aliases = new Map<string, string>();
  const netlist: Netlist = { file, parts: new Map() };
  const problems: Problem[] = [];
  let pins = 0;
  for (const [at, line] of lines.entries()) {
    const alias = /^P\s+(NNAME\S*)\s+(\S.*?)\s*$/.exec(line);
    if (alias?.[1] && alias[2]) aliases.set(alias[1], alias[2]);
    if (!/^(317|327)/.test(line)) continue;
    const net = line.slice(3, 17).trim();
    const part = line.slice(20, 26).trim();
    const pin = line.slice(27, 31).trim();
    // A via belongs to no part.
    if (part === '' || part.toUpperCase() === 'VIA') continue;
    if (pin === '' || line[26] !== '-') {
      problems.push({
        place: `${file}:${at + 1}:21`,
        message: `part and pin are not where they should be: "${line.slice(20, 31)}"`,
      });
      if (problems.length >= 20) break;
      continue;
    }
    if (++pins > MOST_PINS) return fail({ place: file, message: `has more than ${MOST_PINS} pins` });
    add(netlist, part, pin, net);
  }
  if (problems.length > 0) return fail(...problems);
  for (const list of netlist.parts.values())
    for (const pin of list) pin.net = aliases.get(pin.net) ?? pin.net;
  return pins === 0 ? fail({ place: file, message: 'names no pin of any part' }) : ok(netlist);
}

const COLUMNS = {
  net: ['net', 'net name', 'netname', 'signal', 'signal name'],
  part: ['part', 'ref', 'refdes', 'designator', 'component', 'reference'],
  pin: ['pin', 'terminal', 'pin number', 'ball', 'pad', 'number'],
} as const;

/** A table with columns net, part and pin by any usual heading; without headings in that order. `U1-34` names both. */
function readTable(file: string, text: string): Result<Netlist> {
  const grid = readGrid(file, text);
  if (!grid.ok) return grid;
  const { rows } = grid.value;
  const head = rows[0]?.cells.map((cell) => cell.trim().toLowerCase()) ?? [];
  const at = (names: readonly string[]): number => head.findIndex((cell) => names.includes(cell));
  const headed = at(COLUMNS.net) >= 0 && at(COLUMNS.pin) >= 0;
  const [net, part, pin] = headed ? [at(COLUMNS.net), at(COLUMNS.part), at(COLUMNS.pin)] : [0, 1, 2];
  const netlist: Netlist = { file, parts: new Map() };
  const problems: Problem[] = [];
  for (const row of headed ? rows.slice(1) : rows) {
    const cells = row.cells.map((cell) => cell.trim());
    if (cells.every((cell) => cell === '')) continue;
    const both =
      /^(\S+?)[-.](\S+)$/.exec(cells[part] ?? '') ?? /^([A-Za-z]+\d+)[-.](\S+)$/.exec(cells[pin] ?? '');
    const designator = part >= 0 && (cells[pin] ?? '') !== '' && part !== pin ? cells[part] : both?.[1];
    const number = both && (cells[pin] === undefined || cells[pin] === '' || part < 0) ? both[2] : cells[pin];
    if (!designator || !number) {
      problems.push({
        place: `${file}:${row.line}:1`,
        message: `needs a net, a part and a pin, as in "FAN_1,U1,34"`,
      });
      if (problems.length >= 20) break;
      continue;
    }
    add(netlist, designator, number, cells[net] ?? '');
  }
  if (problems.length > 0) return fail(...problems);
  return netlist.parts.size === 0 ? fail({ place: file, message: 'names no pin of any part' }) : ok(netlist);
}

function add({ parts }: Netlist, part: string, terminal: string, net: string): void {
  const list = parts.get(part);
  if (list) list.push({ terminal, net });
  else parts.set(part, [{ terminal, net }]);
}

/** Parts of a netlist that could be the one in a package, likeliest first: most pins that the package has, fewest that it has not. */
export function likelyParts(
  { parts }: Netlist,
  pkg: Package,
): { designator: string; known: number; strange: number }[] {
  return [...parts]
    .map(([designator, pins]) => {
      const known = new Set(pins.map((pin) => pin.terminal).filter((one) => one in pkg.terminals)).size;
      return { designator, known, strange: pins.filter((pin) => !(pin.terminal in pkg.terminals)).length };
    })
    .filter((one) => one.known > 0)
    .sort(
      (a, b) =>
        b.known - 2 * b.strange - (a.known - 2 * a.strange) || a.designator.localeCompare(b.designator),
    );
}
