import type { AccessAction } from '../../derive/accessors/accessors';
import type { Derived } from '../../derive/derive';
import { type Expression, ExpressionError, evaluate } from '../../description/language/expression';
import type { Verb } from '../../plan/model/attachments';
import type { Act } from '../attached/types';
import { checkpoint, restored } from '../engine/checkpoint';
import {
  act,
  advance,
  drivePeripheral,
  isInitialised,
  note,
  run as perform,
  stepOperation,
  switchOn,
} from '../engine/engine';
import { nextTime } from '../engine/events';
import { accessorFor, call } from '../engine/firmware';
import { unmask } from '../engine/interrupts';
import type { SetupOptions } from '../engine/setup';
import type { StartFrom } from '../engine/start';
import type { Bench } from '../engine/sync';
import { type Answer, holds, type Scope, sinceNow, wasAlways, watchedBy } from './conditions';
import { namesIn, type Target } from './names';
import { parseScript, type Script, type Step } from './parse';
import { timeText } from './time-text';

/** What came of an expectation. */
export interface Check {
  line: number;
  text: string;
  passed: boolean;
  /** What was instead, where it did not pass. */
  message: string;
  /** Nanoseconds since power-up: when it was decided, or when it first was not so. */
  time: number;
  nets: readonly string[];
}

/** A step that could not be done. */
export interface Fault {
  line: number;
  text: string;
  message: string;
}

/** A play, as far as it has come. */
export interface Play {
  bench: Bench;
  checks: Check[];
  faults: Fault[];
  /** Expectations about the whole play, looked at when it ends. */
  whole: { step: Step }[];
}

/** A play that has gone through so many operations and events is taken to go on for ever, unless other is said. */
const MOST_STEPS = 10_000_000;

/** From now on so many operations and events may be worked through. */
export function allowSteps({ state }: Bench, count = MOST_STEPS): void {
  state.limit = state.steps + count;
}

const isOver = ({ state }: Bench): boolean => state.steps >= state.limit;
/** How long is waited for something, unless the script says. In nanoseconds. */
const LONGEST_WAIT = 10e9;

/** What the chip is before the first step of a script. */
export function startOf(derived: Derived, script: Script, before: readonly string[] = []): StartFrom {
  const [first] = script.steps;
  if (first?.form !== 'start') return { kind: 'reset' };
  const { values } = first;
  const registers = values.get('registers');
  if (registers instanceof Map) return { kind: 'values', values: registers as Map<string, number> };
  if (values.get('seed') !== undefined) return { kind: 'random', seed: values.get('seed') as number };
  if (values.get('trial') !== undefined) return afterTrial(derived, values.get('trial') as string, before);
  return values.get('from') === 'any' ? { kind: 'any' } : { kind: 'reset' };
}

/** What registers hold after another trial; one that starts, by whatever way, from itself starts from reset. */
function afterTrial(derived: Derived, id: string, before: readonly string[]): StartFrom {
  const trial = derived.plan.trials?.find((one) => one.id === id);
  if (!trial || before.includes(id)) return { kind: 'reset' };
  const script = parseScript(trial.lines, namesIn(derived));
  const play = playScript(derived, script, {}, [...before, id]);
  return { kind: 'machine', machine: play.bench.state.machine };
}

/** Plays a script from power-up to its end. */
export function playScript(
  derived: Derived,
  script: Script,
  options: SetupOptions = {},
  before: readonly string[] = [],
): Play {
  const bench = switchOn(derived, startOf(derived, script, before), options);
  allowSteps(bench, options.mostSteps);
  const play: Play = { bench, checks: [], faults: [], whole: [] };
  const saysWhen = script.steps.some(
    ({ form }) => form === 'initialise' || form === 'step' || form === 'stage',
  );
  if (!saysWhen) initialise(bench);
  runSteps(play, script.steps, () => undefined);
  finish(play);
  return play;
}

/** Decides what was expected of the whole play. */
export function finish(play: Play): void {
  for (const { step } of play.whole) {
    const never = step.values.get('when') === 'never';
    const { is, instead, time } = wasAlways(play.bench, step.values, never);
    addCheck(play, step, is, instead, time);
  }
  play.whole = [];
}

function initialise(bench: Bench): void {
  while (stepOperation(bench)) {
    // One after the other.
  }
}

