import { listed } from '../../../base/text/listed';
import type { AccessStep, BitMove, Get, Put } from '../../../derive/accessors/access';
import type { Accessor } from '../../../derive/accessors/accessors';
import type { Derived } from '../../../derive/derive';
import type { ResolvedNet } from '../../../derive/resolve/resolve';
import { latchLevel } from '../../../derive/resolve/resolve';
import { fullMask, type Register } from '../../../device/registers/types';
import { roleText } from '../../../plan/model/types';
import { narrowed, readCall } from './common';
import type { CNames } from './names';
import { printOperation, writeStatement } from './operations';
import {
  type CCode,
  c,
  comment,
  decimal,
  hexLiteral,
  indented,
  join,
  outdented,
  wrappedComment,
} from './writer';

/** Registers that accessors touch. */
export const accessRegisters = (derived: Derived): Register[] =>
  derived.accessors.list.flatMap(({ steps }) => steps.flatMap(registersOf));

function registersOf(step: AccessStep): Register[] {
  if (step.kind === 'wait') return [];
  if (step.kind === 'put') {
    const { way } = step;
    switch (way.kind) {
      case 'pair':
        return [way.set, way.clear];
      case 'set-clear':
        return [way.by];
      default:
        return [step.register];
    }
  }
  if (step.kind !== 'flip' || !step.through) return [step.register];
  return [step.register, step.through.set, step.through.clear];
}

/** The accessors of every net and group, each with what it is and where. */
export function printAccessors(derived: Derived, names: CNames): CCode[] {
  const lines: CCode[] = [];
  for (const one of derived.resolved) {
    const own = derived.accessors.list.filter((it) => !it.group && it.nets[0] === one.net.id);
    const first = one.pad && derived.byPad.get(one.pad.id)?.[0];
    if (first !== one || !one.planned || one.pins.length === 0) continue;
    lines.push(c``, comment(describeNet(one)), ...own.flatMap((it) => printAccessor(names, it)));
  }
  const groups = new Map<string, Accessor[]>();
  for (const one of derived.accessors.list) {
    if (one.group) groups.set(one.group.id, [...(groups.get(one.group.id) ?? []), one]);
  }
  for (const own of groups.values()) {
    const [first] = own;
    if (!first?.group) continue;
    const nets = first.nets.map((id, bit) => `bit ${bit} ${derived.byNet.get(id)?.net.name ?? ''}`);
    const text = `${first.group.kind === 'bus' ? 'bus' : 'outputs'} ${first.group.name}: ${listed(nets, 32)}`;
    lines.push(c``, ...wrappedComment(text, 92), ...own.flatMap((it) => printAccessor(names, it)));
  }
  return lines;
}

/** "FAN_1: output, asserted low, starts inactive (latch high); pad F6, pin 92". */
function describeNet(one: ResolvedNet): string {
  const { net, pad, pins, planned } = one;
  const mode = planned?.settings.values.mode;
  const parts = [roleText(net.role)];
  if (one.fn && roleText(net.role) !== one.fn.signal) parts.push(one.fn.signal);
  if (mode === 'output' || mode === 'input') parts.push(`asserted ${net.settings.active ?? 'high'}`);
  if (mode === 'output') {
    parts.push(`starts ${net.settings.start ?? 'inactive'} (latch ${latchLevel(net.settings)})`);
  }
  return `${net.name}: ${parts.join(', ')}; pad ${pad?.id}, pin ${pins.join(', ')}`.replaceAll('·', '/');
}

const widthOf = (nets: number): 8 | 16 | 32 => (nets <= 8 ? 8 : nets <= 16 ? 16 : 32);
const TYPES = { 8: c`uint8_t`, 16: c`uint16_t`, 32: c`uint32_t` };

function printAccessor(names: CNames, one: Accessor): CCode[] {
  const { action, group, nets, steps, fault, torn } = one;
  const name = group
    ? names.group(group.id, action === 'write' ? 'write' : 'read')
    : names.accessor(nets[0] ?? '', action);
  const notes = fault === undefined ? [] : [comment(`not proven: ${fault}`)];
  if (steps.length === 0) return [...notes, comment(`there is no ${action}`)];
  const type = TYPES[widthOf(nets.length)];
  const body = steps.flatMap((step) => printStep(names, step));
  const result = action === 'read' ? (group ? type : c`bool`) : c`void`;
  const taken = action === 'write' ? c`${type} value` : c`void`;
  const gets = steps.filter((step) => step.kind === 'get');
  const last =
    action === 'read'
      ? [indented(c`return ${group ? gathered(gets, nets.length) : level(names, gets[0])};`)]
      : [];
  const whole = [
    ...(torn ? [c`    ${names.ownMacro('CRITICAL_ENTER')}();`] : []),
    ...(action === 'read' && !group ? [] : body),
    ...(torn ? [c`    ${names.ownMacro('CRITICAL_LEAVE')}();`] : []),
    ...last,
  ];
  const head = c`static inline ${result} ${name}(${taken})`;
  const short = c`${head} { ${join(whole.map(outdented), c` `)} }`;
  if (whole.length <= 2 && short.length <= 150) return [...notes, short];
  return [...notes, head, c`{`, ...whole, c`}`];
}

