import { namesIn } from '../../description/language/clause';
import { ExpressionError } from '../../description/language/expression';
import type { Pad } from '../../description/types';
import { selectingRegisters } from '../../device/bookkeeping';
import { clausesOf, type Effect } from '../../device/clauses/clauses';
import type { Device } from '../../device/device';
import { encodeSettings } from '../../device/fields/encode';
import { placeValue, type Slot, slotMask } from '../../device/fields/fields';
import type { PlannedPad } from '../../device/planned-pad';
import { followsInverted, levelsBehind } from '../../device/registers/levels';
import { type Follower, fullMask, type Register, shownMask } from '../../device/registers/types';
import { around as stepsAround } from '../lower/around';
import type { Lowered } from '../lower/lower';
import { stepsByClauses, type Turn, turnByClauses } from '../lower/solve';
import { operationsOfStep, type RegisterStep, readApart } from '../lower/steps';
import { stepsFor, wordOfHalves } from '../lower/strategies';
import { shownBit } from '../machine/clause-access';
import { readRegister } from '../machine/machine';
import { bitWords, mishapText } from '../machine/mishap-text';
import type { BareOperation, Operation } from '../machine/operations';
import { perform } from '../machine/perform';
import type { Mishap } from '../machine/state';
import { assume, bitsOf, createMachine, type Machine, returnsIn, shownBits, tryOut } from '../machine/state';
import { endOf } from '../simulate/proof';
import { interruptFields } from './interrupt-fields';

/** A bit of a value and the register bit that it goes to or comes from. */
export interface BitMove {
  /** Bit of the value. */
  bit: number;
  /** Bit of the register. */
  low: number;
  /** The register holds the opposite. */
  inverted: boolean;
}

/** Puts a value that is known at run time only into bits of one register. */
export interface Put {
  kind: 'put';
  register: Register;
  mask: number;
  moves: BitMove[];
  way:
    | { kind: 'pair'; set: Register; clear: Register }
    | { kind: 'set-clear'; by: Register }
    | { kind: 'masked' }
    | { kind: 'whole' }
    | { kind: 'update' }
    | { kind: 'shadow' };
}

/** Reads bits of one register into a value. */
export interface Get {
  kind: 'get';
  register: Register;
  moves: BitMove[];
}

export type AccessStep = Operation | Put | Get;

/** What the application calls: steps, and whether they have been proven. */
export interface AccessSteps {
  steps: AccessStep[];
  /** Something between its first and its last step, in an interrupt, could be undone or undo it. */
  torn: boolean;
  /** Why it is not proven; absent when it is. */
  fault?: string;
}

/** Where a pad's level is driven: for each register the bits that differ between low and high. */
interface LatchPart {
  slot: Slot;
  register: Register;
  mask: number;
  high: number;
  low: number;
}

/** What is known of the chip after initialisation, whatever the application has done to latches since. */
export interface AfterInit {
  /** Stays the same object as long as what is known stays the same: what follows from it can be remembered. */
  machine: Machine;
  /** Write-only registers of which everything is known, and what they hold: a copy in memory can be kept. */
  shadows: Map<Register, number>;
}

/** Bits of the part's memory by word, as masks. */
export type BitsByWord = ReadonlyMap<number, number>;

/**
 * The states that accessors are proven from, an invariant of all of them: bits that statements of the recipe have decided hold, keys are
 * as initialisation leaves them; everything else is as it was. By induction it holds however often and in whatever order they are called:
 * each is shown to change nothing but what it is for, and nothing is taken for known that one of them is for (`changing`) or that the
 * hardware changes by itself.
 */
export function afterInit(
  device: Device,
  lowered: Lowered,
  changing: BitsByWord,
  before?: AfterInit,
): AfterInit {
  const end = endOf(device, lowered);
  const machine = createMachine(device.registers, 'every');
  for (const { register, mask } of [...lowered.decided, ...guarding(device, lowered)]) {
    const { storage } = register;
    if (!storage) continue;
    const kept = ~(changing.get(storage.word) ?? 0);
    const known = (end.known[storage.word] ?? 0) & (mask << storage.shift) & kept;
    machine.known[storage.word] = (machine.known[storage.word] ?? 0) | known;
    machine.value[storage.word] =
      ((machine.value[storage.word] ?? 0) & ~known) | ((end.value[storage.word] ?? 0) & known);
  }
  const { following, writeOnly } = specialOf(device);
  for (const one of following) {
    const { storage } = one.register;
    // What follows a register that stays as it is does the same.
    if (!storage) continue;
    const bits = shownBits(machine, one);
    const reached = bitsOf(end, one.register);
    const known = bits.known & reached.known & ~(bits.value ^ reached.value);
    machine.known[storage.word] = (machine.known[storage.word] ?? 0) | (known << storage.shift);
    machine.value[storage.word] =
      (machine.value[storage.word] ?? 0) | ((bits.value & known) << storage.shift);
  }
  machine.keys = new Map(end.keys);
  const shadows = new Map<Register, number>();
  for (const register of writeOnly) {
    const { known, value } = bitsOf(end, register);
    if (known === fullMask(register.bits)) shadows.set(register, value);
  }
  const same =
    before !== undefined && sameState(before.machine, machine) && sameKeys(before.shadows, shadows);
  return { machine: same ? before.machine : machine, shadows };
}

