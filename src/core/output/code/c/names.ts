import { distinctName, identifierFrom } from '../../../base/text/identifier';
import type { AccessAction } from '../../../derive/accessors/accessors';
import type { Derived } from '../../../derive/derive';
import { prefixOf } from '../../../derive/resolve/resolve';
import type { Register } from '../../../device/registers/types';
import type { NetId } from '../../../plan/model/types';
import { type CCode, identifier, macro } from './writer';

/** All names in the files of a plan. Each is given once: nets, registers and the files' own names never meet. */
export interface CNames {
  /** Stem of the files. */
  file: string;
  /** `frost_guard_init`: a name of the files' own. */
  own(name: OwnName): CCode;
  /** `FROST_GUARD_WRITE8`: a macro of the files' own. */
  ownMacro(name: OwnMacro): CCode;
  /** `frost_guard_fan_1_set`. */
  accessor(net: NetId, action: AccessAction): CCode;
  /** `frost_guard_leds_outputs_write`: of several nets. */
  group(id: string, action: AccessAction): CCode;
  /** `frost_guard_shadow_pa_out`: the copy of a register that cannot be read. */
  shadow(register: Register): CCode;
  isShadowed(register: Register): boolean;
  /** `FROST_GUARD_PA_OUT`. */
  register(register: Register): CCode;
}

const OWN = ['init', 'init_done', 'done', 'wait', 'shadow'] as const;
type OwnName = (typeof OWN)[number];
const MACROS = [
  ...['H', 'PLAN', 'REVISION', 'CONTENT', 'WAIT', 'CRITICAL_ENTER', 'CRITICAL_LEAVE'],
  ...['READ8', 'WRITE8', 'READ16', 'WRITE16', 'READ32', 'WRITE32'],
] as const;
type OwnMacro =
  | 'H'
  | 'PLAN'
  | 'REVISION'
  | 'CONTENT'
  | 'WAIT'
  | `CRITICAL_${'ENTER' | 'LEAVE'}`
  | `${'READ' | 'WRITE'}${8 | 16 | 32}`;

export function cNames(derived: Derived): CNames {
  const prefix = prefixOf(derived.plan);
  const { nets, groups } = accessNames(derived);
  const taken = new Set<string>(MACROS);
  const registers = new Map<Register, CCode>();
  return {
    file: prefix,
    own: (name) => identifier(prefix, name),
    ownMacro: (name) => macro(prefix, name),
    accessor: (net, action) => identifier(prefix, nets.get(net) ?? 'net', action),
    group: (id, action) => identifier(prefix, groups.get(id) ?? 'group', action),
    shadow: (register) => identifier(prefix, 'shadow', String(register.index)),
    isShadowed: (register) => derived.accessors.shadows.has(register),
    register(register) {
      let name = registers.get(register);
      if (!name) {
        name = macro(prefix, distinctName(identifierFrom(register.name).toUpperCase() || 'REGISTER', taken));
        registers.set(register, name);
      }
      return name;
    },
  };
}

/**
 * Names of nets and of groups of them: lower case, each once. A plan without findings keeps all its names; one with findings
 * still gives code that compiles, by repairing and numbering.
 */
function accessNames(derived: Derived): { nets: Map<NetId, string>; groups: Map<string, string> } {
  const taken = new Set<string>(OWN);
  const name = (text: string, otherwise: string): string =>
    distinctName(identifierFrom(text, 48).toLowerCase() || otherwise, taken);
  const nets = new Map(derived.plan.nets.map((net) => [net.id, name(net.name, 'net')]));
  const groups = new Map<string, string>();
  for (const { group } of derived.accessors.list) {
    if (group && !groups.has(group.id)) groups.set(group.id, name(group.name, 'group'));
  }
  return { nets, groups };
}
