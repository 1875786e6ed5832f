import type { DeviceDescription } from '../device/types';
import type { Circuit, CircuitId, Net, NetId, NetSettings, Plan, Role } from './types';

/**
 * Nets typed in a line: `mast: uart tx rx · de out low`. Before the colon the circuit; then items, divided by `·`, `,` or
 * `;`. An item is either a peripheral with its lines (`spi2 sck sdo sdi`, `uart tx rx`: any instance) or names followed
 * by what they are (`busy irq in up`). Lower-case names get the circuit's name in front; others stay as typed.
 */
export interface TypedNets {
  circuits: Circuit[];
  nets: Net[];
  /** What could not be understood, in the order typed. */
  problems: string[];
}

type ItemWord = { role: Role } | { setting: Partial<NetSettings> };

const WORDS: Record<string, ItemWord> = {
  in: { role: { kind: 'input' } },
  input: { role: { kind: 'input' } },
  out: { role: { kind: 'output' } },
  output: { role: { kind: 'output' } },
  analog: { role: { kind: 'analog' } },
  an: { role: { kind: 'analog' } },
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
};

/** The words that say what a net is, for help texts. */
export const ROLE_WORDS = 'in · out · analog · low · up · down · open-drain · on';

/** Reads a line against a plan and a part. `newId` gives ids that are not in use. */
export function parseTypedNets(
  text: string,
  plan: Plan,
  description: DeviceDescription,
  fallback: CircuitId | undefined,
  newId: () => string,
): TypedNets {
  const result: TypedNets = { circuits: [], nets: [], problems: [] };
  const taken = new Set(plan.nets.map((net) => net.name.toLowerCase()));
  for (const line of text.split('\n')) {
    if (line.trim() !== '') readLine(line, { plan, description, fallback, newId, taken, result });
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
  const names: string[] = [];
  let role: Role | undefined;
  for (const word of peripheral ? words.slice(1) : words) {
    const meaning = WORDS[word];
    if (!meaning || (names.length === 0 && !peripheral)) names.push(word);
    else if ('role' in meaning) role = meaning.role;
    else Object.assign(settings, meaning.setting);
  }
  if (!peripheral) {
    for (const name of names)
      addNet(nameOf(name, prefix), role ?? { kind: 'input' }, settings, circuit, reading);
    if (role === undefined && settings.pull === undefined) {
      result.problems.push(`${names.join(', ')}: say in, out or analog (taken as in)`);
    }
    return;
  }
  const lines = description.peripheralKinds[peripheral.kind]?.lines ?? {};
  const wanted = names.length > 0 ? names : (description.peripheralKinds[peripheral.kind]?.needs ?? []);
  if (wanted.length === 0)
    result.problems.push(`${words[0]}: name its lines: ${Object.keys(lines).join(', ')}`);
  for (const word of wanted) {
    const line = Object.keys(lines).find((one) => one.toUpperCase() === word.toUpperCase());
    if (line === undefined) {
      result.problems.push(`${peripheral.kind} has no line ${word}; it has ${Object.keys(lines).join(', ')}`);
      continue;
    }
    const lineRole: Role =
      peripheral.instance === undefined
        ? { kind: 'open-signal', peripheral: peripheral.kind, line }
        : { kind: 'signal', signal: `${peripheral.instance}.${line}` };
    const stem = prefix === '' ? (peripheral.instance ?? peripheral.kind) : prefix;
    addNet(`${stem}_${line}`, lineRole, settings, circuit, reading);
  }
}

/** A name with a capital in it stays as typed; otherwise it is put in capitals behind the circuit's name. */
function nameOf(word: string, prefix: string): string {
  if (/[A-Z]/.test(word)) return word.slice(0, 120);
  const upper = word.toUpperCase();
  return (prefix === '' || upper.startsWith(`${prefix}_`) ? upper : `${prefix}_${upper}`).slice(0, 120);
}

function addNet(name: string, role: Role, settings: NetSettings, circuit: CircuitId, reading: Reading): void {
  const { taken, result, newId } = reading;
  let unique = name;
  for (let n = 2; taken.has(unique.toLowerCase()); n++) unique = `${name}_${n}`;
  taken.add(unique.toLowerCase());
  const id: NetId = newId();
  result.nets.push({ id, name: unique, circuit, role, placement: null, settings: { ...settings } });
}
