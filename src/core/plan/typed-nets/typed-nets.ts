import { LIMITS, limitText } from '../../base/limits';
import { largest, smallest } from '../../base/lists';
import { listed } from '../../base/text/listed';
import { closest, distance } from '../../base/text/near';
import { printable } from '../../base/text/printable';
import type { Meter } from '../../base/text/scan';
import { isOwnKey } from '../../description/settings';
import { type DeviceDescription, linesBelongTogether, type Pad } from '../../description/types';
import {
  type Circuit,
  type CircuitId,
  type Constraint,
  type ConstraintKind,
  type Demands,
  lineMatches,
  type Net,
  type NetId,
  type NetSettings,
  type Placement,
  type Plan,
  type Role,
} from '../model/types';
import { cutLine, figureOf, isUnit, rateOf, type Token, WORDS, type WordMeaning } from './typed-words';

export { ROLE_WORDS } from './typed-words';

/**
 * Nets typed in a line: `mast: uart tx rx · de out low`. Before the colon the circuit; then items, divided by `·`, `,` or
 * `;`. An item is either a peripheral with its lines (`spi2 sck sdo sdi`, `uart tx rx`: any instance) or names followed
 * by what they are (`busy irq up driven 5V`; `@B7` puts one there and locks it). Several pads are those of the nets in their order
 * (`uart tx rx @D5 @D4`), one before a range is that of its first (`d0..7 out @M0`, as `@M0..7`). `d0..7` stands for eight names, and
 * `bus` after them demands consecutive bits of one port. A colon further on in a line begins another circuit. Lower-case names get the circuit's name in front; others stay as typed, and
 * what stands in quotes is a name whatever it says.
 */
export interface TypedNets {
  circuits: Circuit[];
  nets: Net[];
  /** What the nets of an item demand of each other. */
  constraints: Constraint[];
  /** What is not understood, where it stands. Nothing should be added while there is any. */
  marks: TypedMark[];
}

/** A place in the text that is wrong, and what could stand there instead. */
export interface TypedMark {
  from: number;
  to: number;
  message: string;
  suggestions: Suggestion[];
}

export interface Suggestion {
  label: string;
  /** Takes the place of the marked text. */
  text: string;
}

/** More names than a range may stand for are a slip of the keys. */
const LONGEST_RANGE = 64;
const MOST_MARKS = 50;
const LONGEST_NAME = 120;

/**
 * Reads a text against a plan and a part.
 * @param joins the circuit that items without one join; undefined: they stand in a circuit of their own, "Board"
 * @param newId gives ids that are not in use
 * @param meter counts steps, which are in proportion to the text
 */
export function parseTypedNets(
  text: string,
  plan: Plan,
  description: DeviceDescription,
  joins: CircuitId | undefined,
  newId: () => string,
  meter: Meter = { steps: 0 },
): TypedNets {
  const result: TypedNets = { circuits: [], nets: [], constraints: [], marks: [] };
  const reading = readingOf(plan, description, joins, newId, result, meter);
  if (text.length > LIMITS.typedCharacters) {
    mark(
      reading,
      { from: 0, to: text.length },
      `at most ${limitText('typedCharacters')} can be read at once`,
    );
    return result;
  }
  const table = columnsOf(text);
  let from = 0;
  for (const line of text.split('\n')) {
    meter.steps += line.length + 1;
    if (result.marks.length >= MOST_MARKS) break;
    if (plan.nets.length + result.nets.length > LIMITS.nets) {
      mark(reading, { from, to: text.length }, `a plan takes at most ${limitText('nets')}`);
      break;
    }
    if (line.includes('\t')) readRow(line, from, table, reading);
    else if (line.trim() !== '') readLine(line, from, reading);
    from += line.length + 1;
  }
  return result;
}

/** Everything of a part that words are looked up in, by capitals. */
interface Vocabulary {
  pads: Map<string, Pad>;
  signals: Map<string, string>;
  kinds: Map<string, string>;
  instances: Map<string, { id: string; kind: string }>;
}

const vocabularies = new WeakMap<DeviceDescription, Vocabulary>();

