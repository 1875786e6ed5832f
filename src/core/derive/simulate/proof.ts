import { hexText } from '../../base/text/hex';
import type { PadSettings } from '../../description/settings';
import { sameSettings } from '../../description/settings';
import type { Pad } from '../../description/types';
import { isBookkeeping, selectingRegisters } from '../../device/bookkeeping';
import { clausesOf } from '../../device/clauses/clauses';
import { decodePad } from '../../device/decode';
import type { Device } from '../../device/device';
import { type Slot, slotMask } from '../../device/fields/fields';
import { type PlannedPad, wantedOf } from '../../device/planned-pad';
import { fullMask, heldBits, type Register, type RegisterMap, shownMask } from '../../device/registers/types';
import type { Lowered } from '../lower/lower';
import { bitWords, mishapText, operationText } from '../machine/mishap-text';
import type { Operation } from '../machine/operations';
import { perform } from '../machine/perform';
import type { Mishap } from '../machine/state';
import {
  bitsOf,
  createMachine,
  type Machine,
  resetImage,
  type Start,
  untouchedBits,
  watchingWrites,
} from '../machine/state';
import { RaisedFlags } from './raised-flags';
import { changedWords, likelyWords, note, sameOrder, type Trace, traceFor } from './trace';
import { fieldBits, judge, lookAt, takenBy, type WatchedPad, watchPad } from './watch';

export type FailureKind =
  /** The hardware did not take an operation, or may not have. */
  | 'lost'
  /** Waiting may not end; the code then stops, and no pad is set up. */
  | 'times-out'
  /** Bits that are not the plan's change. */
  | 'stray'
  /** The pad goes through a state that it must not. */
  | 'on-the-way'
  | 'invariant'
  | 'ends-wrong';

/** Why a pad is not proven: what happens, where, and because of what. */
export interface ProofFailure {
  pad: string;
  kind: FailureKind;
  message: string;
  /** Position in the operations, from 0; absent where no single operation is to blame. */
  operation?: number;
  stage?: string;
  /** The register it is about, and which of its bits. */
  register?: Register;
  mask?: number;
}

export interface Proof {
  /** From which states of the chip it was shown. */
  start: Start;
  /** Pads planned. */
  pins: number;
  /** Pads of which all was shown. */
  proven: number;
  /** For each pad that is not proven the first cause. */
  failures: ProofFailure[];
  /** Register bits outside the plan that the operations change. */
  strays: string[];
}

/**
 * Runs the operations on the register machine, from reset or from every state at once as the style demands, and holds the end
 * against the plan: every planned bit known and right, every other bit as it was. On the way no operation may be lost, no
 * waiting may end without result, and no pad may go through a state that it must not.
 *
 * All operations are always run. With an earlier proof, a pad that was proven then, is planned as it was, and whose words of memory
 * go through the very same states in the same order, is not looked at again: what is said of it follows from nothing else.
 */
export function prove(
  device: Device,
  planned: readonly PlannedPad[],
  lowered: Lowered,
  earlier?: Proof,
): Proof {
  const start: Start = lowered.style === 'from-reset' ? 'reset' : 'every';
  const trace = traceFor(device, lowered);
  const known = earlier && memories.get(earlier);
  const memory =
    known && known.trace.start === trace.start && known.device === device && sameOrder(known.trace, trace)
      ? known
      : undefined;
  const touches = (one: PlannedPad, words: ReadonlySet<number>): boolean =>
    wordsOf(device, start, one).some((word) => words.has(word));
  let looked = planned;
  if (memory) {
    const likely = likelyWords(memory.trace, trace);
    looked = planned.filter((one) => !memory.proven.has(one) || touches(one, likely));
  }
  let run = new Run(device, planned, lowered, start, looked, trace);
  run.all();
  // What was thought to be untouched is held against what happened.
  if (memory) {
    const seen = new Set(looked);
    const strangers = changedWords(memory.trace, trace);
    const missed = planned.filter((one) => !seen.has(one) && touches(one, strangers));
    if (missed.length > 0) {
      looked = [...looked, ...missed];
      trace.words.clear();
      run = new Run(device, planned, lowered, start, looked, trace);
      run.all();
    }
  }
  ends.set(lowered, run.machine);
  run.checkSteps();
  // What a pad means may hang on the fields of functions that it does not carry, which are not among its own words.
  const movable = [...device.fields.values()].some((field) => field.needsFunction);
  for (const one of lowered.style === 'from-reset' && movable ? planned : looked) run.checkEnd(one);
  const proof: Proof = {
    start,
    pins: planned.length,
    proven: planned.filter((one) => !run.failures.has(one.pad.id)).length,
    failures: planned.flatMap((one) => run.failures.get(one.pad.id) ?? []),
    strays: [...run.strays],
  };
  memories.set(proof, {
    device,
    trace,
    proven: new Set(planned.filter((one) => !run.failures.has(one.pad.id))),
  });
  return proof;
}

