import { listed } from '../base/text/listed';
import { registerTokens } from '../base/text/register-pattern';
import type { Derived } from '../derive/derive';
import type { Lowered } from '../derive/lower/lower';
import { bitWords } from '../derive/machine/mishap-text';
import { bitsOf } from '../derive/machine/state';
import { prove } from '../derive/simulate/proof';
import { eachFieldPlace } from '../device/field-places';
import { placeValue, type Slot, slotMask } from '../device/fields/fields';
import { type PlannedPad, wantedOf } from '../device/planned-pad';
import { fullMask, heldBits, type Register } from '../device/registers/types';
import { isOther, type PadReading, readBack, settingsText } from '../read-back/read-back';
import { placeText, type SourceFile } from './c/preprocess';
import type { Place } from './c/tokens';
import { type Finding, levelOf } from './finding';
import { type CodeStep, type Followed, type FollowOptions, followCode } from './follow';

/** Code that sets registers, held against a plan. */
export interface Review extends Followed {
  /** Each pad as the code leaves it. */
  readings: readonly PadReading[];
  /** Pads of the plan that end as planned. */
  asPlanned: number;
}

/**
 * Follows code from reset, runs what it writes on the register machine, and says what it comes to: for each pad, and step by step
 * where something is suspicious.
 */
export function reviewCode(
  derived: Derived,
  files: readonly SourceFile[],
  options: FollowOptions,
  newId: () => string,
): Review {
  const followed = followCode(derived.device, files, { alsoCalled: ownNames(derived), ...options });
  const readings = readBack(derived, (register) => contentsOf(followed, register), newId);
  const review = new Reviewer(derived, followed, readings, files[0]?.name ?? 'code');
  const asPlanned = readings.filter((one) => one.state === 'same').length;
  return { ...followed, findings: review.all(), readings, asPlanned };
}

/** What the plan, or the part, says that headers call registers. */
function ownNames({ plan, device }: Derived): (register: Register) => string[] {
  const patterns = [plan.code.registers, device.description.recipe.names?.registers];
  return ({ name }) =>
    patterns.flatMap((one) => (one === undefined ? [] : (registerTokens(one, name)?.join('') ?? [])));
}

/** What a register holds in the end; undefined where nothing is known of it. */
function contentsOf({ machine }: Followed, register: Register): number | undefined {
  if (!register.storage || register.follows?.kind === 'pads') return undefined;
  return bitsOf(machine, register).value;
}

class Reviewer {
  private readonly wrong: ReadonlyMap<string, PadReading>;
  private readonly planned: ReadonlyMap<string, PlannedPad>;
  /** The last step that changes bits of a pad. */
  private readonly last = new Map<string, CodeStep>();
  private readonly findings: Finding[] = [];

  constructor(
    private readonly derived: Derived,
    private readonly followed: Followed,
    private readonly readings: readonly PadReading[],
    private readonly firstFile: string,
  ) {
    this.planned = new Map(derived.planned.map((one) => [one.pad.id, one]));
    for (const step of followed.steps)
      for (const { pad, mask } of step.operation.pads)
        if ((mask & step.changed) !== 0) this.last.set(pad, step);
    this.wrong = new Map(readings.filter(isOther).map((one) => [one.pad, one]));
  }

  all(): Finding[] {
    // What was put right later is nothing to speak of.
    for (const one of this.followed.findings)
      if (one.rule !== 'ored-over' || one.pads.some((pad) => this.wrong.has(pad))) this.findings.push(one);
    this.onTheWay();
    this.besides();
    this.clobbered();
    this.differences();
    this.nothing();
    const { files } = this;
    return this.findings.sort(
      (a, b) =>
        files.indexOf(a.place.file) - files.indexOf(b.place.file) ||
        a.place.line - b.place.line ||
        order(a) - order(b),
    );
  }

  private get files(): string[] {
    return [...new Set([this.firstFile, ...this.findings.map((one) => one.place.file)])];
  }

  /** The pads on the way, as the proof looks at them. */
  private onTheWay(): void {
    const { derived, followed } = this;
    const { operations } = followed;
    const proof = prove(derived.device, derived.planned, this.lowered());
    const places = new Map(followed.steps.map((step) => [step.operation, step.place]));
    const told = new Set<string>();
    for (const { pad, kind, message, operation } of proof.failures) {
      const place = places.get(operations[operation ?? -1] as CodeStep['operation']);
      if ((kind !== 'on-the-way' && kind !== 'invariant') || !place || told.has(message)) continue;
      told.add(message);
      this.findings.push({
        rule: 'unsafe-order',
        place,
        message: this.named(pad, message.replace(`after ${placeText(place)} `, '')),
        pads: [pad],
      });
    }
  }