/** Does steps one after the other; false when the play has to end. */
export function runSteps(play: Play, steps: readonly Step[], scope: Scope): boolean {
  for (const step of steps) {
    if (play.bench.state.steps >= play.bench.state.limit) {
      play.faults.push({
        line: step.line,
        text: step.text,
        message:
          'goes on for too long: the play ends here, after as many operations and events as one may have',
      });
      return false;
    }
    if (step.form === 'repeat') {
      const name = step.values.get('with');
      for (let i = 0; i < (step.values.get('count') as number); i++) {
        const inner: Scope = (one) => (one === name ? i : scope(one));
        if (!runSteps(play, step.steps ?? [], inner)) return false;
      }
      continue;
    }
    const fault = attempt(play, step, scope);
    if (fault !== undefined) play.faults.push({ line: step.line, text: step.text, message: fault });
  }
  return true;
}

function attempt(play: Play, step: Step, scope: Scope): string | undefined {
  try {
    return runStep(play, step, scope);
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    return error.message;
  }
}

/** Does one step; says what is wrong with it, or undefined. */
export function runStep(play: Play, step: Step, scope: Scope): string | undefined {
  const { bench } = play;
  const { values, text, line } = step;
  const { state, setup } = bench;
  switch (step.form) {
    case 'set':
      return setNet(bench, step);
    case 'assign':
      return assign(
        bench,
        values.get('target') as Target,
        evaluate(values.get('value') as Expression, scope),
        text,
        line,
      );
    case 'volts':
      return onPart(
        bench,
        values.get('net') as Target,
        ['analog-source'],
        { verb: 'set', value: values.get('volts') as number },
        step,
      );
    case 'percent':
      return onPart(
        bench,
        values.get('net') as Target,
        ['potentiometer'],
        { verb: 'set', value: (values.get('percent') as number) / 100 },
        step,
      );
    case 'sine':
    case 'noise':
      return onPart(
        bench,
        values.get('net') as Target,
        ['analog-source'],
        {
          verb: step.form,
          value: values.get('volts') as number,
          amplitude: values.get('amplitude') as number,
          rateHertz: values.get('hertz') as number | undefined,
        } as Act,
        step,
      );
    case 'press':
    case 'release':
    case 'tip':
      return contact(bench, step.form, step);
    case 'turn':
      return onPart(
        bench,
        values.get('net') as Target,
        ['encoder'],
        { verb: 'turn', value: values.get('clicks') as number },
        step,
      );
    case 'read': {
      const target = values.get('target') as Target;
      const accessor = accessorFor(bench, 'read', target.nets);
      if (!accessor) return `${target.name} is nothing that the firmware reads`;
      call(bench, accessor, 0, text, line);
      return undefined;
    }
    case 'wait':
      note(bench, { time: state.time, kind: 'act', text, line });
      advance(bench, state.time + (values.get('time') as number));
      return undefined;
    case 'wait-for': {
      note(bench, { time: state.time, kind: 'act', text, line });
      const within = (values.get('within') as number | undefined) ?? LONGEST_WAIT;
      const { is, instead } = awaitCondition(bench, step, scope, within);
      return is === true ? undefined : `waited ${timeText(within)} in vain: ${instead}`;
    }
    case 'expect':
      expect(play, step, scope);
      return undefined;
    case 'start':
      return undefined;
    case 'initialise':
      initialise(bench);
      return undefined;
    case 'step':
      for (let at = 0; at < (values.get('count') as number); at++) if (!stepOperation(bench)) break;
      return undefined;
    case 'stage': {
      const stage = values.get('stage') as string;
      while (!isInitialised(bench) && setup.operations[state.operation]?.stage !== stage)
        if (!stepOperation(bench)) break;
      return undefined;
    }
    case 'interrupts':
      note(bench, { time: state.time, kind: 'act', text, line });
      if (values.get('to') === 'off') state.masked = true;
      else unmask(setup, state);
      return undefined;
    case 'run': {
      const routine = setup.derived.routines.find((one) => one.kind === values.get('routine'));
      if (!routine) return 'the plan asks for no such routine';
      state.called = true;
      note(bench, { time: state.time, kind: 'act', text, line });
      for (const operation of routine.lowered.operations) perform(bench, operation);
      return undefined;
    }
    case 'clock':
      note(bench, { time: state.time, kind: 'act', text, line });
      state.cycleNanoseconds = 1e9 / (values.get('hertz') as number);
      return undefined;
    case 'repeat':
      return runSteps(play, [step], scope) ? undefined : 'the play ends here';
  }
}

const OPPOSITE: Readonly<Record<string, string>> = { on: 'off', off: 'on', high: 'low', low: 'high' };

