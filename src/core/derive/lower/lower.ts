import { append, largest } from '../../base/lists';
import { evaluate } from '../../description/language/expression';
import type { Context } from '../../description/language/scope';
import type { RegisterRef, Statement } from '../../description/language/statement';
import { splitSignal } from '../../description/types';
import { isBookkeeping } from '../../device/bookkeeping';
import type { Device, Stage } from '../../device/device';
import { accepts } from '../../device/fields/excludes';
import type { Contribution, PlannedPad } from '../../device/planned-pad';
import { fullMask, heldBits, maskOf, type Register } from '../../device/registers/types';
import type { CircuitId, CodeStyle } from '../../plan/model/types';
import { halvesOf, perform, storeOf } from '../machine/machine';
import type { BitOwner, Clash, ImageRegister, Operation, PadShare } from '../machine/operations';
import { bitsOf, copyMachine, createMachine, type Machine, watchingWrites } from '../machine/state';
import type { Contributions, FieldWants, Gathered } from './gather';
import { gather } from './gather';
import type { Change, RegisterStep } from './steps';
import { stepsFor } from './strategies';

export interface Lowered {
  style: CodeStyle;
  operations: Operation[];
  image: ImageRegister[];
  clashes: Clash[];
  /** Bits that statements of the recipe decide, and what they leave in them. */
  decided: Decided[];
  /** Where circuits have functions of their own: how many of the operations are each one's, in order. */
  parts?: readonly { circuit: CircuitId | undefined; count: number }[];
}

/** Bits of a register that statements have given a value; the last statement counts. */
export interface Decided {
  register: Register;
  mask: number;
  value: number;
  /** Bits of {@link mask} whose value a statement does not say (it flips them). */
  open: number;
}

/**
 * Planned pads → operations in the recipe's order, one access per register and stage, and the register image. *from-reset*
 * relies on reset values; *preserving* changes only the planned bits. A register machine goes along and says what registers
 * hold by then, so that what is there already is not written again.
 */
export function lower(
  device: Device,
  planned: readonly PlannedPad[],
  style: CodeStyle,
  earlier?: Lowered,
  peripheralClocks = false,
): Lowered {
  const gathered = gather(device, planned, style, earlier && gatheredOf.get(earlier));
  const { byField, early } = gathered;
  const work: Work = {
    style,
    machine: createMachine(device.registers, style === 'from-reset' ? 'reset' : 'every'),
    operations: [],
    touched: new Map(),
    decided: new Map(),
    clashes: [],
    early,
    doneEarly: new Set(),
    done: new Set(),
  };
  for (const stage of device.stages) {
    // What peripherals need is done on request only.
    if (stage.per === 'peripheral' && !peripheralClocks) continue;
    const batch = runStatements(device, stage, planned, work);
    const fields = new Map<Register, Contributions[]>();
    const only = stage.for && new Set(padsOf(stage, planned).map(({ pad }) => pad.id));
    for (const field of stage.fields ?? []) {
      for (const [register, wanted] of byField.get(field) ?? []) {
        const left = leftOf(wanted, work, register);
        const list = only ? left.filter((one) => only.has(one.pad)) : left;
        if (list.length === 0) continue;
        const others = fields.get(register);
        if (others) others.push(list);
        else fields.set(register, [list]);
      }
    }
    writeFields(device, stage, fields, batch, work);
  }
  const image = [...work.touched.values()].sort((x, y) => x.register.address - y.register.address);
  for (const entry of image) entry.owners.sort((x, y) => x.low - y.low);
  const lowered: Lowered = {
    style,
    operations: work.operations,
    image,
    clashes: work.clashes,
    decided: [...work.decided.values()],
  };
  gatheredOf.set(lowered, gathered);
  return lowered;
}

const gatheredOf = new WeakMap<Lowered, Gathered>();

/** What has not been written before its stage. */
function leftOf({ all, loud }: FieldWants, work: Work, register: Register): Contributions {
  const left = work.doneEarly.has(register) ? loud : all;
  return work.done.size === 0 ? left : left.filter((one) => !work.done.has(one));
}

