import type { Derived } from '../../derive/derive';
import type { Operation } from '../../derive/machine/operations';
import { orderOf, sideOf } from '../../device/geometry';
import type { Trial } from '../../plan/model/types';
import { initialise, switchOn } from '../engine/engine';
import { type SetupOptions, setupOf } from '../engine/setup';
import { runTrial, whyFailed } from '../trials/run-trial';
import { type Proposal, Proposer } from './propose';

/** One thing gone wrong: in the code, or on the board. */
export type BenchFault =
  | { kind: 'dropped' | 'repeated'; operation: number }
  /** Done after the one that follows it. */
  | { kind: 'swapped'; operation: number }
  /** Done as the last of all. */
  | { kind: 'late'; operation: number }
  /** Held from outside at power-up, until initialisation is done. */
  | { kind: 'held'; pad: string; level: 'high' | 'low' }
  /** Held from outside for good: bridged to a rail. */
  | { kind: 'stuck'; pad: string; level: 'high' | 'low' }
  /** Neighbouring pins that solder joins. */
  | { kind: 'shorted'; pads: readonly [string, string] };

export const FAULT_TITLES: Record<BenchFault['kind'], string> = {
  dropped: 'an operation is left out',
  repeated: 'an operation is done twice',
  swapped: 'two operations change places',
  late: 'a gate or key comes last',
  held: 'a pin is held from outside at power-up, until initialisation is done',
  stuck: 'a pin is stuck at a level',
  shorted: 'two neighbouring pins are shorted',
};

/** Operations with a fault put in, and what the board has of it. */
export function withFault({ lowered }: Derived, fault: BenchFault): SetupOptions {
  const operations = [...lowered.operations];
  switch (fault.kind) {
    case 'dropped':
      operations.splice(fault.operation, 1);
      return { operations };
    case 'repeated':
      operations.splice(fault.operation, 0, operations[fault.operation] as Operation);
      return { operations };
    case 'swapped': {
      const [one, next] = operations.slice(fault.operation, fault.operation + 2) as [Operation, Operation];
      operations.splice(fault.operation, 2, next, one);
      return { operations };
    }
    case 'late': {
      const [one] = operations.splice(fault.operation, 1) as [Operation];
      return { operations: [...operations, one] };
    }
    case 'held':
    case 'stuck': {
      const { pad, level, kind } = fault;
      return { held: [{ pad, level, until: kind === 'held' ? 'initialised' : 'never' }] };
    }
    case 'shorted':
      return { shorts: [fault.pads] };
  }
}

/** Every single fault of a plan. */
export function faultsOf(derived: Derived): BenchFault[] {
  const { operations } = derived.lowered;
  const count = operations.length;
  const each = (kind: 'dropped' | 'repeated'): BenchFault[] =>
    operations.map((_, operation) => ({ kind, operation }));
  const used = new Set(
    derived.resolved.flatMap(({ net, pins }) =>
      net.placement && pins.length > 0 ? [net.placement.pad] : [],
    ),
  );
  const opening = operations.flatMap((one, operation): BenchFault[] =>
    one.pads.length === 0 && one.kind !== 'wait' && one.kind !== 'await' && operation < count - 1
      ? [{ kind: 'late', operation }]
      : [],
  );
  return [
    ...each('dropped'),
    ...each('repeated'),
    ...operations.slice(1).map((_, operation): BenchFault => ({ kind: 'swapped', operation })),
    ...opening,
    ...(['held', 'stuck'] as const).flatMap((kind) =>
      [...used].flatMap((pad): BenchFault[] => [
        { kind, pad, level: 'low' },
        { kind, pad, level: 'high' },
      ]),
    ),
    ...neighbours(derived).flatMap((pads): BenchFault[] =>
      pads.every((pad) => used.has(pad)) ? [{ kind: 'shorted', pads }] : [],
    ),
  ];
}

/** Pads on pins beside each other: on one edge of the package, or above or beside each other in a grid of balls. */
function neighbours({ device, pkg }: Derived): [string, string][] {
  const order = orderOf(device, pkg);
  const places = [...order].sort(([, a], [, b]) => a - b);
  const pinsOf = device.pinsOf.get(pkg.id);
  const sideFor = (pad: string): string | undefined => sideOf(pkg, pinsOf?.get(pad)?.[0] ?? '');
  if (pkg.shape.kind !== 'ball-grid')
    return places.flatMap(([pad, at], index): [string, string][] => {
      const next = places[index + 1];
      return next && next[1] === at + 1 && sideFor(pad) === sideFor(next[0]) ? [[pad, next[0]]] : [];
    });
  const at = new Map(places.map(([pad, place]) => [place, pad]));
  const below = pkg.shape.columns + 1;
  return places.flatMap(([pad, place]) =>
    [place + 1, place + below].flatMap((other): [string, string][] => {
      const next = at.get(other);
      return next === undefined ? [] : [[pad, next]];
    }),
  );
}