/** What is remembered of a proof: the pads of which all was shown, and what happened to memory on the way. */
interface Memory {
  device: Device;
  proven: ReadonlySet<PlannedPad>;
  trace: Trace;
}
const memories = new WeakMap<Proof, Memory>();

const wordsOfPads = new WeakMap<PlannedPad, { device: Device; start: Start; words: readonly number[] }>();

/** Words of memory in which the fields of a pad lie. */
function wordsOf(device: Device, start: Start, one: PlannedPad): readonly number[] {
  const known = wordsOfPads.get(one);
  if (known?.device === device && known.start === start) return known.words;
  const words = [
    ...new Set(watchPad(device, undefined, start, one.pad, one).view.words.map(({ word }) => word)),
  ];
  wordsOfPads.set(one, { device, start, words });
  return words;
}

const ends = new WeakMap<Lowered, Machine>();

/** The machine after all operations, as the proof has left it; not to be changed. */
export function endOf(device: Device, lowered: Lowered): Machine {
  let end = ends.get(lowered);
  if (!end) {
    end = createMachine(device.registers, lowered.style === 'from-reset' ? 'reset' : 'every');
    for (const operation of lowered.operations) perform(end, operation);
    ends.set(lowered, end);
  }
  return end;
}

/** The words of memory, and the pads whose fields lie in them, each with the bits of its fields. */
type PadsByWord = Map<number, { pad: Pad; mask: number }[]>;
const unplannedPads = new WeakMap<Device, PadsByWord>();

/** Non-shared fields of every pad, for those that nobody plans. */
function padsByWord(device: Device): PadsByWord {
  let found = unplannedPads.get(device);
  if (!found) {
    found = new Map();
    const own = [...device.fields.values()].filter((field) => !field.shared && !field.needsFunction);
    for (const pad of device.description.pads) {
      if (pad.kind !== 'io' || pad.port === undefined) continue;
      for (const field of own) {
        if (!device.rules.some((rule) => rule.field === field.id)) continue;
        for (const slot of device.slotsOf(field.id, pad)) {
          const { storage } = slot.register;
          if (!storage) continue;
          const list = found.get(storage.word) ?? [];
          const entry = list.find((one) => one.pad === pad);
          const mask = slotMask(slot) << storage.shift;
          if (entry) entry.mask |= mask;
          else list.push({ pad, mask });
          found.set(storage.word, list);
        }
      }
    }
    unplannedPads.set(device, found);
  }
  return found;
}

const followers = new WeakMap<RegisterMap, Int32Array>();

/** What follows other registers, or the world, is as they are: bits by word that may change at any time. */
function followersOf(map: RegisterMap): Int32Array {
  let bits = followers.get(map);
  if (!bits) {
    bits = new Int32Array(map.words);
    for (const one of map.all) {
      const { follows, storage } = one;
      if (!storage) continue;
      const shown = follows || one.returns ? -1 : shownMask(one) << storage.shift;
      bits[storage.word] = (bits[storage.word] ?? 0) | shown;
    }
    const { anyAccess, anyWrite } = clausesOf(map);
    for (const { to } of [...anyAccess, ...anyWrite])
      bits[to.word] = (bits[to.word] ?? 0) | (fullMask(to.bits) << to.shift);
    followers.set(map, bits);
  }
  return bits;
}

/** Bits of a word of memory. */
interface WordBits {
  word: number;
  mask: number;
}

/** Bits of a register in memory. Reserved ones that every write must give a value get it with every write. */
const wordBits = ({ storage, always }: Register, mask: number): WordBits[] =>
  storage ? [{ word: storage.word, mask: (mask | (always?.mask ?? 0)) << storage.shift }] : [];

