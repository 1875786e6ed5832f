import type { Derived } from '@/core/derive/derive';
import { heldName, type Operation } from '@/core/derive/machine/operations';
import { heldText } from '@/core/description/language/held-value';
import type { Register } from '@/core/device/registers/types';

/** The ways in which people write code that sets registers. */
export const HANDS = ['addresses', 'pointers', 'structs', 'no header', 'helpers', 'table'] as const;
export type Hand = (typeof HANDS)[number];

/** What the operations of a plan do, as somebody would have written it by hand; apart from what the targets print. */
export function handWritten(derived: Derived, hand: Hand): { name: string; text: string }[] {
  const { operations } = derived.lowered;
  const registers = [...new Set(operations.flatMap((one) => ('register' in one ? [one.register] : [])))];
  const header = headerOf(registers, hand, derived.device.registers.all);
  const lines = hand === 'table' ? tableOf(operations) : operations.map((one, at) => lineOf(one, hand, at));
  const body =
    hand === 'table' ? lines : ['void board_init(void)', '{', ...lines.map((line) => `    ${line}`), '}'];
  return [
    { name: 'src/board.c', text: `#include <stdint.h>\n#include "regs.h"\n\n${body.join('\n')}\n` },
    ...(hand === 'no header' ? [] : [{ name: 'inc/regs.h', text: header }]),
  ];
}

const hex = (value: number): string => `0x${(value >>> 0).toString(16).toUpperCase()}u`;
const plain = ({ name }: Register): string => name.replace(/[^A-Za-z0-9]/g, '_');
const [blockOf, memberOf] = [
  ({ name }: Register): string => name.split('.')[0] as string,
  ({ name }: Register): string => name.split('.').slice(1).join('_'),
];

function headerOf(registers: readonly Register[], hand: Hand, all: readonly Register[]): string {
  const lines = ['#ifndef REGS_H', '#define REGS_H', '#include <stdint.h>'];
  if (hand === 'structs') lines.push(...structsOf(registers, all));
  else
    for (const one of registers) {
      const pointer = `((volatile uint${one.bits}_t *)${hex(one.address)})`;
      if (hand === 'addresses') lines.push(`#define ${plain(one)} (*${pointer})`);
      else if (hand === 'pointers')
        lines.push(`static volatile uint${one.bits}_t *const ${plain(one)} = ${pointer};`);
      else lines.push(`#define ${plain(one)}_ADDR \\`, `    ${hex(one.address)}`);
    }
  if (hand === 'helpers') {
    for (const bits of [8, 16, 32])
      lines.push(
        `static void change${bits}(uint32_t address, uint${bits}_t clear, uint${bits}_t set)`,
        '{',
        `    volatile uint${bits}_t *reg = (volatile uint${bits}_t *)address;`,
        `    uint${bits}_t now = *reg;`,
        `    now &= (uint${bits}_t)~clear;`,
        '    now |= set;',
        '    *reg = now;',
        '}',
        `#define PUT${bits}(address, value) do { *(volatile uint${bits}_t *)(address) = (value); } while (0)`,
      );
  }
  return `${[...lines, '#endif'].join('\n')}\n`;
}

/** A struct for each block, with what is between the registers filled up. */
function structsOf(registers: readonly Register[], all: readonly Register[]): string[] {
  const blocks = new Set(registers.map(blockOf));
  return [...blocks].flatMap((block) => {
    const own = all
      .filter((one) => blockOf(one) === block && one.access.kind !== 'internal')
      .sort((a, b) => a.address - b.address);
    const base = own[0]?.address ?? 0;
    const lines: string[] = [];
    let at = base;
    for (const [k, one] of own.entries()) {
      if (one.address < at) continue;
      if (one.address > at) lines.push(`    uint8_t fill${k}[${one.address - at}];`);
      const twins = own.filter((other) => other.address === one.address);
      const members = twins.map((twin) => `volatile uint${twin.bits}_t ${memberOf(twin)};`);
      lines.push(`    ${members.length > 1 ? `union { ${members.join(' ')} };` : members[0]}`);
      at = one.address + Math.max(...twins.map((twin) => twin.bits)) / 8;
    }
    return [
      `typedef struct __attribute__((packed)) {`,
      ...lines,
      `} ${block}_t;`,
      `#define ${block} ((${block}_t *)${hex(base)})`,
    ];
  });
}