/** Made once a part: what is typed is read again at every key. */
function vocabularyOf(description: DeviceDescription): Vocabulary {
  let known = vocabularies.get(description);
  if (!known) {
    const pads = new Map<string, Pad>();
    for (const pad of description.pads) pads.set(pad.id.toUpperCase(), pad);
    for (const pad of description.pads)
      for (const alias of pad.aliases ?? [])
        if (!pads.has(alias.toUpperCase())) pads.set(alias.toUpperCase(), pad);
    known = {
      pads,
      signals: new Map(description.functions.map((fn) => [fn.signal.toUpperCase(), fn.signal])),
      kinds: new Map(Object.keys(description.peripheralKinds).map((id) => [id.toUpperCase(), id])),
      instances: new Map(description.peripherals.map((one) => [one.id.toUpperCase(), one])),
    };
    vocabularies.set(description, known);
  }
  return known;
}

interface Reading extends Vocabulary {
  description: DeviceDescription;
  newId: () => string;
  result: TypedNets;
  meter: Meter;
  joins: Circuit | undefined;
  /** By names, and first words of names, in small letters. */
  circuits: Map<string, Circuit>;
  known: Set<CircuitId>;
  taken: Set<string>;
  /** For each name that was wanted more than once, the next number to try. */
  numbers: Map<string, number>;
}

function readingOf(
  plan: Plan,
  description: DeviceDescription,
  joins: CircuitId | undefined,
  newId: () => string,
  result: TypedNets,
  meter: Meter,
): Reading {
  const reading: Reading = {
    description,
    newId,
    result,
    meter,
    joins: plan.circuits.find((one) => one.id === joins),
    ...vocabularyOf(description),
    circuits: new Map(),
    known: new Set(plan.circuits.map((one) => one.id)),
    taken: new Set(plan.nets.map((net) => net.name.toLowerCase())),
    numbers: new Map(),
  };
  for (const circuit of plan.circuits) enterCircuit(reading, circuit);
  return reading;
}

/** A circuit is found by its whole name, or by its first words. */
function enterCircuit({ circuits }: Reading, circuit: Circuit): void {
  const name = circuit.name.toLowerCase();
  circuits.set(name, circuits.get(name) ?? circuit);
  for (let at = name.indexOf(' '); at > 0; at = name.indexOf(' ', at + 1)) {
    const head = name.slice(0, at);
    if (!circuits.has(head)) circuits.set(head, circuit);
  }
}

function mark(
  { result }: Reading,
  { from, to }: Pick<Token, 'from' | 'to'>,
  message: string,
  suggestions: (string | Suggestion)[] = [],
): void {
  if (result.marks.length >= MOST_MARKS) return;
  // Words of a row may come from its columns in any order.
  [from, to] = [Math.min(from, to), Math.max(from, to)];
  const offered = suggestions.map((one) => (typeof one === 'string' ? { label: one, text: one } : one));
  result.marks.push({ from, to, message, suggestions: offered });
}

const asName = (token: Token): Suggestion => ({
  label: `"${token.text}" is a name`,
  text: `"${token.text.replaceAll('"', '')}"`,
});

function readLine(line: string, from: number, reading: Reading): void {
  for (const { circuit: typed, items } of cutLine(line, from)) {
    if (items.length === 0) {
      const place = typed ?? { from, to: from + line.length };
      mark(reading, place, typed?.text ? `name the nets of ${cut(typed.text)}` : 'name a net');
      continue;
    }
    if (typed && tooLong(typed.text, typed, reading)) continue;
    const circuit = circuitFor(typed?.text ?? '', reading);
    const prefix = typed?.text ? prefixFor(circuit) : '';
    for (const words of items) readItem(withUnits(words), circuit, prefix, reading);
  }
}

/** Figures with their units as one word each: `115200 baud` is typed as often as `115200baud`. */
function withUnits(words: readonly Token[]): Token[] {
  const joined: Token[] = [];
  for (const word of words) {
    const figure = joined.at(-1);
    const apart =
      figure && !figure.quoted && !word.quoted && /^\d+(\.\d+)?$/.test(figure.text) && isUnit(word.text);
    if (apart) joined[joined.length - 1] = { ...figure, text: `${figure.text}${word.text}`, to: word.to };
    else joined.push(word);
  }
  return joined;
}

/** A name that no plan takes is marked, never cut without a word. */
function tooLong(name: string, place: Pick<Token, 'from' | 'to'>, reading: Reading): boolean {
  if (printable(name).length <= LONGEST_NAME) return false;
  mark(reading, place, `"${cut(name)}" is longer than ${LONGEST_NAME} characters`);
  return true;
}

/** "Mast link" → MAST: the first word stands for the circuit in names. */
const prefixFor = (circuit: Circuit): string =>
  (circuit.name.normalize('NFKD').match(/[A-Za-z0-9]+/)?.[0] ?? 'NET').toUpperCase();