interface Work {
  style: CodeStyle;
  machine: Machine;
  operations: Operation[];
  touched: Map<Register, ImageRegister>;
  decided: Map<Register, Decided>;
  clashes: Clash[];
  /** Contributions that may be written before their stage. */
  early: ReadonlyMap<Register, Contributions>;
  /** Registers of which all of them have been. */
  doneEarly: Set<Register>;
  /** Single ones that have been, where others clash. */
  done: Set<Contribution>;
}

/** A step with whom it is for; written out, since it is done for every access of every derivation. */
function operationOf(
  step: RegisterStep,
  { id: stage }: Stage,
  pads: PadShare[],
  scope: readonly string[] | undefined,
): Operation {
  const { register } = step;
  return step.kind === 'write'
    ? { kind: 'write', register, value: step.value, stage, pads, ...(scope ? { scope } : {}) }
    : {
        kind: 'update',
        register,
        clear: step.clear,
        set: step.set,
        stage,
        pads,
        ...(scope ? { scope } : {}),
      };
}

function emit(work: Work, operation: Operation): void {
  work.operations.push(operation);
  perform(work.machine, operation);
}

function touch(work: Work, register: Register, mask: number, value: number): ImageRegister {
  let entry = work.touched.get(register);
  if (!entry) {
    entry = { register, reset: register.reset, planned: register.reset, mask: 0, owners: [] };
    work.touched.set(register, entry);
  }
  entry.mask = (entry.mask | mask) >>> 0;
  entry.planned = ((entry.planned & ~mask) | (value & mask)) >>> 0;
  return entry;
}

/** Bits of one register to be changed in one step, put together from all pads or ports. */
interface Joint extends Change {
  pads: PadShare[];
  scope?: string[];
  /** Who gave which bits, to name both where two differ. */
  from: { pad: string; mask: number; value: number }[];
}

type Batch = Map<Register, Joint>;

function jointFor(changes: Batch, register: Register, explicit: boolean): Joint {
  let change = changes.get(register);
  if (!change) {
    change = { register, mask: 0, value: 0, pads: [], explicit, from: [] };
    changes.set(register, change);
  }
  return change;
}

/** Adds bits to a change; two that differ in a bit are a clash, and the first one stays. */
function join(clashes: Clash[], change: Joint, pad: string, mask: number, value: number): boolean {
  const shared = (change.mask & mask) >>> 0;
  if (shared !== 0 && ((change.value ^ value) & shared) !== 0) {
    const other = change.from.find((one) => ((one.value ^ value) & one.mask & mask) !== 0);
    clashes.push({ register: change.register, mask: shared, pads: [other?.pad ?? '', pad] });
    return false;
  }
  change.mask = (change.mask | mask) >>> 0;
  change.value = (change.value | (value & mask)) >>> 0;
  change.from.push({ pad, mask, value });
  return true;
}

/** Writes a stage's fields, register by register in the order in which the stage names them. */
function writeFields(
  device: Device,
  stage: Stage,
  fields: ReadonlyMap<Register, readonly Contributions[]>,
  batch: Batch,
  work: Work,
): void {
  // What statements have begun in a register is finished in the same access.
  const changes: Batch = stage.beforeEach.length === 0 ? new Map(batch) : new Map();
  if (changes.size === 0) flush(device, stage, batch, work);
  const apart = [...changes.keys()].some(
    (register) =>
      !fields.has(register) ||
      work.style === 'from-reset' ||
      // A bit that lets the others through has to be there before them.
      register.guards.some((guard) => guard.register === register),
  );
  if (changes.size > 0 && apart) {
    flush(device, stage, batch, work);
    changes.clear();
  }
  for (const [register, own] of fields) {
    const all = stage.beforeEach.length === 0 ? work.early.get(register) : undefined;
    const early = all && !work.doneEarly.has(register) ? all : undefined;
    const begun = changes.get(register);
    const joined = begun
      ? foldAnew(register, listOf(stage, own, early, work.done), begun)
      : foldOf(stage, register, own, early, work.done);
    changes.set(register, joined.change);
    if (early) {
      if (joined.clashes.length === 0) work.doneEarly.add(register);
      else for (const one of joined.taken) work.done.add(one);
    }
    append(work.clashes, joined.clashes);
    append(touch(work, register, joined.mask, joined.value).owners, joined.owners);
  }
  for (const change of changes.values()) {
    if (change.mask === 0) continue;
    const steps = stepsFor(change, work.machine, work.style);
    for (const step of steps) {
      before(device, stage, step.register.context, work);
      emit(work, operationOf(step, stage, sharesOf(change, step.register), change.scope));
    }
    if (change.explicit) decide(work, change);
  }
}