  /** What the code does, as if it had been generated; bits that are not the plan's are looked at elsewhere. */
  private lowered(): Lowered {
    const { operations, machine, steps } = this.followed;
    const registers = new Set(steps.map((step) => step.store));
    const decided = [...registers].map((register) => {
      const mask = (bitsOf(machine, register).known & fullMask(heldBits(register))) >>> 0;
      return { register, mask, value: 0, open: mask, back: 0, free: 0 };
    });
    return { style: 'from-reset', operations, image: this.derived.lowered.image, clashes: [], decided };
  }

  private named(pad: string, message: string): string {
    const name = this.derived.byPad.get(pad)?.[0]?.net.name;
    return name === undefined ? message : message.replace(pad, `${pad} (${name})`);
  }

  private who(pad: string): string {
    const name = this.derived.byPad.get(pad)?.[0]?.net.name;
    return name === undefined ? pad : `${name} (${pad})`;
  }

  /** What a slot shall hold: as planned, or as after reset. */
  private wanted(pad: string, field: string, slot: Slot): number {
    const planned = this.planned.get(pad);
    const end = planned && wantedOf(this.derived.device, planned).ends.find((one) => one.field === field);
    const mask = slotMask(slot);
    return ((end ? placeValue(slot, end.value) : slot.register.reset) & mask) >>> 0;
  }

  private end(slot: Slot): number {
    return (bitsOf(this.followed.machine, slot.register).value & slotMask(slot)) >>> 0;
  }

  private lastStep(register: Register, mask: number): CodeStep | undefined {
    return this.followed.steps.findLast((step) => step.store === register && (step.changed & mask) !== 0);
  }

  /** Values that are in the field beside theirs, or at the number of the pin instead of the first bit of its field. */
  private besides(): void {
    const places = [...eachFieldPlace(this.derived.device)].filter((one) => !one.fn);
    const neighbours = new Map<Register, typeof places>();
    for (const one of places) {
      const list = neighbours.get(one.slot.register);
      if (list) list.push(one);
      else neighbours.set(one.slot.register, [one]);
    }
    for (const { pad, field, slot } of places) {
      if (!this.wrong.has(pad)) continue;
      const wanted = this.wanted(pad, field, slot) >>> slot.low;
      if (this.end(slot) >>> slot.low === wanted) continue;
      const beside = neighbours
        .get(slot.register)
        ?.find(
          (one) =>
            one.field === field &&
            one.pad !== pad &&
            Math.abs(one.slot.low - slot.low) === slot.bits &&
            one.slot.bits === slot.bits &&
            this.end(one.slot) >>> one.slot.low === wanted &&
            this.wanted(one.pad, field, one.slot) >>> one.slot.low !== wanted,
        );
      const store = slot.through ?? slot.register;
      if (beside) {
        const step = this.lastStep(store, slotMask(beside.slot));
        if (!step) continue;
        const message = `${bitWords(slotMask(beside.slot), slot.register.bits)} of ${slot.register.name} get ${wanted}, which ${this.who(pad)} needs in ${bitWords(slotMask(slot), slot.register.bits)}: one field ${beside.slot.low > slot.low ? 'too high' : 'too low'}, at ${beside.pad}`;
        this.findings.push({
          rule: 'off-by-one-field',
          place: step.place,
          message,
          pads: [pad, beside.pad],
          register: slot.register,
          mask: slotMask(beside.slot),
        });
        continue;
      }
      const low = slot.low / slot.bits;
      if (slot.bits < 2 || low === 0 || !Number.isInteger(low)) continue;
      const mask = (fullMask(slot.bits) << low) >>> 0;
      const step = this.lastStep(store, mask);
      const added = step ? (step.changed & step.after & mask) >>> low : 0;
      if (!step || wanted === 0 || added !== wanted || step.changed >>> 0 !== (step.changed & mask) >>> 0)
        continue;
      const message = `${wanted} is written at bit ${low}, the number of the pin; the field of ${this.who(pad)} in ${slot.register.name} begins at bit ${slot.low}`;
      this.findings.push({
        rule: 'off-by-one-field',
        place: step.place,
        message,
        pads: [pad],
        register: slot.register,
        mask: slotMask(slot),
      });
    }
  }

