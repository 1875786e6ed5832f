import type { Device } from '../../device/device';
import type { Lowered } from '../lower/lower';
import type { Operation } from '../machine/operations';
import type { Machine, Start } from '../machine/state';

/**
 * What happens to memory while operations run: for each word the states it goes through, and at which operations. Operations are
 * told apart by stage, kind, register and how often that has been before, so that two runs can be compared although one has
 * operations that the other has not.
 */
export interface Trace {
  start: Start;
  /** The names of the operations, in order. */
  steps: readonly number[];
  operations: readonly Operation[];
  /** Word → name of the operation, and known, value and as-it-was bits after it; four numbers a change. */
  words: Map<number, number[]>;
}

const stageIndexes = new WeakMap<Device, ReadonlyMap<string, number>>();

function stageIndexOf(device: Device): ReadonlyMap<string, number> {
  let indexes = stageIndexes.get(device);
  if (!indexes) {
    indexes = new Map(device.stages.map((stage, at) => [stage.id, at]));
    stageIndexes.set(device, indexes);
  }
  return indexes;
}

const KINDS: Record<Operation['kind'], number> = {
  write: 0,
  update: 1,
  flip: 2,
  await: 3,
  wait: 4,
  read: 5,
  'write held': 6,
};
/** Beyond that many operations of a stage on a register in the same way, their names are no longer told apart by number. */
const MOST_TIMES = 4096;

/** A trace to be filled by {@link note}. */
export function traceFor(device: Device, lowered: Lowered): Trace {
  const stages = stageIndexOf(device);
  const registers = device.registers.all.length + 1;
  const times = new Map<number, number>();
  const steps = lowered.operations.map((operation) => {
    const register = 'register' in operation ? operation.register.index + 1 : 0;
    const stage = stages.get(operation.stage) ?? stages.size;
    const stem = (stage * 8 + KINDS[operation.kind]) * registers + register;
    const time = times.get(stem) ?? 0;
    times.set(stem, time + 1);
    return stem * MOST_TIMES + Math.min(time, MOST_TIMES - 1);
  });
  return {
    start: lowered.style === 'from-reset' ? 'reset' : 'every',
    steps,
    operations: lowered.operations,
    words: new Map(),
  };
}

/** Notes what a word holds after an operation, or after something has arrived in it. */
export function note(trace: Trace, word: number, operation: number, machine: Machine): void {
  let list = trace.words.get(word);
  if (!list) {
    list = [];
    trace.words.set(word, list);
  }
  list.push(
    trace.steps[operation] ?? -1,
    machine.known[word] ?? 0,
    machine.value[word] ?? 0,
    machine.was[word] ?? 0,
  );
}

/** Whether the operations that two runs have in common come in the same order. */
export function sameOrder(a: Trace, b: Trace): boolean {
  const [inA, inB] = [new Set(a.steps), new Set(b.steps)];
  const common = a.steps.filter((step) => inB.has(step));
  let at = 0;
  for (const step of b.steps) if (inA.has(step) && common[at++] !== step) return false;
  return at === common.length;
}

const sameOperation = (a: Operation | undefined, b: Operation): boolean => {
  if (!a || a.kind !== b.kind) return false;
  switch (b.kind) {
    case 'write':
      return a.kind === 'write' && a.value === b.value;
    case 'update':
      return a.kind === 'update' && a.clear === b.clear && a.set === b.set;
    default:
      return false;
  }
};

/** Words in which two runs are likely to differ: those of registers that are not written alike. */
export function likelyWords(a: Trace, b: Trace): ReadonlySet<number> {
  const words = new Set<number>();
  const add = (operation: Operation): void => {
    if (!('register' in operation)) return;
    for (const one of [operation.register, operation.register.target])
      if (one?.storage) words.add(one.storage.word);
  };
  const earlier = new Map(a.steps.map((step, at) => [step, a.operations[at] as Operation]));
  b.steps.forEach((step, at) => {
    const now = b.operations[at] as Operation;
    const then = earlier.get(step);
    earlier.delete(step);
    if (then === undefined || (!sameOperation(then, now) && (now.kind === 'write' || now.kind === 'update')))
      add(now);
  });
  for (const gone of earlier.values()) add(gone);
  return words;
}

/** Words that did not go through the very same states at the same operations in both runs. */
export function changedWords(a: Trace, b: Trace): ReadonlySet<number> {
  const words = new Set<number>();
  for (const [word, list] of b.words) {
    const other = a.words.get(word);
    if (!other || other.length !== list.length || !list.every((one, at) => one === other[at]))
      words.add(word);
  }
  for (const word of a.words.keys()) if (!b.words.has(word)) words.add(word);
  return words;
}
