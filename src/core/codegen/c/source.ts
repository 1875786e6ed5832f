import type { Derived } from '../../derive';
import type { Operation, PadShare } from '../../recipe/operations';
import { fullMask, type Register } from '../../recipe/registers';
import { identityComment, narrowed, readCall, writeCall } from './common';
import type { CNames } from './names';
import {
  type CCode,
  c,
  comment,
  decimal,
  fileText,
  hexLiteral,
  indented,
  stringLiteral,
  wrappedComment,
} from './writer';

/** The source file: the operations in their order, stage by stage. */
export function printSource(derived: Derived, names: CNames): CCode {
  const { operations } = derived.lowered;
  const waits = operations.some((operation) => operation.kind === 'wait');
  const body: CCode[] = [];
  let stage = '';
  for (const operation of operations) {
    if (operation.stage !== stage) {
      stage = operation.stage;
      if (body.length > 0) body.push(c``);
      body.push(indented(comment(stageText(derived, stage))));
    }
    body.push(...printOperation(derived, names, operation));
  }
  const [init, done] = [names.own('init'), names.own('done')];
  return fileText([
    ...identityComment(derived, `${names.file}.c`, `${styleWords(derived)} for ${derived.proof.pins} pins`),
    c`#include ${stringLiteral(`${names.file}.h`)}`,
    c``,
    c`static bool ${done} = false;`,
    ...(waits ? waitMacro(names) : []),
    c``,
    c`void ${init}(void)`,
    c`{`,
    c`    ${done} = false;`,
    ...(body.length > 0 ? [c``, ...body, c``] : [indented(comment('the plan places no pin yet'))]),
    c`    ${done} = true;`,
    c`}`,
    c``,
    c`bool ${names.own('init_done')}(void)`,
    c`{`,
    c`    return ${done};`,
    c`}`,
  ]);
}

function waitMacro(names: CNames): CCode[] {
  const [macro, wait] = [names.ownMacro('WAIT'), names.own('wait')];
  return [
    c``,
    comment('Lets at least the given number of cycles pass. Define it before to wait in another way.'),
    c`#ifndef ${macro}`,
    c`static void ${wait}(uint32_t cycles)`,
    c`{`,
    c`    for (volatile uint32_t left = cycles; left > 0u; left = left - 1u) { }`,
    c`}`,
    c`#define ${macro}(cycles) ${wait}(cycles)`,
    c`#endif`,
  ];
}

const styleWords = (derived: Derived): string =>
  derived.plan.code.style === 'from-reset'
    ? 'initialisation from reset (whole registers are written)'
    : 'initialisation (only planned bits are changed)';

function stageText(derived: Derived, id: string): string {
  const stage = derived.device.stages.find((one) => one.id === id);
  const text = [stage?.title ?? id, stage?.why].filter(Boolean).join(': ');
  return `${id}: ${text}`;
}

function printOperation(derived: Derived, names: CNames, operation: Operation): CCode[] {
  switch (operation.kind) {
    case 'wait':
      return [c`    ${names.ownMacro('WAIT')}(${decimal(operation.cycles)}u);`];
    case 'await':
      return printAwait(names, operation);
    case 'write':
      return [
        ...netsComment(derived, operation.pads),
        ...statement(names, operation.register, hexLiteral(operation.value, operation.register.bits)),
      ];
    case 'update':
      return [...netsComment(derived, operation.pads), ...printUpdate(names, operation)];
    case 'flip':
      return [];
  }
}

/** Reads, clears the bits to be changed unless all of them are set anyway, sets, writes. */
function printUpdate(names: CNames, operation: Extract<Operation, { kind: 'update' }>): CCode[] {
  const { register, clear, set } = operation;
  const read = readCall(names, register);
  const cleared = (clear & ~set) >>> 0;
  const kept = hexLiteral((~cleared & fullMask(register.bits)) >>> 0, register.bits);
  let value = read;
  if (cleared !== 0) value = set === 0 ? c`${value} & ${kept}` : c`(${value} & ${kept})`;
  if (set !== 0) value = c`${value} | ${hexLiteral(set, register.bits)}`;
  return statement(names, register, narrowed(value, register.bits));
}

const LONGEST_LINE = 100;

/** A register write as a statement, on two lines when one would be too long to read. */
function statement(names: CNames, register: Register, value: CCode): CCode[] {
  const whole = indented(writeCall(names, register, value));
  if (whole.length <= LONGEST_LINE) return [whole];
  return [
    c`    ${names.ownMacro(`WRITE${register.bits}`)}(${names.register(register)},`,
    c`        ${value});`,
  ];
}

/** Waits with a bound; a port that never becomes ready ends initialisation, and `init_done` stays false. */
function printAwait(names: CNames, operation: Extract<Operation, { kind: 'await' }>): CCode[] {
  const { register, mask, value, cycles } = operation;
  const bits = register.bits;
  return [
    c`    for (uint32_t tries = 0u;`,
    c`         (${readCall(names, register)} & ${hexLiteral(mask, bits)}) != ${hexLiteral(value, bits)};`,
    c`         tries = tries + 1u) {`,
    c`        if (tries == ${decimal(cycles)}u) { return; }`,
    c`    }`,
  ];
}

/** The nets whose pins an operation decides, wrapped; where there are many, those that get something else than zeros. */
function netsComment(derived: Derived, pads: readonly PadShare[]): CCode[] {
  if (pads.length === 0) return [];
  const set = pads.length > 6 ? pads.filter((one) => one.value !== 0) : pads;
  const told = set.map(({ pad }) => `${pad} ${derived.byPad.get(pad)?.[0]?.net.name ?? ''}`.trim());
  const others = pads.length - set.length;
  const rest =
    others === 0
      ? ''
      : `${told.length > 0 ? '; zero for ' : 'zero for '}${others} ${others > 1 ? 'pins' : 'pin'}`;
  return wrappedComment(told.join(', ') + rest, 88).map(indented);
}