/** The circuit of that name; without a name the one to be joined, or one for nets that belong to none. */
function circuitFor(typed: string, reading: Reading): Circuit {
  const name = printable(typed).trim().slice(0, LONGEST_NAME);
  if (name === '' && reading.joins) return reading.joins;
  const wanted = name === '' ? 'Board' : name.charAt(0).toUpperCase() + name.slice(1);
  const known = reading.circuits.get(wanted.toLowerCase());
  if (known) return known;
  const circuit = { id: reading.newId(), name: wanted };
  enterCircuit(reading, circuit);
  return circuit;
}

interface Peripheral {
  kind: string;
  instance: string | undefined;
}

/** "uart", "UART2" → the kind and, when a number is given, the instance. A number that no instance has is marked. */
function peripheralOf(token: Token, reading: Reading): Peripheral | 'wrong' | undefined {
  if (token.quoted) return undefined;
  const upper = token.text.toUpperCase();
  const kind = reading.kinds.get(upper);
  if (kind !== undefined) return { kind, instance: undefined };
  const instance = reading.instances.get(upper);
  if (instance) return { kind: instance.kind, instance: instance.id };
  const stem = upper.replace(/\d{1,6}$/, '');
  const meant = stem === upper ? undefined : reading.kinds.get(stem);
  if (meant === undefined) return undefined;
  const own = [...reading.instances.values()].filter((one) => one.kind === meant).map((one) => one.id);
  mark(reading, token, `there is no ${upper}; this part has ${listed(own)}`, [
    { label: `any ${meant}`, text: meant.toLowerCase() },
    ...own.slice(0, 3).map((id) => id.toLowerCase()),
    asName(token),
  ]);
  return 'wrong';
}

/** What an item says about its nets, and which word said it, so that a second word that says otherwise can be marked. */
interface Said {
  settings: NetSettings;
  demands: Demands;
  role?: Role;
  constraint?: { kind: ConstraintKind; token: Token };
  pads: Token[];
  by: Map<string, Token>;
}

function readItem(words: readonly Token[], circuit: Circuit, prefix: string, reading: Reading): void {
  const [first] = words;
  if (!first) return;
  const peripheral = peripheralOf(first, reading);
  if (peripheral === 'wrong') return;
  const lines = peripheral ? (reading.description.peripheralKinds[peripheral.kind]?.lines ?? {}) : {};
  const lineNames = new Map(Object.keys(lines).map((line) => [line.toUpperCase(), line]));
  const said: Said = { settings: {}, demands: {}, pads: [], by: new Map() };
  const names: Token[] = [];
  let attributes = 0;
  for (const token of peripheral ? words.slice(1) : words) {
    reading.meter.steps++;
    const isLine = peripheral && lineOf(token.text, lineNames) !== undefined;
    const meaning =
      token.quoted || isLine
        ? undefined
        : (meaningOf(token, names.length > 0 || !!peripheral, reading) ?? ratedAs(token, peripheral, names));
    if (meaning === 'pad') attributes += takePad(token, said, reading);
    else if (meaning) attributes += take(meaning, token, said, reading);
    else if (attributes > 0 && !token.quoted && !isLine)
      unknownWord(token, reading, peripheral ? lineNames : undefined);
    else if (!peripheral && names.length > 0 && !token.quoted && isSlip(token.text))
      unknownWord(token, reading, undefined);
    else names.push(token);
  }
  const [begin, end] = [smallest(words.map(({ from }) => from)), largest(words.map(({ to }) => to))];
  if (reading.result.marks.some(({ from, to }) => from >= begin && to <= end)) return;
  const before = reading.result.nets.length;
  const given: Given = { settings: said.settings, demands: said.demands, circuit };
  if (peripheral) {
    if (!addLines(peripheral, first, names, lineNames, prefix, said, given, reading)) return;
  } else if (!addPlain(first, words, names, prefix, said, given, reading)) return;
  const fresh = reading.result.nets.slice(before);
  // The nets of a range, or of a bus, go on from one pad along its port.
  const inRow = names.length === 1 || said.constraint?.kind === 'bus';
  if (said.pads.length > 0) placeOn(said.pads, fresh, inRow, reading);
  if (said.constraint) addConstraint(said.constraint, fresh, reading);
  else if (peripheral) keepTogether(peripheral, fresh, reading);
}

