import type { DeviceDescription } from '../device/types';
import {
  type Circuit,
  type CircuitId,
  type Demands,
  lineMatches,
  type Net,
  type NetId,
  type NetSettings,
  type Placement,
  type Plan,
  type Role,
  type Tie,
  type TieKind,
} from './types';

/**
 * Nets typed in a line: `mast: uart tx rx · de out low`. Before the colon the circuit; then items, divided by `·`, `,` or
 * `;`. An item is either a peripheral with its lines (`spi2 sck sdo sdi`, `uart tx rx`: any instance) or names followed
 * by what they are (`busy irq up driven 5V`; `@B7` puts one there and holds it). `d0..7` stands for eight names, and `bus`
 * after them demands consecutive bits of one port. Lower-case names get the circuit's name in front; others stay as typed.
 */
export interface TypedNets {
  circuits: Circuit[];
  nets: Net[];
  /** What the nets of an item demand of each other. */
  ties: Tie[];
  /** What could not be understood, in the order typed. */
  problems: string[];
}

type ItemWord =
  | { role: Role }
  | { setting: Partial<NetSettings> }
  | { demand: Partial<Demands> }
  | { tie: TieKind };

const WORDS: Record<string, ItemWord> = {
  in: { role: { kind: 'input' } },
  input: { role: { kind: 'input' } },
  out: { role: { kind: 'output' } },
  output: { role: { kind: 'output' } },
  analog: { role: { kind: 'analog' } },
  an: { role: { kind: 'analog' } },
  aout: { role: { kind: 'analog-output' } },
  io: { role: { kind: 'bidirectional' } },
  line: { role: { kind: 'open-drain' } },
  irq: { role: { kind: 'interrupt' } },
  rising: { setting: { trigger: 'rising' } },
  falling: { setting: { trigger: 'falling' } },
  driven: { demand: { farPull: 'driven' } },
  'pulled-up': { demand: { farPull: 'up' } },
  'pulled-down': { demand: { farPull: 'down' } },
  low: { setting: { active: 'low' } },
  high: { setting: { active: 'high' } },
  asserted: { setting: { start: 'asserted' } },
  on: { setting: { start: 'asserted' } },
  up: { setting: { pull: 'up' } },
  'pull-up': { setting: { pull: 'up' } },
  down: { setting: { pull: 'down' } },
  'pull-down': { setting: { pull: 'down' } },
  od: { setting: { buffer: 'open-drain' } },
  'open-drain': { setting: { buffer: 'open-drain' } },
  bus: { tie: 'bus' },
  pair: { tie: 'pair' },
  together: { tie: 'together' },
  apart: { tie: 'apart' },
};

/** More names than a range may stand for are a slip of the keys. */
const LONGEST_RANGE = 64;

/** The words that say what a net is, for help texts. */
export const ROLE_WORDS =
  'in · out · io · line · irq · analog · low · up · down · od · on · driven · 8mA · 5V · 115200Hz · 10MHz · @B7 · d0..7 · bus · pair · together · apart';

/** `8mA`, `5V`, `115.2kHz`: a figure with its unit is a demand. */
function figureOf(word: string): Partial<Demands> | undefined {
  const match = /^(\d+(?:\.\d+)?)(mA|V|Hz|kHz|MHz)$/i.exec(word);
  if (!match) return undefined;
  const value = Number(match[1]);
  switch (match[2]?.toLowerCase()) {
    case 'ma':
      return { milliamps: value };
    case 'v':
      return { farVolts: value };
    case 'khz':
      return { rateHertz: value * 1e3 };
    case 'mhz':
      return { rateHertz: value * 1e6 };
    default:
      return { rateHertz: value };
  }
}

/** Reads a line against a plan and a part. `newId` gives ids that are not in use. */
export function parseTypedNets(
  text: string,
  plan: Plan,
  description: DeviceDescription,
  fallback: CircuitId | undefined,
  newId: () => string,
): TypedNets {
  const result: TypedNets = { circuits: [], nets: [], ties: [], problems: [] };
  const taken = new Set(plan.nets.map((net) => net.name.toLowerCase()));
  for (const line of text.split('\n')) {
    if (line.includes('\t'))
      readRow(line, columnsOf(text), { plan, description, fallback, newId, taken, result });
    else if (line.trim() !== '') readLine(line, { plan, description, fallback, newId, taken, result });
  }
  return result;
}

