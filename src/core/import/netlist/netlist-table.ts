/** A netlist as a table with columns net, part and pin by any usual heading; without headings in that order. `U1-34` names both. */
import { collectProblems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import type { Meter } from '../../base/text/scan';
import { readText } from '../tables/read-text';
import { type Netlist, NetlistPins } from './netlist';

const COLUMNS = {
  net: ['net', 'net name', 'netname', 'signal', 'signal name'],
  part: ['part', 'ref', 'refdes', 'designator', 'component', 'reference'],
  pin: ['pin', 'terminal', 'pin number', 'ball', 'pad', 'number'],
} as const;

export function readNetlistTable(file: string, text: string, meter: Meter): Result<Netlist> {
  const grid = readText(file, text);
  if (!grid.ok) return grid;
  const { rows } = grid.value;
  const head = rows[0]?.cells.map((cell) => cell.trim().toLowerCase()) ?? [];
  const at = (names: readonly string[]): number => head.findIndex((cell) => names.includes(cell));
  const headed = at(COLUMNS.net) >= 0 && at(COLUMNS.pin) >= 0;
  const [net, part, pin] = headed ? [at(COLUMNS.net), at(COLUMNS.part), at(COLUMNS.pin)] : [0, 1, 2];
  const netlist = new NetlistPins();
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
    if (!netlist.add(designator, { pin: number, net: cells[net] ?? '', line: row.line })) break;
  }
  if (netlist.problem !== undefined) return fail({ place: file, message: netlist.problem });
  return problems.length > 0 ? failWith(problems.list()) : ok({ file, parts: netlist.parts });
}

/** `U1-34` or `U1.34`: cut at the first dash or dot; none of it with a blank inside. */
export function partAndPin(cell: string, meter: Meter): { part: string; pin: string } | undefined {
  meter.steps += cell.length;
  const cut = cell.search(/[-.]/);
  if (cut < 1 || cut === cell.length - 1 || /\s/.test(cell)) return undefined;
  return { part: cell.slice(0, cut), pin: cell.slice(cut + 1) };
}