/**
 * Lines of a timer or converter that are typed as one item are those of one instance, as a bridge's two are; two of any channel
 * (`q* q*b`) are those of one channel. Kinds whose lines are of use only together are so anyway.
 */
function keepTogether({ kind, instance }: Peripheral, nets: readonly Net[], reading: Reading): void {
  const known = reading.description.peripheralKinds[kind];
  if (nets.length < 2 || instance !== undefined || !known || linesBelongTogether(known)) return;
  const anyChannel = nets.every(({ role }) => role.kind === 'open-signal' && role.line.includes('*'));
  reading.result.constraints.push({
    id: reading.newId(),
    kind: nets.length === 2 && anyChannel ? 'pair' : 'same-instance',
    nets: nets.map(({ id }) => id),
  });
}

/** A bare figure after the lines of a peripheral: their rate. Before them it may be the number of something. */
function ratedAs({ text }: Token, peripheral: unknown, names: readonly Token[]): WordMeaning | undefined {
  const rate = peripheral && names.length > 0 ? rateOf(text) : undefined;
  return rate && { demand: rate };
}

function meaningOf(token: Token, named: boolean, reading: Reading): WordMeaning | 'pad' | undefined {
  if (token.text.startsWith('@')) return 'pad';
  if (!named) return undefined;
  const known = WORDS.get(token.text.toLowerCase());
  if (known) return known;
  const figure = figureOf(token.text);
  if (figure) return { demand: figure };
  // Words of the part's own for what interrupts: `change`.
  const triggers = reading.description.recipe.settings.trigger ?? [];
  const trigger = triggers.find((one) => one.toLowerCase() === token.text.toLowerCase() && one !== 'none');
  if (trigger !== undefined) return { setting: { trigger } };
  return ownMeaning(token.text, reading);
}

/** A pull of the part's own (`up22k`), or a setting of its own with its value: `filter=on`. */
function ownMeaning(text: string, { description }: Reading): WordMeaning | undefined {
  const { settings } = description.recipe;
  const pull = settings.pull?.find((one) => one.toLowerCase() === text.toLowerCase());
  if (pull !== undefined && pull !== 'none') return { setting: { pull } };
  const [, name, word] = /^(?:own[.])?([a-z][A-Za-z0-9]*)=(.+)$/.exec(text) ?? [];
  const key = `own.${name}` as const;
  const value = isOwnKey(key)
    ? settings[key]?.find((one) => one.toLowerCase() === word?.toLowerCase())
    : undefined;
  return value === undefined ? undefined : { setting: { [key]: value } };
}

/** A second name that is nearly a word with a meaning: `lwo`, `falilng`. Counted names (`out1`) are no slips. */
function isSlip(word: string): boolean {
  if (/^\d/.test(word)) return true;
  return word.length >= 3 && !/\d/.test(word) && word === word.toLowerCase() && nearWords(word, 1).length > 0;
}

function nearWords(word: string, most: number): string[] {
  if (word.length > 20) return [];
  return closest(word, WORDS.keys(), 3).filter((one) => one.length >= 2 && (most > 1 || near(one, word)));
}

/** One letter more, less, or other, or two changed over. */
const near = (known: string, word: string): boolean =>
  known.length >= 3 &&
  Math.abs(known.length - word.length) <= 1 &&
  closest(word, [known], 1).length > 0 &&
  stepsOne(known, word);

function stepsOne(a: string, b: string): boolean {
  let head = 0;
  while (head < Math.min(a.length, b.length) && a[head] === b[head]) head++;
  const [x, y] = [a.slice(head), b.slice(head)];
  return (
    x.slice(1) === y ||
    x === y.slice(1) ||
    x.slice(1) === y.slice(1) ||
    (x[0] === y[1] && x[1] === y[0] && x.slice(2) === y.slice(2))
  );
}

function unknownWord(token: Token, reading: Reading, lines: ReadonlyMap<string, string> | undefined): void {
  const { text } = token;
  const suggestions: (string | Suggestion)[] = [
    ...(lines ? closest(text, lines.values(), 2).map((one) => one.toLowerCase()) : []),
    ...(/^\d/.test(text) || text.length < 2 ? [] : nearWords(text, 2).slice(0, 2)),
  ];
  const figure = /^\d/.test(text);
  const message = figure
    ? `"${cut(text)}" is no figure with a unit: 8mA, 5V, 115.2kHz, 10MHz`
    : `"${cut(text)}" means nothing after the names${suggestions.length > 0 ? '' : '; names come first'}`;
  if (figure) {
    const value = /^\d{1,9}(?:\.\d{1,6})?/.exec(text)?.[0] ?? '';
    suggestions.push(`${value}mA`, `${value}V`, `${value}kHz`);
  }
  mark(reading, token, message, lines ? suggestions : [...suggestions, asName(token)]);
}

