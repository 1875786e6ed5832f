import type { Register } from '../../../device/registers/types';
import { printValue, type ValueSyntax } from '../print-value';
import { bitsOf, type ProgramFunction, type Statement, type Value, type Width } from '../program/types';
import { narrow } from '../program/values';
import type { CppNames } from './names';
import { type CppCode, comments, cpp, cppWriter, decimal, hexLiteral, identifier, indented } from './writer';

const TYPES = { 8: cpp`std::uint8_t`, 16: cpp`std::uint16_t`, 32: cpp`std::uint32_t` };
export const widthType = (bits: Width): CppCode => TYPES[bits];

const readCall = (names: CppNames, register: Register): CppCode =>
  cpp`Bus::read${decimal(register.bits)}(at::${names.register(register)})`;

const syntaxOf = (names: CppNames): ValueSyntax<'cpp'> => ({
  writer: cppWriter,
  signs: { '&': cpp`&`, '|': cpp`|`, '^': cpp`^`, '<<': cpp`<<`, '>>': cpp`>>` },
  read: (register) => readCall(names, register),
  copy: names.copy,
  held: (name) => identifier(name),
  given: () => cpp`value`,
  constant: hexLiteral,
  wide: (of) => cpp`static_cast<std::uint32_t>(${of})`,
  narrow: (of, bits) => cpp`static_cast<${widthType(bits)}>(${of})`,
});

/** Arithmetic on narrow numbers is of type int, as in C; the cast says that this is meant. */
function printed(names: CppNames, value: Value): CppCode {
  const computed = value.kind === 'both' && bitsOf(value) < 32;
  const text = printValue(syntaxOf(names), value);
  return computed ? cpp`static_cast<${widthType(bitsOf(value))}>(${text})` : text;
}

const literal = (register: Register, value: number): CppCode => hexLiteral(value, register.bits);

/** A statement as lines, not indented. `late` is what a function returns when waiting ends without result. */
export function printStatement(names: CppNames, one: Statement, late: CppCode): CppCode[] {
  const test = (register: Register, mask: number): CppCode =>
    cpp`(${readCall(names, register)} & ${literal(register, mask)})`;
  const inside = (list: readonly Statement[]): CppCode[] =>
    list.flatMap((it) => printStatement(names, it, late)).map(indented);
  switch (one.kind) {
    case 'hold':
      return [cpp`std::uint32_t const ${identifier(one.name)} = ${printed(names, one.value)};`];
    case 'write': {
      const value = printed(names, narrow(one.value, one.register.bits));
      return [cpp`Bus::write${decimal(one.register.bits)}(at::${names.register(one.register)}, ${value});`];
    }
    case 'read':
      return [cpp`static_cast<void>(${readCall(names, one.register)});`];
    case 'keep':
      return [cpp`${names.copy(one.register)} = ${printed(names, one.value)};`];
    case 'choose':
      return [
        cpp`if (${test(one.register, one.mask)} != 0u) {`,
        ...inside(one.set),
        cpp`} else {`,
        ...inside(one.clear),
        cpp`}`,
      ];
    case 'await':
      return [
        cpp`for (std::uint32_t tries = 0u; ${test(one.register, one.mask)} != ${literal(one.register, one.value)}; ++tries) {`,
        cpp`    if (tries == ${decimal(one.tries)}u) { ${one.late === 'leave' ? late : cpp`break;`} }`,
        cpp`}`,
      ];
    case 'wait':
      return [cpp`Bus::wait(${decimal(one.cycles)}u);`];
    case 'enter':
      return [cpp`auto const entered = Bus::enter();`];
    case 'leave':
      return [cpp`Bus::leave(entered);`];
    case 'give':
      return [cpp`return ${printed(names, one.value)};`];
    case 'give level':
      return [cpp`return ${test(one.register, one.mask)} ${one.asserted === 'set' ? cpp`!=` : cpp`==`} 0u;`];
  }
}

const typeOf = (one: Width | 'level' | undefined): CppCode =>
  one === undefined ? cpp`void` : one === 'level' ? cpp`bool` : widthType(one);

/** A function of an accessor, a member of the class. */
export function printFunction(names: CppNames, fn: ProgramFunction): CppCode[] {
  const notes = fn.fault === undefined ? [] : comments([`not proven: ${fn.fault}`]);
  if (fn.statements.length === 0) return [...notes, ...comments([`there is no ${fn.accessor.action}`])];
  const taken = fn.takes === undefined ? cpp`` : cpp`${widthType(fn.takes)} value`;
  const discard = fn.gives === undefined ? cpp`` : cpp`[[nodiscard]] `;
  const head = cpp`${discard}static ${typeOf(fn.gives)} ${names.function(fn)}(${taken}) noexcept`;
  const body = fn.statements.flatMap((one) => printStatement(names, one, cpp`return;`));
  const [only] = body;
  if (body.length === 1 && only && head.length + only.length < 120)
    return [...notes, cpp`${head} { ${only} }`];
  return [...notes, cpp`${head} {`, ...body.map(indented), cpp`}`];
}
