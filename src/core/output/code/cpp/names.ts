import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { plainNames, remembered } from '../names';
import type { ProgramFact, ProgramFunction, ProgramRoutine } from '../program/types';
import { type CppCode, cpp, decimal, identifier, RESERVED } from './writer';

export interface CppNames {
  file: string;
  space: CppCode;
  function(fn: ProgramFunction): CppCode;
  routine(one: ProgramRoutine): CppCode;
  handler(net: string): CppCode;
  line(id: string): CppCode;
  stage(id: string): CppCode;
  bit(group: string, net: string): CppCode;
  fact(fact: ProgramFact): CppCode;
  copy(register: Register): CppCode;
  register(register: Register): CppCode;
}

/** Names of namespace and class: those of registers are in lower case with `at::` before them, so that no macro meets them. */
export function cppNames(derived: Derived): CppNames {
  const plain = plainNames(derived, {
    registers: [],
    reserved: RESERVED,
  });
  return {
    file: plain.file,
    space: identifier(plain.prefix),
    function: (fn) => identifier(plain.function(fn)),
    routine: (one) => identifier(plain.routine(one)),
    handler: (net) => identifier(plain.handler(net)),
    line: (id) => identifier(plain.line(id)),
    stage: (id) => identifier(plain.stage(id).toLowerCase()),
    bit: (group, net) =>
      identifier(
        plain
          .bit(group, net)
          .toLowerCase()
          .replace(/^bit_of_/, ''),
      ),
    fact: (fact) => identifier(plain.fact(fact).toLowerCase()),
    copy: (register) => cpp`copy_${decimal(register.index)}`,
    register: remembered((register: Register) => {
      const name = plain.register(register).toLowerCase();
      return RESERVED.has(name) ? cpp`${identifier(name)}_register` : identifier(name);
    }),
  };
}
