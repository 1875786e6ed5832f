import { defaultOf, meantBy } from '../../description/meanings';
import type { LineWord } from '../../description/recipe';
import type { Mode, PadSettings, SettingKey } from '../../description/settings';
import { settingKind } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import { titleOn } from '../../device/available';
import type { Device } from '../../device/device';
import { type Between, concerns } from '../../device/fields/between';
import { saidAlike } from '../../device/fields/excludes';
import type { Slot } from '../../device/fields/fields';
import { type PlannedPad, wantedOf } from '../../device/planned-pad';
import type { Bits, Machine, Start } from '../machine/state';
import { createMachine, untouchedBits } from '../machine/state';
import { type FieldStates, isBroken } from './broken-invariants';
import {
  drives,
  edgesOf,
  type FieldMeaning,
  fieldOf,
  type Meaning,
  type Meanings,
  meaningsOf,
} from './meanings';

/** A pad's field where it is read. */
interface WatchedField {
  id: string;
  slots: Slot[];
}

/** The fields of a pad, the words of memory that they lie in, and what they hold at the start. */
interface PadView {
  fields: WatchedField[];
  words: { word: number; field: number }[];
  start: { states: Bits[]; text: string };
}

/** A pad that is looked at after every operation. */
export interface WatchedPad {
  pad: Pad;
  planned?: PlannedPad;
  view: PadView;
  /** What its fields hold now. */
  current: Bits[];
  /** What has changed, one list a step. */
  steps: { field: number; bits: Bits }[][];
  /** The operation of each step; one in which something arrives while it waits has several. */
  operations: number[];
  /** When the last step was seen. */
  moment: number;
  /** The steps as text: what happens to pads alike has the same verdict. */
  path: string;
}

/** What happened to a pad that must not happen; `step` counts the pad's states, 0 being the start and 1 the first change. */
export interface Verdict {
  step: number;
  message: string;
  kind: 'on-the-way' | 'invariant';
}

/** The fields of a pad that its settings decide, where they take effect. */
function viewOf(device: Device, machine: Machine, pad: Pad, fn: PadFunction | undefined): PadView {
  const ids = new Set(device.rules.map((rule) => rule.field));
  for (const invariant of device.invariants) for (const id of invariant.fields) ids.add(id);
  const fields: WatchedField[] = [];
  for (const id of ids) {
    const slots = device.slotsOf(id, pad, fn);
    if (slots.length > 0) fields.push({ id, slots });
  }
  // What selects the pad on the side of a signal, whoever's that is.
  const chosen = new Set(
    meaningsOf(device, pad).list.flatMap(({ signal, fields: said }) => (signal ? [...said.keys()] : [])),
  );
  if (chosen.size > 0)
    for (const each of device.functionsByPad.get(pad.id) ?? [])
      for (const { field } of device.rules) {
        const id = fieldOf(field, each);
        const slots = chosen.has(id) ? device.slotsOf(field, pad, each) : [];
        if (slots.length > 0 && !fields.some((known) => known.id === id)) fields.push({ id, slots });
      }
  const words: PadView['words'] = [];
  fields.forEach(({ slots }, field) => {
    for (const { register } of slots) {
      if (register.storage) words.push({ word: register.storage.word, field });
    }
  });
  const states = fields.map(({ slots }) => fieldBits(machine, slots));
  const text = states.map(({ known, value, was }) => `${known},${value},${was}`).join(';');
  return { fields, words, start: { states, text } };
}

/** What a pad's fields hold at the start is the same in every proof of a device. */
const views = new WeakMap<Device, Map<string, PadView>>();

/** `machine` may be left out where only the words are wanted: one as it is at the start is made then. */
export function watchPad(
  device: Device,
  machine: Machine | undefined,
  start: Start,
  pad: Pad,
  planned?: PlannedPad,
): WatchedPad {
  let known = views.get(device);
  if (!known) {
    known = new Map();
    views.set(device, known);
  }
  const fn = planned?.fn;
  const key = `${start} ${pad.id} ${fn?.signal ?? ''} ${fn?.mux ?? ''}`;
  let view = known.get(key);
  if (!view) {
    view = viewOf(device, machine ?? createMachine(device.registers, start), pad, fn);
    known.set(key, view);
  }
  return {
    pad,
    ...(planned ? { planned } : {}),
    view,
    current: [...view.start.states],
    steps: [],
    operations: [],
    moment: -1,
    path: '',
  };
}

