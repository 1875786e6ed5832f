import type { Pad } from '../device/types';
import type { PadSettings } from '../settings';
import { type PlannedPad, wantedOf } from './contributions';
import { decodePad, sameSettings } from './decode';
import type { Device } from './device';
import { type Slot, slotMask } from './fields';
import type { Lowered } from './lower';
import { bitsOf, createMachine, type Machine, type Mishap, perform, type Start } from './machine';
import { bitWords, mishapText, operationText } from './mishap-text';
import type { Operation } from './operations';
import { hexText } from './register-text';
import { fullMask, heldBits, type Register, type RegisterMap } from './registers';
import { fieldBits, judge, lookAt, type WatchedPad, watchPad } from './watch';

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
 */
export function prove(device: Device, planned: readonly PlannedPad[], lowered: Lowered): Proof {
  const start: Start = lowered.style === 'from-reset' ? 'reset' : 'every';
  const run = new Run(device, planned, lowered, start, createMachine(device.registers, start));
  run.all();
  ends.set(lowered, run.machine);
  run.checkSteps();
  for (const one of planned) run.checkEnd(one);
  return {
    start,
    pins: planned.length,
    proven: planned.filter((one) => !run.failures.has(one.pad.id)).length,
    failures: planned.flatMap((one) => run.failures.get(one.pad.id) ?? []),
    strays: [...run.strays],
  };
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
    for (const { follows, storage } of map.all) if (follows && storage) bits[storage.word] = -1;
    followers.set(map, bits);
  }
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
  /** Counts the times that somebody has looked. */
  private moment = 0;

  constructor(
    private readonly device: Device,
    private readonly planned: readonly PlannedPad[],
    private readonly lowered: Lowered,
    private readonly start: Start,
    readonly machine: Machine,
  ) {
    this.allowed = followersOf(device.registers).slice();
    this.reported = new Int32Array(device.registers.words);
    this.everyPad = planned.map((one) => one.pad.id);
    this.allow();
    for (const one of planned) this.watch(watchPad(device, machine, this.start, one.pad, one));
  }

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
    const open = (register: Register, mask: number): void => {
      const { storage } = register;
      // Reserved bits that every write must give a value get it.
      const all = mask | (register.always?.mask ?? 0);
      if (storage) this.allowed[storage.word] = (this.allowed[storage.word] ?? 0) | (all << storage.shift);
    };
    for (const one of this.planned) {
      const { contributions, ends } = wantedOf(this.device, one);
      for (const { register, mask } of contributions) open(register, mask);
      for (const { slots } of ends) for (const slot of slots) open(slot.register, slotMask(slot));
    }
    for (const { register, mask } of this.lowered.decided) open(register, mask);
  }

  /** Carries out every operation and looks after each. */
  all(): void {
    const { machine } = this;
    for (const [index, operation] of this.lowered.operations.entries()) {
      machine.onArrival = () => this.lookAround(index, operation);
      for (const mishap of perform(machine, operation)) this.noteMishap(index, operation, mishap);
      this.lookAround(index, operation);
    }
    machine.onArrival = undefined;
    // What is still under way arrives after the last operation.
    for (const one of this.watched.values()) {
      const verdict = judge(this.device, one);
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
    for (const word of machine.changed) {
      this.lookForStrays(word, index, operation);
      const touched = ~(machine.was[word] ?? 0);
      if (touched !== 0) {
        for (const { pad, mask } of padsByWord(this.device).get(word) ?? []) {
          if ((touched & mask) !== 0 && !this.watched.has(pad.id)) this.lookAtOther(pad, index, operation);
        }
      }
      for (const { one, field } of this.byWord.get(word) ?? [])
        lookAt(machine, one, field, index, this.moment);
    }
    machine.changed.clear();
  }

  private lookForStrays(word: number, index: number, operation: Operation): void {
    const { machine } = this;
    let touched = ~(machine.was[word] ?? 0) & ~(this.allowed[word] ?? 0) & ~(this.reported[word] ?? 0);
    if (touched === 0) return;
    const register = this.device.registers.all.find(
      (one) => one.storage?.word === word && one.access.kind !== 'internal',
    );
    if (!register?.storage) return;
    if (this.lowered.style === 'from-reset') {
      const reset = register.reset << register.storage.shift;
      touched &= ~((machine.known[word] ?? 0) & ~((machine.value[word] ?? 0) ^ reset));
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
    const verdict = judge(this.device, one);
    if (!verdict) return;
    const message = `after ${operationText(operation, index)} ${pad.id}, which is not planned, ${verdict.message}`;
    for (const other of this.padsOf(operation, -1))
      this.fail(other, { kind: verdict.kind, message, operation: index }, operation);
  }

  /** Whether the bits that steps of the recipe decide, and no pad, end as the last of the steps says. */
  checkSteps(): void {
    const planned = new Map<Register, number>();
    for (const one of this.planned) {
      for (const { register, mask } of wantedOf(this.device, one).contributions)
        planned.set(register, (planned.get(register) ?? 0) | mask);
    }
    for (const { register, mask, value, open } of this.lowered.decided) {
      const own = mask & ~(planned.get(register) ?? 0);
      const held = bitsOf(this.machine, register);
      const right = held.known & ~((held.value ^ value) & ~open);
      const wrong = (own & ~right) >>> 0;
      if (wrong === 0) continue;
      const single = (wrong & (wrong - 1)) === 0;
      const message = `${bitWords(wrong, register.bits)} of ${register.name} ${single ? 'does' : 'do'} not end as the steps of the recipe leave ${single ? 'it' : 'them'}`;
      for (const pad of this.everyPad) this.fail(pad, { kind: 'stray', message, register, mask: wrong });
    }
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
    key === 'use' ? value : `${key} ${value}`,
  );
  if (settings.mux !== null) words.push(`mux code ${settings.mux}`);
  return words.join(', ');
}