/** What pads want of one register in one stage, put together. */
interface Folded {
  change: Joint;
  /** The bits of pads alone. */
  mask: number;
  value: number;
  /** Contributions that found their place; the others clash with one before them. */
  taken: readonly Contribution[];
  owners: readonly BitOwner[];
  clashes: readonly Clash[];
}

/** The contributions of a stage to a register, and those of later ones that may be written with them. */
function listOf(
  stage: Stage,
  own: readonly Contributions[],
  early: Contributions | undefined,
  done: ReadonlySet<Contribution>,
): Contributions {
  const quiet = early?.filter((one) => stage.fields?.includes(one.field) !== true && !done.has(one)) ?? [];
  return own.length === 1 && quiet.length === 0 ? (own[0] as Contributions) : [...own.flat(), ...quiet];
}

interface Remembered {
  own: readonly Contributions[];
  early: Contributions | undefined;
  fold: Folded;
}
const folded = new WeakMap<Stage, Map<Register, Remembered>>();

/** The same as last time, when the very same lists are to be put together. */
function foldOf(
  stage: Stage,
  register: Register,
  own: readonly Contributions[],
  early: Contributions | undefined,
  done: ReadonlySet<Contribution>,
): Folded {
  let known = folded.get(stage);
  if (!known) {
    known = new Map();
    folded.set(stage, known);
  }
  const last = known.get(register);
  const same =
    last !== undefined &&
    done.size === 0 &&
    last.early === early &&
    last.own.length === own.length &&
    last.own.every((list, at) => list === own[at]);
  if (same) return last.fold;
  const fold = foldAnew(register, listOf(stage, own, early, done));
  if (done.size === 0) known.set(register, { own, early, fold });
  else known.delete(register);
  return fold;
}

/** Takes bits of pads into the write of a register, each pad's once; into one that statements have begun, where there is one. */
function foldAnew(register: Register, list: Contributions, begun?: Joint): Folded {
  const change: Joint = begun ?? { register, mask: 0, value: 0, pads: [], explicit: false, from: [] };
  const shares = new Map<string, PadShare>(change.pads.map((one) => [one.pad, one]));
  const taken: Contribution[] = [];
  const owners: BitOwner[] = [];
  const clashes: Clash[] = [];
  let [mask, value] = [0, 0];
  for (const one of list) {
    if (!join(clashes, change, one.pad, one.mask, one.value)) continue;
    taken.push(one);
    change.setBy = one.setBy;
    change.clearedBy = one.clearedBy;
    const own = shares.get(one.pad);
    if (own) {
      own.value = (own.value | one.value) >>> 0;
      own.mask = (own.mask | one.mask) >>> 0;
    } else {
      const share = { pad: one.pad, value: one.value, mask: one.mask };
      shares.set(one.pad, share);
      change.pads.push(share);
    }
    mask = (mask | one.mask) >>> 0;
    value = ((value & ~one.mask) | one.value) >>> 0;
    owners.push({ low: one.low, bits: one.bits, pad: one.pad, field: one.field });
  }
  return { change, mask, value, taken, owners, clashes };
}

/** The pads that a step is for: of a pair of set and clear registers, those whose bits it sets or clears. */
function sharesOf(change: Joint, register: Register): PadShare[] {
  if (change.setBy === change.clearedBy) return change.pads;
  if (register === change.setBy) return change.pads.filter((one) => one.value !== 0);
  if (register === change.clearedBy) return change.pads.filter((one) => one.value !== one.mask);
  return change.pads;
}

/** What the stage does before every single write of its fields: a key is good for one write. */
function before(device: Device, stage: Stage, context: Context, work: Work): void {
  for (const statement of stage.beforeEach) {
    const batch: Batch = new Map();
    runStatement(device, stage, statement, [{ context, pads: [] }], batch, work);
    flush(device, stage, batch, work);
  }
}