/** Looks at a field of a pad, and notes what it holds when that is something else; what is seen at one moment is one step. */
export function lookAt(
  machine: Machine,
  one: WatchedPad,
  field: number,
  operation: number,
  moment: number,
): void {
  const slots = one.view.fields[field]?.slots;
  const before = one.current[field];
  if (!slots || !before) return;
  const bits = fieldBits(machine, slots);
  if (bits.known === before.known && bits.value === before.value && bits.was === before.was) return;
  one.current[field] = bits;
  let step = one.steps.at(-1);
  if (!step || one.moment !== moment) {
    step = [];
    one.moment = moment;
    one.steps.push(step);
    one.operations.push(operation);
    one.path += '|';
  }
  step.push({ field, bits });
  one.path += `${field}:${bits.known},${bits.value},${bits.was};`;
}

/** What a field holds, put together out of its places. */
export function fieldBits(machine: Machine, slots: readonly Slot[]): Bits {
  const field: Bits = { known: 0, value: 0, was: 0 };
  for (const { register, low, bits: width, shift } of slots) {
    const { storage } = register;
    if (!storage) continue;
    const from = storage.shift + low;
    const mask = width >= 32 ? -1 : (1 << width) - 1;
    field.known |= (((machine.known[storage.word] ?? 0) >>> from) & mask) << shift;
    field.value |= (((machine.value[storage.word] ?? 0) >>> from) & mask) << shift;
    field.was |= ((untouchedBits(machine, storage.word) >>> from) & mask) << shift;
  }
  return field;
}

/** The states that a pad has been in, the first being the start. */
function statesOf(one: WatchedPad): FieldStates[] {
  const now = [...one.view.start.states];
  const asMap = (): FieldStates => new Map(one.view.fields.map(({ id }, field) => [id, now[field] as Bits]));
  const states = [asMap()];
  for (const step of one.steps) {
    for (const { field, bits } of step) now[field] = bits;
    states.push(asMap());
  }
  return states;
}

const verdicts = new WeakMap<Device, Map<string, Verdict | null>>();
const MOST_REMEMBERED = 20_000;

/** The stage of an operation, by its position. */
export type StageOf = (operation: number | undefined) => string | undefined;

/** What is wrong with the way a pad has come; undefined when nothing is. */
export function judge(device: Device, one: WatchedPad, stageOf: StageOf): Verdict | undefined {
  if (one.steps.length === 0) return undefined;
  let known = verdicts.get(device);
  if (!known || known.size > MOST_REMEMBERED) {
    known = new Map();
    verdicts.set(device, known);
  }
  const meanings = meaningsOf(device, one.pad);
  const { between } = device;
  const limited = between.some(({ classes, where }) => classes || where);
  const local = device.invariants.length > 0 || limited ? one.pad.id : '';
  const stages = between.some((entry) => entry.stages) ? one.operations.map(stageOf).join(' ') : '';
  const key = `${meanings.key}#${local}#${stages}#${settingsKey(device, one.planned)}#${one.view.start.text}#${one.path}`;
  let verdict = known.get(key);
  if (verdict === undefined) {
    verdict = judgeAnew(device, one, statesOf(one), meanings, stageOf) ?? null;
    known.set(key, verdict);
  }
  return verdict ?? undefined;
}

const settingsKeys = new WeakMap<PlannedPad, string>();

function settingsKey(device: Device, planned: PlannedPad | undefined): string {
  if (!planned) return '';
  let key = settingsKeys.get(planned);
  if (key === undefined) {
    const { settings, fn } = planned;
    const line = fn && device.lineOf(fn.signal)?.direction;
    key = `${Object.values(settings.values).join(' ')} ${line} ${settings.mux} ${fn?.signal ?? ''}`;
    settingsKeys.set(planned, key);
  }
  return key;
}

/** What a pad shall be, in the form of a meaning. */
interface Goal {
  mode?: Mode;
  line?: LineWord;
  signal?: string;
  values: PadSettings['values'];
  /** Values that the plan gives to fields, as they stand at the end. */
  end: FieldStates;
  contributed: ReadonlySet<string>;
  noticing: Meanings['noticing'];
  /** What its settings may be for a moment. */
  between: readonly Between[];
  /** The stage whose operation has led to the state that is looked at. */
  stage?: string;
}

