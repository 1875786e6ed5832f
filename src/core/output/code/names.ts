import { distinctName, identifierFrom } from '../../base/text/identifier';
import type { Derived } from '../../derive/derive';
import { prefixOf } from '../../derive/resolve/resolve';
import type { Register } from '../../device/registers/types';
import type { NetId } from '../../plan/model/types';
import { programOf } from './program/program';
import type { ProgramFact, ProgramFunction, ProgramRoutine } from './program/types';

/** Names in the files of a plan, before a language gives them its prefix or its case: letters, digits and underscores only. */
export interface PlainNames {
  /** Stem of the files' names. */
  file: string;
  /** What names begin with. */
  prefix: string;
  /** `init_fans`, `deinit`, `sleep`, `wake`. */
  routine(one: ProgramRoutine): string;
  /** `door_handler`: what a net's interrupt calls. */
  handler(net: NetId): string;
  /** `interrupt_3`: what a line to the interrupt controller calls. */
  line(id: string): string;
  /** `GATE`: a stage before and after which own code is called. */
  stage(id: string): string;
  /** `fan_1`. */
  net(net: NetId): string;
  /** `leds_outputs`. */
  group(id: string): string;
  /** `fan_1_set`. */
  function(fn: ProgramFunction): string;
  /** `BIT_OF_LED_OK_IN_LEDS_OUTPUTS`: the place of a net in the number of its group. */
  bit(group: string, net: NetId): string;
  /** `MAST_TX_RATE_WANTED`. */
  fact(fact: ProgramFact): string;
  /** `PA_OUT`. */
  register(register: Register): string;
}

/** Names of a language's own that those of nets and registers must not meet. */
export interface OwnNames {
  /** In capitals, beside registers. */
  registers: readonly string[];
  /** Words that a stem cannot be. */
  reserved?: ReadonlySet<string>;
}

/** Names that no net has, in any language, so that its functions are called the same in all of them. */
const KEPT = ['init', 'init_done', 'done', 'wait', 'shadow'];

/**
 * Each name is given once: nets, groups, registers and the files' own names never meet. A plan without findings keeps all its
 * names; one with findings still gives code that compiles, by repairing and numbering.
 */
export function plainNames(derived: Derived, own: OwnNames): PlainNames {
  const stem = prefixOf(derived.plan);
  const taken = new Set<string>(KEPT);
  const name = (text: string, otherwise: string): string =>
    distinctName(identifierFrom(text, 48).toLowerCase() || otherwise, taken);
  const nets = new Map(derived.plan.nets.map((net) => [net.id, name(net.name, 'net')]));
  const groups = new Map<string, string>();
  for (const { group } of derived.accessors.list) {
    if (group && !groups.has(group.id)) groups.set(group.id, name(group.name, 'group'));
  }
  const net = (id: NetId): string => nets.get(id) ?? 'net';
  const group = (id: string): string => groups.get(id) ?? 'group';
  const functionName = ({ accessor }: ProgramFunction): string =>
    accessor.group
      ? `${group(accessor.group.id)}_${accessor.action}`
      : `${net(accessor.nets[0] ?? '')}_${accessor.action}`;
  // In one order for all files, whichever is printed first.
  const program = programOf(derived);
  const capitals = new Set<string>(own.registers);
  const registers = new Map<Register, string>();
  for (const register of program.registers) {
    registers.set(
      register,
      distinctName(identifierFrom(register.name).toUpperCase() || 'REGISTER', capitals),
    );
  }
  const places = new Map<string, string>();
  for (const section of program.sections) {
    if (section.group === undefined) continue;
    for (const { net: id } of section.bits ?? []) {
      const wanted = `BIT_OF_${net(id)}_IN_${group(section.group)}`.toUpperCase();
      places.set(`${section.group} ${id}`, distinctName(wanted, capitals));
    }
  }
  const facts = new Map<string, string>();
  for (const { net: id, kind } of program.sections.flatMap((one) => one.facts)) {
    facts.set(`${id} ${kind}`, distinctName(`${net(id)}_${kind}`.toUpperCase(), capitals));
  }
  const functions = new Set([
    ...KEPT,
    ...program.sections.flatMap((one) => one.functions.map((fn) => functionName(fn))),
  ]);
  const routines = new Map<ProgramRoutine, string>();
  for (const one of program.routines) {
    const { kind, circuit } = one.routine;
    const own =
      kind === 'circuit'
        ? `init_${identifierFrom(circuit?.name ?? 'unused', 48).toLowerCase() || 'circuit'}`
        : kind;
    routines.set(one, distinctName(own, functions));
  }
  const handlers = new Map<NetId, string>();
  const lines = new Map<string, string>();
  for (const one of program.interrupts) {
    lines.set(
      one.id,
      distinctName(`interrupt_${identifierFrom(`l${one.id}`).toLowerCase().slice(1)}`, functions),
    );
    for (const { net: id } of one.nets) handlers.set(id, distinctName(`${net(id)}_handler`, functions));
  }
  const stages = new Set<string>();
  const hooks = new Map(
    program.hooks.map((id) => [id, distinctName(identifierFrom(id).toUpperCase() || 'STAGE', stages)]),
  );
  const prefix = own.reserved?.has(stem) ? `${stem}_pins` : stem;
  return {
    file: derived.plan.code.file ?? prefix,
    prefix,
    routine: (one) => routines.get(one) ?? 'routine',
    handler: (id) => handlers.get(id) ?? 'handler',
    line: (id) => lines.get(id) ?? 'interrupt',
    stage: (id) => hooks.get(id) ?? 'STAGE',
    net,
    group,
    function: functionName,
    bit: (id, member) => places.get(`${id} ${member}`) ?? 'BIT',
    fact: ({ net: id, kind }) => facts.get(`${id} ${kind}`) ?? kind,
    register: (register) => registers.get(register) ?? 'REGISTER',
  };
}

/** The same with what it has given once remembered: names are asked for on every line. */
export function remembered<Key, Name>(give: (key: Key) => Name): (key: Key) => Name {
  const known = new Map<Key, Name>();
  return (key) => {
    let name = known.get(key);
    if (name === undefined) {
      name = give(key);
      known.set(key, name);
    }
    return name;
  };
}