/** Carries out gathered statements and notes what they decide. */
function flush(device: Device, stage: Stage, batch: Batch, work: Work): void {
  const changes = [...batch.values()].sort((a, b) => a.register.address - b.register.address);
  batch.clear();
  for (const change of changes) {
    const carryOut = (): void => {
      for (const step of stepsFor(change, work.machine, work.style))
        emit(work, operationOf(step, stage, [], change.scope));
    };
    if (change.register.access.kind === 'clauses')
      decideTouched(device, work, watchingWrites(work.machine, carryOut));
    else {
      carryOut();
      decide(work, change);
    }
  }
}

/** Notes what a statement has done by clauses: bits of state that it has written, wherever they are. */
function decideTouched(device: Device, work: Work, touched: ReadonlyMap<number, number>): void {
  for (const register of work.machine.map.all) {
    const { storage } = register;
    const bits = storage ? (touched.get(storage.word) ?? 0) >>> storage.shift : 0;
    if (bits === 0 || register.follows || isBookkeeping(device, register)) continue;
    const { known, value } = bitsOf(work.machine, register);
    const mask = (bits & fullMask(heldBits(register))) >>> 0;
    noteDecided(work, register, mask, value & known, (mask & ~known) >>> 0);
  }
}

function noteDecided(work: Work, store: Register, bits: number, held: number, open = 0): void {
  if (bits === 0) return;
  let entry = work.decided.get(store);
  if (!entry) {
    entry = { register: store, mask: 0, value: 0, open: 0 };
    work.decided.set(store, entry);
  }
  entry.mask = (entry.mask | bits) >>> 0;
  entry.value = ((entry.value & ~bits) | (held & bits)) >>> 0;
  entry.open = ((entry.open & ~bits) | open) >>> 0;
  touch(work, store, bits, held);
}

/** Notes which bits a statement has given which value. */
function decide(work: Work, change: Change): void {
  const { register, mask, value } = change;
  const { access } = register;
  const note = (store: Register, bits: number, held: number, open = 0): void =>
    noteDecided(work, store, bits, held, open);
  const store = storeOf(register);
  const written = change.whole ? value : value & mask;
  switch (access.kind) {
    case 'set':
    case 'clear':
      note(store, written, access.kind === 'set' ? written : 0);
      break;
    case 'toggle':
      note(store, written, 0, written);
      break;
    case 'set-clear': {
      const { set, clear, both } = halvesOf(register, written);
      const outcome = access.both;
      const ones = outcome === 'set' ? set : set & ~both;
      note(
        store,
        outcome === 'keep' ? (set | clear) & ~both : set | clear,
        ones,
        outcome === 'toggle' ? both : 0,
      );
      break;
    }
    case 'masked': {
      const half = register.bits / 2;
      const bits = change.whole ? value >>> half : mask;
      note(store, bits & fullMask(half), value);
      break;
    }
    case 'read-write':
    case 'alias':
    case 'write': {
      const whole = register.access.kind === 'write' && !change.whole;
      const plain = whole ? fullMask(register.bits) : mask;
      const flags = store.flagMask;
      const zeroFlags = store.zeroFlagMask;
      const untouched = whole ? register.reset & ~mask : 0;
      note(store, plain & ~flags & ~zeroFlags & ~store.readOnlyMask, value | untouched);
      note(store, (plain & flags & value) | (plain & zeroFlags & ~value), 0);
      break;
    }
    case 'act':
    case 'strobe':
    case 'key':
    case 'read':
    case 'internal':
    case 'clauses':
      break;
  }
}

/** A context that a statement is carried out in, and the pads that it is carried out for. */
interface Occasion {
  context: Context;
  pads: string[];
}

/**
 * Runs a stage's statements for the device, for each port in use or each planned pad. Statements about one register that
 * follow each other become one access; those about the last register are handed back, for fields may join them.
 */
function runStatements(device: Device, stage: Stage, planned: readonly PlannedPad[], work: Work): Batch {
  const batch: Batch = new Map();
  const occasions = occasionsOf(device, stage, planned);
  let target = '';
  for (const statement of stage.statements) {
    const next = statement.kind === 'assign' ? `${statement.target.block}.${statement.target.register}` : '';
    if (next !== target || next === '' || overwrites(device, statement, occasions, batch))
      flush(device, stage, batch, work);
    target = next;
    runStatement(device, stage, statement, occasions, batch, work);
  }
  return batch;
}

