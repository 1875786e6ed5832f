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
  ...(['baud', 'bd', 'bps', 'bit/s'] as const).flatMap(
    (unit): [string, (value: number) => Partial<Demands>][] => [
      [unit, (value) => ({ rateHertz: value })],
      [`k${unit}`, (value) => ({ rateHertz: value * 1e3 })],
      [`m${unit}`, (value) => ({ rateHertz: value * 1e6 })],
    ],
  ),
]);

/** Whether a word is a unit that may stand apart from its figure: `115200 baud`, `8 mA`. */
export const isUnit = (word: string): boolean => UNITS.has(word.toLowerCase());

/** `115200`, `115.2k`, `1M`: after the lines of a peripheral a figure without a unit is their rate. */
export function rateOf(word: string): Partial<Demands> | undefined {
  const [, digits, factor] = /^(\d{1,9}(?:\.\d{1,6})?)(k|M|m)?$/.exec(word) ?? [];
  if (digits === undefined || (factor === undefined && !/^\d{3,9}$/.test(digits))) return undefined;
  const hertz =
    Math.round(Number(digits) * (factor === undefined ? 1 : factor === 'k' ? 1e3 : 1e6) * 1e6) / 1e6;
  return hertz > 0 && hertz <= LARGEST_FIGURE ? { rateHertz: hertz } : undefined;
}
/** No board has more of anything, and files take no more. */
const LARGEST_FIGURE = 1e9;

/** `8mA`, `5V`, `115.2kHz`: a figure with its unit is a demand. Undefined when it is none that can be meant. */
export function figureOf(word: string): Partial<Demands> | undefined {
  // A frame, as it is written behind a rate: 8N1.
  if (/^[5-9][neo](1|1\.5|2)$/i.test(word)) return readFormat(word);
  const match = /^(\d{1,12}(?:\.\d{1,6})?)([a-z/]{1,6})$/i.exec(word);
  const demand = UNITS.get(match?.[2]?.toLowerCase() ?? '');
  if (!match || !demand) return undefined;
  // 115.2 times a thousand is 115200, whatever binary fractions say.
  const made = Object.fromEntries(
    Object.entries(demand(Number(match[1]))).map(([key, figure]) => [
      key,
      Math.round((figure as number) * 1e6) / 1e6,
    ]),
  ) as Partial<Demands>;
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

/** What stands in one line, or in a part of one: a circuit before a colon, and items of words. */
export interface TypedLine {
  circuit: Token | undefined;
  items: Token[][];
}

/**
 * Cuts a line at its colons, at `·`, `,` or `;`, and at blanks; quotes keep together what they hold. What stands between a divider (or
 * the line's begin) and a colon is a circuit, and begins a part of its own. `from` is where the line begins.
 */
export function cutLine(line: string, from: number): TypedLine[] {
  const parts: TypedLine[] = [{ circuit: undefined, items: [[]] }];
  const items = (): Token[][] => (parts.at(-1) as TypedLine).items;
  let start = -1;
  const end = (at: number): void => {
    if (start < 0) return;
    items()
      .at(-1)
      ?.push({ text: line.slice(start, at), from: from + start, to: from + at, quoted: false });
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
        items().at(-1)?.push(token);
        at = close;
        continue;
      }
    }
    if (char === ':') {
      end(at);
      const head = items().pop() ?? [];
      const [first] = head;
      const last = head.at(-1);
      const circuit: Token = {
        text:
          first?.quoted && head.length === 1
            ? first.text
            : line.slice((first?.from ?? from + at) - from, (last?.to ?? from + at) - from),
        from: first?.from ?? from + at,
        to: last?.to ?? from + at + 1,
        quoted: true,
      };
      const before = parts.at(-1) as TypedLine;
      // The begin of a line has nothing before it.
      if (before.circuit === undefined && before.items.every((words) => words.length === 0)) parts.pop();
      parts.push({ circuit, items: [[]] });
    } else if (char === '·' || char === ',' || char === ';') {
      end(at);
      items().push([]);
    } else if (/\s/.test(char)) end(at);
    else if (start < 0) start = at;
  }
  end(line.length);
  return parts.map(({ circuit, items: all }) => ({
    circuit,
    items: all.filter((words) => words.length > 0),
  }));
}
