import { distance, sameButNumbers } from '../../base/text/near';
import { splitSignal } from '../../description/types';
import type { FunctionRecord, PadRecord, TableProblem } from './records';

/**
 * Words that nothing is wrong with but that look like slips: a line, an instance, a supply or a class that stands in the
 * tables once, beside a very similar one that stands there often. Names that differ in a number only are no slips.
 */
export function suspects(
  pads: readonly PadRecord[],
  functions: readonly FunctionRecord[],
): { pinout: TableProblem[]; functions: TableProblem[] } {
  const lines = new Map<string, FunctionRecord[]>();
  const kinds = new Map<string, FunctionRecord[]>();
  for (const one of functions) {
    const [instance, line] = splitSignal(one.signal);
    push(kinds, kindOf(instance), one);
    push(lines, `${kindOf(instance)}.${line}`, one);
  }
  const found: TableProblem[] = [];
  // So many different words are no slips of one table; comparing each with each would take for ever.
  if (lines.size > MOST_COMPARED) return { pinout: [], functions: [] };
  for (const [key, uses] of lines) {
    const [kind, line] = splitSignal(key);
    const [only] = uses;
    if (uses.length > 1 || !only) continue;
    const known = [...lines.keys()].filter((one) => splitSignal(one)[0] === kind && one !== key);
    const near = known.find((one) => similar(splitSignal(one)[1], line) && (lines.get(one)?.length ?? 0) > 2);
    if (!near) continue;
    const better = `${splitSignal(only.signal)[0]}.${splitSignal(near)[1]}`;
    found.push(slip(only, `only here has ${kind} a line ${line}; is ${better} meant?`, better));
  }
  for (const [kind, uses] of kinds) {
    const [only] = uses;
    if (uses.length > 1 || !only) continue;
    const near = [...kinds].find(
      ([one, others]) => one !== kind && similar(one, kind) && others.length > 2,
    )?.[0];
    if (near === undefined) continue;
    const [instance, line] = splitSignal(only.signal);
    const better = `${near}${instance.slice(kind.length)}.${line}`;
    found.push(slip(only, `${instance} stands here only; is ${better} meant?`, better));
  }
  return { pinout: [...oneOff(pads, 'supply'), ...oneOff(pads, 'class')], functions: found };
}

const MOST_COMPARED = 2_000;

const kindOf = (instance: string): string => instance.replace(/\d+$/, '') || instance;

function push<T>(map: Map<string, T[]>, key: string, item: T): void {
  const list = map.get(key);
  if (list) list.push(item);
  else map.set(key, [item]);
}

const slip = (record: FunctionRecord, message: string, better: string): TableProblem => ({
  ...record.at,
  severity: 'warning',
  message,
  suggestions: [better],
  word: record.text,
});

function oneOff(pads: readonly PadRecord[], field: 'supply' | 'class'): TableProblem[] {
  const uses = new Map<string, PadRecord[]>();
  for (const pad of pads) if (pad[field] !== undefined) push(uses, pad[field], pad);
  if (uses.size > MOST_COMPARED) return [];
  return [...uses].flatMap(([word, list]) => {
    const [only] = list;
    if (list.length > 1 || !only) return [];
    const near = [...uses].filter(([one, others]) => one !== word && similar(one, word) && others.length > 2);
    if (near.length === 0) return [];
    const words = near.map(([one]) => one).slice(0, 3);
    const message = `${field} ${word} stands here only; is ${words.join(' or ')} meant?`;
    return [
      { line: only.line, severity: 'warning' as const, message, suggestions: words, word, role: field },
    ];
  });
}

/** One letter more, less or other; never only digits. */
function similar(a: string, b: string): boolean {
  if (sameButNumbers(a, b)) return false;
  return Math.max(a.length, b.length) > 1 && distance(a.toUpperCase(), b.toUpperCase()) === 1;
}
