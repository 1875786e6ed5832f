import { append, largest } from '../../base/lists';
import { evaluate } from '../../description/language/expression';
import { type HeldValue, heldValue, namesHeld, withinBits } from '../../description/language/held-value';
import type { Context } from '../../description/language/scope';
import type { RegisterRef, Statement } from '../../description/language/statement';
import { type Pad, type PadFunction, splitSignal } from '../../description/types';
import { isBookkeeping } from '../../device/bookkeeping';
import type { Device, Stage } from '../../device/device';
import { accepts } from '../../device/fields/excludes';
import type { PlannedPad } from '../../device/planned-pad';
import { fullMask, heldBits, maskOf, type Register } from '../../device/registers/types';
import { halvesOf, storeOf } from '../machine/machine';
import { bitsOf, watchingWrites } from '../machine/state';
import type { Change } from './steps';
import { stepsFor } from './strategies';
import { type Batch, emit, emitStep, join, jointFor, touch, type Work } from './work';

/** Steps of a stage as operations: for which ports, pads or peripherals they are carried out, and what they decide. */

/** What the stage does before every single write of its fields: a key is good for one write. */
export function before(device: Device, stage: Stage, context: Context, work: Work): void {
  work.held.each.clear();
  around(device, stage, stage.beforeEach, context, work);
}

/** And after it. */
export const after = (device: Device, stage: Stage, context: Context, work: Work): void =>
  around(device, stage, stage.afterEach, context, work);

function around(
  device: Device,
  stage: Stage,
  statements: readonly Statement[],
  context: Context,
  work: Work,
): void {
  for (const statement of statements) {
    const batch: Batch = new Map();
    runStatement(device, stage, statement, [{ context, pads: [] }], batch, work, work.held.each);
    flush(device, stage, batch, work);
  }
}

/** Carries out gathered statements and notes what they decide. */
export function flush(device: Device, stage: Stage, batch: Batch, work: Work): void {
  const changes = [...batch.values()].sort((a, b) => a.register.address - b.register.address);
  batch.clear();
  for (const change of changes) {
    const carryOut = (): void => {
      for (const step of stepsFor(change, work.machine, work.style))
        emitStep(work, step, stage, [], change.scope);
    };
    if (change.register.access.kind === 'clauses')
      decideTouched(device, work, watchingWrites(work.machine, carryOut), false);
    else {
      carryOut();
      decide(work, change);
    }
  }
}

/**
 * Notes what a statement has done by clauses, or with what was read: bits of state that it has written, wherever they are. `held`: bits
 * that are as they were before have been written back, and what nobody knows is what was read.
 */
function decideTouched(
  device: Device,
  work: Work,
  touched: ReadonlyMap<number, number>,
  held: boolean,
): void {
  for (const register of work.machine.map.all) {
    const { storage } = register;
    const bits = storage ? (touched.get(storage.word) ?? 0) >>> storage.shift : 0;
    if (bits === 0 || register.follows || isBookkeeping(device, register)) continue;
    const { known, value, was } = bitsOf(work.machine, register);
    const mask = (bits & fullMask(heldBits(register))) >>> 0;
    const unknown = (mask & ~known) >>> 0;
    const back = held ? (unknown & was & ~value) >>> 0 : 0;
    noteDecided(
      work,
      register,
      mask,
      value & known,
      held ? { back, free: unknown & ~back } : { open: unknown },
    );
  }
}

function noteDecided(
  work: Work,
  store: Register,
  bits: number,
  held: number,
  { open = 0, back = 0, free = 0 }: { open?: number; back?: number; free?: number } = {},
): void {
  if (bits === 0) return;
  let entry = work.decided.get(store);
  if (!entry) {
    entry = { register: store, mask: 0, value: 0, open: 0, back: 0, free: 0 };
    work.decided.set(store, entry);
  }
  entry.mask = (entry.mask | bits) >>> 0;
  entry.value = ((entry.value & ~bits) | (held & bits)) >>> 0;
  entry.open = ((entry.open & ~bits) | open) >>> 0;
  entry.back = ((entry.back & ~bits) | back) >>> 0;
  entry.free = ((entry.free & ~bits) | free) >>> 0;
  // What is as it was, or what only a read decides, is nothing that the plan gives a value.
  const image = work.touched.get(store);
  const left = (back | free) >>> 0;
  if (image && left !== 0) {
    image.mask = (image.mask & ~left) >>> 0;
    image.planned = ((image.planned & ~left) | (image.reset & left)) >>> 0;
  }
  if (left !== bits) touch(work, store, (bits & ~left) >>> 0, held);
}