/** The bits that accessors of pads are for: latches, what turns interrupts on and off, and the flags that hardware raises. */
export function changedByAccess(
  device: Device,
  pads: readonly { pad: PlannedPad; driven: boolean; interrupts: boolean }[],
): BitsByWord {
  const changing = new Map(flagsOf(device));
  const addSlot = (slot: Slot): void => {
    addBits(changing, slot.register, slotMask(slot));
    if (slot.through) addBits(changing, slot.through, slotMask(slot));
  };
  for (const { pad, driven, interrupts } of pads) {
    const { latch } = device.description.recipe.access;
    if (driven && latch !== undefined) device.slotsOf(latch, pad.pad, pad.fn).forEach(addSlot);
    if (!interrupts) continue;
    for (const [field] of interruptFields(device, pad))
      device.slotsOf(field, pad.pad, pad.fn).forEach(addSlot);
  }
  return changing;
}

function addBits(into: Map<number, number>, { storage }: Register, mask: number): void {
  if (storage) into.set(storage.word, (into.get(storage.word) ?? 0) | (mask << storage.shift));
}

const flags = new WeakMap<Device, BitsByWord>();

/**
 * Bits that accesses change whatever they are for (every access, every write, reads), those that change by themselves, and those that are
 * given a value anew wherever they matter.
 */
function restlessBits(device: Device): { word: number; mask: number }[] {
  const { registers } = device;
  const clauses = clausesOf(registers);
  const reads = registers.all.filter((register) => register.clauses?.afterRead);
  const effects: Effect[] = [
    ...clauses.anyAccess,
    ...clauses.anyWrite,
    ...reads.flatMap((register) => clauses.of(register).afterRead),
  ];
  return [
    ...effects.map(({ to }) => ({ word: to.word, mask: fullMask(to.bits) << to.shift })),
    ...[...returnsIn(registers).keys()].map((word) => ({ word, mask: -1 })),
    ...[...selectingRegisters(device)].flatMap(({ storage, bits }) =>
      storage ? [{ word: storage.word, mask: fullMask(bits) << storage.shift }] : [],
    ),
  ];
}

/** The flags of all pads, by word: whatever initialisation has left in them, hardware may raise them. */
function flagsOf(device: Device): BitsByWord {
  let known = flags.get(device);
  if (!known) {
    const raised = new Map<number, number>();
    const { pending } = device.description.recipe.access;
    for (const pad of device.description.pads) {
      if (pending === undefined || pad.kind !== 'io' || pad.port === undefined) continue;
      for (const slot of device.slotsOf(pending, pad)) addBits(raised, slot.register, slotMask(slot));
    }
    // What any access, or a read, does by clauses it may have done any number of times.
    for (const { word, mask } of restlessBits(device)) raised.set(word, (raised.get(word) ?? 0) | mask);
    known = raised;
    flags.set(device, known);
  }
  return known;
}

const sameState = (a: Machine, b: Machine): boolean =>
  sameWords(a.known, b.known) &&
  sameWords(a.value, b.value) &&
  sameWords(a.was, b.was) &&
  a.keys.size === b.keys.size &&
  [...a.keys].every(([key, seen]) => b.keys.get(key) === seen);

function sameWords(a: Int32Array, b: Int32Array): boolean {
  if (a.length !== b.length) return false;
  for (let at = 0; at < a.length; at++) if (a[at] !== b[at]) return false;
  return true;
}

/** Whether copies are kept of the same registers; what they hold after initialisation does not matter to an accessor. */
const sameKeys = (a: ReadonlyMap<Register, number>, b: ReadonlyMap<Register, number>): boolean =>
  a.size === b.size && [...a.keys()].every((key) => b.has(key));

interface Special {
  /** Registers, and bits of them, that the accesses of others depend on. */
  looked: ReadonlyMap<Register, number>;
  /** Bits that show what others are. */
  following: readonly Follower[];
  writeOnly: readonly Register[];
}
const specials = new WeakMap<Device, Special>();

function specialOf(device: Device): Special {
  let special = specials.get(device);
  if (!special) {
    const looked = new Map<Register, number>();
    const look = (register: Register, mask: number): void => {
      looked.set(register, ((looked.get(register) ?? 0) | mask) >>> 0);
    };
    const { all } = device.registers;
    for (const one of all) {
      for (const guard of one.guards) look(guard.register, 1 << guard.bit);
      if (one.commit) {
        const { register, from } = one.commit;
        look(register, (fullMask(register.bits) & ~fullMask(from)) >>> 0);
      }
      if (one.inverter) look(one.inverter, fullMask(one.inverter.bits));
      for (const { invertedBy } of one.levels) if (invertedBy) look(invertedBy.register, 1 << invertedBy.bit);
    }
    special = {
      looked,
      following: all.flatMap((one) => one.followers.filter(({ source }) => one.storage && source.storage)),
      writeOnly: all.filter((one) => one.access.kind === 'write'),
    };
    specials.set(device, special);
  }
  return special;
}

