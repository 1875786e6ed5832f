import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import type { CNames } from './names';
import { blockComment, type CCode, c, comment, hexLiteral, padded } from './writer';

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

/** Exactly what was shown, and from which states: no more than that is claimed. */
function provenLines(derived: Derived): string[] {
  const { proof, accessors } = derived;
  const from =
    proof.start === 'reset'
      ? 'from reset'
      : 'from every state of the chip, all other bits staying as they were';
  const proven = accessors.list.filter((one) => one.fault === undefined).length;
  return [
    `proven    ${proof.proven} of ${proof.pins} pins end as planned, ${from};`,
    `          ${proven} of ${accessors.list.length} accessors do what they say, in every state after that`,
  ];
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
    ...provenLines(derived),
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

export const widthType = (bits: 8 | 16 | 32): CCode => TYPES[bits];
const TYPES = { 8: c`uint8_t`, 16: c`uint16_t`, 32: c`uint32_t` };

/** Whether the header needs to wait, too. */
export const accessorsWait = (derived: Derived): boolean =>
  derived.accessors.list.some(({ steps }) => steps.some((step) => step.kind === 'wait'));

/** How a fixed number of cycles is waited for, for the user to replace. */
export function waitMacro(names: CNames, storage: 'static' | 'static inline'): CCode[] {
  const [macro, wait] = [names.ownMacro('WAIT'), names.own('wait')];
  return [
    c``,
    comment('Lets at least the given number of cycles pass. Define it before to wait in another way.'),
    c`#ifndef ${macro}`,
    c`${storage === 'static' ? c`static` : c`static inline`} void ${wait}(uint32_t cycles)`,
    c`{`,
    c`    for (volatile uint32_t left = cycles; left > 0u; left = left - 1u) { }`,
    c`}`,
    c`#define ${macro}(cycles) ${wait}(cycles)`,
    c`#endif`,
  ];
}
