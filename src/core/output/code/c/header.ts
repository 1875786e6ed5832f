import type { Derived } from '../../../derive/derive';
import type { Register } from '../../../device/registers/types';
import { missingNets } from '../missing';
import { accessRegisters, printAccessors } from './accessors';
import { accessorsWait, defineRegisters, distinct, identityComment, waitMacro, widthType } from './common';
import type { CNames } from './names';
import { blockComment, type CCode, c, comment, fileText, stringLiteral, wrappedComment } from './writer';

const WIDTHS = [
  { bits: 8, type: c`uint8_t` },
  { bits: 16, type: c`uint16_t` },
  { bits: 32, type: c`uint32_t` },
] as const;

/** The header: identity, the register access that a host build may replace, `init`, and accessors named after the nets. */
export function printHeader(derived: Derived, names: CNames): CCode {
  const torn = derived.accessors.list.some((one) => one.torn);
  const shadows = [...derived.accessors.shadows.keys()];
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
    ...defineRegisters(names, distinct([...accessRegisters(derived), ...operated(derived)])),
    c``,
    comment('Puts every planned pin into its planned state. Call it once, before anything uses the pins.'),
    c`void ${init}(void);`,
    c``,
    comment(`True after ${init} has run to its end; false when a port did not become ready in time.`),
    c`bool ${names.own('init_done')}(void);`,
    ...(torn ? printCritical(names) : []),
    ...(accessorsWait(derived) ? waitMacro(names, 'static inline') : []),
    ...(shadows.length > 0
      ? [c``, comment('Copies of registers that cannot be read, for accessors only.')]
      : []),
    ...shadows.map((register) => c`extern ${widthType(register.bits)} ${names.shadow(register)};`),
    ...printAccessors(derived, names),
    c``,
    c`#endif ${comment(guard)}`,
  ]);
}

/** Hooks for accessors that are not one access. */
function printCritical(names: CNames): CCode[] {
  const [enter, leave] = [names.ownMacro('CRITICAL_ENTER'), names.ownMacro('CRITICAL_LEAVE')];
  return [
    c``,
    ...wrappedComment(
      'Some accessors are not one access: they read a register and write it back, or open a lock and close it. Where interrupts or other threads touch the same registers, define both of these before including the header. The first may declare what the second needs.',
      92,
    ),
    c`#ifndef ${enter}`,
    c`#define ${enter}() ((void)0)`,
    c`#define ${leave}() ((void)0)`,
    c`#endif`,
  ];
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
