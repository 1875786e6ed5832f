import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { plainNames, remembered } from '../names';
import type { ProgramFact, ProgramFunction } from '../program/types';
import { type CCode, identifier, macro } from './writer';

/** All names in the files of a plan, each with the plan's prefix. */
export interface CNames {
  /** Stem of the files. */
  file: string;
  /** `frost_guard_init`: a name of the files' own. */
  own(name: OwnName): CCode;
  /** `FROST_GUARD_WRITE8`: a macro of the files' own. */
  ownMacro(name: OwnMacro): CCode;
  /** `frost_guard_fan_1_set`, `frost_guard_leds_outputs_write`. */
  function(fn: ProgramFunction): CCode;
  /** `FROST_GUARD_LEDS_OUTPUTS_LED_OK_BIT`: the place of a net in the number of its group. */
  bit(group: string, net: string): CCode;
  /** `FROST_GUARD_MAST_TX_RATE_WANTED`. */
  fact(fact: ProgramFact): CCode;
  /** `frost_guard_shadow_3`: the copy of a register that cannot be read. */
  copy(register: Register): CCode;
  /** `FROST_GUARD_PA_OUT`. */
  register(register: Register): CCode;
}

const OWN = ['init', 'init_done', 'done', 'wait', 'shadow', 'page', 'table', 'bases', 'take', 'run'] as const;
type OwnName = (typeof OWN)[number];
const MACROS = [
  ...['H', 'PLAN', 'REVISION', 'CONTENT', 'WAIT', 'CRITICAL_ENTER', 'CRITICAL_LEAVE'],
  ...['ROW_1', 'ROW_2', 'ROW_3', 'ROW_4'],
  ...['READ8', 'WRITE8', 'READ16', 'WRITE16', 'READ32', 'WRITE32'],
] as const;
type OwnMacro =
  | 'H'
  | 'PLAN'
  | 'REVISION'
  | 'CONTENT'
  | 'WAIT'
  | `ROW_${1 | 2 | 3 | 4}`
  | `CRITICAL_${'ENTER' | 'LEAVE'}`
  | `${'READ' | 'WRITE'}${8 | 16 | 32}`;

export function cNames(derived: Derived): CNames {
  const plain = plainNames(derived, { registers: MACROS });
  const prefix = plain.file;
  return {
    file: prefix,
    own: remembered((name: OwnName) => identifier(prefix, name)),
    ownMacro: remembered((name: OwnMacro) => macro(prefix, name)),
    function: (fn) => identifier(prefix, plain.function(fn)),
    bit: (group, net) => macro(prefix, plain.bit(group, net)),
    fact: (fact) => macro(prefix, plain.fact(fact)),
    copy: remembered((register: Register) => identifier(prefix, 'shadow', String(register.index))),
    register: remembered((register: Register) => macro(prefix, plain.register(register))),
  };
}
