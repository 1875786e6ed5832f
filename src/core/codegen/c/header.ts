import type { Derived } from '../../derive';
import type { ResolvedNet } from '../../plan/resolve';
import { latchLevel } from '../../plan/resolve';
import { roleText } from '../../plan/types';
import type { Slot } from '../../recipe/fields';
import { slotMask } from '../../recipe/fields';
import type { Register } from '../../recipe/registers';
import { netIdentifiers } from '../names';
import { commentText, hexLiteral, stringText } from '../text';
import { defineRegisters, distinct, identityComment, narrowed, readCall, writeCall } from './common';

/** The header: identity, the register access that a host build may replace, `init`, and accessors named after the nets. */
export function printHeader(derived: Derived, prefix: string): string {
  const upper = prefix.toUpperCase();
  const accessors = printAccessors(derived, prefix);
  const widths = [8, 16, 32] as const;
  return [
    ...identityComment(derived, `${prefix}.h`, 'port initialisation and access to the nets by name'),
    `#ifndef ${upper}_H`,
    `#define ${upper}_H`,
    '',
    '#include <stdbool.h>',
    '#include <stdint.h>',
    '',
    `#define ${upper}_PLAN     "${stringText(derived.plan.name)}"`,
    `#define ${upper}_REVISION "${stringText(derived.plan.revision)}"`,
    `#define ${upper}_CONTENT  "${derived.fingerprint}"`,
    '',
    '/* Register access. Define these before including the header to run the code off the target. */',
    ...widths.flatMap((bits) => [
      `#ifndef ${upper}_READ${bits}`,
      `#define ${upper}_READ${bits}(address) (*(volatile uint${bits}_t const *)(uintptr_t)(address))`,
      `#define ${upper}_WRITE${bits}(address, value) (*(volatile uint${bits}_t *)(uintptr_t)(address) = (value))`,
      '#endif',
    ]),
    '',
    ...defineRegisters(prefix, distinct([...accessors.registers, ...operated(derived)])),
    '',
    '/* Puts every planned pin into its planned state. Call it once, before anything uses the pins. */',
    `void ${prefix}_init(void);`,
    '',
    `/* True after ${prefix}_init has run to its end; false when a port did not become ready in time. */`,
    `bool ${prefix}_init_done(void);`,
    ...accessors.lines,
    '',
    `#endif /* ${upper}_H */`,
    '',
  ].join('\n');
}

const operated = (derived: Derived): Register[] =>
  derived.lowered.operations.flatMap((operation) => (operation.kind === 'wait' ? [] : [operation.register]));

function printAccessors(derived: Derived, prefix: string): { lines: string[]; registers: Register[] } {
  const { latch, level } = derived.device.description.recipe.access;
  const names = netIdentifiers(derived);
  const registers = new Set<Register>();
  const lines: string[] = [];
  for (const one of derived.resolved) {
    const use = one.planned?.settings.values.use;
    if (!one.pad || !one.planned || one.terminals.length === 0) continue;
    const first = derived.byPad.get(one.pad.id)?.[0];
    if (first !== one) continue;
    const name = `${prefix}_${names.get(one.net.id)}`;
    const slotOf = (field: string | undefined): Slot | undefined =>
      field === undefined || !one.pad ? undefined : derived.device.slotsOf(field, one.pad, one.fn)[0];
    const body = [
      ...(use === 'output' ? outputAccessors(prefix, name, one, slotOf(latch), registers) : []),
      ...(use === 'output' || use === 'input'
        ? readAccessor(prefix, name, one, slotOf(level), registers)
        : []),
    ];
    lines.push('', `/* ${describeNet(one)} */`, ...body);
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
  return commentText(
    `${net.name}: ${parts.join(', ')}; pad ${pad?.id}, terminal ${terminals.join(', ')}`.replaceAll('·', '/'),
  );
}

function outputAccessors(
  prefix: string,
  name: string,
  one: ResolvedNet,
  slot: Slot | undefined,
  registers: Set<Register>,
): string[] {
  if (!slot) return [];
  const mask = slotMask(slot);
  const high = drive(prefix, slot, mask, true, registers);
  const low = drive(prefix, slot, mask, false, registers);
  const activeHigh = one.net.settings.active !== 'low';
  return [
    `static inline void ${name}_set(void) { ${activeHigh ? high : low} }`,
    `static inline void ${name}_clear(void) { ${activeHigh ? low : high} }`,
    `static inline void ${name}_toggle(void) { ${toggle(prefix, slot, mask, registers)} }`,
  ];
}

/** Drives a latch bit: through the set or clear register when there is one, else by read, change, write. */
function drive(prefix: string, slot: Slot, mask: number, high: boolean, registers: Set<Register>): string {
  const { register } = slot;
  const direct = high ? slot.setBy : slot.clearedBy;
  registers.add(direct ?? register);
  if (direct) return writeCall(prefix, direct, hexLiteral(mask, direct.bits));
  if (register.access.kind === 'masked') {
    const value = mask * 2 ** (register.bits / 2) + (high ? mask : 0);
    return writeCall(prefix, register, hexLiteral(value, register.bits));
  }
  const read = readCall(prefix, register);
  const kept = hexLiteral(
    ~mask & (register.bits === 32 ? 0xffffffff : 2 ** register.bits - 1),
    register.bits,
  );
  const next = high ? `${read} | ${hexLiteral(mask, register.bits)}` : `${read} & ${kept}`;
  return writeCall(prefix, register, narrowed(next, register.bits));
}

function toggle(prefix: string, slot: Slot, mask: number, registers: Set<Register>): string {
  if (slot.toggledBy) {
    registers.add(slot.toggledBy);
    return writeCall(prefix, slot.toggledBy, hexLiteral(mask, slot.toggledBy.bits));
  }
  const { register } = slot;
  registers.add(register);
  if (slot.setBy && slot.clearedBy) {
    // Two single writes keep the neighbours safe from an interrupt between read and write.
    registers.add(slot.setBy);
    registers.add(slot.clearedBy);
    const isHigh = `(${readCall(prefix, register)} & ${hexLiteral(mask, register.bits)}) != 0u`;
    const low = writeCall(prefix, slot.clearedBy, hexLiteral(mask, slot.clearedBy.bits));
    const high = writeCall(prefix, slot.setBy, hexLiteral(mask, slot.setBy.bits));
    return `if (${isHigh}) { ${low} } else { ${high} }`;
  }
  if (register.access.kind === 'masked') {
    const upper = hexLiteral(mask * 2 ** (register.bits / 2), register.bits);
    const flipped = `${upper} | (~${readCall(prefix, register)} & ${hexLiteral(mask, register.bits)})`;
    return writeCall(prefix, register, narrowed(flipped, register.bits));
  }
  const next = `${readCall(prefix, register)} ^ ${hexLiteral(mask, register.bits)}`;
  return writeCall(prefix, register, narrowed(next, register.bits));
}

function readAccessor(
  prefix: string,
  name: string,
  one: ResolvedNet,
  slot: Slot | undefined,
  registers: Set<Register>,
): string[] {
  if (!slot) return [];
  registers.add(slot.register);
  const comparison = one.net.settings.active === 'low' ? '==' : '!=';
  const mask = hexLiteral(slotMask(slot), slot.register.bits);
  return [
    `static inline bool ${name}_read(void) { return (${readCall(prefix, slot.register)} & ${mask}) ${comparison} 0u; }`,
  ];
}
