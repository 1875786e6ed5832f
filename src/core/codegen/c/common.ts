import type { Derived } from '../../derive';
import type { Register } from '../../recipe/registers';
import type { CNames } from './names';
import { blockComment, type CCode, c, hexLiteral, padded } from './writer';

export const readCall = (names: CNames, register: Register): CCode =>
  c`${names.ownMacro(`READ${register.bits}`)}(${names.register(register)})`;

export const writeCall = (names: CNames, register: Register, value: CCode): CCode =>
  c`${names.ownMacro(`WRITE${register.bits}`)}(${names.register(register)}, ${value});`;

/** A computed value of the register's width: the cast undoes C's promotion to int and says so to the compiler. */
export function narrowed(expression: CCode, bits: 8 | 16 | 32): CCode {
  switch (bits) {
    case 8:
      return c`(uint8_t)(${expression})`;
    case 16:
      return c`(uint16_t)(${expression})`;
    case 32:
      return expression;
  }
}

/** The lines that say which plan this is, so that nobody flashes the wrong one. */
export function identityComment(derived: Derived, file: string, about: string): CCode[] {
  const { plan, device, pkg } = derived;
  return blockComment([
    `${file}: ${about}`,
    '',
    `plan      ${plan.name}, revision ${plan.revision}`,
    `part      ${device.description.name} (${device.description.id}), description ${device.fingerprint}`,
    `package   ${pkg.name} (${pkg.id})`,
    `content   ${derived.fingerprint}`,
    `proven    ${derived.proof.proven} of ${derived.proof.pins} pins end as planned, run from reset on the register machine`,
    ...(derived.counts.error > 0
      ? [`WARNING   the plan has ${derived.counts.error} unresolved errors; do not ship this`]
      : []),
    '',
    'Made by Mavrek. Change the plan and generate again; changes made here are lost.',
  ]);
}

/** Registers in address order, each once. */
export const distinct = (registers: Iterable<Register>): Register[] =>
  [...new Set(registers)].sort((a, b) => a.address - b.address);

export function defineRegisters(names: CNames, registers: readonly Register[]): CCode[] {
  const width = Math.max(0, ...registers.map((register) => names.register(register).length));
  return registers.map(
    (register) => c`#define ${padded(names.register(register), width)} ${hexLiteral(register.address, 32)}`,
  );
}
