import type { Derived } from '../../derive';
import type { ResolvedNet } from '../../plan/resolve';
import { latchLevel } from '../../plan/resolve';
import { roleText } from '../../plan/types';
import type { Slot } from '../../recipe/fields';
import { slotMask } from '../../recipe/fields';
import { fullMask, type Register } from '../../recipe/registers';
import { missingNets } from '../missing';
import { defineRegisters, distinct, identityComment, narrowed, readCall, writeCall } from './common';
import type { CNames } from './names';
import { blockComment, type CCode, c, comment, fileText, hexLiteral, stringLiteral } from './writer';

const WIDTHS = [
  { bits: 8, type: c`uint8_t` },
  { bits: 16, type: c`uint16_t` },
  { bits: 32, type: c`uint32_t` },
] as const;

/** The header: identity, the register access that a host build may replace, `init`, and accessors named after the nets. */
export function printHeader(derived: Derived, names: CNames): CCode {
  const accessors = printAccessors(derived, names);
  const guard = names.ownMacro('H');
  const init = names.own('init');
  return fileText([
    ...identityComment(derived, `${names.file}.h`, 'port initialisation and access to the nets by name'),
    c`#ifndef ${guard}`,
    c`#define ${guard}`,
    c``,
    ...printMissing(derived),
    c`#include <stdbool.h>`,
    c`#include <stdint.h>`,
    c``,
    c`#define ${names.ownMacro('PLAN')}     ${stringLiteral(derived.plan.name)}`,
    c`#define ${names.ownMacro('REVISION')} ${stringLiteral(derived.plan.revision)}`,
    c`#define ${names.ownMacro('CONTENT')}  ${stringLiteral(derived.fingerprint)}`,
    c``,
    comment('Register access. Define these before including the header to run the code off the target.'),
    ...WIDTHS.flatMap(({ bits, type }) => {
      const [read, write] = [names.ownMacro(`READ${bits}`), names.ownMacro(`WRITE${bits}`)];
      return [
        c`#ifndef ${read}`,
        c`#define ${read}(address) (*(volatile ${type} const *)(uintptr_t)(address))`,
        c`#define ${write}(address, value) (*(volatile ${type} *)(uintptr_t)(address) = (value))`,
        c`#endif`,
      ];
    }),
    c``,
    ...defineRegisters(names, distinct([...accessors.registers, ...operated(derived)])),
    c``,
    comment('Puts every planned pin into its planned state. Call it once, before anything uses the pins.'),
    c`void ${init}(void);`,
    c``,
    comment(`True after ${init} has run to its end; false when a port did not become ready in time.`),
    c`bool ${names.own('init_done')}(void);`,
    ...accessors.lines,
    c``,
    c`#endif ${comment(guard)}`,
  ]);
}

/** The nets that are not in this code, and why; and an error of the compiler where the plan asks for one. */
function printMissing(derived: Derived): CCode[] {
  const missing = missingNets(derived);
  if (missing.length === 0) return [];
  const all = derived.plan.nets.length;
  const count = `${missing.length} of ${all} ${all > 1 ? 'nets' : 'net'}`;
  return [
    ...blockComment([
      `Not in this code: ${count} of the plan:`,
      ...missing.map(({ name, why }) => `  ${name}: ${why}`),
    ]),
    ...(derived.plan.code.incomplete === 'refuse'
      ? [
          c`#error ${stringLiteral(`the plan is incomplete: ${count} not in this code, ${missing[0]?.name} first`)}`,
        ]
      : []),
    c``,
  ];
}

const operated = (derived: Derived): Register[] =>
  derived.lowered.operations.flatMap((operation) => (operation.kind === 'wait' ? [] : [operation.register]));

function printAccessors(derived: Derived, names: CNames): { lines: CCode[]; registers: Register[] } {
  const { latch, level } = derived.device.description.recipe.access;
  const registers = new Set<Register>();
  const lines: CCode[] = [];
  for (const one of derived.resolved) {
    const use = one.planned?.settings.values.use;
    if (!one.pad || !one.planned || one.terminals.length === 0) continue;
    const first = derived.byPad.get(one.pad.id)?.[0];
    if (first !== one) continue;
    const slotOf = (field: string | undefined): Slot | undefined =>
      field === undefined || !one.pad ? undefined : derived.device.slotsOf(field, one.pad, one.fn)[0];
    const body = [
      ...(use === 'output' ? outputAccessors(names, one, slotOf(latch), registers) : []),
      ...(use === 'output' || use === 'input' ? readAccessor(names, one, slotOf(level), registers) : []),
    ];
    lines.push(c``, comment(describeNet(one)), ...body);
  }
  return { lines, registers: [...registers] };
}