interface Reading {
  plan: Plan;
  description: DeviceDescription;
  fallback: CircuitId | undefined;
  newId: () => string;
  taken: Set<string>;
  result: TypedNets;
}

function readLine(line: string, reading: Reading): void {
  const { plan, result } = reading;
  const colon = line.indexOf(':');
  const typed = colon < 0 ? '' : line.slice(0, colon).trim().slice(0, 120);
  const circuit = circuitFor(typed, reading);
  const items = line
    .slice(colon + 1)
    .split(/[·,;]/)
    .map((item) => item.trim().split(/\s+/).filter(Boolean))
    .filter((words) => words.length > 0);
  if (items.length === 0) {
    result.problems.push(typed ? `name the nets of ${typed}` : 'name a net');
    return;
  }
  const prefix = prefixFor(circuit);
  for (const words of items) readItem(words, circuit.id, typed === '' ? '' : prefix, reading);
  const known = [...plan.circuits, ...result.circuits].some((one) => one.id === circuit.id);
  if (!known && result.nets.some((net) => net.circuit === circuit.id)) result.circuits.push(circuit);
}

/** "Mast link" → MAST: the first word stands for the circuit in names. */
const prefixFor = (circuit: Circuit): string =>
  (circuit.name.normalize('NFKD').match(/[A-Za-z0-9]+/)?.[0] ?? 'NET').toUpperCase();

function circuitFor(typed: string, { plan, fallback, result, newId }: Reading): Circuit {
  const all = [...plan.circuits, ...result.circuits];
  if (typed === '') {
    const current = all.find((circuit) => circuit.id === fallback) ?? all.at(-1);
    return current ?? { id: newId(), name: 'Board' };
  }
  const wanted = typed.toLowerCase();
  const known =
    all.find((circuit) => circuit.name.toLowerCase() === wanted) ??
    all.find((circuit) => circuit.name.toLowerCase().startsWith(`${wanted} `));
  return known ?? { id: newId(), name: typed.charAt(0).toUpperCase() + typed.slice(1) };
}

/** "uart", "UART2" → the kind and, when a number is given, the instance. */
function peripheralOf(word: string, description: DeviceDescription) {
  const upper = word.toUpperCase();
  const instance = description.peripherals.find((one) => one.id.toUpperCase() === upper);
  if (instance && !(upper in description.peripheralKinds))
    return { kind: instance.kind, instance: instance.id };
  const kind = Object.keys(description.peripheralKinds).find((one) => one.toUpperCase() === upper);
  return kind === undefined ? undefined : { kind, instance: undefined };
}

function readItem(words: readonly string[], circuit: CircuitId, prefix: string, reading: Reading): void {
  const { description, result } = reading;
  const peripheral = peripheralOf(words[0] ?? '', description);
  const settings: NetSettings = {};
  const demands: Demands = {};
  const names: string[] = [];
  const before = result.nets.length;
  let role: Role | undefined;
  let pad: string | undefined;
  let tie: TieKind | undefined;
  for (const word of peripheral ? words.slice(1) : words) {
    const meaning = WORDS[word];
    const figure = names.length > 0 || peripheral ? figureOf(word) : undefined;
    if (figure) Object.assign(demands, figure);
    else if (word.startsWith('@') && word.length > 1) pad = word.slice(1);
    else if (!meaning || (names.length === 0 && !peripheral)) names.push(...namesIn(word, result.problems));
    else if ('role' in meaning) role = meaning.role;
    else if ('tie' in meaning) tie = meaning.tie;
    else if ('demand' in meaning) Object.assign(demands, meaning.demand);
    else Object.assign(settings, meaning.setting);
  }
  const given: Given = { settings, demands, circuit };
  const known =
    pad === undefined
      ? undefined
      : description.pads.find((one) => one.id.toUpperCase() === pad?.toUpperCase());
  if (pad !== undefined && !known) result.problems.push(`there is no pad ${pad}`);
  if (known && names.length === 1) given.placement = { pad: known.id, held: true };
  else if (known) result.problems.push(`@${pad} is for one net, not for ${names.length || 'several'}`);
  if (peripheral) addLines({ ...peripheral, typed: words[0] ?? '' }, names, prefix, given, reading);
  else {
    if (role === undefined && settings.trigger !== undefined) role = { kind: 'interrupt' };
    for (const name of names) addNet(nameOf(name, prefix), role ?? { kind: 'input' }, given, reading);
    if (role === undefined && settings.pull === undefined) {
      result.problems.push(`${names.join(', ')}: say in, out or analog (taken as in)`);
    }
  }
  if (tie !== undefined) addTie(tie, result.nets.slice(before), reading);
}