const cut = (text: string): string => (text.length > 40 ? `${text.slice(0, 40)}…` : text);

/** Takes what a word says; one that says otherwise than a word before it is marked. */
function take(meaning: WordMeaning, token: Token, said: Said, reading: Reading): number {
  const { by } = said;
  const clash = (what: string): boolean => {
    const before = by.get(what);
    if (!before) by.set(what, token);
    if (!before || before.text.toLowerCase() === token.text.toLowerCase()) return false;
    mark(reading, token, `"${cut(token.text)}" contradicts "${cut(before.text)}"`);
    return true;
  };
  if ('role' in meaning) {
    if (!clash('role')) said.role = meaning.role;
  } else if ('constraint' in meaning) {
    if (!clash('constraint')) said.constraint = { kind: meaning.constraint, token };
  } else if ('demand' in meaning) {
    const [key = ''] = Object.keys(meaning.demand);
    if (!clash(key)) Object.assign(said.demands, meaning.demand);
  } else if (meaning.setting.trigger !== undefined)
    takeTrigger(meaning.setting.trigger, token, said, reading);
  else {
    const [key = ''] = Object.keys(meaning.setting);
    if (!clash(key)) Object.assign(said.settings, meaning.setting);
  }
  return 1;
}

/** Rising and falling together are both, where the part can tell both; what the part cannot tell is marked. */
function takeTrigger(trigger: string, token: Token, said: Said, reading: Reading): void {
  const offered = reading.description.recipe.settings.trigger?.filter((one) => one !== 'none');
  const before = said.settings.trigger;
  const both = new Set([before, trigger]);
  const wanted = both.has('rising') && both.has('falling') ? 'both' : trigger;
  if (before !== undefined && before !== trigger && wanted !== 'both') {
    mark(reading, token, `"${cut(token.text)}" contradicts "${before}"`);
    return;
  }
  if (offered && !offered.includes(wanted)) {
    const what = wanted === 'both' && before !== undefined ? 'both edges' : wanted;
    mark(reading, token, `this part cannot be told ${what}; it has ${listed(offered)}`, offered.slice(0, 4));
    return;
  }
  said.settings.trigger = wanted;
}

function takePad(token: Token, said: Said, reading: Reading): number {
  for (const name of namesIn({ ...token, text: token.text.slice(1) }, reading)) {
    if (reading.pads.has(name.toUpperCase())) {
      said.pads.push({ ...token, text: `@${name}` });
      continue;
    }
    const near = nearPads(name, reading);
    mark(
      reading,
      token,
      name === '' ? 'name a pad after @' : `there is no pad ${cut(name)}`,
      token.text === `@${name}` ? near.map((one) => `@${one}`) : [],
    );
  }
  return 1;
}

/** I/O pads that are one slip of the keys away; numbers may be the slip. */
function nearPads(name: string, { description }: Reading): string[] {
  if (name.length > 20) return [];
  return description.pads
    .filter(
      (pad) =>
        pad.kind === 'io' && Math.abs(pad.id.length - name.length) <= 1 && distance(pad.id, name) === 1,
    )
    .sort(
      (a, b) =>
        Number(b.id.startsWith(name.charAt(0).toUpperCase())) -
        Number(a.id.startsWith(name.charAt(0).toUpperCase())),
    )
    .slice(0, 3)
    .map((pad) => pad.id);
}

