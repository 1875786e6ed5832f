/**
 * IPC-D-356A: records in fixed columns. 1–3 operation (317 through hole, 327 surface mount), 4–17 net, 21–26 part, 27 a dash,
 * 28–31 pin. Long net names stand for themselves in `P  NNAMEn` records.
 */
import { collectProblems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import { isBlank, type Meter } from '../../base/text/scan';
import { type Netlist, NetlistPins } from './netlist';

export const isTestRecord = (line: string): boolean => line.startsWith('317') || line.startsWith('327');

export function readTestRecords(
  file: string,
  lines: readonly { line: number; text: string }[],
  meter: Meter,
): Result<Netlist> {
  const longNames = new Map<string, string>();
  const netlist = new NetlistPins();
  const problems = collectProblems();
  for (const { line: number, text: line } of lines) {
    meter.steps += Math.min(line.length, 400);
    const alias = aliasOf(line);
    if (alias) longNames.set(alias.short, alias.name);
    if (!isTestRecord(line)) continue;
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
    if (!netlist.add(part, { pin, net, line: number })) break;
  }
  if (netlist.problem !== undefined) return fail({ place: file, message: netlist.problem });
  if (problems.length > 0) return failWith(problems.list());
  for (const pins of netlist.parts.values())
    for (const pin of pins) pin.net = longNames.get(pin.net) ?? pin.net;
  return ok({ file, parts: netlist.parts });
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