/** Planned bits in registers that other registers' accesses depend on, and reserved bits. */
function guarding(device: Device, lowered: Lowered): { register: Register; mask: number }[] {
  const { looked } = specialOf(device);
  return lowered.image.flatMap(({ register, mask }) => {
    const whole = mask & (looked.get(register) ?? 0);
    // Reserved bits that a write has given their value keep it.
    const bits = whole | (register.always?.mask ?? 0);
    return bits === 0 ? [] : [{ register, mask: bits }];
  });
}

const latches = new WeakMap<Device, WeakMap<PlannedPad, LatchPart[]>>();

/** The register bits that a pad's level is driven by. Throws {@link ExpressionError} when the description does not say. */
function latchOf(device: Device, one: PlannedPad): LatchPart[] {
  const known = latches.get(device) ?? new WeakMap<PlannedPad, LatchPart[]>();
  latches.set(device, known);
  const parts = known.get(one) ?? findLatch(device, one);
  known.set(one, parts);
  return parts;
}

function findLatch(device: Device, one: PlannedPad): LatchPart[] {
  const { latch } = device.description.recipe.access;
  if (latch === undefined) throw new ExpressionError('the description names no field that drives a pad', 1);
  const slots = device.slotsOf(latch, one.pad, one.fn);
  if (slots.length === 0) throw new ExpressionError(`field ${latch} has no place on ${one.pad.id}`, 1);
  const valueFor = (level: 'low' | 'high'): number | undefined => {
    const settings = { ...one.settings, values: { ...one.settings.values, level } };
    return encodeSettings(settings, one.pad, one.fn, device).find(({ field }) => field === latch)?.value;
  };
  const levels = device.description.recipe.settings.level;
  const [low, high] = levels ? [valueFor('low'), valueFor('high')] : [0, 1];
  if (low === undefined || high === undefined || low === high)
    throw new ExpressionError(`field ${latch} is not what decides the level of ${one.pad.id}`, 1);
  return slots.flatMap((slot) => {
    const [l, h] = [placeValue(slot, low), placeValue(slot, high)];
    const mask = (l ^ h) >>> 0;
    return mask === 0 ? [] : [{ slot, register: slot.through ?? slot.register, mask, high: h, low: l }];
  });
}

/** Whether there are bits by which the interrupt of a pad is turned off; some parts only let another pad take its place. */
export const canSilence = (device: Device, pad: PlannedPad): boolean =>
  interruptFields(device, pad).length > 0;

/** Turns the interrupt of a pad on as it is planned, in the order of the stages, or off in the opposite order. */
export function interruptAccess(device: Device, after: AfterInit, pad: PlannedPad, on: boolean): AccessSteps {
  return attempted(() => {
    const fields = interruptFields(device, pad);
    if (!on) fields.reverse();
    const parts = fields.flatMap(([field, off, planned]) =>
      device.slotsOf(field, pad.pad, pad.fn).flatMap((slot): LatchPart[] => {
        const [low, high] = [placeValue(slot, off), placeValue(slot, planned)];
        const mask = (low ^ high) >>> 0;
        return mask === 0 ? [] : [{ slot, register: slot.through ?? slot.register, mask, high, low }];
      }),
    );
    return driven(device, after, pad, parts, on ? 'high' : 'low', fields[0]?.[0]);
  });
}

/** The place of the flag that shows what has happened on a pad. Throws {@link ExpressionError} when the description does not say. */
function flagOf(device: Device, pad: PlannedPad): { slot: Slot; field: string } {
  const { pending } = device.description.recipe.access;
  if (pending === undefined)
    throw new ExpressionError('the description names no field that shows what has happened', 1);
  const [slot, other] = device.slotsOf(pending, pad.pad, pad.fn);
  if (!slot || other || slot.bits > 1)
    throw new ExpressionError(`field ${pending} of ${pad.pad.id} is not one bit`, 1);
  return { slot, field: pending };
}

/** Takes back what a pad's flag shows. */
export function acknowledgeAccess(device: Device, after: AfterInit, pad: PlannedPad): AccessSteps {
  return attempted(() => {
    const { slot, field } = flagOf(device, pad);
    const { register, clearedBy } = slot;
    const mask = slotMask(slot);
    const isFlag = (register.flagMask & mask) !== 0;
    const solved = clearedBy
      ? undefined
      : whereSelected(device, after, [pad], register, field, (machine) =>
          stepsByClauses(machine, { register, mask, value: 0, explicit: true }),
        );
    if (!clearedBy && !isFlag && !solved && register.access.kind !== 'read-write')
      throw new ExpressionError(`the description does not say how ${register.name} is taken back`, 1);
    const main = clearedBy
      ? [step({ kind: 'write', register: clearedBy, value: mask })]
      : stepOperations(
          solved ??
            stepsFor(
              { register, mask, value: isFlag ? mask : 0, explicit: true },
              after.machine,
              'preserving',
            ),
        );
    const goal = { effect: [{ register, mask, value: 0 }], may: [{ register, mask }] };
    return protectedAccess(
      device,
      after,
      [pad],
      main,
      [{ goal, operations: (steps) => steps as Operation[] }],
      field,
    );
  });
}

