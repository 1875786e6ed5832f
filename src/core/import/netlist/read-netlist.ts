/** Which form of netlist a file is in shows in its first characters; each form has a reader of its own. */
import { LIMITS, tooLarge } from '../../base/limits';
import { fail, type Result } from '../../base/result';
import { linesOf, type Meter } from '../../base/text/scan';
import { readEdif } from './edif';
import type { Netlist } from './netlist';
import { readNetlistTable } from './netlist-table';
import { readNetlistTree } from './netlist-tree';
import { isTestRecord, readTestRecords } from './test-records';
import { readExpressions } from './tree/expressions';
import { readXmlTree } from './tree/xml-tree';

/**
 * Reads IPC-D-356 (and A), EDIF 2 0 0, an S-expression, XML, or a table of net, part and pin. Takes steps in proportion to the
 * text, counted in `meter`.
 */
export function readNetlist(file: string, text: string, meter: Meter = { steps: 0 }): Result<Netlist> {
  if (text.length > LIMITS.netlistBytes)
    return fail({ place: file, message: `the file ${tooLarge('netlistBytes')}` });
  const body = text.replace(/^\uFEFF/, '');
  meter.steps += body.length;
  const netlist = readBody(file, body, meter);
  if (netlist.ok && netlist.value.parts.size === 0)
    return fail({ place: file, message: 'names no pin of any part' });
  return netlist;
}

function readBody(file: string, body: string, meter: Meter): Result<Netlist> {
  const first = body.slice(0, 1_000).trimStart()[0];
  if (first === '(' || first === '<') {
    const tree = first === '(' ? readExpressions(file, body, meter) : readXmlTree(file, body);
    if (!tree.ok) return tree;
    return tree.value.head.toLowerCase() === 'edif'
      ? readEdif(file, tree.value, meter)
      : readNetlistTree(file, tree.value, meter);
  }
  const lines = linesOf(body);
  return lines.some((line) => isTestRecord(line.text)) && !body.includes('\t')
    ? readTestRecords(file, lines, meter)
    : readNetlistTable(file, body, meter);
}