/** Pads for nets: one for each in their order, or one from which the nets of a range go on along its port. */
function placeOn(tokens: readonly Token[], nets: readonly Net[], inRow: boolean, reading: Reading): void {
  const padOf = ({ text }: Token): Pad | undefined => reading.pads.get(text.slice(1).toUpperCase());
  const [first] = tokens;
  if (!first || nets.length === 0) return;
  const whole = { from: first.from, to: (tokens.at(-1) as Token).to };
  if (tokens.length === nets.length) {
    const seen = new Set<string>();
    for (const [at, token] of tokens.entries()) {
      const pad = padOf(token)?.id ?? '';
      if (seen.has(pad)) mark(reading, token, `${token.text} is given twice; a pad takes one net`);
      seen.add(pad);
      (nets[at] as Net).placement = { pad, locked: true };
    }
    return;
  }
  const start = padOf(first);
  if (
    !inRow ||
    tokens.length > 1 ||
    nets.length === 1 ||
    start?.port === undefined ||
    start.bit === undefined
  ) {
    const [have, want] = [tokens.length, nets.length];
    const message =
      want === 1
        ? `${have} pads are given; a net has one pad`
        : `${have === 1 ? `${first.text} is for one net` : `${have} pads are given`}, and there are ${want} nets: name a pad for each, in their order`;
    mark(reading, whole, message);
    return;
  }
  const bits = new Map(
    reading.description.pads.flatMap((pad) =>
      pad.port === start.port && pad.kind === 'io' ? [[pad.bit, pad.id] as const] : [],
    ),
  );
  const pads = nets.map((_, at) => bits.get((start.bit ?? 0) + at));
  const missing = pads.indexOf(undefined);
  if (missing >= 0) {
    mark(
      reading,
      whole,
      `port ${start.port} has no bit ${start.bit + missing} for ${cut(nets[missing]?.name ?? '')}`,
    );
    return;
  }
  for (const [at, net] of nets.entries()) net.placement = { pad: pads[at] as string, locked: true };
}

function addConstraint(
  { kind, token }: NonNullable<Said['constraint']>,
  nets: readonly Net[],
  reading: Reading,
): void {
  if (kind === 'pair' ? nets.length === 2 : nets.length >= 2)
    reading.result.constraints.push({ id: reading.newId(), kind, nets: nets.map((net) => net.id) });
  else
    mark(
      reading,
      token,
      `${kind} is for ${kind === 'pair' ? 'two nets' : 'several nets'}, not for ${nets.length}`,
    );
}

/** Nets without a peripheral. False when something is missing, which is marked. */
function addPlain(
  first: Token,
  words: readonly Token[],
  names: readonly Token[],
  prefix: string,
  said: Said,
  given: Given,
  reading: Reading,
): boolean {
  const whole = { from: first.from, to: words.at(-1)?.to ?? first.to };
  if (names.length === 0) {
    mark(reading, whole, `name a net before ${cut(first.text)}`);
    return false;
  }
  const alone = names.length === 1 && !first.quoted && WORDS.get(first.text.toLowerCase());
  if (alone && said.role === undefined) {
    mark(reading, first, `is ${first.text} the name of the net, or is a name missing before it?`, [
      asName(first),
    ]);
    return false;
  }
  let role = said.role;
  if (role === undefined && said.settings.trigger !== undefined) role = { kind: 'interrupt' };
  if (role === undefined) {
    const [second] = names.slice(1);
    const kinds = closest(first.text, [...reading.kinds.keys(), ...reading.instances.keys()], 2);
    const end = words.at(-1)?.text ?? '';
    mark(reading, whole, `${cut(names.map((one) => one.text).join(', '))}: say in, out, io, irq or analog`, [
      ...(second && kinds.length > 0
        ? kinds.map((kind) => ({
            label: `${kind.toLowerCase()} …`,
            text: [kind.toLowerCase(), ...words.slice(1).map((one) => one.text)].join(' '),
          }))
        : []),
      ...['in', 'out'].map((word) => ({
        label: `${end.slice(0, 20)} ${word}`,
        text: `${words.map((one) => (one.quoted ? `"${one.text}"` : one.text)).join(' ')} ${word}`,
      })),
    ]);
    return false;
  }
  for (const token of names)
    for (const name of namesIn(token, reading)) {
      const full = nameOf(name, token.quoted ? '' : prefix);
      if (!tooLong(full, token, reading)) addNet(full, role, given, reading);
    }
  return true;
}

/** `d0..7` is d0, d1, … d7; `d7..0` the other way round; `in_01..12` keeps its zeros. Any other word is itself. */
function namesIn(token: Token, reading: Reading): string[] {
  const word = token.text;
  const dots = token.quoted ? -1 : word.indexOf('..');
  const to = word.slice(dots + 2);
  const head = word.slice(0, dots);
  let stemEnd = head.length;
  while (stemEnd > 0 && /\d/.test(head[stemEnd - 1] as string)) stemEnd--;
  const [stem, from] = [head.slice(0, stemEnd), head.slice(stemEnd)];
  reading.meter.steps += word.length;
  if (dots < 0 || from === '' || !/^\d{1,9}$/.test(to) || from.length > 9) return [word];
  const [first, last] = [Number(from), Number(to)];
  const count = Math.abs(last - first) + 1;
  if (count > LONGEST_RANGE) {
    mark(reading, token, `${cut(word)} would be ${count} nets; ${LONGEST_RANGE} at once are allowed`);
    return [];
  }
  const width = from.startsWith('0') || to.startsWith('0') ? Math.max(from.length, to.length) : 1;
  const step = last < first ? -1 : 1;
  return Array.from(
    { length: count },
    (_, index) => `${stem}${String(first + step * index).padStart(width, '0')}`,
  );
}