function addTie(kind: TieKind, nets: readonly Net[], { result, newId }: Reading): void {
  if (kind === 'pair' ? nets.length === 2 : nets.length >= 2)
    result.ties.push({ id: newId(), kind, nets: nets.map((net) => net.id) });
  else
    result.problems.push(
      `${kind} is for ${kind === 'pair' ? 'two nets' : 'several nets'}, not for ${nets.length}`,
    );
}

/** `d0..7` is d0, d1, … d7; `d7..0` the other way round; `in_01..12` keeps its zeros. Any other word is itself. */
function namesIn(word: string, problems: string[]): string[] {
  const match = /^(.*?)(\d+)\.\.(\d+)$/.exec(word);
  if (!match) return [word];
  const [, stem = '', from = '', to = ''] = match;
  const [first, last] = [Number(from), Number(to)];
  const count = Math.abs(last - first) + 1;
  if (count > LONGEST_RANGE) {
    problems.push(`${word} would be ${count} nets; ${LONGEST_RANGE} at once are allowed`);
    return [];
  }
  const width = from.startsWith('0') || to.startsWith('0') ? Math.max(from.length, to.length) : 1;
  const step = last < first ? -1 : 1;
  return Array.from(
    { length: count },
    (_, index) => `${stem}${String(first + step * index).padStart(width, '0')}`,
  );
}

function addLines(
  peripheral: { kind: string; instance: string | undefined; typed: string },
  names: readonly string[],
  prefix: string,
  given: Given,
  reading: Reading,
): void {
  const { description, result } = reading;
  const lines = description.peripheralKinds[peripheral.kind]?.lines ?? {};
  const wanted = names.length > 0 ? names : (description.peripheralKinds[peripheral.kind]?.needs ?? []);
  if (wanted.length === 0)
    result.problems.push(`${peripheral.typed}: name its lines: ${Object.keys(lines).join(', ')}`);
  for (const word of wanted) {
    const upper = word.toUpperCase();
    // `ch*`: any channel.
    const line = upper.includes('*')
      ? Object.keys(lines).some((one) => lineMatches(upper, one))
        ? upper
        : undefined
      : Object.keys(lines).find((one) => one.toUpperCase() === upper);
    if (line === undefined) {
      result.problems.push(`${peripheral.kind} has no line ${word}; it has ${Object.keys(lines).join(', ')}`);
      continue;
    }
    const lineRole: Role =
      peripheral.instance === undefined || line.includes('*')
        ? { kind: 'open-signal', peripheral: peripheral.kind, line }
        : { kind: 'signal', signal: `${peripheral.instance}.${line}` };
    const stem = prefix === '' ? (peripheral.instance ?? peripheral.kind) : prefix;
    addNet(`${stem}_${line.replace('*', '')}`, lineRole, given, reading);
  }
}

/** A name with a capital in it stays as typed; otherwise it is put in capitals behind the circuit's name. */
function nameOf(word: string, prefix: string): string {
  if (/[A-Z]/.test(word)) return word.slice(0, 120);
  const upper = word.toUpperCase();
  // "fans: fan_1" is FAN_1: what stands for the circuit already is not said twice.
  const stands = [`${prefix}_`, `${prefix.replace(/S$/, '')}_`].some((one) => upper.startsWith(one));
  return (prefix === '' || stands ? upper : `${prefix}_${upper}`).slice(0, 120);
}

