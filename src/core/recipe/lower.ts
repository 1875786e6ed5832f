import type { Pad, PadFunction } from '../device/types';
import type { PadSettings } from '../settings';
import type { Device, Stage } from './device';
import { encodeSettings } from './encode';
import { type Expression, evaluate } from './expression';
import { placeValue, slotMask } from './fields';
import type { Clash, CodeStyle, Contribution, ImageRegister, Operation, PadShare } from './operations';
import { fullMask, maskOf, type Register } from './registers';
import type { Context } from './scope';
import type { RegisterRef, Statement } from './statement';

/** A pad and what it shall be. `settings` are canonical. */
export interface PlannedPad {
  pad: Pad;
  fn?: PadFunction;
  settings: PadSettings;
}

export interface Lowered {
  operations: Operation[];
  image: ImageRegister[];
  clashes: Clash[];
}

/** Field values of one pad in their places. */
export function contributionsOf(device: Device, planned: PlannedPad): Contribution[] {
  const { pad, fn, settings } = planned;
  return encodeSettings(settings, pad, fn, device).flatMap(({ field, value }) =>
    device.slotsOf(field, pad, fn).map((slot) => ({
      pad: pad.id,
      field,
      register: slot.through ?? slot.register,
      low: slot.low,
      bits: slot.bits,
      mask: slotMask(slot),
      value: placeValue(slot, value),
      setBy: slot.setBy,
      clearedBy: slot.clearedBy,
    })),
  );
}

/**
 * Planned pads → operations in the recipe's order, one merged write per register and stage, and the register image.
 * *from-reset* writes whole registers, relying on their reset values; *preserving* changes only the planned bits.
 */
export function lower(device: Device, planned: readonly PlannedPad[], style: CodeStyle): Lowered {
  const byField = new Map<string, Contribution[]>();
  for (const one of planned) {
    for (const contribution of contributionsOf(device, one)) {
      const list = byField.get(contribution.field);
      if (list) list.push(contribution);
      else byField.set(contribution.field, [contribution]);
    }
  }
  const work: Work = { style, operations: [], known: new Map(), touched: new Map(), clashes: [] };
  for (const stage of device.stages) {
    for (const statement of stage.statements) runStatement(device, stage, statement, planned, work);
    const contributions = (stage.fields ?? []).flatMap((field) => byField.get(field) ?? []);
    writeFields(device, stage, contributions, work);
  }
  const image = [...work.touched.values()].sort((a, b) => a.register.address - b.register.address);
  for (const entry of image) {
    entry.planned = work.known.get(entry.register) ?? entry.reset;
    entry.owners.sort((a, b) => a.low - b.low);
  }
  return { operations: work.operations, image, clashes: work.clashes };
}

interface Work {
  style: CodeStyle;
  operations: Operation[];
  /** What registers hold after the operations so far, if they started from reset. */
  known: Map<Register, number>;
  touched: Map<Register, ImageRegister>;
  clashes: Clash[];
}

const knownValue = (work: Work, register: Register): number => work.known.get(register) ?? register.reset;

function touch(work: Work, register: Register, mask: number): ImageRegister {
  let entry = work.touched.get(register);
  if (!entry) {
    entry = { register, reset: register.reset, planned: register.reset, mask: 0, owners: [] };
    work.touched.set(register, entry);
  }
  entry.mask = (entry.mask | mask) >>> 0;
  return entry;
}

/** Bits of one register to be changed in one step, gathered over all pads or ports. */
interface Change {
  register: Register;
  mask: number;
  value: number;
  pads: PadShare[];
  setBy?: Register;
  clearedBy?: Register;
}

function gather(changes: Map<Register, Change>, register: Register): Change {
  let change = changes.get(register);
  if (!change) {
    change = { register, mask: 0, value: 0, pads: [] };
    changes.set(register, change);
  }
  return change;
}