/** A line of a peripheral by any case; `ch*` is any channel. */
function lineOf(word: string, lines: ReadonlyMap<string, string>): string | undefined {
  const upper = word.toUpperCase();
  if (word.length > 80) return undefined;
  if (upper.includes('*'))
    return [...lines.values()].some((one) => lineMatches(upper, one)) ? upper : undefined;
  return lines.get(upper);
}

/** Nets on lines of a peripheral. False when something is wrong, which is marked. */
function addLines(
  peripheral: Peripheral,
  first: Token,
  names: readonly Token[],
  lines: ReadonlyMap<string, string>,
  prefix: string,
  said: Said,
  given: Given,
  reading: Reading,
): boolean {
  const typed = first.text;
  const all = [...lines.values()];
  const needs = reading.description.peripheralKinds[peripheral.kind]?.needs ?? [];
  // A bus that needs all the lines it has leaves nothing to say.
  const bare = names.length === 0 && needs.length > 0 && needs.length === all.length;
  if (names.length === 0 && !bare) {
    const offer = (label: string, which: readonly string[]): Suggestion => ({
      label,
      text: `${typed} ${which.join(' ').toLowerCase()}`,
    });
    mark(reading, first, `${typed}: name its lines: ${listed(all)}`, [
      ...(needs.length > 0 && needs.length < all.length
        ? [offer(`what it needs: ${needs.join(' ')}`, needs)]
        : []),
      ...(all.length <= 16 ? [offer(`all ${all.length}`, all)] : []),
    ]);
    return false;
  }
  const role = said.by.get('role');
  if (role) {
    mark(reading, role, `the lines of ${typed} have their direction already; leave "${role.text}" out`);
    return false;
  }
  const wanted: string[] = bare ? [...needs] : [];
  for (const token of names)
    for (const word of namesIn(token, reading)) {
      const line = lineOf(word, lines);
      if (line !== undefined) wanted.push(line);
      else {
        const near = closest(word, lines.values(), 3).map((one) => one.toLowerCase());
        mark(
          reading,
          token,
          `${peripheral.kind} has no line ${cut(word)}; it has ${listed([...lines.values()])}`,
          near,
        );
        return false;
      }
    }
  const stem = prefix === '' ? (peripheral.instance ?? peripheral.kind) : prefix;
  for (const line of wanted) {
    const lineRole: Role =
      peripheral.instance === undefined || line.includes('*')
        ? { kind: 'open-signal', peripheral: peripheral.kind, line }
        : { kind: 'signal', signal: `${peripheral.instance}.${line}` };
    addNet(`${stem}_${line.replace('*', '')}`, lineRole, given, reading);
  }
  return true;
}

/** A name with a capital in it stays as typed; otherwise it is put in capitals behind the circuit's name. */
function nameOf(word: string, prefix: string): string {
  if (/[A-Z]/.test(word)) return word;
  const upper = word.toUpperCase();
  // "fans: fan_1" is FAN_1: what stands for the circuit already is not said twice.
  const stands = [`${prefix}_`, `${prefix.replace(/S$/, '')}_`].some((one) => upper.startsWith(one));
  return prefix === '' || stands ? upper : `${prefix}_${upper}`;
}

interface Given {
  settings: NetSettings;
  demands: Demands;
  circuit: Circuit;
  placement?: Placement;
}

function addNet(wanted: string, role: Role, given: Given, reading: Reading): Net {
  const name = printable(wanted) || 'NET';
  const { taken, numbers, known, result, newId, meter } = reading;
  const { settings, demands, circuit, placement = null } = given;
  const key = name.toLowerCase();
  let unique = name;
  let number = numbers.get(key) ?? 2;
  while (taken.has(unique.toLowerCase())) {
    meter.steps++;
    unique = `${name.slice(0, LONGEST_NAME - 7)}_${number++}`;
  }
  numbers.set(key, number);
  taken.add(unique.toLowerCase());
  if (!known.has(circuit.id)) {
    known.add(circuit.id);
    result.circuits.push(circuit);
  }
  const id: NetId = newId();
  const net: Net = {
    id,
    name: unique,
    circuit: circuit.id,
    role,
    placement,
    settings: { ...settings },
    ...(Object.keys(demands).length > 0 ? { demands: { ...demands } } : {}),
  };
  result.nets.push(net);
  return net;
}

