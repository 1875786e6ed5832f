import type { Register } from '../../../device/registers/types';
import { bitsOf, type HeldName, type Statement, type Value, type Width } from '../program/types';
import type { AsmNames } from './names';
import { type AsmCode, asm } from './writer';

/** What a function needs around its statements. */
export interface Frame {
  names: AsmNames;
  statements: readonly Statement[];
  /** Values held, each with a place of its own. */
  slots: ReadonlyMap<HeldName | 'entered', number>;
  /** Whether it is given a number. */
  takes: Width | undefined;
  /** Whether it calls the hooks around what is not one access. */
  calls: boolean;
  /** Whether it gives if it has run to its end. */
  tells: boolean;
  /** A name for the next local label. */
  label(): AsmCode;
}

/** A processor's way of writing the statements of a program. */
export interface Processor {
  /** `arm`, `riscv`, `avr`. */
  id: string;
  /** Lines at the head of the file. */
  head: readonly AsmCode[];
  /** `%` or `@` before the type of a section or symbol. */
  type: AsmCode;
  /** Alignment of code, as a power of two. */
  align: number;
  /** First lines of a function, after its label. */
  enter(frame: Frame): AsmCode[];
  /** Last lines, with the return. */
  leave(frame: Frame): AsmCode[];
  /** Behind a function's code. */
  after: readonly AsmCode[];
  /** Starts the statements of a function anew: no register is known to hold an address. */
  body(frame: Frame): Body;
  /** Gives 0 or 1. */
  result(value: 0 | 1): AsmCode[];
  call(name: AsmCode): AsmCode[];
  /** Jumps where the function called has given 0. */
  unlessGiven(label: AsmCode): AsmCode[];
  /** Calls a function, and leaves if that has not run to its end. */
  callOrLeave(frame: Frame, name: AsmCode): AsmCode[];
  /** Sets the byte that says initialisation is done. */
  done(frame: Frame, value: 0 | 1): AsmCode[];
  /** Gives that byte. */
  isDone(frame: Frame): AsmCode[];
}

export interface Body {
  statement(one: Statement): AsmCode[];
  /** Puts a register's first value into its copy. */
  firstCopy(register: Register, value: number): AsmCode[];
}

/** Where what statements hold lies, each in a place of its own; but what is kept gives its place on after it was last written. */
export function slotsOf(statements: readonly Statement[]): Map<HeldName | 'entered', number> {
  const kept = keptPlaces(statements);
  const slots = new Map<HeldName | 'entered', number>(kept);
  let count = Math.max(-1, ...kept.values()) + 1;
  for (const one of statements) {
    const name = one.kind === 'hold' ? one.name : one.kind === 'enter' ? 'entered' : undefined;
    if (name !== undefined && !slots.has(name)) slots.set(name, count++);
  }
  return slots;
}

/** As few places as what is kept needs, from 0: one is free again once what was in it has been written for the last time. */
export function keptPlaces(statements: readonly Statement[]): Map<HeldName, number> {
  const last = new Map<HeldName, number>();
  for (const [at, one] of statements.entries())
    if (one.kind === 'write') for (const name of namesHeld(one.value)) last.set(name, at);
  const places = new Map<HeldName, number>();
  const free: number[] = [];
  let count = 0;
  for (const [at, one] of statements.entries()) {
    if (one.kind === 'write')
      for (const name of new Set(namesHeld(one.value))) {
        const place = places.get(name);
        if (place !== undefined && last.get(name) === at) free.push(place);
      }
    if (one.kind === 'hold' && one.name.startsWith('kept')) places.set(one.name, free.pop() ?? count++);
  }
  return places;
}

function namesHeld(value: Value): HeldName[] {
  if (value.kind === 'held') return [value.name];
  if (value.kind === 'both') return [...namesHeld(value.left), ...namesHeld(value.right)];
  return 'of' in value ? namesHeld(value.of) : [];
}

/** The most bits that a value can have set. */
export function reach(value: Value, held: ReadonlyMap<HeldName, number>): number {
  switch (value.kind) {
    case 'constant':
      return value.value;
    case 'held':
      return held.get(value.name) ?? 0xffffffff;
    case 'both': {
      const [left, right] = [reach(value.left, held), reach(value.right, held)];
      return (value.sign === '&' ? left & right : left | right) >>> 0;
    }
    case 'shift': {
      const of = reach(value.of, held);
      return value.by > 0 ? (of << value.by) >>> 0 : of >>> -value.by;
    }
    case 'wide':
      return reach(value.of, held);
    default: {
      const bits = bitsOf(value);
      return bits === 32 ? 0xffffffff : 2 ** bits - 1;
    }
  }
}

/** A line of code, indented. */
export const line = (text: AsmCode): AsmCode => asm`    ${text}`;
