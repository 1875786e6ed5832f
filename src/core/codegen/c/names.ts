import type { Derived } from '../../derive';
import { prefixOf } from '../../plan/resolve';
import type { NetId } from '../../plan/types';
import type { Register } from '../../recipe/registers';
import { distinctName, identifierFrom } from '../../text/identifier';
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
  accessor(net: NetId, action: 'set' | 'clear' | 'toggle' | 'read'): CCode;
  /** `FROST_GUARD_PA_OUT`. */
  register(register: Register): CCode;
}

const OWN = ['init', 'init_done', 'done', 'wait'] as const;
type OwnName = (typeof OWN)[number];
const MACROS = [
  ...['H', 'PLAN', 'REVISION', 'CONTENT', 'WAIT'],
  ...['READ8', 'WRITE8', 'READ16', 'WRITE16', 'READ32', 'WRITE32'],
] as const;
type OwnMacro = 'H' | 'PLAN' | 'REVISION' | 'CONTENT' | 'WAIT' | `${'READ' | 'WRITE'}${8 | 16 | 32}`;

export function cNames(derived: Derived): CNames {
  const prefix = prefixOf(derived.plan);
  const nets = netNames(derived);
  const taken = new Set<string>(MACROS);
  const registers = new Map<Register, CCode>();
  return {
    file: prefix,
    own: (name) => identifier(prefix, name),
    ownMacro: (name) => macro(prefix, name),
    accessor: (net, action) => identifier(prefix, nets.get(net) ?? 'net', action),
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
 * Names of nets: lower case, each once. A plan without findings keeps all its names; one with findings still gives code that
 * compiles, by repairing and numbering.
 */
function netNames(derived: Derived): Map<NetId, string> {
  const taken = new Set<string>(OWN);
  return new Map(
    derived.plan.nets.map((net) => [
      net.id,
      distinctName(identifierFrom(net.name, 48).toLowerCase() || 'net', taken),
    ]),
  );
}