type Column = 'net' | 'is' | 'pad' | 'circuit' | 'note';

/** Columns of a pasted table, by their headings; without headings: net, what it is, pad, circuit, note. */
const HEADINGS: ReadonlyMap<string, Column> = new Map(
  (
    [
      ['net', ['net', 'name', 'signal', 'net name']],
      ['is', ['is', 'role', 'type', 'function', 'direction', 'what']],
      ['pad', ['pad', 'pin', 'terminal', 'port']],
      ['circuit', ['circuit', 'group', 'block', 'module']],
      ['note', ['note', 'notes', 'comment', 'remark', 'description']],
    ] as const
  ).flatMap(([column, headings]) => headings.map((heading) => [heading, column] as const)),
);

function columnsOf(text: string): { columns: (Column | undefined)[]; headed: string | undefined } {
  const first = text.split('\n').find((line) => line.includes('\t')) ?? '';
  const columns = first.split('\t').map((cell) => HEADINGS.get(cell.trim().toLowerCase()));
  return columns.includes('net')
    ? { columns, headed: first }
    : { columns: ['net', 'is', 'pad', 'circuit', 'note'], headed: undefined };
}

/** A row pasted from a spreadsheet: the words of its cells mean what they mean when typed. */
function readRow(
  line: string,
  from: number,
  { columns, headed }: ReturnType<typeof columnsOf>,
  reading: Reading,
): void {
  if (line === headed) return;
  const cells = new Map<Column, Token>();
  let at = from;
  for (const [index, cell] of line.split('\t').entries()) {
    const column = columns[index];
    const start = at + cell.length - cell.trimStart().length;
    const text = cell.trim();
    if (column && text !== '')
      cells.set(column, { text, from: start, to: start + text.length, quoted: true });
    at += cell.length + 1;
  }
  const net = cells.get('net');
  if (!net) return;
  const { result } = reading;
  const name = net.text.replace(/\s+/g, '_');
  const group = cells.get('circuit');
  if (tooLong(name, net, reading) || (group && tooLong(group.text, group, reading))) return;
  const circuit = circuitFor(cells.get('circuit')?.text ?? '', reading);
  const before = result.nets.length;
  const is = cells.get('is');
  const signal = reading.signals.get((is?.text ?? '').toUpperCase().replace(/[_\s]+/g, '.'));
  const words = is
    ? withUnits(cutLine(is.text.replaceAll(/[:,;·]/g, ' '), is.from).flatMap(({ items }) => items.flat()))
    : [];
  const peripheral =
    words[0] && signal === undefined && reading.kinds.size > 0 ? peripheralIn(words[0], reading) : false;
  if (signal !== undefined)
    addNet(name, { kind: 'signal', signal }, { settings: {}, demands: {}, circuit }, reading);
  else if (peripheral) {
    readItem(words, circuit, '', reading);
    const only = result.nets[before];
    if (only && result.nets.length === before + 1) only.name = name;
  } else {
    const range = /\.\.\d/.test(name);
    readItem([{ ...net, text: name, quoted: !range }, ...words], circuit, '', reading);
  }
  const fresh = result.nets.slice(before);
  const [added] = fresh;
  if (!added) return;
  const note = cells.get('note');
  if (note) for (const one of fresh) one.note = printable(note.text).slice(0, 2000);
  const wanted = cells.get('pad');
  if (!wanted) return;
  const pad = reading.pads.get(wanted.text.toUpperCase());
  if (!pad)
    mark(
      reading,
      wanted,
      `${name}: there is no pad ${cut(wanted.text)}`,
      closest(wanted.text, reading.pads.keys(), 3),
    );
  else if (fresh.length > 1)
    mark(reading, wanted, `${name}: the pad ${cut(wanted.text)} is for one net, not for ${fresh.length}`);
  else added.placement = { pad: pad.id, locked: false };
}

const peripheralIn = ({ text }: Token, { kinds, instances }: Reading): boolean => {
  const upper = text.toUpperCase();
  return kinds.has(upper) || instances.has(upper) || kinds.has(upper.replace(/\d{1,6}$/, ''));
};
