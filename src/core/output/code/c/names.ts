import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { plainNames, remembered } from '../names';
import type { ProgramFact, ProgramFunction, ProgramRoutine } from '../program/types';
import { type CCode, identifier, macro, registerPlace } from './writer';

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
  routine(one: ProgramRoutine): CCode;
  handler(net: string): CCode;
  line(id: string): CCode;
  stage(id: string): CCode;
  /** `FROST_GUARD_LEDS_OUTPUTS_LED_OK_BIT`: the place of a net in the number of its group. */
  bit(group: string, net: string): CCode;
  /** `FROST_GUARD_MAST_TX_RATE_WANTED`. */
  fact(fact: ProgramFact): CCode;
  /** `frost_guard_shadow_3`: the copy of a register that cannot be read. */
  copy(register: Register): CCode;
  /** `FROST_GUARD_PA_OUT`. */
  register(register: Register): CCode;
  /** `PA->OUT`: what the project's own headers call it, where the plan says so. */
  place(register: Register): CCode | undefined;
}

const OWN = ['init', 'init_done', 'done', 'wait', 'shadow', 'page', 'table', 'bases', 'take', 'run'] as const;
type OwnName = (typeof OWN)[number];
const MACROS = [
  ...[
    'H',
    'PLAN',
    'REVISION',
    'CONTENT',
    'WAIT',
    'CRITICAL_ENTER',
    'CRITICAL_LEAVE',
    'BEFORE',
    'AFTER',
    'WEAK',
  ],
  ...['ROW_1', 'ROW_2', 'ROW_3', 'ROW_4'],
  ...['READ8', 'WRITE8', 'READ16', 'WRITE16', 'READ32', 'WRITE32'],
] as const;
type OwnMacro =
  | 'H'
  | 'PLAN'
  | 'REVISION'
  | 'CONTENT'
  | 'WAIT'
  | 'BEFORE'
  | 'AFTER'
  | 'WEAK'
  | `ROW_${1 | 2 | 3 | 4}`
  | `CRITICAL_${'ENTER' | 'LEAVE'}`
  | `${'READ' | 'WRITE'}${8 | 16 | 32}`;

export function cNames(derived: Derived): CNames {
  const plain = plainNames(derived, { registers: MACROS });
  const { prefix } = plain;
  const pattern = derived.plan.code.registers;
  return {
    file: plain.file,
    own: remembered((name: OwnName) => identifier(prefix, name)),
    ownMacro: remembered((name: OwnMacro) => macro(prefix, name)),
    function: (fn) => identifier(prefix, plain.function(fn)),
    routine: (one) => identifier(prefix, plain.routine(one)),
    handler: (net) => identifier(prefix, plain.handler(net)),
    line: (id) => identifier(prefix, plain.line(id)),
    stage: (id) => identifier(plain.stage(id)),
    bit: (group, net) => macro(prefix, plain.bit(group, net)),
    fact: (fact) => macro(prefix, plain.fact(fact)),
    copy: remembered((register: Register) => identifier(prefix, 'shadow', String(register.index))),
    place: (register) => (pattern === undefined ? undefined : registerPlace(pattern, register.name)),
    register: remembered((register: Register) => macro(prefix, plain.register(register))),
  };
}