function writeFields(device: Device, stage: Stage, contributions: readonly Contribution[], work: Work): void {
  const changes = new Map<Register, Change>();
  for (const one of contributions) {
    const change = gather(changes, one.register);
    const shared = (change.mask & one.mask) >>> 0;
    if (shared !== 0 && ((change.value ^ one.value) & shared) !== 0) {
      const other = contributions.find((c) => c.register === one.register && (c.mask & one.mask) !== 0);
      work.clashes.push({ register: one.register, mask: shared, pads: [other?.pad ?? '', one.pad] });
      continue;
    }
    change.mask = (change.mask | one.mask) >>> 0;
    change.value = (change.value | one.value) >>> 0;
    change.setBy = one.setBy;
    change.clearedBy = one.clearedBy;
    const share = change.pads.find((other) => other.pad === one.pad);
    if (share) share.value = (share.value | one.value) >>> 0;
    else change.pads.push({ pad: one.pad, value: one.value });
    touch(work, one.register, one.mask).owners.push({
      low: one.low,
      bits: one.bits,
      pad: one.pad,
      field: one.field,
    });
  }
  for (const change of byAddress(changes)) {
    const before = work.operations.length;
    emitChange(stage.id, change, work);
    if (stage.beforeEach.length > 0) putBeforeEach(device, stage, before, work);
  }
}

/** Puts the stage's key writes before each operation from a position on: the key is good for one write. */
function putBeforeEach(device: Device, stage: Stage, from: number, work: Work): void {
  const written = work.operations.splice(from);
  for (const operation of written) {
    const context = 'register' in operation ? operation.register.context : {};
    for (const statement of stage.beforeEach) {
      if (statement.kind !== 'assign') continue;
      const register = resolve(device, statement.target, context);
      if (!register) continue;
      const value = evaluate(statement.value, device.scopeOf(context));
      work.operations.push({ kind: 'write', stage: stage.id, register, value, pads: [] });
    }
    work.operations.push(operation);
  }
}

const byAddress = (changes: Map<Register, Change>): Change[] =>
  [...changes.values()].sort((a, b) => a.register.address - b.register.address);

function emitChange(stage: string, change: Change, work: Work): void {
  const { register, value, pads, setBy, clearedBy } = change;
  const { always } = register;
  const before = knownValue(work, register);
  const after = ((before & ~change.mask) | value | (always?.value ?? 0)) >>> 0;
  work.known.set(register, after);
  if (register.access.kind === 'masked') {
    // The upper half names the bits that are written: one store, nothing read, no other pad touched.
    const half = register.bits / 2;
    const whole = (change.mask * 2 ** half + value) >>> 0;
    if (work.style === 'preserving' || after !== before)
      work.operations.push({ kind: 'write', stage, register, value: whole, pads });
    return;
  }
  // Reserved bits go along with every write at the value they must have.
  const mask = (change.mask | (always?.mask ?? 0)) >>> 0;
  const whole = mask === fullMask(register.bits);
  if (work.style === 'from-reset' || register.access.kind === 'write') {
    // Nothing to do when the register already holds it out of reset; a skipped write cannot glitch.
    if (after !== before) work.operations.push({ kind: 'write', stage, register, value: after, pads });
    return;
  }
  if (setBy && clearedBy) {
    const high = value;
    const low = (mask & ~value) >>> 0;
    if (high)
      work.operations.push({
        kind: 'write',
        stage,
        register: setBy,
        value: high,
        pads: pads.filter((one) => one.value !== 0),
      });
    if (low)
      work.operations.push({
        kind: 'write',
        stage,
        register: clearedBy,
        value: low,
        pads: pads.filter((one) => one.value === 0),
      });
    return;
  }
  if (whole) work.operations.push({ kind: 'write', stage, register, value: after, pads });
  else {
    const set = (value | (always?.value ?? 0)) >>> 0;
    work.operations.push({ kind: 'update', stage, register, clear: mask, set, pads });
  }
}

