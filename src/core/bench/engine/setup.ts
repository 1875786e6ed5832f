import type { Derived } from '../../derive/derive';
import { currentLimit } from '../../derive/electrical/limits';
import type { Operation } from '../../derive/machine/operations';
import { supplyOf } from '../../derive/resolve/budget';
import type { ResolvedNet } from '../../derive/resolve/resolve';
import { ExpressionError } from '../../description/language/expression';
import type { Pad } from '../../description/types';
import type { Device } from '../../device/device';
import { slotMask } from '../../device/fields/fields';
import { type InterruptLine, interruptLine } from '../../device/interrupt-lines';
import { maskOf, type Register } from '../../device/registers/types';
import { plainNames } from '../../output/code/names';
import { programOf } from '../../output/code/program/program';
import { type Attachment, figuresOf } from '../../plan/model/attachments';
import type { Net } from '../../plan/model/types';
import { attachmentsOf, USUAL_VOLTS } from '../attached/defaults';
import { BEHAVIOURS } from '../attached/kinds';
import { faradsOf } from '../attached/passive';
import type { Attached } from '../attached/types';
import { between, driver, type Element, toRail } from '../circuit/elements';
import { type PadReader, padReader, type Thresholds, thresholdsOf } from '../pads/pad-state';

/** A pad on the bench: a node of the circuit, what registers make of it, and what shows its level. */
export interface BenchPad {
  index: number;
  pad: Pad;
  /** The first net on it, where there is one. */
  net?: Net;
  resolved?: ResolvedNet;
  reader: PadReader;
  supplyVolts: number;
  thresholds: Thresholds;
  toleratesVolts: number | undefined;
  /** Currents that it may give and take at the drive that it is planned with, in amperes. */
  mayGive: number | undefined;
  mayTake: number | undefined;
  /** Its output stage and its pull resistor, open while they are off. */
  stage: Element;
  pull: Element;
  farads: number;
  /** Bits that show its level. */
  shows: readonly ShownBit[];
  /** The bit that is set when its interrupt happens. */
  flag: { register: Register; bit: number } | undefined;
  line: InterruptLine | undefined;
}

export interface ShownBit {
  register: Register;
  bit: number;
  inverted: boolean;
  by?: { register: Register; bit: number };
}

/** Something attached, and its place. */
export interface BenchPart {
  attachment: Attachment;
  attached: Attached;
  /** Pads of its nets, in the order of its poles. */
  pads: readonly number[];
}

/** Nodes that are joined to each other by something, and all elements at them. */
export interface Component {
  nodes: readonly number[];
  elements: readonly Element[];
  parts: readonly number[];
  /** Something in it stores charge. */
  charged: boolean;
}

/** Pads that a word of memory says something of, by which of its bits; together, and each. */
export interface Watchers {
  mask: number;
  pads: Int32Array;
  masks: Int32Array;
}

/** Everything about a bench that does not change while one plays. */
export interface Setup {
  derived: Derived;
  device: Device;
  operations: readonly Operation[];
  pads: readonly BenchPad[];
  byPad: ReadonlyMap<string, number>;
  byNet: ReadonlyMap<string, number>;
  parts: readonly BenchPart[];
  /** Parts at each net, for whoever acts on them. */
  partsAt: ReadonlyMap<string, readonly number[]>;
  components: readonly Component[];
  componentOf: Int32Array;
  /** For each word of memory the pads that it says something of, and by which bits. */
  watchers: readonly (Watchers | undefined)[];
  /** Pads whose level is shown inverted by a bit in the word. */
  inverters: ReadonlyMap<number, readonly number[]>;
  seed: number;
  /** What handlers of nets' interrupts are called in generated code. */
  readonly handlers: ReadonlyMap<string, string>;
}

/** What a bench is set up with, beside the plan. */
export interface SetupOptions {
  /** Instead of the initialisation as it is: with a fault put in. */
  operations?: readonly Operation[];
  /** Neighbours that are shorted. */
  shorts?: readonly (readonly [string, string])[];
  /** Pads that are held from outside, and at which level. */
  held?: readonly { pad: string; level: 'high' | 'low' }[];
  /** Chooses what is by chance. */
  seed?: number;
  /** After so many operations and events a play ends. */
  mostSteps?: number;
}

/** What a short between neighbours, and whoever holds a pin from outside, resists: a solder bridge, a probe. In ohms. */
const SHORT_OHMS = 0.1;
const HOLD_OHMS = 1;

