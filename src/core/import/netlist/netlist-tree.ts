/**
 * Netlists as S-expressions or XML. Every schematic program has a layout of its own: nets with pins in them, parts with pins in
 * them, connections by themselves. All are read by one rule: *wherever a part, a pin and a net are known, from a branch or from
 * those around it, there is a connection.*
 */
import { collectProblems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import type { Meter } from '../../base/text/scan';
import { type Netlist, NetlistPins } from './netlist';
import { partAndPin } from './netlist-table';
import { type Branch, branchesOf, textsOf } from './tree/tree';

/** Heads of branches and names of attributes, letters only, in small ones. */
const NET = ['net', 'netname', 'signal', 'signalname', 'netref'];
const PART = ['part', 'component', 'comp', 'instance', 'device'];
const REFERENCE = ['ref', 'refdes', 'reference', 'designator', 'componentref', 'partref', ...PART];
const PIN = ['pin', 'terminal', 'ball', 'pad', 'pins', 'terminals', 'pinref'];
const NUMBER = ['number', 'num', 'pinnumber', ...PIN];
const NAME = ['name', 'label', 'id'];
const PIN_NAME = ['pinname', 'name', 'label'];

/** What the branches around a branch say. */
interface Context {
  net?: string;
  part?: string;
}

export function readNetlistTree(file: string, root: Branch, meter: Meter): Result<Netlist> {
  const netlist = new NetlistPins();
  const problems = collectProblems();
  const stack: { branch: Branch; context: Context }[] = [{ branch: root, context: {} }];
  for (let next = stack.pop(); next; next = stack.pop()) {
    const { branch, context } = next;
    meter.steps += 1 + branch.items.length;
    const head = plain(branch.head);
    const net = NET.includes(head) ? (leaf(branch, NAME) ?? textsOf(branch)[0]) : leaf(branch, NET);
    const part = PART.includes(head)
      ? (leaf(branch, REFERENCE) ?? leaf(branch, NAME) ?? textsOf(branch)[0])
      : leaf(branch, REFERENCE);
    const pin = PIN.includes(head)
      ? (leaf(branch, NUMBER) ?? leaf(branch, NAME) ?? textsOf(branch)[0])
      : leaf(branch, NUMBER);
    const here: Context = { ...context, ...(net === undefined ? {} : { net }), ...(part ? { part } : {}) };
    const joined = joinedPins(branch, head, here, meter);
    if (joined.length > 0 && here.net !== undefined) {
      for (const pair of joined) netlist.add(pair.part, { pin: pair.pin, net: here.net, line: branch.line });
      continue;
    }
    if (pin !== undefined && pin !== '' && here.net !== undefined) {
      const both = here.part === undefined ? partAndPin(pin, meter) : { part: here.part, pin };
      if (both) {
        const name = leaf(branch, PIN_NAME);
        const named = name === undefined || name === both.pin ? {} : { name };
        netlist.add(both.part, { pin: both.pin, net: here.net, line: branch.line, ...named });
        continue;
      }
      problems.push({
        place: `${file}:${branch.line}:1`,
        message: `pin ${pin} of net ${here.net} names no part`,
      });
    } else if (
      part &&
      here.net !== undefined &&
      context.net !== undefined &&
      branchesOf(branch).every(isLeaf)
    ) {
      problems.push({
        place: `${file}:${branch.line}:1`,
        message: `${part} on net ${here.net} names no pin`,
      });
    }
    if (netlist.problem !== undefined) break;
    // From the back, so that they are taken from the stack in the order of the file.
    for (let i = branch.items.length - 1; i >= 0; i--) {
      const item = branch.items[i];
      if (item !== undefined && typeof item !== 'string') stack.push({ branch: item, context: here });
    }
  }
  if (netlist.problem !== undefined) return fail({ place: file, message: netlist.problem });
  return problems.length > 0 ? failWith(problems.list()) : ok({ file, parts: netlist.parts });
}

/** `(net FAN_1 U1-34 R2-1)`, `(pins U1-34 R2-1)`: all texts but the net's name, when each of them is a part with a pin. */
function joinedPins(
  branch: Branch,
  head: string,
  { part }: Context,
  meter: Meter,
): { part: string; pin: string }[] {
  if (part !== undefined || (!NET.includes(head) && !PIN.includes(head))) return [];
  const named = NET.includes(head) && leaf(branch, NAME) === undefined;
  const pairs = textsOf(branch)
    .slice(named ? 1 : 0)
    .flatMap((text) => text.split(/[\s,]+/))
    .filter((text) => text !== '')
    .map((text) => partAndPin(text, meter));
  return pairs.every((pair) => pair !== undefined) ? pairs : [];
}

const plain = (head: string): string => head.toLowerCase().replace(/[^a-z]/g, '');

const isLeaf = ({ items }: Branch): boolean =>
  items.length < 2 && items.every((item) => typeof item === 'string');

/** The text of the first branch by one of these names, in the order of the names, that holds one text or none. */
function leaf(branch: Branch, names: readonly string[]): string | undefined {
  let best: { rank: number; text: string } | undefined;
  for (const item of branch.items) {
    if (typeof item === 'string' || !isLeaf(item)) continue;
    const rank = names.indexOf(plain(item.head));
    if (rank >= 0 && (!best || rank < best.rank)) best = { rank, text: textsOf(item)[0]?.trim() ?? '' };
  }
  return best?.text;
}