/** Whether something has happened on a pad that nobody has taken back. */
export function pendingAccess(device: Device, after: AfterInit, pad: PlannedPad): AccessSteps {
  return attempted(() => {
    const { slot } = flagOf(device, pad);
    const { register, low, inverted } = shownIn(after.machine, slot);
    const [mishap] = tryOut(after.machine, () => readRegister(after.machine, register).mishaps);
    const probe = step({ kind: 'await', register, mask: 0, value: 0, cycles: 0 });
    return {
      steps: [{ kind: 'get', register, moves: [{ bit: 0, low, inverted }] }],
      torn: false,
      ...(mishap ? { fault: mishapText(probe, 0, mishap, 'read') } : {}),
    };
  });
}

/** Where a bit is read: in its register, or, where no address reaches that, in one whose clauses show it. */
function shownIn(
  machine: Machine,
  { register, low }: Slot,
): { register: Register; low: number; inverted: boolean } {
  if (register.access.kind !== 'internal') return { register, low, inverted: false };
  const { storage } = register;
  for (const other of machine.map.all) {
    if (!other.clauses?.gives) continue;
    for (let bit = 0; bit < other.bits; bit++) {
      const shown = tryOut(machine, () => shownBit(machine, other, bit));
      if (shown && shown.word === storage?.word && shown.bit === storage.shift + low)
        return { register: other, low: bit, inverted: shown.inverted };
    }
  }
  throw new ExpressionError(`no register shows bit ${low} of ${register.name}`, 1);
}

/** Drives a pad to a level. */
export function driveAccess(
  device: Device,
  after: AfterInit,
  pad: PlannedPad,
  level: 'low' | 'high',
): AccessSteps {
  return attempted(() => driven(device, after, pad, latchOf(device, pad), level));
}

const some = <T>(list: readonly T[]): readonly T[] | undefined => (list.length === 0 ? undefined : list);

/**
 * How bits that only clauses reach are driven: as things are, or else after what the stages do before the field is written, which may select
 * what a write means.
 */
function whereSelected<T>(
  device: Device,
  { machine }: AfterInit,
  pads: readonly PlannedPad[],
  register: Register,
  field: string | undefined,
  work: (machine: Machine) => T | undefined,
): T | undefined {
  const direct = work(machine);
  const { kind } = register.access;
  if (direct !== undefined || (kind !== 'clauses' && kind !== 'internal')) return direct;
  const latch = field ?? device.description.recipe.access.latch ?? '';
  const { before, beforeEach } = stepsAround(device, pads, latch, machine, new Set(device.registers.all));
  if (before.length + beforeEach.length === 0) return undefined;
  return tryOut(machine, () => {
    for (const operation of [...before, ...beforeEach]) perform(machine, operation);
    return work(machine);
  });
}

/** Gives bits of registers one of their two values. */
function driven(
  device: Device,
  after: AfterInit,
  pad: PlannedPad,
  parts: readonly LatchPart[],
  level: 'low' | 'high',
  field?: string,
): AccessSteps {
  const main = byRegister(parts).flatMap(({ register, mask, ones }): Operation[] => {
    const value = ones.reduce((sum, one) => (sum | (one[level] & one.mask)) >>> 0, 0);
    if (register.access.kind === 'write')
      return [step({ kind: 'update', register, clear: mask, set: value, shadow: true })];
    const slot = ones[0]?.slot;
    const change = {
      register,
      mask,
      value,
      setBy: slot?.setBy,
      clearedBy: slot?.clearedBy,
      explicit: false,
    };
    const steps = whereSelected(device, after, [pad], register, field, (machine) =>
      some(stepsFor(change, machine, 'preserving')),
    );
    return stepOperations(steps ?? []);
  });
  const goal = goalOf(parts, (one) => one[level]);
  const operations = (steps: readonly AccessStep[]) => steps as Operation[];
  return protectedAccess(device, after, [pad], main, [{ goal, operations }], field);
}

/** What turns bits: ones, or where each half of the word does something, ones in both. */
const togglingWord = (by: Register, mask: number): number =>
  by.access.kind === 'set-clear' ? wordOfHalves(by, mask, mask) : mask;

/** Turns the level of a pad into the opposite. */
export function toggleAccess(device: Device, after: AfterInit, pad: PlannedPad): AccessSteps {
  return attempted(() => {
    const parts = latchOf(device, pad);
    const main = byRegister(parts).flatMap(({ register, mask, ones }): Operation | Operation[] => {
      const slot = ones[0]?.slot;
      const solved = slot?.toggledBy
        ? undefined
        : whereSelected(device, after, [pad], register, undefined, (machine) =>
            turnByClauses(machine, register, mask),
          );
      if (solved) return stepOperations(solved);
      if (slot?.toggledBy)
        return step({ kind: 'write', register: slot.toggledBy, value: togglingWord(slot.toggledBy, mask) });
      if (register.access.kind === 'write') return step({ kind: 'flip', register, mask, shadow: true });
      return slot?.setBy && slot.clearedBy
        ? step({ kind: 'flip', register, mask, through: { set: slot.setBy, clear: slot.clearedBy } })
        : step({ kind: 'flip', register, mask });
    });
    const operations = (steps: readonly AccessStep[]) => steps as Operation[];
    if (!parts.some((one) => one.slot.through))
      return protectedAccess(device, after, [pad], main, [
        { goal: goalOf(parts, () => undefined), operations },
      ]);
    // What is taken over agrees with what it is taken over from: initialisation and every accessor write both.
    const cases = (['low', 'high'] as const).map((level): Case => {
      const other = level === 'low' ? 'high' : 'low';
      const given = parts.flatMap((one) =>
        [one.register, one.slot.register].map((register) => ({
          register,
          mask: one.mask,
          value: one[level],
        })),
      );
      return { goal: goalOf(parts, (one) => one[other]), operations, given };
    });
    return protectedAccess(device, after, [pad], main, cases);
  });
}