function goalOf(
  device: Device,
  pad: Pad,
  planned: PlannedPad | undefined,
  states: readonly FieldStates[],
  { noticing }: Meanings,
): Goal {
  const end = states.at(-1) ?? new Map<string, Bits>();
  const scope = device.scopeOf({ pad, fn: planned?.fn });
  const between = device.between.filter((entry) => concerns(entry, pad, planned?.settings.values, scope));
  if (!planned) return { values: {}, end, contributed: new Set(), noticing, between };
  const line = planned.fn && device.lineOf(planned.fn.signal)?.direction;
  const contributed = new Set(wantedOf(device, planned).ends.map((one) => one.field));
  return {
    mode: planned.settings.values.mode as Mode,
    ...(line ? { line } : {}),
    ...(planned.fn ? { signal: planned.fn.signal } : {}),
    values: planned.settings.values,
    end,
    contributed,
    noticing,
    between,
  };
}

function judgeAnew(
  device: Device,
  one: WatchedPad,
  states: readonly FieldStates[],
  meanings: Meanings,
  stageOf: StageOf,
): Verdict | undefined {
  const goal = goalOf(device, one.pad, one.planned, states, meanings);
  const start = states[0] as FieldStates;
  // What depends on more than the meaning, which code is selected or which line, is looked at each time.
  const calm = defaultOf(device.description.recipe, 'trigger');
  const suspicious = meanings.list.filter(
    (now) =>
      now.mode === 'function' ||
      (now.applies.has('trigger') && now.values.trigger !== calm) ||
      faultOf(device, goal, undefined, now, start) !== undefined,
  );
  const possible = meanings.list.filter((meaning) => fits(meaning, start, goal));
  // A signal that has chosen the pad for sure has it, and nothing else.
  const taking = possible.filter(
    (meaning) => meaning.signal !== undefined && isSurely(device, meaning, start),
  );
  const fitting = taking.length > 0 ? taking : possible;
  // A start that means nothing, as with reset values that select what the pad has not, is as good as an idle one.
  const befores = fitting.length > 0 || isDriven(meanings, start) ? fitting : [undefined];
  const widths = new Map([...device.fields].map(([id, field]) => [id, field.width]));
  const outer = device.scopeOf({ pad: one.pad });
  for (let step = 1; step < states.length; step++) {
    const state = states[step] as FieldStates;
    const before = states[step - 1] as FieldStates;
    for (const invariant of device.invariants) {
      if (isBroken(invariant, start, before, state, widths, outer)) {
        const why = invariant.why ? ` (${invariant.why})` : '';
        return { step, kind: 'invariant', message: `breaks "${invariant.text}"${why}` };
      }
    }
    goal.stage = stageOf(one.operations[step - 1]);
    const message =
      meaningFault(device, goal, befores, meanings.list, suspicious, state) ??
      strayDrive(goal, meanings, start, state);
    if (message !== undefined) return { step, kind: 'on-the-way', message };
  }
  return undefined;
}

/** Whether bits can be those of one of the values that select something of a pad. */
const selected = ({ values }: FieldMeaning, known: number, value: number): boolean =>
  values === undefined || values.some((one) => (known & (value ^ one)) === 0);

/** Whether a state can be one that a meaning gives. */
function fits(meaning: Meaning, state: FieldStates, goal: Goal): boolean {
  for (const [id, said] of meaning.fields) {
    const bits = state.get(id);
    if (!bits) continue;
    if (said.any) {
      // A function that only its code tells from another use is on only while the code is one of the pad's.
      if (meaning.alike && !selected(said, bits.known, bits.value)) return false;
      continue;
    }
    // What selects is judged apart for the pad's own plan; of other pads' lines it must be this pad's number to concern it.
    const isPlanned = meaning.signal === undefined || meaning.signal === goal.signal;
    if (said.selects && isPlanned && goal.contributed.has(id)) continue;
    if ((bits.known & (bits.value ^ said.value)) !== 0) return false;
  }
  return true;
}

/** Whether all fields of a meaning are known to hold what it says. */
const isSurely = (device: Device, { fields }: Meaning, state: FieldStates): boolean =>
  [...fields].every(([id, { value, any, whole }]) => {
    const bits = state.get(id);
    return any || !bits || ((whole ?? widthMask(device, id)) & ~(bits.known & ~(bits.value ^ value))) === 0;
  });

/** Fields that hold, at least in part, what they held at the start. */
interface Kept {
  id: string;
  bits: Bits;
  kept: number;
}

const keptIn = (state: FieldStates): Kept[] => {
  const list: Kept[] = [];
  for (const [id, bits] of state) {
    const kept = bits.was & ~bits.known;
    if (kept !== 0) list.push({ id, bits, kept });
  }
  return list;
};