/** "FAN_1: output, asserted low, starts inactive (latch high); pad F6, terminal 92". */
function describeNet(one: ResolvedNet): string {
  const { net, pad, terminals, planned } = one;
  const use = planned?.settings.values.use;
  const parts = [roleText(net.role)];
  if (one.fn && roleText(net.role) !== one.fn.signal) parts.push(one.fn.signal);
  if (use === 'output' || use === 'input') parts.push(`asserted ${net.settings.active ?? 'high'}`);
  if (use === 'output') {
    parts.push(`starts ${net.settings.start ?? 'inactive'} (latch ${latchLevel(net.settings)})`);
  }
  return `${net.name}: ${parts.join(', ')}; pad ${pad?.id}, terminal ${terminals.join(', ')}`.replaceAll(
    '·',
    '/',
  );
}

function outputAccessors(
  names: CNames,
  one: ResolvedNet,
  slot: Slot | undefined,
  registers: Set<Register>,
): CCode[] {
  if (!slot) return [];
  const mask = slotMask(slot);
  const high = drive(names, slot, mask, true, registers);
  const low = drive(names, slot, mask, false, registers);
  const activeHigh = one.net.settings.active !== 'low';
  return [
    c`static inline void ${names.accessor(one.net.id, 'set')}(void) { ${activeHigh ? high : low} }`,
    c`static inline void ${names.accessor(one.net.id, 'clear')}(void) { ${activeHigh ? low : high} }`,
    c`static inline void ${names.accessor(one.net.id, 'toggle')}(void) { ${toggle(names, slot, mask, registers)} }`,
  ];
}

/** Drives a latch bit: through the set or clear register when there is one, else by read, change, write. */
function drive(names: CNames, slot: Slot, mask: number, high: boolean, registers: Set<Register>): CCode {
  const { register } = slot;
  const direct = high ? slot.setBy : slot.clearedBy;
  registers.add(direct ?? register);
  if (direct) return writeCall(names, direct, hexLiteral(mask, direct.bits));
  if (register.access.kind === 'masked') {
    const value = mask * 2 ** (register.bits / 2) + (high ? mask : 0);
    return writeCall(names, register, hexLiteral(value, register.bits));
  }
  const read = readCall(names, register);
  const kept = hexLiteral(~mask & fullMask(register.bits), register.bits);
  const next = high ? c`${read} | ${hexLiteral(mask, register.bits)}` : c`${read} & ${kept}`;
  return writeCall(names, register, narrowed(next, register.bits));
}

function toggle(names: CNames, slot: Slot, mask: number, registers: Set<Register>): CCode {
  if (slot.toggledBy) {
    registers.add(slot.toggledBy);
    return writeCall(names, slot.toggledBy, hexLiteral(mask, slot.toggledBy.bits));
  }
  const { register } = slot;
  registers.add(register);
  if (slot.setBy && slot.clearedBy) {
    // Two single writes keep the neighbours safe from an interrupt between read and write.
    registers.add(slot.setBy);
    registers.add(slot.clearedBy);
    const isHigh = c`(${readCall(names, register)} & ${hexLiteral(mask, register.bits)}) != 0u`;
    const low = writeCall(names, slot.clearedBy, hexLiteral(mask, slot.clearedBy.bits));
    const high = writeCall(names, slot.setBy, hexLiteral(mask, slot.setBy.bits));
    return c`if (${isHigh}) { ${low} } else { ${high} }`;
  }
  if (register.access.kind === 'masked') {
    const upper = hexLiteral(mask * 2 ** (register.bits / 2), register.bits);
    const flipped = c`${upper} | (~${readCall(names, register)} & ${hexLiteral(mask, register.bits)})`;
    return writeCall(names, register, narrowed(flipped, register.bits));
  }
  const next = c`${readCall(names, register)} ^ ${hexLiteral(mask, register.bits)}`;
  return writeCall(names, register, narrowed(next, register.bits));
}

function readAccessor(
  names: CNames,
  one: ResolvedNet,
  slot: Slot | undefined,
  registers: Set<Register>,
): CCode[] {
  if (!slot) return [];
  registers.add(slot.register);
  const comparison = one.net.settings.active === 'low' ? c`==` : c`!=`;
  const mask = hexLiteral(slotMask(slot), slot.register.bits);
  return [
    c`static inline bool ${names.accessor(one.net.id, 'read')}(void) { return (${readCall(names, slot.register)} & ${mask}) ${comparison} 0u; }`,
  ];
}