/**
 * Why a pad's level is not to be turned, or those of several not to be written as a number: nothing reads the latch, and no write of its
 * clauses does it. Undefined where there is a way, or where the latch is reached by other means than clauses.
 */
export function whyAbsent(
  device: Device,
  after: AfterInit,
  action: 'toggle' | 'write',
  pads: readonly PlannedPad[],
): string | undefined {
  const parts = pads.flatMap((pad) => latchOf(device, pad));
  const solved = <T>(register: Register, work: (machine: Machine) => T | undefined): T | undefined =>
    whereSelected(device, after, pads, register, undefined, work);
  const missing = byRegister(parts).find(({ register, mask, ones }) => {
    const slot = ones[0]?.slot;
    const byClauses = register.access.kind === 'internal' || register.access.kind === 'clauses';
    if (!byClauses || slot?.setBy || slot?.clearedBy || slot?.toggledBy) return false;
    return action === 'toggle'
      ? !solved(register, (machine) => turnByClauses(machine, register, mask))
      : !solved(register, (machine) => wayByClauses(machine, register, mask));
  });
  if (!missing) return undefined;
  return action === 'toggle'
    ? `nothing reads ${missing.register.name}, and no write turns its bits`
    : `no write takes bits of ${missing.register.name} as they stand in a number`;
}

/** Drives several pads by the bits of one number, the first pad by its lowest bit; `inverted` ones are low for a 1. */
export function writeAccess(
  device: Device,
  after: AfterInit,
  pads: readonly { pad: PlannedPad; inverted: boolean }[],
): AccessSteps {
  return attempted(() => {
    const parts = pads.flatMap(({ pad, inverted }, bit) =>
      latchOf(device, pad).map((part) => ({ ...part, bit, inverted })),
    );
    const planned = pads.map(({ pad }) => pad);
    const puts = byRegister(parts).map(({ register, mask, ones }): Put => {
      const moves = ones.flatMap(({ mask: bits, high, bit, inverted }) =>
        bitsIn(bits).map((low) => ({
          bit,
          low,
          inverted: (((high >>> low) & 1) === 0) !== inverted,
        })),
      );
      const way = ones[0]?.slot.setBy
        ? undefined
        : whereSelected(device, after, planned, register, undefined, (machine) =>
            wayByClauses(machine, register, mask),
          );
      if (way) {
        const turned = moves.map((move) => ({ ...move, inverted: move.inverted !== way.inverted }));
        return { kind: 'put', mask, moves: turned, register: way.register, way: way.way };
      }
      return { kind: 'put', register, mask, moves, way: wayOf(register, mask, ones[0]?.slot) };
    });
    const goalFor = (value: number) =>
      goalOf(parts, (one) => ((((value >>> one.bit) & 1) === 1) !== one.inverted ? one.high : one.low));
    return protectedAccess(
      device,
      after,
      planned,
      puts,
      samples(pads.length).map((value) => ({
        goal: goalFor(value),
        operations: (steps) => steps.flatMap((one) => operationsFor(one, value)),
      })),
    );
  });
}

/** Values that between them tell every bit from every other, and each from one that does not change. */
const samples = (bits: number): number[] => {
  const all = fullMask(bits);
  const places = Array.from({ length: bits }, (_, bit) => bit);
  const codes = Array.from({ length: Math.ceil(Math.log2(bits)) }, (_, k) =>
    places.reduce((value, bit) => (((bit >>> k) & 1) === 1 ? (value | (1 << bit)) >>> 0 : value), 0),
  );
  return [0, all, ...codes, ...codes.map((one) => (all & ~one) >>> 0)];
};

/** How bits that only clauses reach take a number: a register that sets and one that clears them, or one that holds them. */
function wayByClauses(
  machine: Machine,
  register: Register,
  mask: number,
): (Pick<Put, 'register' | 'way'> & { inverted: boolean }) | undefined {
  const solve = (bits: number, value: number): RegisterStep | undefined => {
    const steps = stepsByClauses(machine, { register, mask: bits, value, explicit: true });
    return steps?.length === 1 ? steps[0] : undefined;
  };
  const [high, low] = [solve(mask, mask), solve(mask, 0)];
  if (!high || !low || high.kind !== low.kind) return undefined;
  // Each bit stands in the word where it stands in the register.
  const inPlace = bitsIn(mask).every((at) => {
    const bit = (1 << at) >>> 0;
    return [high, low].every((step) => {
      const single = solve(bit, step === high ? bit : 0);
      if (!single || single.kind === 'computed' || single.register !== step.register) return false;
      return single.kind === 'write' ? single.value === bit : (single.set | single.clear) >>> 0 === bit;
    });
  });
  if (!inPlace) return undefined;
  if (high.kind === 'write' && low.kind === 'write')
    return high.value === mask && low.value === mask && high.register !== low.register
      ? { register, way: { kind: 'pair', set: high.register, clear: low.register }, inverted: false }
      : undefined;
  if (high.kind !== 'update' || low.kind !== 'update' || high.register !== low.register) return undefined;
  // All as they stand, or all as their opposites.
  const [ones, zeros] = [high.set, low.set];
  if ((ones ^ zeros) >>> 0 !== mask || (ones !== mask && zeros !== mask)) return undefined;
  return { register: high.register, way: { kind: 'update' }, inverted: zeros === mask };
}