/** Whether a statement gives bits another value that one just before it has given one: a pulse, which must stay two accesses. */
function overwrites(
  device: Device,
  statement: Statement,
  occasions: readonly Occasion[],
  batch: Batch,
): boolean {
  if (statement.kind !== 'assign' || batch.size === 0) return false;
  return occasions.some(({ context }) =>
    assignmentsOf(device, statement, context).some(({ register, mask }) => {
      const change = batch.get(register);
      return change !== undefined && (change.whole === true || (change.mask & mask) !== 0);
    }),
  );
}

function runStatement(
  device: Device,
  stage: Stage,
  statement: Statement,
  occasions: readonly Occasion[],
  batch: Batch,
  work: Work,
): void {
  if (occasions.length === 0) return;
  if (statement.kind === 'wait') {
    const cycles = largest(
      occasions.map(({ context }) => evaluate(statement.cycles, device.scopeOf(context))),
    );
    const scope = occasions.flatMap((one) => one.pads);
    emit(work, { kind: 'wait', stage: stage.id, cycles, pads: [], scope });
    return;
  }
  if (statement.kind === 'await') {
    awaitAll(device, stage, statement, occasions, work);
    return;
  }
  for (const { context, pads } of occasions) {
    for (const { register, mask, value, whole } of assignmentsOf(device, statement, context)) {
      const change = jointFor(batch, register, true);
      change.scope = [...(change.scope ?? []), ...pads];
      change.whole = change.whole || whole;
      // Ones that act are added up; anything else must be the same for all.
      if (whole && ACTS.has(register.access.kind)) {
        change.mask = fullMask(register.bits);
        change.value = (change.value | value) >>> 0;
      } else join(work.clashes, change, pads[0] ?? '', mask, value);
    }
  }
}

const ACTS: ReadonlySet<Register['access']['kind']> = new Set(['set', 'clear', 'strobe', 'act', 'set-clear']);

interface Assignment {
  register: Register;
  mask: number;
  value: number;
  whole?: true;
}

/** What a statement writes in a context: one register, or the pieces of one that the bus reaches in pieces only. */
function assignmentsOf(
  device: Device,
  statement: Extract<Statement, { kind: 'assign' }>,
  context: Context,
): Assignment[] {
  const register = resolve(device, statement.target, context);
  if (!register) return [];
  const value = evaluate(statement.value, device.scopeOf(context));
  const bits = bitRange(device, statement.target, context);
  if (!bits) {
    if (!register.pieces)
      return [{ register, mask: fullMask(register.bits), value: value >>> 0, whole: true }];
    return register.pieces.map((piece, k) => ({
      register: piece,
      mask: fullMask(piece.bits),
      value: Math.floor(value / 2 ** (k * piece.bits)) % 2 ** piece.bits,
      whole: true,
    }));
  }
  return spread(register, bits.low, bits.width, value);
}

/** Bits of a register, or of those of its pieces that they lie in. */
function spread(register: Register, low: number, width: number, value: number): Assignment[] {
  if (!register.pieces) {
    const mask = maskOf(low, width);
    return [{ register, mask, value: ((value * 2 ** low) & mask) >>> 0 }];
  }
  return register.pieces.flatMap((piece, k) => {
    const from = Math.max(low, k * piece.bits);
    const to = Math.min(low + width, (k + 1) * piece.bits);
    if (from >= to) return [];
    return spread(piece, from - k * piece.bits, to - from, Math.floor(value / 2 ** (from - low)));
  });
}

