import { append } from '../../base/lists';
import { isBlank, isDigit, type Meter } from '../../base/text/scan';
import { isRaisedDigit, lowerDigits } from '../../base/text/superscript';
import type { PadKind } from '../../description/types';

/** What stands for "nothing" in data sheets. */
export const isEmptyCell = (cell: string): boolean =>
  /^(-+|–+|—+|·|•|\.{2,}|…|\/|n\/a|n\.a\.|none|nil)?$/i.test(cell.trim());

/** A word of a cell without its footnote marks, and the marks. */
export interface MarkedWord {
  text: string;
  marks: string[];
}

/** Where a run of characters of a class that ends before `end` begins. */
function runBefore(text: string, end: number, isIn: (char: string) => boolean): number {
  let start = end;
  while (start > 0 && isIn(text[start - 1] as string)) start--;
  return start;
}

/** The mark that a text ends in before `end`: `(3)`, `[1, 2]`, `²`, `*`. */
function markBefore(text: string, end: number): { start: number; names: string[] } | undefined {
  const last = text[end - 1] ?? '';
  if (last !== '' && '*†‡§'.includes(last)) return { start: end - 1, names: [last] };
  if (isRaisedDigit(last)) {
    const start = runBefore(text, end, isRaisedDigit);
    return { start, names: [lowerDigits(text.slice(start, end))] };
  }
  const open = last === ')' ? '(' : last === ']' ? '[' : '';
  if (open === '') return undefined;
  const start = runBefore(text, end - 1, (char) => isDigit(char) || char === ',' || isBlank(char)) - 1;
  const names = text
    .slice(start + 1, end - 1)
    .split(',')
    .map((one) => one.trim());
  // A footnote's number starts right behind its bracket and has one or two digits.
  const inside = text.slice(start + 1, end - 1);
  if (text[start] !== open || inside !== inside.trim()) return undefined;
  return names.every((one) => /^\d{1,2}$/.test(one)) ? { start, names } : undefined;
}

/** Takes footnote marks off the end of a word: `UART1.TX(3)`, `B7²`, `A0 [1,2]`, `VDD*`. Looks at each character once. */
export function takeMarks(word: string, meter: Meter = { steps: 0 }): MarkedWord {
  const text = word.trim();
  const marks: string[][] = [];
  let end = text.length;
  for (let mark = markBefore(text, end); mark; mark = markBefore(text, end)) {
    marks.push(mark.names);
    end = runBefore(text, mark.start, isBlank);
  }
  meter.steps += word.length + text.length - end;
  return { text: text.slice(0, end), marks: marks.reverse().flat() };
}

/** The words of a cell that lists several, each with its marks; a mark that stands alone belongs to the word before. */
export function listCell(cell: string, dividers: RegExp = /[\s;,]+/): MarkedWord[] {
  if (isEmptyCell(cell)) return [];
  // A mark's own comma is no divider.
  const kept = cell.replace(/[([](\d{1,2}(?:\s*,\s*\d{1,2})+)[)\]]/g, (_all, list: string) =>
    list
      .split(/\s*,\s*/)
      .map((one) => `(${one})`)
      .join(''),
  );
  const words: MarkedWord[] = [];
  for (const part of kept.split(dividers).filter(Boolean)) {
    const word = takeMarks(part);
    const before = words.at(-1);
    if (word.text === '' && before) append(before.marks, word.marks);
    else if (!isEmptyCell(word.text)) words.push(word);
  }
  return words;
}

export interface PadCell {
  id: string;
  aliases: string[];
  marks: string[];
  /** Further words that could be the names of pads themselves. */
  otherPads: string[];
}

/**
 * A pad's cell: `B7`, `B7/WAKE2`, `B7 (WAKE2)`, `B7-WAKE2`, `WAKE2/B7`, `C8-XI (C8)`, `B7(1)`. The word that has the form of a
 * port and a bit is the pad; without one, the first word is.
 */
export function padCell(cell: string): PadCell {
  const { text, marks } = takeMarks(cell);
  // A bracket that is left open is part of the name, which is then refused.
  const paired = /^[^()]*(?:\([^()]*\)[^()]*)*$/.test(text);
  const parts = text
    .split(paired ? /[/\n()]|\s-\s|,/ : /[/\n]|\s-\s|,/)
    .map((one) => takeMarks(one))
    .filter((one) => one.text !== '');
  const words = [...new Set(parts.flatMap((one) => aliasBehind(one.text)))];
  const ported = words.filter((word) => portBitOf(word) !== undefined);
  const id = ported[0] ?? words[0] ?? '';
  return {
    id,
    aliases: words.filter((word) => word !== id),
    marks: [...parts.flatMap((one) => one.marks), ...marks],
    otherPads: ported.slice(1),
  };
}

/** `C7-WAKE2`, `PC7_WAKE2` → the pad and what else it is called; any other word stays whole. */
function aliasBehind(word: string): string[] {
  if (portBitOf(word)) return [word];
  const match =
    /^(P?[A-Z]\d{1,2}|[A-Z]{2}\d{1,2}(?=-)|P[A-Z]{2}\d{1,2}(?=-)|P\d{1,2}[._]\d{1,2})[-_](\w*[A-Za-z][\w.+-]*)$/.exec(
      word,
    );
  return match?.[1] && match[2] ? [match[1], match[2]] : [word];
}

export const PAD_NAME = /^[A-Za-z0-9][A-Za-z0-9._+-]{0,79}$/;
const BALL = /^[A-Z]{1,2}\d{1,2}$/;
const NUMBER = /^\d{1,3}$/;
export const isPin = (word: string): boolean => NUMBER.test(word) || BALL.test(word);