/** Drives a net, by whoever drives it: the firmware, a peripheral, or the far end. */
function setNet(bench: Bench, step: Step): string | undefined {
  const { values, text, line } = step;
  const { setup, state } = bench;
  const target = values.get('net') as Target;
  const to = values.get('to') as string;
  const pulse = values.get('pulse') as number | undefined;
  const fault = setOnce(bench, target, to, text, line, pulse);
  if (fault !== undefined || pulse === undefined) return fault;
  const pad = setup.pads[setup.byNet.get(target.id) ?? -1];
  const isOwn = target.driven || state.states[pad?.index ?? -1]?.output === 'peripheral';
  // The far end goes back by itself.
  if (!isOwn) return undefined;
  const back = OPPOSITE[to] ?? (to === 'toggle' ? 'toggle' : undefined);
  if (back === undefined) return `${to} cannot be for a time`;
  advance(bench, state.time + pulse);
  return setOnce(bench, target, back, text, line, undefined);
}

function setOnce(
  bench: Bench,
  target: Target,
  to: string,
  text: string,
  line: number,
  pulse: number | undefined,
): string | undefined {
  const { setup, state } = bench;
  const at = setup.byNet.get(target.id);
  const pad = at === undefined ? undefined : setup.pads[at];
  if (!pad) return `${target.name} is on no pad`;
  const activeLow = pad.net?.settings.active === 'low';
  if (target.driven && to !== 'free') {
    const accessor = accessorFor(bench, actionFor(to, activeLow), [target.id]);
    if (!accessor) return `the code has no function that drives ${target.name}`;
    call(bench, accessor, 0, text, line);
    return undefined;
  }
  const level =
    to === 'on'
      ? activeLow
        ? 0
        : 1
      : to === 'off'
        ? activeLow
          ? 1
          : 0
        : to === 'high'
          ? 1
          : to === 'low'
            ? 0
            : 2;
  if (state.states[pad.index]?.output === 'peripheral') {
    const next = to === 'toggle' ? 1 - (state.peripheral[pad.index] === 1 ? 1 : 0) : level;
    drivePeripheral(bench, pad.index, next, text, line);
    return undefined;
  }
  if (to === 'toggle') return `the firmware does not drive ${target.name}`;
  const verb: Verb = level === 2 ? 'free' : level === 1 ? 'high' : 'low';
  const timed = pulse === undefined ? {} : { nanoseconds: pulse };
  for (const part of setup.partsAt.get(target.id) ?? []) {
    const kind = setup.parts[part]?.attachment.kind;
    if (kind === 'driven-line' || kind === 'bus-partner')
      return act(bench, part, { verb, ...timed }, text, line);
    if (kind === 'button' || kind === 'tipping-contact') {
      const close = (level === 0) === activeLow && level !== 2;
      return act(bench, part, { verb: close ? 'press' : 'release', ...timed }, text, line);
    }
  }
  return `nothing at the far end of ${target.name} drives it`;
}

function actionFor(to: string, activeLow: boolean): AccessAction {
  if (to === 'toggle') return 'toggle';
  const asserted = to === 'on' || to === (activeLow ? 'low' : 'high');
  return asserted ? 'set' : 'clear';
}

function assign(bench: Bench, target: Target, value: number, text: string, line: number): string | undefined {
  const bits = target.nets.length;
  const most = bits >= 32 ? 0xffffffff : 2 ** bits - 1;
  if (value < 0 || value > most)
    return `${value} does not fit into the ${bits === 1 ? 'one bit' : `${bits} bits`} of ${target.name}`;
  const action: AccessAction = target.group ? 'write' : value === 1 ? 'set' : 'clear';
  const accessor = accessorFor(bench, action, target.nets);
  if (!accessor) return `the code has no function that drives ${target.name}`;
  call(bench, accessor, value >>> 0, text, line);
  return undefined;
}

function onPart(
  bench: Bench,
  target: Target,
  kinds: readonly string[],
  what: Act,
  { text, line }: Step,
): string | undefined {
  const { setup } = bench;
  if (!setup.byNet.has(target.id)) return `${target.name} is on no pad`;
  const part = (setup.partsAt.get(target.id) ?? []).find((at) =>
    kinds.includes(setup.parts[at]?.attachment.kind ?? ''),
  );
  if (part === undefined) return `there is nothing of that kind at the far end of ${target.name}`;
  return act(bench, part, what, text, line);
}