interface Given {
  settings: NetSettings;
  demands: Demands;
  circuit: CircuitId;
  placement?: Placement;
}

function addNet(name: string, role: Role, given: Given, reading: Reading): void {
  const { taken, result, newId } = reading;
  const { settings, demands, circuit, placement = null } = given;
  let unique = name;
  for (let n = 2; taken.has(unique.toLowerCase()); n++) unique = `${name}_${n}`;
  taken.add(unique.toLowerCase());
  const id: NetId = newId();
  result.nets.push({
    id,
    name: unique,
    circuit,
    role,
    placement,
    settings: { ...settings },
    ...(Object.keys(demands).length > 0 ? { demands: { ...demands } } : {}),
  });
}

/** Columns of a pasted table, by their headings; without headings: net, what it is, pad, circuit, note. */
const HEADINGS: Record<string, readonly string[]> = {
  net: ['net', 'name', 'signal', 'net name'],
  is: ['is', 'role', 'type', 'function', 'direction', 'what'],
  pad: ['pad', 'pin', 'terminal', 'port'],
  circuit: ['circuit', 'group', 'block', 'module'],
  note: ['note', 'notes', 'comment', 'remark', 'description'],
};
type Column = 'net' | 'is' | 'pad' | 'circuit' | 'note';

function columnsOf(text: string): { columns: (Column | undefined)[]; headed: string | undefined } {
  const first = text.split('\n').find((line) => line.includes('\t')) ?? '';
  const cells = first.split('\t').map((cell) => cell.trim().toLowerCase());
  const columns = cells.map((cell) =>
    (Object.keys(HEADINGS) as Column[]).find((column) => HEADINGS[column]?.includes(cell)),
  );
  return columns.includes('net')
    ? { columns, headed: first }
    : { columns: ['net', 'is', 'pad', 'circuit', 'note'], headed: undefined };
}

/** A row pasted from a spreadsheet: the words of its cells mean what they mean when typed. */
function readRow(line: string, { columns, headed }: ReturnType<typeof columnsOf>, reading: Reading): void {
  if (line === headed) return;
  const { result, description } = reading;
  const cells = line.split('\t').map((cell) => cell.trim());
  const cell = (column: Column): string => cells[columns.indexOf(column)] ?? '';
  const name = cell('net').replace(/\s+/g, '_').slice(0, 120);
  if (name === '') return;
  const circuit = circuitFor(cell('circuit').slice(0, 120), reading);
  const before = result.nets.length;
  const is = cell('is');
  const words = is
    .toLowerCase()
    .split(/[\s,]+/)
    .filter(Boolean);
  const signal = is.toUpperCase().replace(/[_\s]+/g, '.');
  if (description.functions.some((fn) => fn.signal.toUpperCase() === signal)) {
    const id = description.functions.find((fn) => fn.signal.toUpperCase() === signal)?.signal ?? signal;
    addNet(name, { kind: 'signal', signal: id }, { settings: {}, demands: {}, circuit: circuit.id }, reading);
  } else if (words[0] !== undefined && peripheralOf(words[0], description)) {
    readItem(words, circuit.id, '', reading);
    const only = result.nets[before];
    if (only && result.nets.length === before + 1) only.name = name;
  } else readItem([name, ...words], circuit.id, '', reading);
  const fresh = result.nets.slice(before);
  const [added] = fresh;
  if (!added) return;
  if (!reading.plan.circuits.some((one) => one.id === circuit.id) && !result.circuits.includes(circuit))
    result.circuits.push(circuit);
  if (cell('note') !== '') for (const net of fresh) net.note = cell('note').slice(0, 2000);
  const wanted = cell('pad').toUpperCase();
  if (wanted === '') return;
  if (fresh.length > 1) {
    result.problems.push(`${name}: the pad ${cell('pad')} is for one net, not for ${fresh.length}`);
    return;
  }
  const pad = description.pads.find(
    (one) => one.id.toUpperCase() === wanted || one.aliases?.some((alias) => alias.toUpperCase() === wanted),
  );
  if (pad) added.placement = { pad: pad.id, held: false };
  else result.problems.push(`${name}: there is no pad ${cell('pad')}`);
}