const KIND_WORDS: Record<PadKind, string[]> = {
  io: [
    'io',
    'i/o',
    'b',
    'bidir',
    'bidirectional',
    'inout',
    'in/out',
    'gpio',
    'digital i/o',
    'digital',
    'd',
    'dio',
  ],
  supply: ['supply', 's', 'p', 'pwr', 'power', 'power supply', 'analog supply', 'supply pin'],
  ground: ['ground', 'g', 'gnd', 'vss'],
  reset: ['reset', 'rst'],
  clock: ['clock', 'clk', 'osc', 'oscillator', 'crystal', 'xtal'],
  strap: ['strap', 'boot'],
  'debug-only': ['debug-only', 'debug', 'jtag'],
  'analog-only': ['analog-only', 'analog', 'a', 'ai', 'ao', 'analogue', 'analog i/o'],
  usb: ['usb'],
  flash: ['flash', 'spi flash', 'qspi flash', 'memory'],
  reference: ['reference', 'ref', 'vref', 'bandgap', 'voltage reference'],
  'no-bond': ['no-bond', 'not bonded', 'nb'],
  'no-connect': ['no-connect', 'nc', 'n.c.', 'n/c', 'not connected', 'no connect', 'dnc'],
};
/** Words for a direction: they say that a pad carries signals, not whose it is. */
const DIRECTION_WORDS = ['i', 'o', 'in', 'out', 'input', 'output', 'i/o/z', 'o/z', 'od', 'open drain'];

/** A word of a type column → pad kind; undefined when it says nothing. `P` of a pad called VSS is a ground. */
export function kindFrom(word: string, padName: string): PadKind | undefined {
  const wanted = word.trim().toLowerCase().replace(/\s+/g, ' ');
  const found = (Object.keys(KIND_WORDS) as PadKind[]).find((kind) => KIND_WORDS[kind].includes(wanted));
  if (found === 'supply' && kindFromName(padName) === 'ground') return 'ground';
  return found ?? (DIRECTION_WORDS.includes(wanted) ? 'io' : undefined);
}

/** Whether a word of a type column only says which way signals go. */
export const isDirection = (word: string): boolean => DIRECTION_WORDS.includes(word.trim().toLowerCase());

/** Names of pads that are no port's, by what they are there for. */
const NAMES: readonly [PadKind, RegExp][] = [
  ['ground', /^[A-Z]{0,3}(VSS|GND)[A-Z0-9_+-]*$/i],
  ['supply', /^([A-Z]{0,2}VDD|[A-Z]{0,2}VCC|V[A-Z]{1,4}|AV|DV)[A-Z0-9_+-]*$/i],
  ['no-connect', /^(NC|DNC|N\.C\.)[_-]?\d*$/i],
  ['reset', /^[NX]?_?(RST|RESET|POR)(IN)?[NB_#]*$/i],
  ['strap', /^(BOOT|STRAP)(MODE|SEL)?[_-]?[A-D\d]*$/i],
  ['debug-only', /^([JN]?TRST|TCK|TMS|TDI|TDO)N?$/i],
  ['clock', /^(X(TAL)?\d{0,2}_?(I|O|IN|OUT|A|B|\d)|OSC\d{0,2}_?(I|O|IN|OUT|\d))$/i],
];

/** What a pad's name says about its kind, in the habits of data sheets. */
export function kindFromName(name: string): PadKind | undefined {
  return NAMES.find(([, pattern]) => pattern.test(name))?.[0] ?? (portBitOf(name) ? 'io' : undefined);
}

/** What a second name of an I/O pad says that the pad is busy with at boot. */
export function bootFromName(alias: string): 'debug' | 'strap' | 'clock' | 'reset' | undefined {
  const kind = portBitOf(alias) ? undefined : kindFromName(alias);
  if (kind === 'debug-only') return 'debug';
  return kind === 'strap' || kind === 'clock' || kind === 'reset' ? kind : undefined;
}

/** `B7`, `PB7`, `P3_14`, `PA.3` → port and bit, in the habits of data sheets. */
export function portBitOf(name: string): { port: string; bit: number } | undefined {
  const match = /^(?:P([A-Z0-9]{1,2}?)[._]?|([A-Z]{1,2})[._]?|P(\d{1,2})[._])(\d{1,2})$/.exec(name);
  const port = match?.[1] ?? match?.[2] ?? match?.[3];
  if (!match || !port || Number(match[4]) > 63) return undefined;
  return { port, bit: Number(match[4]) };
}

/** `3`, `0x1F`, `F7`, `AF12`: a mux code; null when the cell says that none is needed; undefined when it is none. */
export function codeCell(cell: string): number | null | undefined {
  if (isEmptyCell(cell) || /^(an|analog|analogue)$/i.test(cell.trim())) return null;
  const match = /^(?:[A-Za-z]{0,4}[ _-]?)?(0[xX][0-9A-Fa-f]+|\d+)$/.exec(cell.trim());
  return match ? Number(match[1]) : undefined;
}

/** A signal in the form `UART2.TX`, from `UART2.TX`, `UART2_TX`, `UART2-TX`; a word without a line gets `IO`. */
export function signalFrom(word: string): { signal: string; assumedLine: boolean } | undefined {
  if (!/^[A-Za-z][A-Za-z0-9._-]{0,78}$/.test(word)) return undefined;
  const at = word.includes('.') ? word.indexOf('.') : word.search(/[_-]/);
  if (at < 0) return { signal: `${word}.IO`, assumedLine: true };
  const line = word.slice(at + 1).replace(/-/g, '_');
  return line === '' ? undefined : { signal: `${word.slice(0, at)}.${line}`, assumedLine: false };
}