/**
 * Whether one state of the chip can have given a meaning at the start and another one now. Only what is as it was joins the two;
 * that the one fits the start, and the other what is known now, is looked at before.
 */
function agree(before: Meaning, now: Meaning, fields: readonly Kept[]): boolean {
  if (now.signal !== undefined && before.signal !== now.signal && wasSelected(before, now, fields))
    return false;
  for (const { id, bits, kept } of fields) {
    const said = now.fields.get(id);
    const earlier = before.fields.get(id);
    if (!said || !earlier || earlier.any) continue;
    if (said.any) {
      const value = (bits.value & bits.known) | (kept & earlier.value);
      if (now.alike && !selected(said, bits.known | kept, value)) return false;
    } else if ((kept & (earlier.value ^ said.value)) !== 0) return false;
  }
  return true;
}

/**
 * Whether a function that is on now, selected by a register that nothing has touched, was so before: then the pad was the function's, and
 * nothing else.
 */
const wasSelected = (before: Meaning, now: Meaning, fields: readonly Kept[]): boolean =>
  [...now.fields].every(([id, { any, value, whole }]) => {
    const earlier = before.fields.get(id);
    if (earlier || any) return !earlier || earlier.any || earlier.value === value;
    return whole === undefined || fields.some((kept) => kept.id === id && kept.kept === whole);
  });

/** Whether the part says that no bit tells two meanings apart. */
const isAlike = (device: Device, a: Meaning, b: Meaning): boolean =>
  device.alike.length > 0 &&
  saidAlike(device.alike, { values: a.values, mux: null }, { values: b.values, mux: null }) !== undefined;

function meaningFault(
  device: Device,
  goal: Goal,
  befores: readonly (Meaning | undefined)[],
  list: readonly Meaning[],
  suspicious: readonly Meaning[],
  state: FieldStates,
): string | undefined {
  let kept: Kept[] | undefined;
  for (const now of suspicious) {
    if (!fits(now, state, goal)) continue;
    kept ??= keptIn(state);
    for (const before of befores) {
      if (before && !agree(before, now, kept)) continue;
      const fault = faultOf(device, goal, before, now, state);
      if (fault === undefined) continue;
      // What no bit tells apart is as well the other, and nothing is wrong with that.
      const harmless = list.some(
        (other) =>
          other !== now && isAlike(device, now, other) && !faultOf(device, goal, before, other, state),
      );
      if (!harmless) return fault;
    }
  }
  return undefined;
}

/**
 * What is wrong with a pad being this at the moment, when it was that before and the plan wants it to be something: a setting
 * may have the value it had or the one it gets, and may drive, select and interrupt only as one of both.
 */
function faultOf(
  device: Device,
  goal: Goal,
  before: Meaning | undefined,
  now: Meaning,
  state: FieldStates,
): string | undefined {
  return (
    (now.mode === 'output' ? outputFault(device, goal, before, now) : undefined) ??
    (now.mode === 'function' ? functionFault(device, goal, before, now, state) : undefined) ??
    analogFault(goal, before, now) ??
    pullFault(device, goal, before, now) ??
    triggerFault(device, goal, before, now, state) ??
    otherFault(device, goal, before, now)
  );
}

function analogFault(goal: Goal, before: Meaning | undefined, now: Meaning): string | undefined {
  if (now.mode !== 'analog' || goal.mode === 'analog' || among(goal, 'mode', 'analog')) return undefined;
  return before && (before.mode === 'analog' || drives(before)) ? undefined : 'is analog for a moment';
}

/** Whether the description lets a setting of the pad have a value for a moment, in the stage that has brought it about. */
const among = ({ between, stage }: Goal, key: SettingKey, value: string | undefined): boolean =>
  between.some(
    (entry) =>
      entry.key === key &&
      (entry.values.has('*') || (value !== undefined && entry.values.has(value))) &&
      (!entry.stages || (stage !== undefined && entry.stages.has(stage))),
  );

const goalDrives = (goal: Goal): boolean =>
  goal.mode === 'output' || (goal.mode === 'function' && (goal.line === 'out' || goal.line === 'both'));

