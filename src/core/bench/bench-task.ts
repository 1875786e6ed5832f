import { formatProblems } from '../base/result';
import { type Derived, derive } from '../derive/derive';
import type { DeviceDescription } from '../description/types';
import { compileDevice } from '../device/compile/compile';
import type { Plan } from '../plan/model/types';
import { coverage, type FaultResult, faultsOf } from './faults/faults';
import { readVcd, type Vcd } from './trace/vcd-read';
import { runTrial, type TrialResult } from './trials/run-trial';

/** What takes longer than a moment, for a worker: so that the page stays quick, shows how far it is, and can stop it. */
export type BenchTask =
  | { kind: 'trials'; description: DeviceDescription; plan: Plan; only?: readonly string[] }
  | { kind: 'faults'; description: DeviceDescription; plan: Plan }
  | { kind: 'vcd'; bytes: Uint8Array };

export type BenchAnswer =
  | { kind: 'progress'; done: number; of: number }
  | { kind: 'trials'; results: TrialResult[] }
  | { kind: 'faults'; results: FaultResult[]; unusable: readonly string[] }
  | { kind: 'vcd'; vcd: Vcd }
  | { kind: 'failed'; message: string };

/** Between two reports of how far it is, in faults. */
const REPORTED = 8;

/** Answers a task; the last answer is the result. */
export function* answerBenchTask(task: BenchTask): Generator<BenchAnswer> {
  if (task.kind === 'vcd') {
    yield* answerVcd(task.bytes);
    return;
  }
  const compiled = compileDevice(task.description);
  if (!compiled.ok) {
    yield { kind: 'failed', message: formatProblems(compiled.problems) };
    return;
  }
  const derived = derive(compiled.value, task.plan);
  if (!derived.ok) {
    yield { kind: 'failed', message: formatProblems(derived.problems) };
    return;
  }
  if (task.kind === 'faults') yield* answerFaults(derived.value);
  else yield* answerTrials(derived.value, task.only);
}

function* answerTrials(derived: Derived, only: readonly string[] | undefined): Generator<BenchAnswer> {
  const trials = (derived.plan.trials ?? []).filter((one) => only?.includes(one.id) ?? true);
  const results: TrialResult[] = [];
  for (const [done, trial] of trials.entries()) {
    yield { kind: 'progress', done, of: trials.length };
    results.push(runTrial(derived, trial));
  }
  yield { kind: 'trials', results };
}

function* answerFaults(derived: Derived): Generator<BenchAnswer> {
  const faults = faultsOf(derived);
  const work = coverage(derived, derived.plan.trials ?? [], faults);
  let done = 0;
  let step = work.next();
  while (!step.done) {
    done++;
    if (done % REPORTED === 0) yield { kind: 'progress', done, of: faults.length };
    step = work.next();
  }
  yield { kind: 'faults', ...step.value };
}

function* answerVcd(bytes: Uint8Array): Generator<BenchAnswer> {
  const work = readVcd(bytes);
  let step = work.next();
  while (!step.done) {
    yield { kind: 'progress', done: step.value.bytes, of: step.value.of };
    step = work.next();
  }
  yield { kind: 'vcd', vcd: step.value };
}
