import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { plainNames } from '../names';
import type { ProgramFunction } from '../program/types';
import { decimal, identifier, RESERVED, type RustCode, rust } from './writer';

export interface RustNames {
  file: string;
  function(fn: ProgramFunction): RustCode;
  bit(group: string, net: string): RustCode;
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
    bit: (group, net) => identifier(plain.bit(group, net)),
    copy: (register) => rust`copy_${decimal(register.index)}`,
    register: (register) => identifier(plain.register(register)),
  };
}