function outputFault(
  device: Device,
  goal: Goal,
  before: Meaning | undefined,
  now: Meaning,
): string | undefined {
  // A pad that was driven before may stay driven until it is what it shall be.
  // What may be an output for a moment may have any level then; an output itself must have its own.
  if ((before && drives(before)) || (goal.mode !== 'output' && among(goal, 'mode', 'output')))
    return undefined;
  if (isReleased(device, now)) return undefined;
  for (const key of ['level', 'outputType'] as const) {
    const value = now.values[key];
    if (value === undefined || !now.applies.has(key) || among(goal, key, value)) continue;
    if (goal.mode === 'output' && goal.values[key] === value) continue;
    if (goal.mode === 'output')
      return `is driven ${value} before it is set ${goal.values[key] ?? 'as planned'}`;
    return `is driven ${value} by its latch for a moment; planned is ${goal.mode ?? 'nothing'}`;
  }
  if (goal.mode === 'output') return undefined;
  return `is driven by its latch for a moment; planned is ${goal.mode ?? 'nothing'}`;
}

/** An open-drain output whose latch is high drives nothing. */
const isReleased = (device: Device, { values, applies }: Meaning): boolean =>
  values.level === 'high' &&
  applies.has('outputType') &&
  meantBy(device.description.recipe, 'outputType', values.outputType) === 'open-drain';

const isAway = (device: Device, field: string): boolean => device.fields.get(field)?.needsFunction === true;

function functionFault(
  device: Device,
  goal: Goal,
  before: Meaning | undefined,
  now: Meaning,
  state: FieldStates,
): string | undefined {
  if ((before && drives(before)) || among(goal, 'mode', 'function')) return undefined;
  const wasFunction = before?.mode === 'function';
  if (goal.mode !== 'function') {
    if (wasFunction || !drives(now)) return undefined;
    return `is driven by ${now.signal ?? 'a function'} for a moment; planned is ${goal.mode ?? 'nothing'}`;
  }
  if (now.signal !== undefined && now.signal !== goal.signal)
    return wasFunction || !drives(now) ? undefined : `is driven by ${now.signal} for a moment`;
  let all = true;
  for (const [id, said] of now.fields) {
    // An input that is not yet led to its peripheral is no function that is on.
    if (!said.any || !goal.contributed.has(id) || said.listens || (!drives(now) && isAway(device, id)))
      continue;
    const bits = state.get(id);
    const wanted = goal.end.get(id);
    if (!bits || !wanted) continue;
    const right = (~bits.known & wanted.known) === 0 && ((bits.value ^ wanted.value) & wanted.known) === 0;
    all &&= right;
    // As long as a function was on before, the one that it was may stay on.
    if (!right && !wasFunction) return `its function is switched on before field ${id} is right`;
  }
  // The function's code says which line it is.
  if (all && now.line !== goal.line) return undefined;
  if (!drives(now) || !all) return undefined;
  const outputType = now.values.outputType;
  if (!now.applies.has('outputType') || outputType === undefined || among(goal, 'outputType', outputType))
    return undefined;
  if (goal.values.outputType === outputType) return undefined;
  return `its function drives ${outputType} before it is set ${goal.values.outputType}`;
}

function pullFault(
  device: Device,
  goal: Goal,
  before: Meaning | undefined,
  now: Meaning,
): string | undefined {
  const value = now.values.pull;
  if (value === undefined || !now.applies.has('pull')) return undefined;
  const none = defaultOf(device.description.recipe, 'pull');
  if (value === none || value === goal.values.pull || value === before?.values.pull) return undefined;
  // One that was pulled or driven before may be so in another way until it is what it shall be.
  if (before && (drives(before) || (before.applies.has('pull') && before.values.pull !== none)))
    return undefined;
  // A pull towards the level that it will be driven to does no harm.
  const towards = goal.values.level === 'high' ? 'up' : 'down';
  if (goal.mode === 'output' && meantBy(device.description.recipe, 'pull', value) === towards)
    return undefined;
  // One that keeps the level as it is pulls nowhere.
  if (meantBy(device.description.recipe, 'pull', value) === 'keeper') return undefined;
  if (among(goal, 'pull', value)) return undefined;
  return `is pulled ${value} for a moment; planned is pull ${goal.values.pull ?? 'as it is'}`;
}

const widthMask = (device: Device, field: string): number => {
  const width = device.fields.get(field)?.width ?? 0;
  return width >= 32 ? -1 : (1 << width) - 1;
};