function wayOf(register: Register, mask: number, slot: Slot | undefined): Put['way'] {
  const { kind } = register.access;
  if (kind === 'masked') return { kind: 'masked' };
  if (kind === 'write') return { kind: 'shadow' };
  if (slot?.setBy && slot.setBy === slot.clearedBy) return { kind: 'set-clear', by: slot.setBy };
  if (slot?.setBy && slot.clearedBy) return { kind: 'pair', set: slot.setBy, clear: slot.clearedBy };
  return mask === fullMask(register.bits) ? { kind: 'whole' } : { kind: 'update' };
}

/** What a step does for one value: nothing where it only reads. */
export function operationsFor(one: AccessStep, value: number): Operation[] {
  if (one.kind === 'get') return [];
  if (one.kind !== 'put') return [one];
  const { register, mask, moves, way } = one;
  let bits = 0;
  for (const { bit, low, inverted } of moves)
    if ((((value >>> bit) & 1) === 1) !== inverted) bits = (bits | (1 << low)) >>> 0;
  const write = (to: Register, what: number): Operation[] =>
    what === 0 ? [] : [step({ kind: 'write', register: to, value: what >>> 0 })];
  switch (way.kind) {
    case 'pair':
      return [...write(way.set, bits), ...write(way.clear, mask & ~bits)];
    case 'set-clear':
      return write(way.by, wordOfHalves(way.by, bits, (mask & ~bits) >>> 0));
    case 'masked':
      return write(register, mask * 2 ** (register.bits / 2) + bits);
    case 'whole':
      return [step({ kind: 'write', register, value: bits })];
    case 'update':
      return [step({ kind: 'update', ...withReserved(register, mask, bits) })];
    case 'shadow':
      return [step({ kind: 'update', ...withReserved(register, mask, bits), shadow: true })];
  }
}

const withReserved = (register: Register, mask: number, bits: number) => ({
  register,
  clear: (mask | (register.always?.mask ?? 0)) >>> 0,
  set: (bits | (register.always?.value ?? 0)) >>> 0,
});

/** Reads the levels of pads as the bits of one number. */
export function readAccess(
  device: Device,
  after: AfterInit,
  pads: readonly { pad: PlannedPad; inverted: boolean }[],
): AccessSteps {
  return attempted(() => {
    const { level } = device.description.recipe.access;
    if (level === undefined)
      throw new ExpressionError('the description names no field that a level is read in', 1);
    const gets = new Map<Register, Get>();
    let fault: string | undefined;
    pads.forEach(({ pad, inverted }, bit) => {
      const slots = device.slotsOf(level, pad.pad, pad.fn);
      const [slot] = slots;
      if (!slot || slots.length > 1 || slot.bits > 1) {
        fault ??= `field ${level} of ${pad.pad.id} has ${slot ? 'several bits' : 'no place'}; one bit is read`;
        if (!slot) return;
      }
      const { register, low } = slot;
      const turned = invertedBy(after.machine, register, low, pad.pad);
      if (turned === undefined) {
        fault ??=
          register.access.kind === 'clauses'
            ? `what ${register.name} bit ${low} reads is not the level of ${pad.pad.id} alone, after initialisation and every accessor`
            : inverterOf(register, low) !== undefined
              ? `whether ${register.name} bit ${low} is inverted depends on ${inverterOf(register, low)?.register.name}, of which nothing is known`
              : `the description does not say that ${register.name} follows the pads`;
      }
      const get = gets.get(register) ?? { kind: 'get', register, moves: [] };
      get.moves.push({ bit, low, inverted: inverted !== (turned ?? false) });
      gets.set(register, get);
    });
    for (const { register } of gets.values()) {
      const [mishap] = tryOut(after.machine, () => readRegister(after.machine, register).mishaps);
      const probe = step({ kind: 'await', register, mask: 0, value: 0, cycles: 0 });
      if (mishap) fault ??= mishapText(probe, 0, mishap, 'read');
    }
    return { steps: [...gets.values()], torn: false, ...(fault === undefined ? {} : { fault }) };
  });
}

/** Whether a register shows the opposite of a pad's level; undefined when that cannot be said. */
function invertedBy(machine: Machine, register: Register, bit: number, pad: Pad): boolean | undefined {
  const { follows } = register;
  if (register.access.kind === 'clauses') {
    const levels = levelsBehind(machine.map, register);
    const shown = tryOut(machine, () => shownBit(machine, register, bit));
    if (!levels?.storage || shown?.word !== levels.storage.word) return undefined;
    if (shown.bit !== levels.storage.shift + (pad.bit ?? 0)) return undefined;
    return shown.inverted !== followsInverted(levels);
  }
  const shown = register.levels.find((one) => one.bit === bit);
  if (follows?.kind !== 'pads' && !shown) return undefined;
  const by = inverterOf(register, bit);
  if (!by) return shown ? shown.inverted : followsInverted(register);
  const { known, value } = bitsOf(machine, by.register);
  return ((known >>> by.bit) & 1) === 1 ? ((value >>> by.bit) & 1) === 1 : undefined;
}