const bitsOfPlans = new WeakMap<PlannedPad, { device: Device; bits: WordBits[] }>();

/** The bits that a planned pad is about, where they are written and where they take effect. */
function bitsOfPlan(device: Device, one: PlannedPad): readonly WordBits[] {
  const known = bitsOfPlans.get(one);
  if (known?.device === device) return known.bits;
  const { contributions, ends } = wantedOf(device, one);
  const bits = [
    ...contributions.flatMap(({ register, mask }) => wordBits(register, mask)),
    ...ends.flatMap(({ slots }) => slots.flatMap((slot) => wordBits(slot.register, slotMask(slot)))),
  ];
  bitsOfPlans.set(one, { device, bits });
  return bits;
}

/** One run of operations, and what it brings to light. */
class Run {
  readonly failures = new Map<string, ProofFailure>();
  readonly strays = new Set<string>();
  /** Bits by word that the plan may change. */
  private readonly allowed: Int32Array;
  private readonly reported: Int32Array;
  private readonly watched = new Map<string, WatchedPad>();
  private readonly byWord = new Map<number, { one: WatchedPad; field: number }[]>();
  private readonly everyPad: readonly string[];
  private readonly plannedPads: ReadonlySet<string>;
  readonly machine: Machine;
  /** Counts the times that somebody has looked. */
  private moment = 0;

  constructor(
    private readonly device: Device,
    private readonly planned: readonly PlannedPad[],
    private readonly lowered: Lowered,
    private readonly start: Start,
    looked: readonly PlannedPad[],
    private readonly trace: Trace,
  ) {
    this.machine = createMachine(device.registers, start);
    this.allowed = followersOf(device.registers).slice();
    this.reported = new Int32Array(device.registers.words);
    this.everyPad = planned.map((one) => one.pad.id);
    this.plannedPads = new Set(this.everyPad);
    this.allow();
    for (const one of looked) this.watch(watchPad(device, this.machine, start, one.pad, one));
  }

  private readonly stageOf = (index: number | undefined): string | undefined =>
    index === undefined ? undefined : this.lowered.operations[index]?.stage;

  private watch(one: WatchedPad): void {
    this.watched.set(one.pad.id, one);
    for (const { word, field } of one.view.words) {
      const list = this.byWord.get(word);
      if (list) list.push({ one, field });
      else this.byWord.set(word, [{ one, field }]);
    }
  }

  /** Which bits may change: those of the plan, where they are written and where they arrive, and those that statements decide. */
  private allow(): void {
    const { allowed } = this;
    const open = ({ word, mask }: WordBits): void => {
      allowed[word] = (allowed[word] ?? 0) | mask;
    };
    for (const one of this.planned) for (const bits of bitsOfPlan(this.device, one)) open(bits);
    for (const { register, mask } of this.lowered.decided)
      for (const bits of wordBits(register, mask)) open(bits);
  }

  /** Carries out every operation and looks after each. */
  all(): void {
    const { machine } = this;
    const flags = new RaisedFlags(this.device, this.planned, machine);
    for (const [index, operation] of this.lowered.operations.entries()) {
      machine.onArrival = () => this.lookAround(index, operation);
      const carryOut = (): void => {
        for (const mishap of perform(machine, operation)) this.noteMishap(index, operation, mishap);
      };
      if (flags.isIdle) carryOut();
      else {
        const touched = watchingWrites(machine, carryOut);
        for (const { pad, message } of flags.after(machine, touched, operationText(operation, index)))
          this.fail(pad, { kind: 'on-the-way', message, operation: index }, operation);
      }
      this.lookAround(index, operation);
    }
    machine.onArrival = undefined;
    // What is still under way arrives after the last operation.
    for (const one of this.watched.values()) {
      const verdict = judge(this.device, one, this.stageOf);
      if (!verdict) continue;
      const index = one.operations[verdict.step - 1] ?? -1;
      const operation = this.lowered.operations[index];
      const where = operation ? `after ${operationText(operation, index)} ` : '';
      const message = `${where}${one.pad.id} ${verdict.message}`;
      this.fail(one.pad.id, { kind: verdict.kind, message, operation: index }, operation);
    }
  }

