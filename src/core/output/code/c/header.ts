import type { Derived } from '../../../derive/derive';
import { missingText } from '../identity';
import { programOf } from '../program/program';
import type { Program } from '../program/types';
import { identityComment, waitMacro, widthType } from './common';
import type { CNames } from './names';
import { printFunction } from './statements';
import {
  blockComment,
  type CCode,
  c,
  comment,
  decimal,
  fileText,
  hexLiteral,
  padded,
  stringLiteral,
  wrappedComment,
} from './writer';

const WIDTHS = [
  { bits: 8, type: c`uint8_t`, member: c`byte`, bytes: c`1u` },
  { bits: 16, type: c`uint16_t`, member: c`half`, bytes: c`2u` },
  { bits: 32, type: c`uint32_t`, member: c`word`, bytes: c`4u` },
] as const;

/** The header: identity, the register access that a host build may replace, `init`, and accessors named after the nets. */
export function printHeader(derived: Derived, names: CNames, { paged = true } = {}): CCode {
  const program = programOf(derived);
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
    ...printAccess(names, paged && isPaged(program)),
    c``,
    ...defineRegisters(names, program),
    c``,
    comment('Puts every planned pin into its planned state. Call it once, before anything uses the pins.'),
    c`void ${init}(void);`,
    c``,
    comment(`True after ${init} has run to its end; false when a port did not become ready in time.`),
    c`bool ${names.own('init_done')}(void);`,
    ...(program.torn ? printCritical(names) : []),
    ...(program.waits.accessors ? waitMacro(names, 'static inline') : []),
    ...(program.copies.length > 0
      ? [c``, comment('Copies of registers that cannot be read, for accessors only.')]
      : []),
    ...program.copies.map(({ register }) => c`extern ${widthType(register.bits)} ${names.copy(register)};`),
    ...printSections(names, program),
    c``,
    c`#endif ${comment(guard)}`,
  ]);
}

/** Bytes that are reached from one address: as far as the shortest instructions of small processors reach. */
const PAGE = 0x80;
/** Below it a page may begin at address 0, which compilers take for no address at all. */
const LOWEST_PAGE = 0x1000;

const isPaged = ({ registers }: Program): boolean => registers.every((one) => one.address >= LOWEST_PAGE);

/**
 * How registers are read and written, for the user to replace. Through a page, compilers keep the address of a port in a register instead
 * of loading that of each of its registers. Where addresses come from a table there is nothing to gain.
 */
function printAccess(names: CNames, paged: boolean): CCode[] {
  const page = names.own('page');
  const at = (type: CCode, member: CCode, bytes: CCode, constant: CCode): CCode =>
    paged
      ? c`((union ${page} ${constant}volatile *)(uintptr_t)((address) & ${hexLiteral(~(PAGE - 1), 32)}))->${member}[((address) & ${hexLiteral(PAGE - 1, 8)}) / ${bytes}]`
      : c`*(volatile ${type} ${constant}*)(uintptr_t)(address)`;
  return [
    comment('Register access. Define these before including the header to run the code off the target.'),
    ...(paged
      ? [
          c`union ${page} {`,
          ...WIDTHS.map(({ bits, type, member }) => c`    ${type} ${member}[${decimal(PAGE / (bits / 8))}];`),
          c`};`,
        ]
      : []),
    ...WIDTHS.flatMap(({ bits, type, member, bytes }) => {
      const [read, write] = [names.ownMacro(`READ${bits}`), names.ownMacro(`WRITE${bits}`)];
      return [
        c`#ifndef ${read}`,
        c`#define ${read}(address) (${at(type, member, bytes, c`const `)})`,
        c`#define ${write}(address, value) (${at(type, member, bytes, c``)} = (value))`,
        c`#endif`,
      ];
    }),
  ];
}

function defineRegisters(names: CNames, { registers }: Program): CCode[] {
  const width = Math.max(0, ...registers.map((register) => names.register(register).length));
  return registers.map(
    (register) => c`#define ${padded(names.register(register), width)} ${hexLiteral(register.address, 32)}`,
  );
}

/** The accessors of every net and group, each with what it is and where. */
function printSections(names: CNames, { sections }: Program): CCode[] {
  return sections.flatMap(({ about, group, bits, facts, functions }) => [
    c``,
    ...(group === undefined ? [comment(about)] : wrappedComment(about, 92)),
    ...facts.map((fact) => c`#define ${names.fact(fact)} ${decimal(fact.value)}u`),
    ...(group === undefined
      ? []
      : (bits ?? []).map(({ net, bit }) => c`#define ${names.bit(group, net)} ${decimal(bit)}u`)),
    ...functions.flatMap((fn) => printFunction(names, fn)),
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
  const missing = missingText(derived);
  if (!missing) return [];
  return [
    ...blockComment(missing.lines),
    ...(missing.refusal === undefined ? [] : [c`#error ${stringLiteral(missing.refusal)}`]),
    c``,
  ];
}