function triggerFault(
  device: Device,
  goal: Goal,
  before: Meaning | undefined,
  now: Meaning,
  state: FieldStates,
): string | undefined {
  const value = now.values.trigger;
  const none = defaultOf(device.description.recipe, 'trigger');
  if (value === undefined || value === none || !now.applies.has('trigger')) return undefined;
  if (among(goal, 'trigger', value)) return undefined;
  // One that could interrupt before may go on doing so; bits that nothing has touched are not the plan's doing.
  if (before?.values.trigger !== undefined && before.applies.has('trigger') && before.values.trigger !== none)
    return undefined;
  const wanted = goal.values.trigger;
  // An edge that the line noticed before, for whomever, is nothing new.
  const untouched = (field: string): boolean =>
    (~(state.get(field)?.was ?? -1) & widthMask(device, field)) === 0;
  const edges = (one: string | undefined): readonly string[] =>
    edgesOf(meantBy(device.description.recipe, 'trigger', one));
  const fresh = edges(value).filter((edge) => !goal.noticing.get(edge)?.some(untouched));
  const senses = device.rules.filter(
    (rule) => rule.from.includes('trigger') && !now.fields.get(rule.field)?.selects,
  );
  if (fresh.length === 0 || senses.every((rule) => untouched(rule.field))) return undefined;
  const allowed = wanted === none ? [] : edges(wanted);
  if (fresh.some((edge) => !allowed.includes(edge)))
    return `interrupts on ${value} for a moment; planned is ${wanted ?? 'nothing'}`;
  for (const rule of device.rules) {
    const said = now.fields.get(rule.field);
    if (!rule.from.includes('trigger') || !said?.selects || !goal.contributed.has(rule.field)) continue;
    const bits = state.get(rule.field);
    const end = goal.end.get(rule.field);
    if (!bits || !end) continue;
    if ((~bits.known & end.known) !== 0 || ((bits.value ^ end.value) & end.known) !== 0)
      return `its interrupt is enabled before field ${rule.field} is right`;
  }
  return undefined;
}

/** Some settings may be anything for a moment, unless the description lists what they may be. */
function otherFault(
  device: Device,
  goal: Goal,
  before: Meaning | undefined,
  now: Meaning,
): string | undefined {
  for (const key of new Set(goal.between.map((entry) => entry.key))) {
    if (!settingKind(key).anyBetween) continue;
    const value = now.values[key];
    if (value === undefined) continue;
    if (!now.applies.has(key) || value === goal.values[key] || value === before?.values[key]) continue;
    if (!among(goal, key, value)) return `has ${titleOn(device, key)} ${value} for a moment`;
  }
  return undefined;
}

/** A function that may drive a planned pad in the end though the plan says something else: a register that selects the pad may do so. */
export function takenBy(
  device: Device,
  machine: Machine,
  { pad, fn }: PlannedPad,
): { signal: string; slot: Slot } | undefined {
  for (const { signal, fields } of meaningsOf(device, pad).list) {
    if (signal === undefined || signal === fn?.signal) continue;
    const taking = device.functionsByPad.get(pad.id)?.find((each) => each.signal === signal);
    let selecting: Slot | undefined;
    const mayBe = [...fields].every(([id, { value, any }]) => {
      const away = device.rules.find(({ field }) => taking && fieldOf(field, taking) === id)?.field;
      const slots = device.slotsOf(away ?? id, pad, away === undefined ? undefined : taking);
      if (away !== undefined) selecting = slots[0];
      const bits = fieldBits(machine, slots);
      return any || (bits.known & (bits.value ^ value)) === 0;
    });
    if (mayBe && selecting) return { signal, slot: selecting };
  }
  return undefined;
}

/** Whether the fields that make a pad drive say that it does. */
const isDriven = ({ driving }: Meanings, state: FieldStates): boolean =>
  driving.length > 0 &&
  driving.every(({ field, values }) => {
    const bits = state.get(field);
    return bits !== undefined && bits.known !== 0 && values.has(bits.value & bits.known);
  });

/**
 * A state that means nothing, but in which the fields that make a pad drive say that it does: then its level and its output type
 * count, and an undriven pad must have been driven before.
 */
function strayDrive(
  goal: Goal,
  meanings: Meanings,
  start: FieldStates,
  state: FieldStates,
): string | undefined {
  if (meanings.list.some((one) => fits(one, state, goal))) return undefined;
  if (!isDriven(meanings, state)) return undefined;
  const wasIdle = meanings.list.some((one) => !drives(one) && fits(one, start, goal));
  if (!wasIdle || goalDrives(goal)) return undefined;
  return `is driven for a moment; planned is ${goal.mode ?? 'nothing'}`;
}