  /** Steps that undo what an earlier one had done right. */
  private clobbered(): void {
    const places = new Map<Register, { pad: string; field: string; slot: Slot }[]>();
    for (const { pad, field, slot, fn } of eachFieldPlace(this.derived.device)) {
      if (fn || !this.wrong.has(pad) || !this.derived.byPad.has(pad)) continue;
      const store = slot.through ?? slot.register;
      places.set(store, [...(places.get(store) ?? []), { pad, field, slot }]);
    }
    const right = new Map<string, CodeStep>();
    for (const step of this.followed.steps) {
      const hit: { pad: string; by: CodeStep; mask: number }[] = [];
      for (const { pad, field, slot } of places.get(step.store) ?? []) {
        const mask = slotMask(slot);
        if ((step.changed & mask) === 0) continue;
        const key = `${pad} ${field} ${slot.low}`;
        const wanted = this.wanted(pad, field, slot);
        const before = right.get(key);
        if ((step.after & mask) >>> 0 === wanted) right.set(key, step);
        else if (before) {
          if (this.end(slot) !== wanted) hit.push({ pad, by: before, mask });
          right.delete(key);
        }
      }
      const [first] = hit;
      if (!first) continue;
      const pads = [...new Set(hit.map((one) => one.pad))];
      const mask = hit.reduce((sum, one) => (sum | one.mask) >>> 0, 0);
      const why =
        step.how.sign === '' ? ': it assigns the whole register, where only some bits are meant' : '';
      const message = `puts ${bitWords(mask, step.store.bits)} of ${step.store.name} back, which ${placeText(first.by.place)} has set for ${pads
        .slice(0, 4)
        .map((pad) => this.who(pad))
        .join(', ')}${pads.length > 4 ? ' and others' : ''}${why}`;
      this.findings.push({
        rule: 'clobbers-bits',
        place: step.place,
        message,
        pads,
        register: step.store,
        mask,
      });
    }
  }

  /** Pads that do not end as planned, each at the last step that had to do with it; those that none has, together. */
  private differences(): void {
    const { derived } = this;
    const alone: string[] = [];
    for (const { pad, state, net, meanings } of this.readings) {
      if (state === 'same' || state === 'reset') continue;
      const planned = this.planned.get(pad);
      const step = this.last.get(pad);
      if (!step) {
        if (planned) alone.push(pad);
        continue;
      }
      const { place } = step;
      const ends =
        state === 'meaningless'
          ? 'with bits that are no setting of it'
          : `as ${meanings[0]?.text ?? 'something else'}`;
      if (!planned) {
        const message = `${pad} is set up ${ends}; the plan has nothing on it`;
        this.findings.push({ rule: 'not-in-plan', place, message, pads: [pad] });
        continue;
      }
      const wanted = settingsText(derived.device, planned.settings, planned.fn);
      const who = net ? `${net.name} (${pad})` : `${pad}, which is not used,`;
      const message = `${who} ends ${ends}; planned is ${wanted}`;
      this.findings.push({ rule: 'differs-from-plan', place, message, pads: [pad] });
    }
    if (alone.length === 0) return;
    const names = listed(
      alone.map((pad) => this.who(pad)),
      8,
    );
    const message = `nothing sets up ${alone.length === 1 ? names : `${alone.length} pads of the plan: ${names}`}`;
    this.findings.push({ rule: 'not-set-up', place: this.begin(), message, pads: alone });
  }

  /** Where no access to a register is understood, that no error is found means nothing: it is one. */
  private nothing(): void {
    if (this.followed.steps.length > 0) return;
    const unread = this.followed.findings.filter(({ rule }) => rule === 'not-understood').length;
    // A plan for which nothing need be written is met by code that writes nothing, where all of it was read.
    if (unread === 0 && this.derived.lowered.operations.length === 0) return;
    const why =
      unread > 0
        ? `; ${unread} ${unread === 1 ? 'place is' : 'places are'} not understood`
        : '; it may call functions that are not among the files';
    const message = `no access to a register is understood in this code${why}. Give the files in which registers are written, or the function to begin at`;
    this.findings.push({ rule: 'nothing-followed', place: this.begin(), message, pads: [] });
  }

  private begin(): Place {
    return this.followed.steps[0]?.place ?? { file: this.firstFile, line: 1, column: 1 };
  }
}

const order = (one: Finding): number => ['error', 'warning', 'note'].indexOf(levelOf(one));