function printStep(names: CNames, step: AccessStep): CCode[] {
  switch (step.kind) {
    case 'put':
      return printPut(names, step);
    case 'get':
      return [
        c`    uint32_t const ${heldName(step)} = ${inverting(readCall(names, step.register), step.moves)};`,
      ];
    default:
      return printOperation(names, step, c`break;`);
  }
}

const heldName = (get: Get): CCode => c`held${decimal(get.register.index)}`;

/** The level of one net, asserted or not. */
function level(names: CNames, get: Get | undefined): CCode {
  const move = get?.moves[0];
  if (!get || !move) return c`false`;
  const mask = hexLiteral((1 << move.low) >>> 0, get.register.bits);
  return c`(${readCall(names, get.register)} & ${mask}) ${move.inverted ? c`==` : c`!=`} 0u`;
}

const maskFor = (moves: readonly BitMove[]): number =>
  moves.reduce((mask, move) => (move.inverted ? mask | (1 << move.low) : mask), 0) >>> 0;

const inverting = (read: CCode, moves: readonly BitMove[]): CCode => {
  const turned = maskFor(moves);
  return turned === 0 ? read : c`${read} ^ ${hexLiteral(turned, 32)}`;
};

/** Moves whose bits go the same way, so that one shift does for all of them. */
interface Run {
  from: number;
  to: number;
  mask: number;
}

function runsOf(moves: readonly { from: number; to: number }[]): Run[] {
  const runs = new Map<number, Run>();
  for (const { from, to } of moves) {
    const shift = to - from;
    const run = runs.get(shift);
    if (run) run.mask = (run.mask | (1 << to)) >>> 0;
    else runs.set(shift, { from, to, mask: (1 << to) >>> 0 });
  }
  return [...runs.values()];
}

/** Bits of a 32-bit value moved to other places, all at once. */
function moved(value: CCode, moves: readonly { from: number; to: number }[]): CCode {
  const parts = runsOf(moves).map(({ from, to, mask }) => {
    const shift = to - from;
    const there =
      shift === 0
        ? value
        : shift > 0
          ? c`(${value} << ${decimal(shift)})`
          : c`(${value} >> ${decimal(-shift)})`;
    return c`(${there} & ${hexLiteral(mask, 32)})`;
  });
  return parts.length === 0 ? c`0u` : join(parts, c` | `);
}

function gathered(gets: readonly Get[], nets: number): CCode {
  const parts = gets.map((get) =>
    moved(
      heldName(get),
      get.moves.map(({ bit, low }) => ({ from: low, to: bit })),
    ),
  );
  return narrowed(join(parts, c` | `), widthOf(nets));
}

/** A value into bits of a register: neither more accesses than it takes, nor a change of a bit that keeps its level. */
function printPut(names: CNames, put: Put): CCode[] {
  const { register, mask, moves, way } = put;
  const turned = maskFor(moves);
  const spread = moved(
    c`(uint32_t)value`,
    moves.map(({ bit, low }) => ({ from: bit, to: low })),
  );
  const bits = turned === 0 ? spread : c`(${spread}) ^ ${hexLiteral(turned, 32)}`;
  const all = hexLiteral(mask, 32);
  const name = c`bits${decimal(register.index)}`;
  const declared = c`    uint32_t const ${name} = ${bits};`;
  switch (way.kind) {
    case 'pair':
      return [
        declared,
        ...writeStatement(names, way.set, narrowed(name, way.set.bits)),
        ...writeStatement(names, way.clear, narrowed(c`${name} ^ ${all}`, way.clear.bits)),
      ];
    case 'set-clear': {
      const half = decimal(way.by.bits / 2);
      const value = narrowed(c`${name} | ((${name} ^ ${all}) << ${half})`, way.by.bits);
      return [declared, ...writeStatement(names, way.by, value)];
    }
    case 'masked': {
      const upper = hexLiteral(mask * 2 ** (register.bits / 2), 32);
      return [declared, ...writeStatement(names, register, narrowed(c`${name} | ${upper}`, register.bits))];
    }
    case 'whole':
      return [declared, ...writeStatement(names, register, narrowed(name, register.bits))];
    case 'update':
      return [declared, ...writeStatement(names, register, mixed(readCall(names, register), put, name))];
    case 'shadow': {
      const copy = names.shadow(register);
      return [
        declared,
        c`    ${copy} = ${mixed(copy, put, name)};`,
        ...writeStatement(names, register, copy),
      ];
    }
  }
}

/** What was held, with the bits of a value in their places. */
function mixed(held: CCode, { register, mask }: Put, bits: CCode): CCode {
  const reserved = register.always;
  const cleared = (mask | (reserved?.mask ?? 0) | register.flagMask) >>> 0;
  const kept = hexLiteral(~cleared & fullMask(register.bits), 32);
  const fixed = reserved && reserved.value !== 0 ? c` | ${hexLiteral(reserved.value, 32)}` : c``;
  return narrowed(c`(${held} & ${kept}) | ${bits}${fixed}`, register.bits);
}