/** Prepares a bench for a plan. */
export function setupOf(derived: Derived, options: SetupOptions = {}): Setup {
  const { device, pkg, plan, byNet, byPad: netsOn } = derived;
  const bonded = new Set(Object.values(pkg.pins));
  const io = device.description.pads.filter(
    (pad) => bonded.has(pad.id) && pad.kind === 'io' && pad.port !== undefined,
  );
  const pads = io.map((pad, index) => benchPad(derived, pad, index, netsOn.get(pad.id)?.[0]));
  const byPad = new Map(pads.map((one) => [one.pad.id as string, one.index]));
  const padOfNet = new Map<string, number>();
  for (const { net } of derived.resolved) {
    const at = net.placement ? byPad.get(net.placement.pad) : undefined;
    if (at !== undefined) padOfNet.set(net.id, at);
  }
  const seed = options.seed ?? 1;
  let handlers: Map<string, string> | undefined;
  const parts: BenchPart[] = [];
  for (const attachment of attachmentsOf(device, plan, byNet)) {
    const at = attachment.nets.map((id) => padOfNet.get(id));
    const there = at.filter((one) => one !== undefined);
    // What is not on a pad yet has nothing to be attached to.
    if (there.length === 0 || there.length < at.length) continue;
    parts.push(partOf(attachment, there, pads, derived, seed + parts.length));
  }
  const fixed: Element[] = [
    ...(options.held ?? []).flatMap(({ pad, level }) => {
      const at = byPad.get(pad);
      return at === undefined
        ? []
        : [driver(at, level === 'high' ? (pads[at]?.supplyVolts ?? 0) : 0, HOLD_OHMS)];
    }),
    ...(options.shorts ?? []).flatMap(([one, other]) => {
      const [a, b] = [byPad.get(one), byPad.get(other)];
      return a === undefined || b === undefined ? [] : [between(a, b, SHORT_OHMS)];
    }),
  ];
  const { components, componentOf } = componentsOf(pads, parts, fixed);
  const partsAt = new Map<string, number[]>();
  parts.forEach(({ attachment }, index) => {
    for (const net of attachment.nets) partsAt.set(net, [...(partsAt.get(net) ?? []), index]);
  });
  return {
    derived,
    device,
    operations: options.operations ?? derived.lowered.operations,
    pads,
    byPad,
    byNet: padOfNet,
    parts,
    partsAt,
    components,
    componentOf,
    ...watchersOf(device, pads),
    seed,
    get handlers() {
      handlers ??= handlersOf(derived);
      return handlers;
    },
  };
}

function handlersOf(derived: Derived): Map<string, string> {
  const plain = plainNames(derived, { registers: [] });
  return new Map(
    programOf(derived).interrupts.flatMap(({ nets }) =>
      nets.map(({ net }) => [net, `${plain.prefix}_${plain.handler(net)}`]),
    ),
  );
}

function benchPad(derived: Derived, pad: Pad, index: number, one: ResolvedNet | undefined): BenchPad {
  const { device } = derived;
  const supplyVolts = supplyOf(device, pad)?.nominalVolts ?? USUAL_VOLTS;
  const { net, planned, fn } = one ?? {};
  const drive = planned?.settings.values.drive;
  const amperes = (side: 'source' | 'sink'): number | undefined => {
    const limit = currentLimit(device, pad, side, drive);
    return limit === undefined ? undefined : limit / 1000;
  };
  const line = interruptLine(device, pad);
  return {
    index,
    pad,
    ...(net ? { net } : {}),
    ...(one ? { resolved: one } : {}),
    reader: padReader(device, pad, fn),
    supplyVolts,
    thresholds: thresholdsOf(device, pad, supplyVolts),
    toleratesVolts: device.description.padClasses[pad.class ?? '']?.toleratesVolts,
    mayGive: amperes('source'),
    mayTake: amperes('sink'),
    stage: driver(index, 0, Number.POSITIVE_INFINITY),
    pull: toRail(index, 0, Number.POSITIVE_INFINITY),
    farads: 0,
    shows: shownBits(device, pad, one),
    flag: flagOf(device, pad, one),
    line: line === 'none' ? undefined : line,
  };
}

/** The bits in which a pad's level is read. */
function shownBits(device: Device, pad: Pad, one: ResolvedNet | undefined): ShownBit[] {
  const { level } = device.description.recipe.access;
  if (level === undefined || device.fields.get(level)?.needsFunction) return [];
  return device.slotsOf(level, pad, one?.fn).map(({ register, low }): ShownBit => {
    const own = register.levels.find((bit) => bit.bit === low);
    if (own)
      return {
        register,
        bit: low,
        inverted: own.inverted,
        ...(own.invertedBy ? { by: own.invertedBy } : {}),
      };
    const inverted = register.follows?.kind === 'pads' && register.follows.inverted === true;
    return {
      register,
      bit: low,
      inverted,
      ...(register.inverter ? { by: { register: register.inverter, bit: low } } : {}),
    };
  });
}

