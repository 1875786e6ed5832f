import type { Register } from '../../../device/registers/types';
import { printValue, type ValueSyntax } from '../print-value';
import { bitsOf, type ProgramFunction, type Statement, type Value, type Width } from '../program/types';
import { narrow } from '../program/values';
import type { CNames } from './names';
import { widthType } from './types';
import {
  type CCode,
  c,
  comment,
  cWriter,
  decimal,
  hexLiteral,
  identifier,
  indented,
  join,
  outdented,
} from './writer';

const LONGEST_LINE = 100;

/** The macros through which registers are read and written. */
const readCall = (names: CNames, register: Register): CCode =>
  c`${names.ownMacro(`READ${register.bits}`)}(${names.register(register)})`;

const writeCall = (names: CNames, register: Register, value: CCode): CCode =>
  c`${names.ownMacro(`WRITE${register.bits}`)}(${names.register(register)}, ${value});`;

const syntaxOf = (names: CNames): ValueSyntax<'c'> => ({
  writer: cWriter,
  signs: { '&': c`&`, '|': c`|`, '^': c`^`, '<<': c`<<`, '>>': c`>>` },
  read: (register) => readCall(names, register),
  copy: names.copy,
  held: (name) => identifier(name),
  given: () => c`value`,
  constant: hexLiteral,
  wide: (of, atom) => (atom ? c`(uint32_t)${of}` : c`(uint32_t)(${of})`),
  narrow: (of, bits, atom) => c`(${widthType(bits)})${atom ? of : c`(${of})`}`,
});

/** A value of the register's width: the cast undoes C's promotion to int and says so to the compiler. */
function printed(names: CNames, value: Value): CCode {
  const computed = value.kind === 'both' && bitsOf(value) < 32;
  const text = printValue(syntaxOf(names), value);
  return computed ? c`(${widthType(bitsOf(value))})(${text})` : text;
}

/** A register write as a statement, on two lines when one would be too long to read. */
function writeStatement(names: CNames, register: Register, value: CCode): CCode[] {
  const whole = indented(writeCall(names, register, value));
  if (whole.length <= LONGEST_LINE) return [whole];
  return [
    c`    ${names.ownMacro(`WRITE${register.bits}`)}(${names.register(register)},`,
    c`        ${value});`,
  ];
}

const literal = (register: Register, value: number): CCode => hexLiteral(value, register.bits);

/** A statement as lines, each indented once. `late` is what is done when waiting ends without result. */
export function printStatement(names: CNames, one: Statement, late: CCode = c`return;`): CCode[] {
  switch (one.kind) {
    case 'hold':
      return [c`    uint32_t const ${identifier(one.name)} = ${printed(names, one.value)};`];
    case 'write':
      return writeStatement(names, one.register, printed(names, narrow(one.value, one.register.bits)));
    case 'read':
      return [c`    (void)${readCall(names, one.register)};`];
    case 'keep':
      return [c`    ${names.copy(one.register)} = ${printed(names, one.value)};`];
    case 'choose': {
      const test = c`if ((${readCall(names, one.register)} & ${literal(one.register, one.mask)}) != 0u) {`;
      const [set, clear] = [one.set, one.clear].map((list) =>
        list.flatMap((inner) => printStatement(names, inner, late)),
      ) as [CCode[], CCode[]];
      const short = c`    ${test} ${join(set.map(outdented), c` `)} } else { ${join(clear.map(outdented), c` `)} }`;
      if (short.length <= LONGEST_LINE) return [short];
      return [indented(test), ...set.map(indented), c`    } else {`, ...clear.map(indented), c`    }`];
    }
    case 'await': {
      const { register, mask, value, tries } = one;
      return [
        c`    for (uint32_t tries = 0u;`,
        c`         (${readCall(names, register)} & ${literal(register, mask)}) != ${literal(register, value)};`,
        c`         tries = tries + 1u) {`,
        c`        if (tries == ${decimal(tries)}u) { ${one.late === 'leave' ? late : c`break;`} }`,
        c`    }`,
      ];
    }
    case 'wait':
      return [c`    ${names.ownMacro('WAIT')}(${decimal(one.cycles)}u);`];
    case 'enter':
      return [c`    ${names.ownMacro('CRITICAL_ENTER')}();`];
    case 'leave':
      return [c`    ${names.ownMacro('CRITICAL_LEAVE')}();`];
    case 'give':
      return [c`    return ${printed(names, one.value)};`];
    case 'give level': {
      const read = readCall(names, one.register);
      const sign = one.asserted === 'set' ? c`!=` : c`==`;
      return [c`    return (${read} & ${literal(one.register, one.mask)}) ${sign} 0u;`];
    }
  }
}

const typeOf = (one: Width | 'level' | undefined): CCode =>
  one === undefined ? c`void` : one === 'level' ? c`bool` : widthType(one);

/** What a function is given and gives. */
export function prototypeOf(names: CNames, fn: ProgramFunction): CCode {
  const taken = fn.takes === undefined ? c`void` : c`${widthType(fn.takes)} value`;
  return c`${typeOf(fn.gives)} ${names.function(fn)}(${taken})`;
}

/** A function of an accessor, in the header: one line where it is short. */
export function printFunction(names: CNames, fn: ProgramFunction): CCode[] {
  const notes = fn.fault === undefined ? [] : [comment(`not proven: ${fn.fault}`)];
  if (fn.statements.length === 0) return [...notes, comment(`there is no ${fn.accessor.action}`)];
  const head = c`static inline ${prototypeOf(names, fn)}`;
  const body = fn.statements.flatMap((one) => printStatement(names, one));
  const short = c`${head} { ${join(body.map(outdented), c` `)} }`;
  if (body.length <= 2 && short.length <= 150) return [...notes, short];
  return [...notes, head, c`{`, ...body, c`}`];
}