/** The bit that says whether a level is shown inverted. */
function inverterOf(register: Register, bit: number): { register: Register; bit: number } | undefined {
  const shown = register.levels.find((one) => one.bit === bit);
  if (shown) return shown.invertedBy;
  return register.inverter && { register: register.inverter, bit };
}

/** What accessors of a kind do is worked out or refused for the same reasons. */
function attempted(work: () => AccessSteps): AccessSteps {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    return { steps: [], torn: false, fault: error.message };
  }
}

const step = (bare: BareOperation): Operation => ({ ...bare, stage: 'access', pads: [] });

/** Holds of what is read for a write are numbered apart from those of the stages around it. */
const FIRST_HELD = 1000;

const stepOperations = (steps: readonly Turn[], from = 1): Operation[] =>
  steps.flatMap((each, at) => {
    if (each.kind === 'flip') return step(each);
    const { before, write } = operationsOfStep(each, FIRST_HELD * (at + from));
    return [...before, write].map(step);
  });

/** Parts gathered by register, in the order in which they first come. */
function byRegister<T extends LatchPart>(
  parts: readonly T[],
): { register: Register; mask: number; ones: T[] }[] {
  const found = new Map<Register, { register: Register; mask: number; ones: T[] }>();
  for (const part of parts) {
    const entry = found.get(part.register) ?? { register: part.register, mask: 0, ones: [] };
    entry.mask = (entry.mask | part.mask) >>> 0;
    entry.ones.push(part);
    found.set(part.register, entry);
  }
  return [...found.values()];
}

const bitsIn = (mask: number): number[] =>
  Array.from({ length: 32 }, (_, bit) => bit).filter((bit) => ((mask >>> bit) & 1) === 1);

/** Bits that shall have a value in the end, or shall have been turned. */
interface Goal {
  /** Where it takes effect. */
  effect: { register: Register; mask: number; value: number | undefined }[];
  /** Bits that may change on the way there. */
  may: { register: Register; mask: number }[];
}

function goalOf<T extends LatchPart>(parts: readonly T[], levelOf: (part: T) => number | undefined): Goal {
  return {
    effect: parts.map((part) => ({
      register: part.slot.register,
      mask: part.mask,
      value: levelOf(part),
    })),
    may: parts.flatMap((part) => [
      { register: part.register, mask: part.mask },
      { register: part.slot.register, mask: slotMask(part.slot) },
    ]),
  };
}

/** One case of an accessor: what it shall reach, and the operations that its steps are then. */
interface Case {
  goal: Goal;
  /** Bits that hold something in this case. */
  given?: { register: Register; mask: number; value: number }[];
  operations(steps: readonly AccessStep[]): Operation[];
}

/**
 * The steps as they are, if that can be proven; else with what the recipe's stages do before and after a latch is written, as
 * far as it is needed: the key before, the gate, the taking over behind.
 */
function protectedAccess(
  device: Device,
  after: AfterInit,
  pads: readonly PlannedPad[],
  main: readonly (Operation | Put)[],
  cases: readonly Case[],
  field = device.description.recipe.access.latch ?? '',
): AccessSteps {
  const faultOf = (steps: readonly AccessStep[]): string | undefined => {
    for (const one of cases) {
      const fault = run(device, after, one, steps);
      if (fault !== undefined) return fault;
    }
    return undefined;
  };
  const direct = faultOf(main);
  if (direct === undefined) return { steps: [...main], torn: isTorn(main) };
  const stages = stepsAround(device, pads, field, after.machine, relatedTo(device, main));
  // What is read for a write is read before the steps that stand around it.
  const around = (writes: readonly (Operation | Put)[]): (Operation | Put)[] => [
    ...stages.before,
    ...writes.flatMap((each) =>
      each.kind === 'read' ? [each] : [...stages.beforeEach, each, ...stages.afterEach],
    ),
    ...stages.after,
  ];
  const apart = readingApart(main);
  const chosen = [main, ...(apart ? [apart] : [])].find((list) => faultOf(around(list)) === undefined);
  if (!chosen) return { steps: [...main], torn: isTorn(main), fault: direct };
  let steps = around(chosen);
  // Whatever is not needed goes: what is left is what the latch is protected by.
  for (let at = steps.length - 1; at >= 0; at--) {
    const one = steps[at];
    if (one && chosen.includes(one)) continue;
    const without = steps.toSpliced(at, 1);
    if (faultOf(without) === undefined) steps = without;
  }
  return { steps, torn: true };
}

/** The same steps with what is read and changed read first, where steps that stand before the write do not bear a read in between. */
function readingApart(main: readonly (Operation | Put)[]): (Operation | Put)[] | undefined {
  if (!main.some(({ kind }) => kind === 'update')) return undefined;
  const steps = main.map((each) =>
    each.kind === 'update' && !each.shadow ? (readApart(each) ?? each) : each,
  );
  return steps.flatMap((each, at) => (each.kind === 'computed' ? stepOperations([each], at + 1) : [each]));
}

