import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { plainNames, remembered } from '../names';
import type { ProgramFunction } from '../program/types';
import { type AsmCode, identifier } from './writer';

/** Symbols, each with the plan's prefix; those of registers in capitals. */
export interface AsmNames {
  file: string;
  own(name: OwnName): AsmCode;
  function(fn: ProgramFunction): AsmCode;
  copy(register: Register): AsmCode;
  register(register: Register): AsmCode;
}

const OWN = ['init', 'init_done', 'done', 'enter', 'leave', 'shadow'] as const;
type OwnName = (typeof OWN)[number];

export function asmNames(derived: Derived): AsmNames {
  const plain = plainNames(derived, { registers: [] });
  return {
    file: plain.file,
    own: remembered((name: OwnName) => identifier(plain.file, name)),
    function: (fn) => identifier(plain.file, plain.function(fn)),
    copy: remembered((register: Register) => identifier(plain.file, 'shadow', String(register.index))),
    register: remembered((register: Register) =>
      identifier(plain.file.toUpperCase(), plain.register(register)),
    ),
  };
}
