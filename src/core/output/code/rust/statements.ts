import type { Register } from '../../../device/registers/types';
import { printValue, type ValueSyntax } from '../print-value';
import type { ProgramFunction, Statement, Value, Width } from '../program/types';
import { narrow } from '../program/values';
import type { RustNames } from './names';
import {
  comments,
  decimal,
  documentation,
  hexLiteral,
  identifier,
  indented,
  type RustCode,
  rust,
  rustWriter,
} from './writer';

const TYPES = { 8: rust`u8`, 16: rust`u16`, 32: rust`u32` };
export const widthType = (bits: Width): RustCode => TYPES[bits];

const readCall = (names: RustNames, register: Register): RustCode =>
  rust`self.bus.read${decimal(register.bits)}(${names.register(register)})`;

const syntaxOf = (names: RustNames): ValueSyntax<'rust'> => ({
  writer: rustWriter,
  signs: { '&': rust`&`, '|': rust`|`, '^': rust`^`, '<<': rust`<<`, '>>': rust`>>` },
  read: (register) => readCall(names, register),
  copy: (register) => rust`self.${names.copy(register)}`,
  held: (name) => identifier(name),
  given: () => rust`value`,
  constant: hexLiteral,
  wide: (of) => rust`u32::from(${of})`,
  // Cutting off the upper bits is what is meant.
  narrow: (of, bits, atom) =>
    atom ? rust`${of} as ${widthType(bits)}` : rust`(${of}) as ${widthType(bits)}`,
});

const printed = (names: RustNames, value: Value): RustCode => printValue(syntaxOf(names), value);

const literal = (register: Register, value: number): RustCode => hexLiteral(value, register.bits);

/** A statement as lines, not indented. `late` is what is done when waiting ends without result. */
export function printStatement(names: RustNames, one: Statement, late: RustCode): RustCode[] {
  const test = (register: Register, mask: number): RustCode =>
    rust`${readCall(names, register)} & ${literal(register, mask)}`;
  const inside = (list: readonly Statement[]): RustCode[] =>
    list.flatMap((it) => printStatement(names, it, late)).map(indented);
  switch (one.kind) {
    case 'hold':
      return [rust`let ${identifier(one.name)}: u32 = ${printed(names, one.value)};`];
    case 'write': {
      const { register } = one;
      const value = printed(names, narrow(one.value, register.bits));
      // What is written is worked out first, since that reads through the same bus.
      const inline = one.value.kind === 'constant' || one.value.kind === 'held';
      const call = (text: RustCode): RustCode =>
        rust`self.bus.write${decimal(register.bits)}(${names.register(register)}, ${text});`;
      return inline ? [call(value)] : [rust`let next = ${value};`, call(rust`next`)];
    }
    case 'read':
      return [rust`let _ = ${readCall(names, one.register)};`];
    case 'keep':
      return [rust`self.${names.copy(one.register)} = ${printed(names, one.value)};`];
    case 'choose':
      return [
        rust`if ${test(one.register, one.mask)} != 0 {`,
        ...inside(one.set),
        rust`} else {`,
        ...inside(one.clear),
        rust`}`,
      ];
    case 'await':
      return [
        rust`let mut tries: u32 = 0;`,
        rust`while ${test(one.register, one.mask)} != ${literal(one.register, one.value)} {`,
        rust`    if tries == ${decimal(one.tries)} {`,
        rust`        ${one.late === 'leave' ? late : rust`break;`}`,
        rust`    }`,
        rust`    tries += 1;`,
        rust`}`,
      ];
    case 'wait':
      return [rust`self.bus.wait(${decimal(one.cycles)});`];
    case 'enter':
      return [rust`let entered = self.bus.enter();`];
    case 'leave':
      return [rust`self.bus.leave(entered);`];
    case 'give':
      return [printed(names, one.value)];
    case 'give level':
      return [rust`${test(one.register, one.mask)} ${one.asserted === 'set' ? rust`!=` : rust`==`} 0`];
  }
}

const typeOf = (one: Width | 'level' | undefined): RustCode =>
  one === undefined ? rust`` : one === 'level' ? rust` -> bool` : rust` -> ${widthType(one)}`;

/** A method of an accessor. */
export function printFunction(names: RustNames, fn: ProgramFunction, about: string): RustCode[] {
  const { action } = fn.accessor;
  if (fn.statements.length === 0)
    return comments([
      ...(fn.fault === undefined ? [] : [`not proven: ${fn.fault}`]),
      `there is no ${action}`,
    ]);
  const taken = fn.takes === undefined ? rust`` : rust`, value: ${widthType(fn.takes)}`;
  const unused = fn.gives === undefined ? [] : [rust`#[must_use]`];
  return [
    ...documentation(`${about}: ${action}.`),
    ...(fn.fault === undefined ? [] : documentation(`Not proven: ${fn.fault}`)),
    ...unused,
    rust`#[inline]`,
    rust`pub fn ${names.function(fn)}(&mut self${taken})${typeOf(fn.gives)} {`,
    ...fn.statements.flatMap((one) => printStatement(names, one, rust`return;`)).map(indented),
    rust`}`,
  ];
}
