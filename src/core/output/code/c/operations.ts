import type { Operation } from '../../../derive/machine/operations';
import { fullMask, type Register } from '../../../device/registers/types';
import { narrowed, readCall, writeCall } from './common';
import type { CNames } from './names';
import { type CCode, c, decimal, hexLiteral, indented } from './writer';

const LONGEST_LINE = 100;

/** A register write as a statement, on two lines when one would be too long to read. */
export function writeStatement(names: CNames, register: Register, value: CCode): CCode[] {
  const whole = indented(writeCall(names, register, value));
  if (whole.length <= LONGEST_LINE) return [whole];
  return [
    c`    ${names.ownMacro(`WRITE${register.bits}`)}(${names.register(register)},`,
    c`        ${value});`,
  ];
}

const bitsLiteral = (register: Register, value: number): CCode => hexLiteral(value >>> 0, register.bits);

/** What was read, with some bits cleared and some set; bits that are set anyway are not cleared first. */
export function changed(read: CCode, register: Register, clear: number, set: number): CCode {
  const flags = register.flagMask;
  // Flags go back as 0, unless they are to be cleared: 1 is what clears them.
  const cleared = ((clear | flags) & ~set) >>> 0;
  const kept = bitsLiteral(register, ~cleared & fullMask(register.bits));
  let value = read;
  if (cleared !== 0) value = set === 0 ? c`${value} & ${kept}` : c`(${value} & ${kept})`;
  if (set !== 0) value = c`${value} | ${bitsLiteral(register, set)}`;
  return narrowed(value, register.bits);
}

type Flip = Extract<Operation, { kind: 'flip' }>;

/** Turns bits into their opposites, by whatever way the operation says. */
function printFlip(names: CNames, operation: Flip): CCode[] {
  const { register, mask, through, shadow } = operation;
  const bits = bitsLiteral(register, mask);
  if (shadow) {
    const copy = names.shadow(register);
    return [
      c`    ${copy} = ${narrowed(c`${copy} ^ ${bits}`, register.bits)};`,
      ...writeStatement(names, register, copy),
    ];
  }
  const read = readCall(names, register);
  if (register.access.kind === 'masked') {
    const upper = bitsLiteral(register, mask * 2 ** (register.bits / 2));
    return writeStatement(names, register, narrowed(c`${upper} | (~${read} & ${bits})`, register.bits));
  }
  if (!through) {
    const kept = bitsLiteral(register, ~register.flagMask & fullMask(register.bits));
    const value = register.flagMask === 0 ? c`${read} ^ ${bits}` : c`(${read} & ${kept}) ^ ${bits}`;
    return writeStatement(names, register, narrowed(value, register.bits));
  }
  // Single writes keep the neighbours safe from an interrupt between read and write.
  const { set, clear } = through;
  if ((mask & (mask - 1)) !== 0) return printFlipOfSeveral(names, operation, through);
  const high = writeCall(names, set, bitsLiteral(set, mask));
  const low = writeCall(
    names,
    clear,
    bitsLiteral(clear, set === clear ? mask * 2 ** (clear.bits / 2) : mask),
  );
  const short = c`    if ((${read} & ${bits}) != 0u) { ${low} } else { ${high} }`;
  if (short.length <= LONGEST_LINE) return [short];
  return [
    c`    if ((${read} & ${bits}) != 0u) {`,
    c`        ${low}`,
    c`    } else {`,
    c`        ${high}`,
    c`    }`,
  ];
}

function printFlipOfSeveral(names: CNames, operation: Flip, through: NonNullable<Flip['through']>): CCode[] {
  const { register, mask } = operation;
  const { set, clear } = through;
  const bits = bitsLiteral(register, mask);
  const held = c`uint32_t const held = ${readCall(names, register)} & ${bits};`;
  if (set === clear) {
    const half = decimal(set.bits / 2);
    const value = narrowed(c`(held << ${half}) | (held ^ ${bits})`, set.bits);
    return [c`    { ${held} ${writeCall(names, set, value)} }`];
  }
  const low = writeCall(names, clear, narrowed(c`held`, clear.bits));
  const high = writeCall(names, set, narrowed(c`held ^ ${bits}`, set.bits));
  return [c`    { ${held} ${low} ${high} }`];
}

/** Waits with a bound; what happens when it is over is for the caller to say. */
function printAwait(names: CNames, operation: Extract<Operation, { kind: 'await' }>, late: CCode): CCode[] {
  const { register, mask, value, cycles } = operation;
  const bits = register.bits;
  return [
    c`    for (uint32_t tries = 0u;`,
    c`         (${readCall(names, register)} & ${hexLiteral(mask, bits)}) != ${hexLiteral(value, bits)};`,
    c`         tries = tries + 1u) {`,
    c`        if (tries == ${decimal(cycles)}u) { ${late} }`,
    c`    }`,
  ];
}

/** One operation as statements, each line indented once. `late` is done when waiting ends without result. */
export function printOperation(names: CNames, operation: Operation, late: CCode): CCode[] {
  switch (operation.kind) {
    case 'wait':
      return [c`    ${names.ownMacro('WAIT')}(${decimal(operation.cycles)}u);`];
    case 'await':
      return printAwait(names, operation, late);
    case 'write': {
      const { register, value } = operation;
      const literal = hexLiteral(value, register.bits);
      return names.isShadowed(register)
        ? [c`    ${names.shadow(register)} = ${literal};`, ...writeStatement(names, register, literal)]
        : writeStatement(names, register, literal);
    }
    case 'update': {
      const { register, clear, set, shadow } = operation;
      if (!shadow)
        return writeStatement(names, register, changed(readCall(names, register), register, clear, set));
      const copy = names.shadow(register);
      return [
        c`    ${copy} = ${changed(copy, register, clear, set)};`,
        ...writeStatement(names, register, copy),
      ];
    }
    case 'flip':
      return printFlip(names, operation);
  }
}