function lineOf(operation: Operation, hand: Hand, at: number): string {
  switch (operation.kind) {
    case 'wait':
      return `for (volatile uint32_t k${at} = 0; k${at} < ${operation.cycles}u; k${at}++) { }`;
    case 'await': {
      const test = `(${place(operation.register, hand)} & ${hex(operation.mask)}) != ${hex(operation.value)}`;
      return at % 2 === 0 ? `while (${test}) { }` : `do { } while (${test});`;
    }
    case 'read':
      return `${operation.holds === undefined ? '(void)' : `uint32_t ${heldName(operation.holds)} = `}${place(operation.register, hand)};`;
    case 'write held':
      return `${place(operation.register, hand)} = (uint${operation.register.bits}_t)(${heldText(operation.value, heldName)});`;
    case 'flip':
      return `${place(operation.register, hand)} ^= ${hex(operation.mask)};`;
    case 'write':
      if (hand === 'helpers')
        return `PUT${operation.register.bits}(${plain(operation.register)}_ADDR, ${hex(operation.value)});`;
      return `${place(operation.register, hand)} = ${hex(operation.value)};`;
    case 'update': {
      const { register, clear, set } = operation;
      if (hand === 'helpers')
        return `change${register.bits}(${plain(register)}_ADDR, ${hex(clear)}, ${hex(set)});`;
      const one = place(register, hand);
      return `${one} = (${one} & ~(uint${register.bits}_t)${hex(clear)}) | ${hex(set)};`;
    }
  }
}

function place(register: Register, hand: Hand): string {
  if (hand === 'pointers') return `(*${plain(register)})`;
  if (hand === 'structs' || hand === 'no header') return `${blockOf(register)}->${memberOf(register)}`;
  if (hand === 'helpers') return `(*(volatile uint${register.bits}_t *)${plain(register)}_ADDR)`;
  return plain(register);
}

/** Rows of numbers and one loop. */
function tableOf(operations: readonly Operation[]): string[] {
  const rows = operations.flatMap((one) => {
    if (one.kind === 'wait') return [`    { .kind = WAIT, .b = ${one.cycles}u },`];
    const head = `.bits = ${one.register.bits}, .address = ${plain(one.register)}_ADDR`;
    if (one.kind === 'write') return [`    { WRITE, ${head}, .a = ${hex(one.value)} },`];
    if (one.kind === 'update')
      return [`    { CHANGE, ${head}, .a = ${hex(one.set)}, .b = ${hex(one.clear)} },`];
    if (one.kind === 'await')
      return [`    { AWAIT, ${head}, .a = ${hex(one.value)}, .b = ${hex(one.mask)} },`];
    if (one.kind !== 'flip') throw new Error(`rows do not say "${one.kind}"`);
    return [`    { FLIP, ${head}, .a = ${hex(one.mask)} },`];
  });
  const cases = [8, 16, 32].flatMap((bits) => [
    `        case ${bits}: {`,
    `            volatile uint${bits}_t *reg = (volatile uint${bits}_t *)(uintptr_t)row->address;`,
    '            switch (row->kind) {',
    '            case AWAIT: while ((*reg & row->b) != row->a) { } break;',
    `            case WRITE: *reg = (uint${bits}_t)row->a; break;`,
    `            case FLIP: *reg ^= (uint${bits}_t)row->a; break;`,
    `            default: *reg = (uint${bits}_t)((*reg & ~row->b) | row->a); break;`,
    '            }',
    '            break;',
    '        }',
  ]);
  return [
    'enum kind { WRITE, CHANGE, AWAIT, FLIP, WAIT };',
    'struct row { enum kind kind; uint8_t bits; uint32_t address, a, b; };',
    'static const struct row rows[] = {',
    ...rows,
    '};',
    '#define COUNT(list) (sizeof(list) / sizeof((list)[0]))',
    'void board_init(void)',
    '{',
    '    for (const struct row *row = rows; row < rows + COUNT(rows); row++) {',
    '        if (row->kind == WAIT) {',
    '            for (volatile uint32_t left = row->b; left > 0; left--) { }',
    '            continue;',
    '        }',
    '        switch (row->bits) {',
    ...cases,
    '        }',
    '    }',
    '}',
  ];
}
