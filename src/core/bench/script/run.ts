import type { Derived } from '../../derive/derive';
import { type Expression, ExpressionError, evaluate } from '../../description/language/expression';
import type { Act } from '../attached/types';
import {
  advance,
  initialise,
  isInitialised,
  note,
  run as perform,
  stepOperation,
  switchOn,
} from '../engine/engine';
import { accessorFor, call } from '../engine/firmware';
import { mask, unmask } from '../engine/interrupts';
import type { SetupOptions } from '../engine/setup';
import type { StartFrom } from '../engine/start';
import { assign, contact, onPart, setNet } from './acts';
import { type Scope, wasAlways } from './conditions';
import { addCheck, awaitCondition, expect } from './expectations';
import type { FormId } from './forms';
import { namesIn, type Target } from './names';
import { parseScript } from './parse';
import { allowSteps, type Play, whyOver } from './play';
import type { Script, Step } from './steps';
import { timeText } from './time-text';

/** Steps that could not be done: a repetition may fail in the same way each time. */
const MOST_FAULTS = 1000;

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
  const play: Play = { bench, checks: [], faults: [], whole: [], steps: 0 };
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

/** Does steps one after the other; false when the play has to end. */
export function runSteps(play: Play, steps: readonly Step[], scope: Scope): boolean {
  for (const step of steps) {
    const over = whyOver(play);
    if (over !== undefined) {
      play.faults.push({ line: step.line, text: step.text, message: over });
      return false;
    }
    play.steps++;
    if (step.form === 'repeat') {
      const name = step.values.get('with');
      for (let i = 0; i < (step.values.get('count') as number); i++) {
        const inner: Scope = (one) => (one === name ? i : scope(one));
        if (!runSteps(play, step.steps ?? [], inner)) return false;
      }
      continue;
    }
    const fault = attempt(play, step, scope);
    if (fault !== undefined && play.faults.length < MOST_FAULTS)
      play.faults.push({ line: step.line, text: step.text, message: fault });
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

/** Steps that bring nothing about: what came with the one before them can still be waited for. */
const LOOKS_ON: ReadonlySet<FormId> = new Set(['wait-for', 'expect', 'read', 'clock', 'repeat', 'start']);

/** Does one step; says what is wrong with it, or undefined. */
function runStep(play: Play, step: Step, scope: Scope): string | undefined {
  const { bench } = play;
  const { values, text, line } = step;
  const { state, setup } = bench;
  if (!LOOKS_ON.has(step.form)) state.act++;
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
      if (values.get('to') === 'off') mask(setup, state);
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
