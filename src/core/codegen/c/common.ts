import type { Derived } from '../../derive';
import type { Register } from '../../recipe/registers';
import { commentText, hexLiteral } from '../text';

/** FROST_GUARD_PA_OUT: registers as macros behind the plan's own prefix, so that they meet no other header's names. */
export const registerMacro = (prefix: string, register: Register): string =>
  `${prefix.toUpperCase()}_${register.name.replace(/[^A-Za-z0-9]+/g, '_').toUpperCase()}`;

export const readCall = (prefix: string, register: Register): string =>
  `${prefix.toUpperCase()}_READ${register.bits}(${registerMacro(prefix, register)})`;

export const writeCall = (prefix: string, register: Register, value: string): string =>
  `${prefix.toUpperCase()}_WRITE${register.bits}(${registerMacro(prefix, register)}, ${value});`;

/** A computed value of the register's width: the cast undoes C's promotion to int and says so to the compiler. */
export const narrowed = (expression: string, bits: number): string =>
  bits === 32 ? expression : `(uint${bits}_t)(${expression})`;

/** The lines that say which plan this is, so that nobody flashes the wrong one. */
export function identityComment(derived: Derived, file: string, about: string): string[] {
  const { plan, device, pkg } = derived;
  return [
    '/*',
    ` * ${file}: ${about}`,
    ' *',
    ` * plan      ${commentText(plan.name)}, revision ${commentText(plan.revision)}`,
    ` * part      ${commentText(device.description.name)} (${commentText(device.description.id)}), description ${device.fingerprint}`,
    ` * package   ${commentText(pkg.name)} (${commentText(pkg.id)})`,
    ` * content   ${derived.fingerprint}`,
    ` * proven    ${derived.proof.proven} of ${derived.proof.pins} pins end as planned, run from reset on the register machine`,
    ...(derived.counts.error > 0
      ? [` * WARNING   the plan has ${derived.counts.error} unresolved errors; do not ship this`]
      : []),
    ' *',
    ' * Made by Mavrek. Change the plan and generate again; changes made here are lost.',
    ' */',
  ];
}

/** Registers in address order, each once. */
export const distinct = (registers: Iterable<Register>): Register[] =>
  [...new Set(registers)].sort((a, b) => a.address - b.address);

export function defineRegisters(prefix: string, registers: readonly Register[]): string[] {
  const width = Math.max(0, ...registers.map((register) => registerMacro(prefix, register).length));
  return registers.map(
    (register) =>
      `#define ${registerMacro(prefix, register).padEnd(width)} ${hexLiteral(register.address, 32)}`,
  );
}
