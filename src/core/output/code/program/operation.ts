import { heldName, type Operation } from '../../../derive/machine/operations';
import { type HeldValue, heldIn, renumbered } from '../../../description/language/held-value';
import { fullMask, type Register } from '../../../device/registers/types';
import type { HeldName, Statement, Value } from './types';
import { and, constant, copyOf, narrow, or, read, shifted, wide, xor } from './values';

/** What functions need names for. */
export type Naming = (kind: 'held' | 'bits') => HeldName;

/** Numbers what a function holds. */
export function naming(): Naming {
  let count = 0;
  return (kind) => `${kind}${++count}`;
}

export const write = (register: Register, value: Value): Statement => ({
  kind: 'write',
  register,
  value: narrow(value, register.bits),
});

/** What was read, with some bits cleared and some set; bits that are set anyway are not cleared first. */
function changed(held: Value, register: Register, clear: number, set: number): Value {
  // Flags go back as what leaves them, unless they are to be cleared.
  const ones = (set | (register.zeroFlagMask & ~clear)) >>> 0;
  const cleared = ((clear | register.flagMask) & ~ones) >>> 0;
  return or(and(held, ~cleared), constant(ones, register.bits));
}

/** Into the register and into its copy in memory. */
const kept = (register: Register, value: Value): Statement[] => [
  { kind: 'keep', register, value },
  { kind: 'write', register, value: value.kind === 'constant' ? value : copyOf(register) },
];

type Flip = Extract<Operation, { kind: 'flip' }>;

/** Turns bits into their opposites, by whatever way the operation says. */
function flip({ register, mask, through, shadow }: Flip, name: Naming): Statement[] {
  if (shadow) return kept(register, xor(copyOf(register), mask));
  const half = register.bits / 2;
  if (register.access.kind === 'masked') {
    const turned = xor(and(read(register), mask), mask);
    return [write(register, or(turned, constant(mask * 2 ** half, register.bits)))];
  }
  if (!through) {
    const { flagMask, zeroFlagMask, bits } = register;
    const held = and(read(register), ~(flagMask | zeroFlagMask));
    return [write(register, xor(zeroFlagMask === 0 ? held : or(held, constant(zeroFlagMask, bits)), mask))];
  }
  const { set, clear } = through;
  const lower = (bits: number): number => (set === clear ? bits * 2 ** (clear.bits / 2) : bits);
  // Single writes keep the neighbours safe from an interrupt between read and write.
  if ((mask & (mask - 1)) === 0) {
    return [
      {
        kind: 'choose',
        register,
        mask,
        set: [write(clear, constant(lower(mask), clear.bits))],
        clear: [write(set, constant(mask, set.bits))],
      },
    ];
  }
  const held = name('held');
  const were: Value = { kind: 'held', name: held };
  const first: Statement = { kind: 'hold', name: held, value: wide(and(read(register), mask)) };
  if (set === clear) return [first, write(set, or(shifted(were, set.bits / 2), xor(were, mask)))];
  return [first, write(clear, were), write(set, xor(were, mask))];
}

/** An operation as statements. `late` is what happens when waiting ends without result. */
export function statementsOf(
  operation: Operation,
  late: 'leave' | 'go on',
  isCopied: (register: Register) => boolean,
  name: Naming,
): Statement[] {
  switch (operation.kind) {
    case 'wait':
      return [{ kind: 'wait', cycles: operation.cycles }];
    case 'await': {
      const { register, mask, value, cycles } = operation;
      return [{ kind: 'await', register, mask, value, tries: cycles, late }];
    }
    case 'write': {
      const { register } = operation;
      const value = constant(operation.value, register.bits);
      return isCopied(register) ? kept(register, value) : [write(register, value)];
    }
    case 'update': {
      const { register, clear, set, shadow } = operation;
      if (shadow) return kept(register, changed(copyOf(register), register, clear, set));
      return [write(register, changed(read(register), register, clear, set))];
    }
    case 'flip':
      return flip(operation, name);
    case 'read': {
      const { register, holds } = operation;
      if (holds === undefined) return [{ kind: 'read', register }];
      return [{ kind: 'hold', name: heldName(holds), value: wide(read(register)) }];
    }
    case 'write held':
      return [write(operation.register, heldProgramValue(operation.value))];
  }
}

/** What is worked out of what was held, in 32 bits. */
function heldProgramValue(value: HeldValue): Value {
  switch (value.kind) {
    case 'number':
      return constant(value.value, 32);
    case 'held':
      return { kind: 'held', name: heldName(value.id) };
    case 'not':
      return xor(heldProgramValue(value.of), 0xffffffff);
    case 'shift':
      return shifted(heldProgramValue(value.of), value.by);
    case 'bits': {
      const [left, right] = [heldProgramValue(value.left), heldProgramValue(value.right)];
      // A number on the right is what targets have instructions for.
      const [first, second] = left.kind === 'constant' ? [right, left] : [left, right];
      return { kind: 'both', sign: value.operator, left: first, right: second };
    }
  }
}

/**
 * Steps that hold something, numbered in their order: what is read anew has a new name, and what nobody writes is read for what the read
 * does only.
 */
export function numberHolds<T extends { kind: string }>(
  steps: readonly (T | Operation)[],
): (T | Operation)[] {
  const numbers = new Map<number, number>();
  let count = 0;
  const isUsed = (id: number, from: number): boolean => {
    for (const step of steps.slice(from) as Operation[]) {
      if (step.kind === 'write held' && heldIn(step.value).has(id)) return true;
      if (step.kind === 'read' && step.holds === id) return false;
    }
    return false;
  };
  return (steps as Operation[]).map((step, at): Operation => {
    if (step.kind === 'write held')
      return { ...step, value: renumbered(step.value, (id) => numbers.get(id) ?? id) };
    if (step.kind !== 'read' || step.holds === undefined) return step;
    const { holds, ...plain } = step;
    if (!isUsed(holds, at + 1)) return plain;
    numbers.set(holds, ++count);
    return { ...plain, holds: count };
  });
}

/** Every register that statements touch. */
export function* touched(statements: readonly Statement[]): Generator<Register> {
  for (const one of statements) {
    if ('register' in one) yield one.register;
    if (one.kind === 'choose') {
      yield* touched(one.set);
      yield* touched(one.clear);
    }
    if ('value' in one && typeof one.value === 'object') yield* readIn(one.value);
  }
}

function* readIn(value: Value): Generator<Register> {
  if (value.kind === 'read') yield value.register;
  if (value.kind === 'both') {
    yield* readIn(value.left);
    yield* readIn(value.right);
  }
  if ('of' in value) yield* readIn(value.of);
}

export const keptBits = (register: Register, cleared: number): number =>
  (~cleared & fullMask(register.bits)) >>> 0;