  private noteMishap(index: number, operation: Operation, mishap: Mishap): void {
    const message = mishapText(operation, index, mishap);
    const late = mishap.reason === 'times-out';
    const kind = late ? ('times-out' as const) : ('lost' as const);
    const { register, mask } = mishap;
    for (const pad of late ? this.everyPad : this.padsOf(operation, mask))
      this.fail(pad, { kind, message, operation: index, register, mask }, operation);
  }

  /** The planned pads that an operation is for; of a field's write those with a share in the bits. */
  private padsOf(operation: Operation, mask: number): readonly string[] {
    if (operation.pads.length > 0) {
      const hit = operation.pads.filter((one) => (one.mask & mask) !== 0);
      return (hit.length > 0 ? hit : operation.pads).map((one) => one.pad);
    }
    return operation.scope ?? this.everyPad;
  }

  private fail(pad: string, failure: Omit<ProofFailure, 'pad'>, operation?: Operation): void {
    if (this.failures.has(pad)) {
      const other = this.failures.get(pad) as ProofFailure;
      if ((other.operation ?? Number.POSITIVE_INFINITY) <= (failure.operation ?? Number.POSITIVE_INFINITY))
        return;
    }
    this.failures.set(pad, { pad, ...failure, ...(operation ? { stage: operation.stage } : {}) });
  }

  /** Looks at the words that have changed: at bits that are nobody's, and at the pads whose fields they are. */
  private lookAround(index: number, operation: Operation): void {
    const { machine } = this;
    this.moment++;
    for (let at = 0; at < machine.changed.count; at++) {
      const word = machine.changed.list[at] as number;
      note(this.trace, word, index, machine);
      this.lookForStrays(word, index, operation);
      const touched = ~untouchedBits(machine, word);
      if (touched !== 0) {
        for (const { pad, mask } of padsByWord(this.device).get(word) ?? []) {
          if ((touched & mask) !== 0 && !this.plannedPads.has(pad.id))
            this.lookAtOther(pad, index, operation);
        }
      }
      for (const { one, field } of this.byWord.get(word) ?? [])
        lookAt(machine, one, field, index, this.moment);
    }
    machine.changed.clear();
  }

  private lookForStrays(word: number, index: number, operation: Operation): void {
    const { machine } = this;
    let touched = ~untouchedBits(machine, word) & ~(this.allowed[word] ?? 0) & ~(this.reported[word] ?? 0);
    if (touched === 0) return;
    const register = this.device.registers.all.find((one) => one.storage?.word === word);
    if (!register?.storage || isBookkeeping(this.device, register)) return;
    if (this.lowered.style === 'from-reset') {
      // Given the value that it has anyway a bit is not changed; one that has no reset value is.
      const reset = resetImage(this.device.registers);
      const held = (machine.known[word] ?? 0) & (reset.known[word] ?? 0);
      touched &= ~(held & ~((machine.value[word] ?? 0) ^ (reset.value[word] ?? 0)));
    }
    if (touched === 0) return;
    this.reported[word] = (this.reported[word] ?? 0) | touched;
    const mask = (touched >>> register.storage.shift) >>> 0;
    this.strays.add(register.name);
    const message = `${operationText(operation, index)} changes bits ${hexText(mask, register.bits)} of ${register.name}, which are not the plan's`;
    for (const pad of this.padsOf(operation, -1))
      this.fail(pad, { kind: 'stray', message, operation: index, register, mask }, operation);
  }

  /** A pad that nobody plans must stay as it is, also on the way. */
  private lookAtOther(pad: Pad, index: number, operation: Operation): void {
    // Its bits are reported as strays unless a statement owns them; then at least it must not start to drive.
    const fresh = createMachine(this.device.registers, this.start);
    const one = watchPad(this.device, fresh, this.start, pad);
    for (const { field } of one.view.words) lookAt(this.machine, one, field, index, this.moment);
    const verdict = judge(this.device, one, this.stageOf);
    if (!verdict) return;
    const message = `after ${operationText(operation, index)} ${pad.id}, which is not planned, ${verdict.message}`;
    for (const other of this.padsOf(operation, -1))
      this.fail(other, { kind: verdict.kind, message, operation: index }, operation);
  }

