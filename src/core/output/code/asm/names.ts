import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { plainNames, remembered } from '../names';
import type { ProgramFunction, ProgramRoutine } from '../program/types';
import { type AsmCode, identifier } from './writer';

/** Symbols, each with the plan's prefix; those of registers in capitals. */
export interface AsmNames {
  file: string;
  own(name: OwnName): AsmCode;
  function(fn: ProgramFunction): AsmCode;
  routine(one: ProgramRoutine): AsmCode;
  handler(net: string): AsmCode;
  line(id: string): AsmCode;
  copy(register: Register): AsmCode;
  register(register: Register): AsmCode;
}

const OWN = ['init', 'init_done', 'done', 'enter', 'leave', 'shadow'] as const;
type OwnName = (typeof OWN)[number];

export function asmNames(derived: Derived): AsmNames {
  const plain = plainNames(derived, { registers: [] });
  return {
    file: plain.file,
    own: remembered((name: OwnName) => identifier(plain.prefix, name)),
    function: (fn) => identifier(plain.prefix, plain.function(fn)),
    routine: (one) => identifier(plain.prefix, plain.routine(one)),
    handler: (net) => identifier(plain.prefix, plain.handler(net)),
    line: (id) => identifier(plain.prefix, plain.line(id)),
    copy: remembered((register: Register) => identifier(plain.prefix, 'shadow', String(register.index))),
    register: remembered((register: Register) =>
      identifier(plain.prefix.toUpperCase(), plain.register(register)),
    ),
  };
}
