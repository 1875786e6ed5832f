import type { Derived } from '../../derive';
import type { Operation, PadShare } from '../../recipe/operations';
import { fullMask, type Register } from '../../recipe/registers';
import { commentText, hexLiteral, wrap } from '../text';
import { identityComment, narrowed, readCall, writeCall } from './common';

/** The source file: the operations in their order, stage by stage. */
export function printSource(derived: Derived, prefix: string): string {
  const { operations } = derived.lowered;
  const waits = operations.some((operation) => operation.kind === 'wait');
  const body: string[] = [];
  let stage = '';
  for (const operation of operations) {
    if (operation.stage !== stage) {
      stage = operation.stage;
      if (body.length > 0) body.push('');
      body.push(`    /* ${stageComment(derived, stage)} */`);
    }
    body.push(...printOperation(derived, prefix, operation));
  }
  return [
    ...identityComment(derived, `${prefix}.c`, `${styleWords(derived)} for ${derived.proof.pins} pins`),
    `#include "${prefix}.h"`,
    '',
    `static bool ${prefix}_done = false;`,
    ...(waits
      ? [
          '',
          '/* Lets at least the given number of cycles pass. Define it before to wait in another way. */',
          `#ifndef ${prefix.toUpperCase()}_WAIT`,
          `static void ${prefix}_wait(uint32_t cycles)`,
          '{',
          '    for (volatile uint32_t left = cycles; left > 0u; left = left - 1u) { }',
          '}',
          `#define ${prefix.toUpperCase()}_WAIT(cycles) ${prefix}_wait(cycles)`,
          '#endif',
        ]
      : []),
    '',
    `void ${prefix}_init(void)`,
    '{',
    `    ${prefix}_done = false;`,
    ...(body.length > 0 ? ['', ...body, ''] : ['    /* the plan places no pin yet */']),
    `    ${prefix}_done = true;`,
    '}',
    '',
    `bool ${prefix}_init_done(void)`,
    '{',
    `    return ${prefix}_done;`,
    '}',
    '',
  ].join('\n');
}

const styleWords = (derived: Derived): string =>
  derived.plan.code.style === 'from-reset'
    ? 'initialisation from reset (whole registers are written)'
    : 'initialisation (only planned bits are changed)';

function stageComment(derived: Derived, id: string): string {
  const stage = derived.device.stages.find((one) => one.id === id);
  const text = [stage?.title ?? id, stage?.why].filter(Boolean).join(': ');
  return `${commentText(id)}: ${commentText(text)}`;
}

function printOperation(derived: Derived, prefix: string, operation: Operation): string[] {
  switch (operation.kind) {
    case 'wait':
      return [`    ${prefix.toUpperCase()}_WAIT(${operation.cycles}u);`];
    case 'await':
      return printAwait(prefix, operation);
    case 'write':
      return [
        ...netsComment(derived, operation.pads),
        ...statement(prefix, operation.register, hexLiteral(operation.value, operation.register.bits)),
      ];
    case 'update':
      return [...netsComment(derived, operation.pads), ...printUpdate(prefix, operation)];
  }
}

/** Reads, clears the bits to be changed unless all of them are set anyway, sets, writes. */
function printUpdate(prefix: string, operation: Extract<Operation, { kind: 'update' }>): string[] {
  const { register, clear, set } = operation;
  const read = readCall(prefix, register);
  const cleared = (clear & ~set) >>> 0;
  const kept = hexLiteral((~cleared & fullMask(register.bits)) >>> 0, register.bits);
  let value = read;
  if (cleared !== 0) value = set === 0 ? `${value} & ${kept}` : `(${value} & ${kept})`;
  if (set !== 0) value = `${value} | ${hexLiteral(set, register.bits)}`;
  return statement(prefix, register, narrowed(value, register.bits));
}

const LONGEST_LINE = 100;

/** A register write as a statement, on two lines when one would be too long to read. */
function statement(prefix: string, register: Register, value: string): string[] {
  const whole = `    ${writeCall(prefix, register, value)}`;
  if (whole.length <= LONGEST_LINE) return [whole];
  const [head, tail] = [whole.slice(0, whole.length - value.length - 3), whole.slice(-(value.length + 2))];
  return [head, `        ${tail}`];
}

/** Waits with a bound; a port that never becomes ready ends initialisation, and `init_done` stays false. */
function printAwait(prefix: string, operation: Extract<Operation, { kind: 'await' }>): string[] {
  const { register, mask, value, cycles } = operation;
  const bits = register.bits;
  return [
    '    for (uint32_t tries = 0u;',
    `         (${readCall(prefix, register)} & ${hexLiteral(mask, bits)}) != ${hexLiteral(value, bits)};`,
    '         tries = tries + 1u) {',
    `        if (tries == ${cycles}u) { return; }`,
    '    }',
  ];
}

/** The nets whose pins an operation decides, wrapped; where there are many, those that get something else than zeros. */
function netsComment(derived: Derived, pads: readonly PadShare[]): string[] {
  if (pads.length === 0) return [];
  const set = pads.length > 6 ? pads.filter((one) => one.value !== 0) : pads;
  const names = set.map(({ pad }) =>
    `${pad} ${commentText(derived.byPad.get(pad)?.[0]?.net.name ?? '')}`.trim(),
  );
  const others = pads.length - set.length;
  const rest =
    others === 0
      ? ''
      : `${names.length > 0 ? '; zero for ' : 'zero for '}${others} ${others > 1 ? 'pins' : 'pin'}`;
  const lines = wrap(names.join(', ') + rest, 88);
  return lines.map((line, index) => {
    const start = index === 0 ? '    /* ' : '     * ';
    return `${start}${line}${index === lines.length - 1 ? ' */' : ''}`;
  });
}