  /** Whether the bits that steps of the recipe decide, and no pad, end as the last of the steps says. */
  checkSteps(): void {
    const selecting = selectingRegisters(this.device);
    for (const { register, mask, value, open, back, free } of this.lowered.decided) {
      if (isBookkeeping(this.device, register) || selecting.has(register)) continue;
      const held = bitsOf(this.machine, register);
      // What was read and written back is as it was before the first operation.
      const same = held.was & ~held.known & ~held.value;
      const right = (held.known & ~((held.value ^ value) & ~open) & ~back) | (same & back) | free;
      if ((mask & ~right) === 0) continue;
      const wrong = (mask & ~right & ~this.plannedIn(register)) >>> 0;
      if (wrong === 0) continue;
      const single = (wrong & (wrong - 1)) === 0;
      const message = `${bitWords(wrong, register.bits)} of ${register.name} ${single ? 'does' : 'do'} not end as the steps of the recipe leave ${single ? 'it' : 'them'}`;
      for (const pad of this.everyPad) this.fail(pad, { kind: 'stray', message, register, mask: wrong });
    }
  }

  /** The bits of a register that some pad plans. */
  private plannedIn(register: Register): number {
    let mask = 0;
    for (const one of this.planned)
      for (const contribution of wantedOf(this.device, one).contributions)
        if (contribution.register === register) mask |= contribution.mask;
    return mask;
  }

  /** Whether every planned bit is known and right, and, where reset values are known, means what was planned. */
  checkEnd(one: PlannedPad): void {
    const wrong = this.wrongField(one);
    if (wrong) {
      const { slot, id, wanted } = wrong;
      const bits = fieldBits(this.machine, this.device.slotsOf(id, one.pad, one.fn));
      const held =
        (bits.was & ~bits.known) !== 0
          ? 'stays as it was, since nothing writes it'
          : (bits.known | 0) === 0
            ? 'ends as something that cannot be said'
            : `ends as ${(bits.value & bits.known) >>> 0}`;
      const message = `field ${id} of ${one.pad.id} in ${slot.register.name} ${held}; planned is ${wanted}`;
      this.fail(one.pad.id, {
        kind: 'ends-wrong',
        message,
        register: slot.register,
        mask: slotMask(slot),
      });
      return;
    }
    const taken = takenBy(this.device, this.machine, one);
    if (taken) {
      const { signal, slot } = taken;
      const mask = slotMask(slot);
      const message = `${one.pad.id} may be driven by ${signal} in the end: nothing writes ${bitWords(mask, slot.register.bits)} of ${slot.register.name}, which may select the pad`;
      this.fail(one.pad.id, { kind: 'ends-wrong', message, register: slot.register, mask });
      return;
    }
    if (this.lowered.style !== 'from-reset' || this.failures.has(one.pad.id)) return;
    let unknown = 0;
    const contents = (register: Register): number => {
      const bits = bitsOf(this.machine, register);
      unknown |= ~bits.known & fullMask(heldBits(register));
      return bits.value;
    };
    const found = decodePad(this.device, one.pad, contents);
    // Bits without a reset value leave open what the pad means beyond what is planned.
    if (unknown !== 0 || found.some((settings) => sameSettings(settings, one.settings))) return;
    const message = `${one.pad.id} ends as ${settingWords(found[0])}; planned is ${settingWords(one.settings)}`;
    this.fail(one.pad.id, { kind: 'ends-wrong', message });
  }

  private wrongField(one: PlannedPad): { id: string; slot: Slot; wanted: number } | undefined {
    for (const { field, value, slots } of wantedOf(this.device, one).ends) {
      for (const slot of slots) {
        const bits = fieldBits(this.machine, [slot]);
        const mask = (slot.bits >= 32 ? -1 : (1 << slot.bits) - 1) << slot.shift;
        if ((mask & ~bits.known) !== 0 || ((bits.value ^ value) & mask) !== 0)
          return { id: field, slot, wanted: value };
      }
    }
    return undefined;
  }
}

function settingWords(settings: PadSettings | undefined): string {
  if (!settings) return 'something that means nothing';
  const words = Object.entries(settings.values).map(([key, value]) =>
    key === 'mode' ? value : `${key} ${value}`,
  );
  if (settings.mux !== null) words.push(`mux code ${settings.mux}`);
  return words.join(', ');
}