/** Notes which bits a statement has given which value. */
export function decide(work: Work, change: Change): void {
  const { register, mask, value } = change;
  const { access } = register;
  const note = (store: Register, bits: number, held: number, open = 0): void =>
    noteDecided(work, store, bits, held, { open });
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
export function runStatements(
  device: Device,
  stage: Stage,
  planned: readonly PlannedPad[],
  work: Work,
  statements: readonly Statement[] = stage.statements,
): Batch {
  const batch: Batch = new Map();
  if (statements.length === 0) return batch;
  const occasions = occasionsOf(device, stage, planned);
  let target = '';
  for (const statement of statements) {
    const next = targetOf(statement, work.held.stage);
    if (next !== target || next === '' || overwrites(device, statement, occasions, batch))
      flush(device, stage, batch, work);
    target = next;
    runStatement(device, stage, statement, occasions, batch, work, work.held.stage);
  }
  return batch;
}

/** The register that a statement gives bits to, which others may join; none where it is an access of its own. */
function targetOf(statement: Statement, held: ReadonlyMap<string, number>): string {
  if (statement.kind !== 'assign' || isOfHeld(statement, held)) return '';
  return `${statement.target.block}.${statement.target.register}`;
}

/** Names of what was read, on an occasion. */
const heldKey = (name: string, { port, pad, fn }: Context): string =>
  `${name} ${pad?.id ?? ''} ${port ?? ''} ${fn?.signal ?? ''}`;

const isOfHeld = (
  { value }: Extract<Statement, { kind: 'assign' }>,
  held: ReadonlyMap<string, number>,
): boolean => {
  if (held.size === 0) return false;
  const names = new Set([...held.keys()].map((key) => key.slice(0, key.indexOf(' '))));
  return namesHeld(value, (name) => names.has(name));
};

/** The pads that a stage is carried out for together: all; or one pad, port or peripheral after the other. */
export function turnsOf(
  { inTurn, per = 'device' }: Stage,
  planned: readonly PlannedPad[],
): readonly (readonly PlannedPad[])[] {
  if (!inTurn || per === 'device') return [planned];
  const turns = new Map<string, PlannedPad[]>();
  for (const one of planned) {
    const { pad, fn } = one;
    const key =
      per === 'pad' ? pad.id : per === 'port' ? (pad.port ?? '') : fn ? splitSignal(fn.signal)[0] : '';
    turns.set(key, [...(turns.get(key) ?? []), one]);
  }
  return [...turns.values()];
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
  held: Map<string, number>,
): void {
  if (occasions.length === 0) return;
  if (statement.kind === 'read') {
    readAll(device, stage, statement, occasions, work, held);
    return;
  }
  if (statement.kind === 'assign' && isOfHeld(statement, held)) {
    writeAllHeld(device, stage, statement, occasions, work, held);
    return;
  }
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

/** Reads a register for each occasion, each register once; with a name, what it gives is held. */
function readAll(
  device: Device,
  stage: Stage,
  { target, name }: Extract<Statement, { kind: 'read' }>,
  occasions: readonly Occasion[],
  work: Work,
  held: Map<string, number>,
): void {
  const done = new Map<Register, { id: number | undefined; scope: string[] }>();
  for (const { context, pads } of occasions) {
    const register = resolve(device, target, context);
    if (!register) continue;
    let entry = done.get(register);
    if (!entry) {
      entry = { id: name === undefined ? undefined : ++work.held.count, scope: [] };
      done.set(register, entry);
    }
    append(entry.scope, pads);
    if (name !== undefined && entry.id !== undefined) held.set(heldKey(name, context), entry.id);
  }
  for (const [register, { id, scope }] of done)
    emit(work, {
      kind: 'read',
      register,
      ...(id === undefined ? {} : { holds: id }),
      stage: stage.id,
      pads: [],
      scope,
    });
}

/** Writes what is worked out of what was read, for each occasion, to each register once. */
function writeAllHeld(
  device: Device,
  stage: Stage,
  { target, value }: Extract<Statement, { kind: 'assign' }>,
  occasions: readonly Occasion[],
  work: Work,
  held: ReadonlyMap<string, number>,
): void {
  const writes = new Map<Register, { value: HeldValue; scope: string[] }>();
  for (const { context, pads } of occasions) {
    const register = resolve(device, target, context);
    if (!register) continue;
    const wanted = withinBits(
      heldValue(value, device.scopeOf(context), (name) => held.get(heldKey(name, context))),
      fullMask(register.bits),
    );
    const known = writes.get(register);
    if (!known) writes.set(register, { value: wanted, scope: [...pads] });
    else if (JSON.stringify(known.value) === JSON.stringify(wanted)) append(known.scope, pads);
    else
      work.clashes.push({
        register,
        mask: fullMask(register.bits),
        pads: [known.scope[0] ?? '', pads[0] ?? ''],
      });
  }
  for (const [register, { value: wanted, scope }] of writes) {
    const touched = watchingWrites(work.machine, () =>
      emit(work, { kind: 'write held', register, value: wanted, stage: stage.id, pads: [], scope }),
    );
    decideTouched(device, work, touched, true);
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

const bitsOfPads = (pads: readonly Pad[]): number => pads.reduce((mask, { bit = 0 }) => mask + 2 ** bit, 0);

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
    case 'peripheral':
      return gathered(
        device,
        stage,
        planned.flatMap(({ pad, fn }) => (fn ? [{ pad, fn, key: splitSignal(fn.signal)[0] }] : [])),
      );
    case 'signal': {
      const led = new Set(all.flatMap(({ fn }) => (fn ? [fn.signal] : [])));
      const free = planned.flatMap(({ pad }) =>
        (device.functionsByPad.get(pad.id) ?? []).flatMap((fn) =>
          led.has(fn.signal) || fn.mux === null ? [] : [{ pad, fn, key: fn.signal }],
        ),
      );
      return gathered(device, stage, free);
    }
    case 'port':
      return Object.keys(device.description.recipe.ports).flatMap((port) => {
        const inPort = planned.filter(({ pad }) => pad.port === port).map(({ pad }) => pad);
        if (inPort.length === 0 || !isFor(device, stage, { port })) return [];
        const context = { port, pads: bitsOfPads(inPort) };
        return [{ context, pads: inPort.map(({ id }) => id) }];
      });
  }
}

/** One occasion for each key, in the context of the first function that has it. */
function gathered(
  device: Device,
  stage: Stage,
  functions: readonly { pad: Pad; fn: PadFunction; key: string }[],
): Occasion[] {
  const occasions = new Map<string, Occasion>();
  for (const { pad, fn, key } of functions) {
    const known = occasions.get(key);
    if (known) known.pads.push(pad.id);
    else occasions.set(key, { context: { pad, fn }, pads: [pad.id] });
  }
  return [...occasions.values()].filter(({ context }) => isFor(device, stage, context));
}

/** The pads that a stage is for: all, or those whose settings it names. */
export const padsOf = ({ for: only }: Stage, planned: readonly PlannedPad[]): readonly PlannedPad[] =>
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

const resolve = (device: Device, { block, register, element }: RegisterRef, context: Context) =>
  device.registers.find(block, register, context, element && evaluate(element, device.scopeOf(context)));

function bitRange(
  device: Device,
  ref: RegisterRef,
  context: Context,
): { low: number; width: number } | undefined {
  if (!ref.low || !ref.high) return undefined;
  const low = evaluate(ref.low, device.scopeOf(context));
  return { low, width: evaluate(ref.high, device.scopeOf(context)) - low + 1 };
}
