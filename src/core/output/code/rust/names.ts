import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { plainNames, remembered } from '../names';
import type { ProgramFact, ProgramFunction, ProgramRoutine } from '../program/types';
import { decimal, identifier, RESERVED, type RustCode, rust } from './writer';

export interface RustNames {
  file: string;
  function(fn: ProgramFunction): RustCode;
  routine(one: ProgramRoutine): RustCode;
  handler(net: string): RustCode;
  line(id: string): RustCode;
  stage(id: string): RustCode;
  bit(group: string, net: string): RustCode;
  fact(fact: ProgramFact): RustCode;
  copy(register: Register): RustCode;
  register(register: Register): RustCode;
}

export function rustNames(derived: Derived): RustNames {
  const plain = plainNames(derived, {
    registers: ['PLAN', 'REVISION', 'CONTENT'],
    reserved: RESERVED,
  });
  return {
    file: plain.file,
    function: (fn) => identifier(plain.function(fn)),
    routine: (one) => identifier(plain.routine(one)),
    handler: (net) => identifier(plain.handler(net)),
    line: (id) => identifier(plain.line(id)),
    stage: (id) => identifier(plain.stage(id)),
    bit: (group, net) => identifier(plain.bit(group, net)),
    fact: (fact) => identifier(plain.fact(fact)),
    copy: (register) => rust`copy_${decimal(register.index)}`,
    register: remembered((register: Register) => identifier(plain.register(register))),
  };
}
