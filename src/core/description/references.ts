import { didYouMean } from '../base/text/near';
import { type DeviceDescription, splitSignal } from './types';

/** What has the names that others lead to: a description, or one that is being made of tables. */
export type Named = Pick<
  DeviceDescription,
  'pads' | 'supplies' | 'padClasses' | 'notes' | 'peripherals' | 'peripheralKinds' | 'functions' | 'recipe'
>;

/** What a description can speak of by name. */
export type Referable =
  | 'pad'
  | 'port'
  | 'supply'
  | 'pad class'
  | 'note'
  | 'peripheral'
  | 'signal'
  | 'register';

const looks: Record<Referable, (device: Named) => Iterable<string>> = {
  pad: ({ pads }) => pads.map((one) => one.id),
  port: ({ recipe }) => Object.keys(recipe.ports),
  supply: ({ supplies }) => supplies.map((one) => one.id),
  'pad class': ({ padClasses }) => Object.keys(padClasses),
  note: ({ notes }) => Object.keys(notes),
  peripheral: ({ peripherals }) => peripherals.map((one) => one.id),
  signal: ({ functions }) => functions.map((one) => one.signal),
  register: ({ recipe }) =>
    recipe.registers.blocks.flatMap((block) => block.registers.map((one) => `${block.id}.${one.id}`)),
};

const known = new WeakMap<Named, Map<Referable, ReadonlySet<string>>>();

/** The names of a kind that a description has. Made once a description: descriptions are not changed, corrections make new ones. */
export function namesIn(device: Named, kind: Referable): ReadonlySet<string> {
  let names = known.get(device);
  if (!names) {
    names = new Map();
    known.set(device, names);
  }
  let found = names.get(kind);
  if (!found) {
    found = new Set(looks[kind](device));
    names.set(kind, found);
  }
  return found;
}

/** "there is no pad B99": why a name leads nowhere; undefined when it leads somewhere. */
export const whyNoSuch = (device: Named, kind: Referable, name: string): string | undefined =>
  namesIn(device, kind).has(name) ? undefined : noSuch(kind, name, namesIn(device, kind));

/** With the name that was probably meant. */
function noSuch(kind: Referable, name: string, known: Iterable<string>): string {
  const meant = didYouMean(name, known);
  if (kind === 'signal') return `the part has no signal ${name}${meant}`;
  return kind === 'port' ? `the recipe has no port ${name}${meant}` : `there is no ${kind} ${name}${meant}`;
}

/** Why the instance and line that a signal is made of lead nowhere; undefined when they lead somewhere. */
export function whyNoLine(device: Named, signal: string): string | undefined {
  const [instance, line] = splitSignal(signal);
  const lines = linesOf(device, instance);
  if (!lines) return noSuch('peripheral', instance, namesIn(device, 'peripheral'));
  if (lines.includes(line)) return undefined;
  return `${instance} has no line ${line}${didYouMean(line, lines)}`;
}

/** The lines of an instance. */
export function linesOf({ peripherals, peripheralKinds }: Named, instance: string): string[] | undefined {
  const kind = peripherals.find((one) => one.id === instance)?.kind;
  return kind !== undefined && Object.hasOwn(peripheralKinds, kind)
    ? Object.keys(peripheralKinds[kind]?.lines ?? {})
    : undefined;
}