function flagOf(device: Device, pad: Pad, one: ResolvedNet | undefined): BenchPad['flag'] {
  const { pending } = device.description.recipe.access;
  if (pending === undefined) return undefined;
  try {
    const [slot, other] = device.slotsOf(pending, pad, one?.fn);
    return slot && !other && slot.bits === 1 ? { register: slot.register, bit: slot.low } : undefined;
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    return undefined;
  }
}

function partOf(
  attachment: Attachment,
  at: readonly number[],
  pads: readonly BenchPad[],
  derived: Derived,
  seed: number,
): BenchPart {
  const figures = figuresOf(attachment);
  const attached = BEHAVIOURS[attachment.kind]({
    nodes: at,
    supplyVolts: at.map((one) => pads[one]?.supplyVolts ?? USUAL_VOLTS),
    activeLow: attachment.nets.map((id) => derived.byNet.get(id)?.net.settings.active === 'low'),
    figures,
    seed,
  });
  attached.apply();
  if (attachment.kind === 'capacitor') {
    for (const one of at) {
      const pad = pads[one];
      if (pad) pad.farads += faradsOf(figures);
    }
  }
  return { attachment, attached, pads: at };
}

/** Nodes that elements join belong together, whether those conduct at the moment or not. */
function componentsOf(
  pads: readonly BenchPad[],
  parts: readonly BenchPart[],
  fixed: readonly Element[],
): { components: Component[]; componentOf: Int32Array } {
  const leader = Int32Array.from(pads, (_, index) => index);
  const find = (node: number): number => {
    let at = node;
    while (leader[at] !== at) at = leader[at] as number;
    return at;
  };
  const elements = [
    ...pads.flatMap(({ stage, pull }) => [stage, pull]),
    ...parts.flatMap(({ attached }) => [...attached.elements]),
    ...fixed,
  ];
  for (const { a, b } of elements) if (a >= 0 && b >= 0) leader[find(a)] = find(b);
  // What is one part is looked at together.
  for (const { pads: nodes } of parts)
    for (const node of nodes) leader[find(nodes[0] as number)] = find(node);
  const numbers = new Map<number, number>();
  const componentOf = new Int32Array(pads.length);
  const components: { nodes: number[]; elements: Element[]; parts: number[]; charged: boolean }[] = [];
  for (const { index, farads } of pads) {
    const root = find(index);
    let number = numbers.get(root);
    if (number === undefined) {
      number = components.length;
      numbers.set(root, number);
      components.push({ nodes: [], elements: [], parts: [], charged: false });
    }
    componentOf[index] = number;
    const component = components[number];
    component?.nodes.push(index);
    if (component && farads > 0) component.charged = true;
  }
  for (const one of elements)
    components[componentOf[one.a >= 0 ? one.a : one.b] as number]?.elements.push(one);
  parts.forEach(({ pads: nodes }, index) => {
    components[componentOf[nodes[0] as number] as number]?.parts.push(index);
  });
  return { components, componentOf };
}

function watchersOf(device: Device, pads: readonly BenchPad[]): Pick<Setup, 'watchers' | 'inverters'> {
  const watchers: ({ pad: number; mask: number }[] | undefined)[] = Array.from({
    length: device.registers.words,
  });
  const watch = (word: number, pad: number, mask: number): void => {
    const list = watchers[word] ?? [];
    watchers[word] = list;
    const own = list.find((one) => one.pad === pad);
    if (own) own.mask |= mask;
    else list.push({ pad, mask });
  };
  const inverters = new Map<number, number[]>();
  for (const { index, reader, shows } of pads) {
    for (const slot of reader.slots)
      if (slot.register.storage)
        watch(slot.register.storage.word, index, slotMask(slot) << slot.register.storage.shift);
    for (const { by } of shows) {
      const storage = by?.register.storage;
      if (!by || !storage) continue;
      watch(storage.word, index, maskOf(by.bit, 1) << storage.shift);
      inverters.set(storage.word, [...(inverters.get(storage.word) ?? []), index]);
    }
  }
  return {
    watchers: watchers.map(
      (list) =>
        list && {
          mask: list.reduce((sum, one) => sum | one.mask, 0),
          pads: Int32Array.from(list, (one) => one.pad),
          masks: Int32Array.from(list, (one) => one.mask),
        },
    ),
    inverters,
  };
}
