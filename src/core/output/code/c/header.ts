import { largest } from '../../../base/lists';
import type { Derived } from '../../../derive/derive';
import { missingText } from '../identity';
import { programOf } from '../program/program';
import type { Program } from '../program/types';
import {
  identityComment,
  interruptPrototypes,
  type Linkage,
  linked,
  routineComment,
  routinePrototype,
  waitMacro,
} from './common';
import type { CNames } from './names';
import { type Body, linesOf, printBody } from './source';
import { printFunction } from './statements';
import { widthType } from './types';
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
export function printHeader(
  derived: Derived,
  names: CNames,
  { addresses = 'paged' }: HeaderOptions = {},
): CCode {
  return printHeaderWith(derived, names, addresses, () => ({ lines: [], begins: new Map() })).text;
}

export interface HeaderOptions {
  /** Whether registers are reached through pages, and whether their addresses must be there in any case. */
  addresses?: 'paged' | 'plain';
}

/** A header that holds all of it. */
export const printWholeHeader = (derived: Derived, names: CNames): { text: CCode; operations: number[] } =>
  printHeaderWith(derived, names, 'paged', (program) => printBody(program, names, 'header'));

function printHeaderWith(
  derived: Derived,
  names: CNames,
  addresses: 'paged' | 'plain',
  bodyOf: (program: Program) => Body,
): { text: CCode; operations: number[] } {
  const program = programOf(derived);
  const body = bodyOf(program);
  const linkage: Linkage = body.lines.length > 0 ? 'header' : 'source';
  const named = addresses === 'paged' && program.registers.every((one) => names.place(one) !== undefined);
  const paged = addresses === 'paged' && !named;
  const guard = names.ownMacro('H');
  const init = names.own('init');
  const head = [
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
    ...(named ? printNamedAccess(derived, names) : printAccess(names, paged && isPaged(program))),
    c``,
    ...defineRegisters(names, program, named),
    ...printHooks(names, program),
    c``,
    comment('Puts every planned pin into its planned state. Call it once, before anything uses the pins.'),
    c`${linked(linkage)}void ${init}(void);`,
    c``,
    comment(`True after ${init} has run to its end; false when a port did not become ready in time.`),
    c`${linked(linkage)}bool ${names.own('init_done')}(void);`,
    ...program.routines.flatMap((one) => [
      c``,
      ...routineComment(one),
      c`${linked(linkage)}${routinePrototype(names, one)};`,
    ]),
    ...(program.torn ? printCritical(names) : []),
    ...(program.waits.accessors ? waitMacro(names, 'static inline') : []),
    ...(program.copies.length > 0
      ? [c``, comment('Copies of registers that cannot be read, for accessors only.')]
      : []),
    ...program.copies.map(
      ({ register }) =>
        c`${linkage === 'header' ? c`static` : c`extern`} ${widthType(register.bits)} ${names.copy(register)};`,
    ),
    ...printSections(names, program),
    ...printWeak(names, program, linkage),
    ...interruptPrototypes(names, program, linkage),
    c``,
  ];
  const text = fileText([
    ...head,
    ...body.lines,
    ...(linkage === 'header' ? [c``] : []),
    c`#endif ${comment(guard)}`,
  ]);
  return { text, operations: linesOf(program, body.begins, head.length) };
}

/** How registers are read and written where the project's own headers have names for them. */
function printNamedAccess({ plan }: Derived, names: CNames): CCode[] {
  const { include } = plan.code;
  return [
    ...(include === undefined ? [] : [c`#include ${stringLiteral(include)}`, c``]),
    comment('Register access. Define these before including the header to run the code off the target.'),
    ...WIDTHS.flatMap(({ bits }) => {
      const [read, write] = [names.ownMacro(`READ${bits}`), names.ownMacro(`WRITE${bits}`)];
      return [
        c`#ifndef ${read}`,
        c`#define ${read}(place) (place)`,
        c`#define ${write}(place, value) ((place) = (value))`,
        c`#endif`,
      ];
    }),
  ];
}

/** How a function is marked that the application may define instead. */
function printWeak(names: CNames, { interrupts }: Program, linkage: Linkage): CCode[] {
  if (interrupts.length === 0 || linkage === 'header') return [];
  const weak = names.ownMacro('WEAK');
  return [
    c``,
    comment('How compilers mark a function that the application may define instead.'),
    c`#ifndef ${weak}`,
    c`#define ${weak} __attribute__((weak))`,
    c`#endif`,
  ];
}

/** Calls of the application's own code around stages: nothing unless it is defined. */
function printHooks(names: CNames, { hooks }: Program): CCode[] {
  if (hooks.length === 0) return [];
  const each = hooks.flatMap((stage) =>
    (['BEFORE', 'AFTER'] as const).map((when) => c`${names.ownMacro(when)}_${names.stage(stage)}`),
  );
  return [
    c``,
    comment('Called before and after each stage. Define them before including the header.'),
    ...each.flatMap((name) => [c`#ifndef ${name}`, c`#define ${name}() ((void)0)`, c`#endif`]),
  ];
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

function defineRegisters(names: CNames, { registers }: Program, named: boolean): CCode[] {
  const width = Math.max(0, largest(registers.map((register) => names.register(register).length)));
  return registers.map(
    (register) =>
      c`#define ${padded(names.register(register), width)} ${named ? c`(${names.place(register) ?? c``})` : hexLiteral(register.address, 32)}`,
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