function occasionsOf(device: Device, stage: Stage, all: readonly PlannedPad[]): Occasion[] {
  const planned = padsOf(stage, all);
  if (planned.length === 0) return [];
  switch (stage.per ?? 'device') {
    case 'device':
      return [{ context: {}, pads: planned.map(({ pad }) => pad.id) }];
    case 'pad':
      return planned
        .map(({ pad, fn }): Occasion => ({ context: { pad, fn }, pads: [pad.id] }))
        .filter(({ context }) => isFor(device, stage, context));
    case 'peripheral': {
      const used = new Map<string, Occasion>();
      for (const { pad, fn } of planned) {
        if (!fn) continue;
        const [id] = splitSignal(fn.signal);
        const known = used.get(id);
        if (known) used.set(id, { ...known, pads: [...known.pads, pad.id] });
        else used.set(id, { context: { pad, fn }, pads: [pad.id] });
      }
      return [...used.values()].filter(({ context }) => isFor(device, stage, context));
    }
    case 'port':
      return Object.keys(device.description.recipe.ports).flatMap((port) => {
        const pads = planned.filter(({ pad }) => pad.port === port).map(({ pad }) => pad.id);
        return pads.length > 0 && isFor(device, stage, { port }) ? [{ context: { port }, pads }] : [];
      });
  }
}

/** The pads that a stage is for: all, or those whose settings it names. */
const padsOf = ({ for: only }: Stage, planned: readonly PlannedPad[]): readonly PlannedPad[] =>
  only ? planned.filter(({ settings }) => accepts(only, settings.values)) : planned;

/** Whether a stage's condition holds for a port, pad or peripheral. */
const isFor = (device: Device, { where }: Stage, context: Context): boolean =>
  !where || where.holds(device.scopeOf(context));

function awaitAll(
  device: Device,
  stage: Stage,
  statement: Extract<Statement, { kind: 'await' }>,
  occasions: readonly Occasion[],
  work: Work,
): void {
  const awaited = new Map<Register, { mask: number; value: number; cycles: number; scope: string[] }>();
  for (const { context, pads } of occasions) {
    const whole = resolve(device, statement.target, context);
    if (!whole) continue;
    const bits = bitRange(device, statement.target, context) ?? { low: 0, width: whole.bits };
    const wanted = evaluate(statement.value, device.scopeOf(context));
    for (const { register, mask, value } of spread(whole, bits.low, bits.width, wanted)) {
      const entry = awaited.get(register) ?? { mask: 0, value: 0, cycles: 0, scope: [] };
      entry.mask = (entry.mask | mask) >>> 0;
      entry.value = (entry.value | value) >>> 0;
      entry.cycles = Math.max(entry.cycles, evaluate(statement.withinCycles, device.scopeOf(context)));
      append(entry.scope, pads);
      awaited.set(register, entry);
    }
  }
  for (const [register, entry] of awaited)
    emit(work, { kind: 'await', stage: stage.id, register, pads: [], ...entry });
}

const resolve = (device: Device, ref: RegisterRef, context: Context): Register | undefined =>
  device.registers.find(ref.block, ref.register, context);

function bitRange(
  device: Device,
  ref: RegisterRef,
  context: Context,
): { low: number; width: number } | undefined {
  if (!ref.low || !ref.high) return undefined;
  const low = evaluate(ref.low, device.scopeOf(context));
  return { low, width: evaluate(ref.high, device.scopeOf(context)) - low + 1 };
}

/** What the stages do around the write of a field: before it, before each single access, and behind it. */
export interface Around {
  before: Operation[];
  each: Operation[];
  behind: Operation[];
}

/**
 * The statements that the stages carry out for some pads before and after the stage that writes a field, in registers that
 * matter to it. They are worked out from the state that a machine is in, which stays as it is.
 */
export function around(
  device: Device,
  planned: readonly PlannedPad[],
  field: string,
  from: Machine,
  related: ReadonlySet<Register>,
): Around {
  const work: Work = {
    style: 'preserving',
    machine: copyMachine(from),
    operations: [],
    touched: new Map(),
    decided: new Map(),
    clashes: [],
    early: new Map(),
    doneEarly: new Set(),
    done: new Set(),
  };
  const found: Around = { before: [], each: [], behind: [] };
  const at = device.stages.findIndex((stage) => stage.fields?.includes(field));
  const take = (): Operation[] =>
    work.operations.splice(0).filter((one) => one.kind === 'wait' || related.has(one.register));
  for (const [position, stage] of device.stages.entries()) {
    flush(device, stage, runStatements(device, stage, planned, work), work);
    (position <= at ? found.before : found.behind).push(...take());
    if (position !== at) continue;
    for (const { pad } of planned) before(device, stage, { pad, port: pad.port }, work);
    append(found.each, take());
  }
  return found;
}
