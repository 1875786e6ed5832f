import type { Register } from '../../device/registers/types';
import type { Code, Writer } from './code';
import type { HeldName, Value, Width } from './program/types';

/** How a language with infix operators writes the values of a program. What is filled in binds tighter than any operator. */
export interface ValueSyntax<Language extends string> {
  writer: Writer<Language>;
  signs: Record<'&' | '|' | '^' | '<<' | '>>', Code<Language>>;
  read(register: Register): Code<Language>;
  copy(register: Register): Code<Language>;
  held(name: HeldName): Code<Language>;
  given(): Code<Language>;
  constant(value: number, bits: Width): Code<Language>;
  /** `of` is whole, as it would stand alone; `atom` says that it needs no parentheses. */
  wide(of: Code<Language>, atom: boolean): Code<Language>;
  narrow(of: Code<Language>, bits: Width, atom: boolean): Code<Language>;
}

const isAtom = (value: Value): boolean => value.kind !== 'both' && value.kind !== 'shift';

/** A value as an expression, with parentheses around whatever has another operator. */
export function printValue<Language extends string>(
  syntax: ValueSyntax<Language>,
  value: Value,
): Code<Language> {
  const { code } = syntax.writer;
  const print = (of: Value): Code<Language> => printValue(syntax, of);
  const inside = (of: Value, sign: string): Code<Language> =>
    isAtom(of) || (of.kind === 'both' && of.sign === sign) ? print(of) : code`(${print(of)})`;
  switch (value.kind) {
    case 'constant':
      return syntax.constant(value.value, value.bits);
    case 'read':
      return syntax.read(value.register);
    case 'copy':
      return syntax.copy(value.register);
    case 'held':
      return syntax.held(value.name);
    case 'given':
      return syntax.given();
    case 'both':
      return code`${inside(value.left, value.sign)} ${syntax.signs[value.sign]} ${inside(value.right, value.sign)}`;
    case 'shift': {
      const sign = value.by > 0 ? '<<' : '>>';
      return code`${inside(value.of, sign)} ${syntax.signs[sign]} ${syntax.writer.decimal(Math.abs(value.by))}`;
    }
    case 'wide':
      return syntax.wide(print(value.of), isAtom(value.of));
    case 'narrow':
      return syntax.narrow(print(value.of), value.bits, isAtom(value.of));
  }
}
