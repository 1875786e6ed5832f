import type { AccessStep, BitMove, Get, Put } from '../../../derive/accessors/access';
import type { Accessor } from '../../../derive/accessors/accessors';
import type { Register } from '../../../device/registers/types';
import { keptBits, type Naming, naming, numberHolds, statementsOf, write } from './operation';
import type { HeldName, ProgramFunction, Statement, Value, Width } from './types';
import { and, anyOf, constant, copyOf, narrow, or, read, shifted, wide, xor } from './values';

export const widthFor = (nets: number): Width => (nets <= 8 ? 8 : nets <= 16 ? 16 : 32);

/** What an accessor does, as a function. */
export function functionOf(accessor: Accessor, isCopied: (register: Register) => boolean): ProgramFunction {
  const { action, group, nets, fault, torn } = accessor;
  const steps = numberHolds(accessor.steps);
  const width = widthFor(nets.length);
  const reads = action === 'read' || action === 'interrupt_pending';
  const base: ProgramFunction = {
    accessor,
    ...(action === 'write' ? { takes: width } : {}),
    ...(reads ? { gives: group ? width : ('level' as const) } : {}),
    ...(fault === undefined ? {} : { fault }),
    statements: [],
  };
  if (steps.length === 0) return base;
  const name = naming();
  const held = new Map<Get, HeldName>();
  const body =
    reads && !group ? [] : steps.flatMap((step) => statementsFor(step, width, isCopied, name, held));
  const gets = steps.filter((step) => step.kind === 'get');
  const result = reads ? [group ? gathered(gets, held, width) : level(gets[0])] : [];
  return {
    ...base,
    statements: [
      ...(torn ? [{ kind: 'enter' as const }] : []),
      ...body,
      ...(torn ? [{ kind: 'leave' as const }] : []),
      ...result,
    ],
  };
}

function statementsFor(
  step: AccessStep,
  width: Width,
  isCopied: (register: Register) => boolean,
  name: Naming,
  held: Map<Get, HeldName>,
): Statement[] {
  switch (step.kind) {
    case 'put':
      return put(step, width, name);
    case 'get': {
      const own = name('held');
      held.set(step, own);
      return [{ kind: 'hold', name: own, value: xor(wide(read(step.register)), turnedBy(step.moves)) }];
    }
    default:
      return statementsOf(step, 'go on', isCopied, name);
  }
}

/** The level of one net, asserted or not. */
function level(get: Get | undefined): Statement {
  const move = get?.moves[0];
  if (!get || !move) throw new Error('an accessor that reads has one bit at least');
  return {
    kind: 'give level',
    register: get.register,
    mask: (1 << move.low) >>> 0,
    asserted: move.inverted ? 'clear' : 'set',
  };
}

const turnedBy = (moves: readonly BitMove[]): number =>
  moves.reduce((mask, move) => (move.inverted ? mask | (1 << move.low) : mask), 0) >>> 0;

/** Bits of a 32-bit value moved to other places; bits that go the same way go at once. */
function moved(value: Value, moves: readonly { from: number; to: number }[]): Value[] {
  const runs = new Map<number, number>();
  for (const { from, to } of moves) {
    runs.set(to - from, ((runs.get(to - from) ?? 0) | (1 << to)) >>> 0);
  }
  return [...runs].map(([by, mask]) => and(shifted(value, by), mask));
}

const gathered = (gets: readonly Get[], held: ReadonlyMap<Get, HeldName>, width: Width): Statement => ({
  kind: 'give',
  value: narrow(
    anyOf(
      gets.flatMap((get) => {
        const name = held.get(get);
        if (!name) throw new Error('what is read is held');
        return moved(
          { kind: 'held', name },
          get.moves.map(({ bit, low }) => ({ from: low, to: bit })),
        );
      }),
    ),
    width,
  ),
});

/** A value into bits of a register: neither more accesses than it takes, nor a change of a bit that keeps its level. */
function put({ register, mask, moves, way }: Put, width: Width, name: Naming): Statement[] {
  const own = name('bits');
  const bits: Value = { kind: 'held', name: own };
  const spread = anyOf(
    moved(
      wide({ kind: 'given', bits: width }),
      moves.map(({ bit, low }) => ({ from: bit, to: low })),
    ),
  );
  const held: Statement = { kind: 'hold', name: own, value: xor(spread, turnedBy(moves)) };
  switch (way.kind) {
    case 'pair':
      return [held, write(way.set, bits), write(way.clear, xor(bits, mask))];
    case 'set-clear': {
      const half = way.by.bits / 2;
      const isLower = way.by.access.kind !== 'set-clear' || way.by.access.setting === 'lower';
      const [lower, upper] = isLower ? [bits, xor(bits, mask)] : [xor(bits, mask), bits];
      return [held, write(way.by, or(lower, shifted(upper, half)))];
    }
    case 'masked':
      return [held, write(register, or(bits, constant(mask * 2 ** (register.bits / 2), 32)))];
    case 'whole':
      return [held, write(register, bits)];
    case 'update':
      return [held, write(register, mixed(read(register), register, mask, bits))];
    case 'shadow':
      return [
        held,
        {
          kind: 'keep',
          register,
          value: narrow(mixed(copyOf(register), register, mask, bits), register.bits),
        },
        write(register, copyOf(register)),
      ];
  }
}

/** What was held, with the bits of a value in their places. */
function mixed(held: Value, register: Register, mask: number, bits: Value): Value {
  const reserved = register.always;
  const ones = ((reserved?.value ?? 0) | (register.zeroFlagMask & ~mask)) >>> 0;
  const cleared = (mask | (reserved?.mask ?? 0) | register.flagMask | ones) >>> 0;
  return or(or(and(wide(held), keptBits(register, cleared)), bits), constant(ones, 32));
}