/** Runs one statement for the device, for each port in use or each planned pad, merging what meets in a register. */
function runStatement(
  device: Device,
  stage: Stage,
  statement: Statement,
  planned: readonly PlannedPad[],
  work: Work,
): void {
  if (statement.kind === 'wait') {
    if (planned.length > 0) {
      work.operations.push({
        kind: 'wait',
        stage: stage.id,
        cycles: evaluate(statement.cycles, device.scopeOf({})),
      });
    }
    return;
  }
  const contexts = contextsOf(device, stage, planned);
  if (statement.kind === 'await') {
    awaitAll(device, stage, statement, contexts, work);
    return;
  }
  const wholes = new Map<Register, Change>();
  const parts = new Map<Register, Change>();
  for (const context of contexts) {
    const register = resolve(device, statement.target, context);
    if (!register) continue;
    const value = evaluate(statement.value, device.scopeOf(context));
    const bits = bitsOf(device, statement.target, context);
    if (!bits) {
      const change = gather(wholes, register);
      change.mask = fullMask(register.bits);
      change.value = value;
      continue;
    }
    const change = gather(parts, register);
    const mask = maskOf(bits.low, bits.width);
    change.mask = (change.mask | mask) >>> 0;
    change.value = (change.value | ((value * 2 ** bits.low) & mask)) >>> 0;
  }
  for (const change of byAddress(wholes)) {
    const { register, value } = change;
    work.operations.push({ kind: 'write', stage: stage.id, register, value, pads: [] });
    if (register.access.kind === 'read-write') {
      work.known.set(register, value);
      touch(work, register, change.mask);
    }
  }
  for (const change of byAddress(parts)) {
    touch(work, change.register, change.mask);
    emitChange(stage.id, change, work);
  }
}

function contextsOf(device: Device, stage: Stage, planned: readonly PlannedPad[]): Context[] {
  if (planned.length === 0) return [];
  switch (stage.per ?? 'device') {
    case 'device':
      return [{}];
    case 'pad':
      return planned
        .map(({ pad, fn }): Context => ({ pad, fn }))
        .filter((context) => !stage.where || holds(device, stage.where, context));
    case 'port': {
      const used = new Set(planned.map(({ pad }) => pad.port));
      return Object.keys(device.description.recipe.ports)
        .filter((port) => used.has(port))
        .map((port) => ({ port }));
    }
  }
}

/** Whether a stage's condition is not 0 for a pad; what the pad has no column for counts as 0. */
function holds(device: Device, where: Expression, context: Context): boolean {
  const scope = device.scopeOf(context);
  return evaluate(where, (name) => scope(name) ?? 0) !== 0;
}

function awaitAll(
  device: Device,
  stage: Stage,
  statement: Extract<Statement, { kind: 'await' }>,
  contexts: readonly Context[],
  work: Work,
): void {
  const awaited = new Map<Register, { mask: number; value: number; cycles: number }>();
  for (const context of contexts) {
    const register = resolve(device, statement.target, context);
    if (!register) continue;
    const bits = bitsOf(device, statement.target, context) ?? { low: 0, width: register.bits };
    const entry = awaited.get(register) ?? { mask: 0, value: 0, cycles: 0 };
    const mask = maskOf(bits.low, bits.width);
    const value = evaluate(statement.value, device.scopeOf(context));
    entry.mask = (entry.mask | mask) >>> 0;
    entry.value = (entry.value | ((value * 2 ** bits.low) & mask)) >>> 0;
    entry.cycles = Math.max(entry.cycles, evaluate(statement.withinCycles, device.scopeOf(context)));
    awaited.set(register, entry);
  }
  for (const [register, entry] of awaited) {
    work.operations.push({ kind: 'await', stage: stage.id, register, ...entry });
  }
}

const resolve = (device: Device, ref: RegisterRef, context: Context): Register | undefined =>
  device.registers.find(ref.block, ref.register, context);

function bitsOf(
  device: Device,
  ref: RegisterRef,
  context: Context,
): { low: number; width: number } | undefined {
  if (!ref.low || !ref.high) return undefined;
  const low = evaluate(ref.low, device.scopeOf(context));
  return { low, width: evaluate(ref.high, device.scopeOf(context)) - low + 1 };
}
