import type { Register } from '../../device/registers/types';
import { assumeRead, givenInTheEnd } from './clause-access';
import { holdRegister, writeHeld } from './held-access';
import { flipThrough, readRegister, update, writeRegister } from './machine';
import type { Operation } from './operations';
import { assume, type Bits, bitsOf, copyMachine, type Machine, type Mishap, shownBits, tick } from './state';

/** Operations on the machine: each as the accesses that it stands for, and waiting until bits have a value. */

/** Does one operation, and says what the hardware did not take. */
export function perform(machine: Machine, operation: Operation): Mishap[] {
  switch (operation.kind) {
    case 'wait':
      tick(machine, operation.cycles);
      return [];
    case 'await':
      return awaitBits(machine, operation);
    case 'write':
      return writeRegister(machine, operation.register, operation.value);
    case 'update':
      return update(machine, operation);
    case 'read':
      return holdRegister(machine, operation.register, operation.holds);
    case 'write held':
      return writeHeld(machine, operation.register, operation.value);
    case 'flip':
      return operation.through
        ? flipThrough(machine, operation, operation.through)
        : operation.register.access.kind === 'masked'
          ? flipThrough(machine, operation, { set: operation.register, clear: operation.register })
          : update(machine, operation);
  }
}

/** Bits that are what is wanted, or will be after a time that nobody knows. */
function comesTo(machine: Machine, register: Register, mask: number, value: number): number {
  const held =
    register.access.kind === 'clauses' ? givenInTheEnd(machine, register) : bitsOf(machine, register);
  let found = mask & held.known & ~(held.value ^ value);
  for (const one of register.followers) {
    if (one.afterCycles !== Number.POSITIVE_INFINITY) continue;
    const bits = shownBits(machine, one);
    found |= mask & bits.known & ~(bits.value ^ value);
  }
  return found >>> 0;
}

const assumeShown = (machine: Machine, register: Register, mask: number, value: number): void =>
  register.access.kind === 'clauses'
    ? assumeRead(machine, register, mask, value)
    : assume(machine, register, mask, value);

/**
 * Reads until bits have a value, at most so many times. It may end as soon as they can have it; it must end, in every state,
 * within the bound.
 */
function awaitBits(machine: Machine, operation: Extract<Operation, { kind: 'await' }>): Mishap[] {
  const { register, mask, value, cycles } = operation;
  const shown = register.target && register.access.kind !== 'read' ? register.target : register;
  const first = readRegister(machine, register);
  if (first.mishaps.length > 0) return first.mishaps;
  const matches = ({ known, value: held }: Bits): 'yes' | 'no' | 'perhaps' => {
    if ((known & mask & (held ^ value)) !== 0) return 'no';
    return (known & mask) === mask ? 'yes' : 'perhaps';
  };
  let spent = 0;
  let state = matches(first.bits);
  while (state === 'no' && spent < cycles) {
    spent++;
    state = matches(readRegister(machine, register).bits);
  }
  if (state === 'yes') return [];
  if ((mask & ~comesTo(machine, register, mask, value)) === 0) {
    // Nobody says how long it takes, but it comes: that is what is waited for.
    assumeShown(machine, register, mask, value);
    return [];
  }
  const late: Mishap = {
    reason: 'times-out',
    register,
    mask,
    perhaps: state === 'perhaps',
  };
  if (state === 'no') return [late];
  // It may be over now. Does it end in the other case, too?
  const other = copyMachine(machine);
  while (state === 'perhaps' && spent < cycles) {
    spent++;
    state = matches(readRegister(other, register).bits);
  }
  assumeShown(machine, shown, mask, value);
  return state === 'yes' ? [] : [late];
}