/** What came of a fault: the trials that notice it, with what they say. */
export interface FaultResult {
  fault: BenchFault;
  /** Trials that pass without it and fail with it. */
  seenBy: readonly { trial: string; says: string }[];
  /** Registers end otherwise, a pad goes another way, or something is found that was not. */
  matters: boolean;
  /** For a fault that matters and that no trial notices: lines that would. */
  proposal?: Proposal;
}

/** Which single faults a plan's trials notice. */
export interface FaultCoverage {
  results: FaultResult[];
  /** Trials that fail without any fault: they can notice nothing. */
  unusable: readonly string[];
}

/** A fault at a time, so that whoever asks can show how far it is, and stop. */
export function* coverage(
  derived: Derived,
  trials: readonly Trial[],
  faults: readonly BenchFault[] = faultsOf(derived),
): Generator<FaultResult, FaultCoverage> {
  const { board } = setupOf(derived);
  const usable = trials.filter((trial) => runTrial(derived, trial, { board }).passed);
  const proposer = new Proposer(derived, usable, board);
  const results: FaultResult[] = [];
  const whole = startUp(derived, { board });
  for (const fault of faults) {
    const options = { ...withFault(derived, fault), board };
    const seenBy = usable.flatMap((trial) => {
      const result = runTrial(derived, trial, options);
      return result.passed ? [] : [{ trial: trial.id, says: whyFailed(result) ?? '' }];
    });
    const matters = seenBy.length > 0 || startUp(derived, options) !== whole;
    const proposal =
      matters && seenBy.length === 0 ? proposer.propose(options, padsOf(derived, fault)) : undefined;
    const result = { fault, seenBy, matters, ...(proposal ? { proposal } : {}) };
    results.push(result);
    yield result;
  }
  return { results, unusable: trials.filter((one) => !usable.includes(one)).map((one) => one.id) };
}

/** Pads that a fault is about. */
function padsOf({ lowered }: Derived, fault: BenchFault): string[] {
  if ('pad' in fault) return [fault.pad];
  if ('pads' in fault) return [...fault.pads];
  return (lowered.operations[fault.operation]?.pads ?? []).map(({ pad }) => pad);
}

/** What start-up comes to: registers at its end, the levels that each pad went through, what was found. */
function startUp(derived: Derived, options: SetupOptions): string {
  const bench = switchOn(derived, { kind: 'reset' }, options);
  initialise(bench);
  const { machine, lanes, findings } = bench.state;
  return JSON.stringify([
    [...machine.known],
    machine.value.map((value, word) => value & (machine.known[word] as number)),
    lanes.map(({ codes, length }) => [...codes.subarray(0, length)]),
    findings.map(({ kind, pad }) => `${kind} ${pad}`),
  ]);
}

/** "operation 12 is left out": a fault in words. */
export function faultText(derived: Derived, fault: BenchFault): string {
  const netOn = (pad: string): string => {
    const net = derived.byPad.get(pad)?.[0]?.net.name;
    return net ? `${net} (${pad})` : pad;
  };
  const at = (index: number): string => {
    const operation = derived.lowered.operations[index];
    const what = operation && 'register' in operation ? `, ${operation.register.name}` : '';
    return `${index + 1} (${operation?.stage ?? ''}${what})`;
  };
  switch (fault.kind) {
    case 'dropped':
      return `operation ${at(fault.operation)} is left out`;
    case 'repeated':
      return `operation ${at(fault.operation)} is done twice`;
    case 'swapped':
      return `operations ${at(fault.operation)} and ${at(fault.operation + 1)} change places`;
    case 'late':
      return `operation ${at(fault.operation)} comes last`;
    case 'held':
      return `${netOn(fault.pad)} is held ${fault.level} from outside until initialisation is done`;
    case 'stuck':
      return `${netOn(fault.pad)} is stuck ${fault.level}`;
    case 'shorted':
      return `${netOn(fault.pads[0])} and ${netOn(fault.pads[1])} are shorted`;
  }
}