/** Closes or opens a contact; of a keypad the key that two nets name. */
function contact(bench: Bench, verb: 'press' | 'release' | 'tip', step: Step): string | undefined {
  const { setup } = bench;
  const { values } = step;
  const [net, other] = [values.get('net') as Target, values.get('other') as Target | undefined];
  const time = values.get('time') as number | undefined;
  const what: Act = {
    verb,
    bounces: values.get('bounce') !== undefined,
    ...(time === undefined ? {} : { nanoseconds: time }),
  };
  if (!other) {
    const kinds = ['button', 'tipping-contact', 'driven-line', 'bus-partner'];
    return onPart(bench, net, kinds, what, step);
  }
  const part = (setup.partsAt.get(net.id) ?? []).find((at) => {
    const { attachment } = setup.parts[at] ?? {};
    return attachment?.kind === 'keypad' && attachment.nets.includes(other.id);
  });
  const keypad = part === undefined ? undefined : setup.parts[part]?.attachment;
  if (part === undefined || !keypad) return `${net.name} and ${other.name} are not of one keypad`;
  const rows = Math.min(keypad.figures?.rows ?? 4, keypad.nets.length - 1);
  const places = [keypad.nets.indexOf(net.id), keypad.nets.indexOf(other.id)].sort((a, b) => a - b);
  const [row, column] = places as [number, number];
  if (row >= rows || column < rows) return `${net.name} and ${other.name} are not a row and a column`;
  return act(
    bench,
    part,
    { ...what, value: row * (keypad.nets.length - rows) + (column - rows) },
    step.text,
    step.line,
  );
}

/** Lets time pass until a condition holds, or until a time is over. */
function awaitCondition(
  bench: Bench,
  { values }: Step,
  scope: Scope,
  nanoseconds: number,
): { is: Answer; instead: string; took: number } {
  const began = bench.state.time;
  const until = began + nanoseconds;
  const since = sinceNow(bench, values);
  for (;;) {
    const now = holds(bench, values, scope, since);
    if (now.is === true) return { ...now, took: bench.state.time - began };
    const next = nextTime(bench.state.events);
    if (next > until || isOver(bench)) {
      advance(bench, until);
      const last = holds(bench, values, scope, since);
      return { ...last, took: nanoseconds };
    }
    advance(bench, next);
  }
}

/** How much longer is looked for something that did not come in time, to say how long it takes. */
const LOOKED_ON = 100;

function expect(play: Play, step: Step, scope: Scope): void {
  const { bench } = play;
  const { values } = step;
  if (values.get('when') !== undefined) {
    play.whole.push({ step });
    return;
  }
  const within = values.get('within') as number | undefined;
  const lasting = values.get('for') as number | undefined;
  if (within !== undefined) {
    const { is, instead, took } = awaitCondition(bench, step, scope, within);
    addCheck(
      play,
      step,
      is,
      is === true ? `took ${timeText(took)}` : lateText(bench, step, scope, within, instead),
    );
  } else if (lasting !== undefined) {
    const { is, instead, time } = staysSo(bench, step, scope, lasting);
    addCheck(play, step, is, instead, time);
  } else {
    const { is, instead } = holds(bench, values, scope, sinceNow(bench, values));
    addCheck(play, step, is, instead);
  }
}

/** What did not come in time: does it come later? The bench is put back afterwards. */
function lateText(bench: Bench, step: Step, scope: Scope, within: number, instead: string): string {
  const before = checkpoint(bench.setup, bench.state);
  const late = awaitCondition(bench, step, scope, within * LOOKED_ON);
  const text = late.is === true ? `took ${timeText(within + late.took)}` : instead;
  bench.state = restored(bench.setup, bench.state, before);
  return text;
}

/** Whether a condition holds all the time for a while. */
function staysSo(
  bench: Bench,
  { values }: Step,
  scope: Scope,
  nanoseconds: number,
): { is: Answer; instead: string; time?: number } {
  const until = bench.state.time + nanoseconds;
  const since = sinceNow(bench, values);
  for (;;) {
    const now = holds(bench, values, scope, since);
    if (now.is !== true) {
      const { time } = bench.state;
      advance(bench, until);
      return { ...now, time };
    }
    const next = nextTime(bench.state.events);
    if (next > until || isOver(bench)) break;
    advance(bench, next);
  }
  advance(bench, until);
  return holds(bench, values, scope, since);
}

function addCheck(play: Play, step: Step, is: Answer, message: string, time = play.bench.state.time): void {
  const passed = is === true;
  play.checks.push({
    line: step.line,
    text: step.text,
    passed,
    message,
    time,
    nets: watchedBy(step.values),
  });
}