/** An interrupt between read and write could be undone, or undo the write; so could one between key and lock. */
const isTorn = (steps: readonly (Operation | Put)[]): boolean =>
  steps.some(
    (one) =>
      one.kind === 'update' ||
      one.kind === 'write held' ||
      (one.kind === 'flip' && !one.through && one.register.access.kind !== 'masked') ||
      (one.kind === 'put' && (one.way.kind === 'update' || one.way.kind === 'shadow')),
  );

/** Registers that decide whether a write to others has effect: locks, guards, commit bits, what takes over. */
function relatedTo(device: Device, main: readonly (Operation | Put)[]): Set<Register> {
  const found = new Set<Register>();
  const queue = main.flatMap((one) => {
    if (!('register' in one)) return [];
    const ways = one.kind === 'put' && one.way.kind === 'pair' ? [one.way.set, one.way.clear] : [];
    const by = one.kind === 'put' && one.way.kind === 'set-clear' ? [one.way.by] : [];
    return [one.register, ...ways, ...by, ...(one.register.target ? [one.register.target] : [])];
  });
  for (let register = queue.pop(); register; register = queue.pop()) {
    const next = [
      ...register.locks,
      ...register.guards.flatMap((guard) => [
        guard.register,
        ...guard.register.followers.map((one) => one.source),
      ]),
      ...(register.commit ? [register.commit.register] : []),
      ...device.registers.all.filter((one) => one.from === register),
      ...lookedAt(device, register),
    ];
    for (const one of next) {
      if (found.has(one)) continue;
      found.add(one);
      queue.push(one);
    }
  }
  return found;
}

/** Registers that the clauses of a write look at, and those by whose writes these change. */
function lookedAt({ registers }: Device, { clauses }: Register): Register[] {
  if (!clauses?.effects) return [];
  const terms = [...(clauses.when ? [clauses.when] : []), ...clauses.effects.map(({ value }) => value)];
  return [...new Set(terms.flatMap((term) => [...namesIn(term)]))].flatMap((name) => {
    const register = registers.byName.get(name);
    if (!register?.storage) return [];
    const reads = registers.all.filter((each) =>
      each.clauses?.afterRead?.some(({ target }) => target === name),
    );
    return [register, ...clausesOf(registers).assigning(register.storage.word), ...reads];
  });
}

/** Runs an accessor from every state after initialisation; what is wrong with it, or undefined. */
function run(
  device: Device,
  after: AfterInit,
  { goal, given = [], operations: operationsOf }: Case,
  steps: readonly AccessStep[],
): string | undefined {
  const operations = operationsOf(steps);
  const { machine, shadows } = after;
  return tryOut(machine, () => {
    for (const { register, mask, value } of given) assume(machine, register, mask, value);
    const known = goal.effect.map(({ register }) => bitsOf(machine, register).known);
    return tryOut(machine, (before) => {
      for (const [index, operation] of operations.entries()) {
        if ('shadow' in operation && operation.shadow && !shadows.has(operation.register))
          return `${operation.register.name} can only be written, and not all of its bits are known`;
        const mishaps: Mishap[] = perform(machine, operation);
        if (mishaps[0]) return mishapText(operation, index, mishaps[0], 'access');
      }
      return wrongEnd(machine, goal, known) ?? strayIn(device, machine, goal, before);
    });
  });
}

/** A level that is not what it shall be; `before` says which bits were known. */
function wrongEnd(machine: Machine, goal: Goal, before: readonly number[]): string | undefined {
  for (const [position, { register, mask, value }] of goal.effect.entries()) {
    const held = bitsOf(machine, register);
    const right =
      value === undefined
        ? mask & ~held.known & held.was & held.value & ~(before[position] ?? 0)
        : mask & held.known & ~(held.value ^ value);
    const wrong = (mask & ~right) >>> 0;
    if (wrong !== 0) return `${register.name} does not get the level in ${bitWords(wrong, register.bits)}`;
  }
  return undefined;
}

/** Bits or locks that are not as they were before, though they are nobody's business. */
function strayIn(
  device: Device,
  machine: Machine,
  goal: Goal,
  before: { words: Map<number, [number, number, number]>; keys: Map<Register, number> },
): string | undefined {
  const restless = restlessBits(device);
  for (const [word, [known, value, was]] of before.words) {
    const same = known & (machine.known[word] ?? 0) & ~(value ^ (machine.value[word] ?? 0));
    // Of what nobody knows only what is as it was, and not turned, is the same.
    const kept = was & (machine.was[word] ?? 0) & ~(value ^ (machine.value[word] ?? 0));
    let stray = ~kept & ~same;
    for (const { register, mask } of goal.may) {
      if (register.storage?.word === word) stray &= ~(mask << register.storage.shift);
    }
    for (const bits of restless) if (bits.word === word) stray &= ~bits.mask;
    if (stray === 0) continue;
    const register = device.registers.all.find((one) => one.storage?.word === word);
    stray &= ~((register ? shownMask(register) : 0) << (register?.storage?.shift ?? 0));
    if (register && stray !== 0)
      return `it changes ${bitWords(stray >>> (register.storage?.shift ?? 0), register.bits)} of ${register.name}`;
  }
  for (const [key, seen] of before.keys) {
    if (machine.keys.get(key) !== seen) return `it leaves ${key.name} in another state than it was`;
  }
  return undefined;
}
