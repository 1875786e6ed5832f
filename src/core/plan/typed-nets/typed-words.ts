import { readFormat } from '../model/format';
import type { ConstraintKind, Demands, NetSettings, Role } from '../model/types';

/** What a word after the names of typed nets says about them. */
export type WordMeaning =
  | { role: Role }
  | { setting: Partial<NetSettings> }
  | { demand: Partial<Demands> }
  | { constraint: ConstraintKind };

const MEANINGS: readonly [string, WordMeaning][] = [
  ['in', { role: { kind: 'input' } }],
  ['input', { role: { kind: 'input' } }],
  ['out', { role: { kind: 'output' } }],
  ['output', { role: { kind: 'output' } }],
  ['analog', { role: { kind: 'analog' } }],
  ['an', { role: { kind: 'analog' } }],
  ['aout', { role: { kind: 'analog-output' } }],
  ['io', { role: { kind: 'bidirectional' } }],
  ['line', { role: { kind: 'open-drain' } }],
  ['irq', { role: { kind: 'interrupt' } }],
  ['rising', { setting: { trigger: 'rising' } }],
  ['falling', { setting: { trigger: 'falling' } }],
  ['both', { setting: { trigger: 'both' } }],
  ['driven', { demand: { farPull: 'driven' } }],
  ['pulled-up', { demand: { farPull: 'up' } }],
  ['pulled-down', { demand: { farPull: 'down' } }],
  ['low', { setting: { active: 'low' } }],
  ['high', { setting: { active: 'high' } }],
  ['asserted', { setting: { start: 'asserted' } }],
  ['on', { setting: { start: 'asserted' } }],
  ['up', { setting: { pull: 'up' } }],
  ['pull-up', { setting: { pull: 'up' } }],
  ['down', { setting: { pull: 'down' } }],
  ['pull-down', { setting: { pull: 'down' } }],
  ['od', { setting: { outputType: 'open-drain' } }],
  ['open-drain', { setting: { outputType: 'open-drain' } }],
  ['bus', { constraint: 'bus' }],
  ['pair', { constraint: 'pair' }],
  ['together', { constraint: 'together' }],
  ['apart', { constraint: 'apart' }],
];

/** By a Map, so that words such as "constructor" mean nothing. */
export const WORDS: ReadonlyMap<string, WordMeaning> = new Map(MEANINGS);

/** The words that say what a net is, for help texts. */
export const ROLE_WORDS =
  'in · out · io · line · irq · analog · low · up · down · od · on · driven · rising · falling · 8mA · 5V · 115200Hz · 10MHz · @B7 · d0..7 · bus · pair · together · apart';

const UNITS: ReadonlyMap<string, (value: number) => Partial<Demands>> = new Map<
  string,
  (value: number) => Partial<Demands>
>([
  ['ma', (value) => ({ milliamps: value })],
  ['v', (value) => ({ farVolts: value })],
  ['hz', (value) => ({ rateHertz: value })],
  ['khz', (value) => ({ rateHertz: value * 1e3 })],
  ['mhz', (value) => ({ rateHertz: value * 1e6 })],
]);
/** No board has more of anything, and files take no more. */
const LARGEST_FIGURE = 1e9;

/** `8mA`, `5V`, `115.2kHz`: a figure with its unit is a demand. Undefined when it is none that can be meant. */
export function figureOf(word: string): Partial<Demands> | undefined {
  // A frame, as it is written behind a rate: 8N1.
  if (/^[5-9][neo](1|1\.5|2)$/i.test(word)) return readFormat(word);
  const match = /^(\d{1,12}(?:\.\d{1,6})?)([a-z]{1,3})$/i.exec(word);
  const demand = UNITS.get(match?.[2]?.toLowerCase() ?? '');
  if (!match || !demand) return undefined;
  const made = demand(Number(match[1]));
  const [value = 0] = Object.values(made) as number[];
  return value > 0 && value <= LARGEST_FIGURE ? made : undefined;
}

/** A word of a typed line, and where it stands in the text. */
export interface Token {
  text: string;
  from: number;
  to: number;
  /** In quotes: a name, whatever else it could mean. */
  quoted: boolean;
}

/** What stands in one line: a circuit before a colon, and items of words. */
export interface TypedLine {
  circuit: Token | undefined;
  items: Token[][];
}

/** Cuts a line at its colon, at `·`, `,` or `;`, and at blanks; quotes keep together what they hold. `from` is where it begins. */
export function cutLine(line: string, from: number): TypedLine {
  const items: Token[][] = [[]];
  let circuit: Token | undefined;
  let start = -1;
  const end = (at: number): void => {
    if (start < 0) return;
    items.at(-1)?.push({ text: line.slice(start, at), from: from + start, to: from + at, quoted: false });
    start = -1;
  };
  for (let at = 0; at < line.length; at++) {
    const char = line[at] as string;
    if (char === '"' && start < 0) {
      const close = line.indexOf('"', at + 1);
      if (close > at + 1) {
        const token = {
          text: line.slice(at + 1, close),
          from: from + at,
          to: from + close + 1,
          quoted: true,
        };
        items.at(-1)?.push(token);
        at = close;
        continue;
      }
    }
    if (char === ':' && circuit === undefined && items.length === 1) {
      end(at);
      const [first] = items[0] ?? [];
      const head = line.slice(0, at).trim();
      circuit = {
        text: first?.quoted && items[0]?.length === 1 ? first.text : head,
        from: from + at - line.slice(0, at).trimStart().length,
        to: from + at,
        quoted: true,
      };
      items[0] = [];
    } else if (char === '·' || char === ',' || char === ';') {
      end(at);
      items.push([]);
    } else if (/\s/.test(char)) end(at);
    else if (start < 0) start = at;
  }
  end(line.length);
  return { circuit, items: items.filter((words) => words.length > 0) };
}
