import { append } from '../../../base/lists';
import type { Derived } from '../../../derive/derive';
import { initialisationWords } from '../identity';
import { programOf } from '../program/program';
import type { Program, ProgramStep } from '../program/types';
import {
  identityComment,
  type Linkage,
  linked,
  printInterrupts,
  printSteps,
  routineComment,
  routinePrototype,
  waitMacro,
} from './common';
import type { CNames } from './names';
import { widthType } from './types';
import { type CCode, c, comment, fileText, hexLiteral, indented, stringLiteral } from './writer';

/** Lines of code, and at which of them each operation begins. */
export interface Body {
  lines: CCode[];
  begins: Map<ProgramStep, number>;
}

/** The source file: the operations in their order, stage by stage, and on which line each of them begins. */
export function printSource(derived: Derived, names: CNames): { text: CCode; operations: number[] } {
  const program = programOf(derived);
  const { lines, begins } = printBody(program, names, 'source');
  const head = [
    ...identityComment(derived, `${names.file}.c`, initialisationWords(derived)),
    c`#include ${stringLiteral(`${names.file}.h`)}`,
    c``,
  ];
  return { text: fileText([...head, ...lines]), operations: linesOf(program, begins, head.length) };
}

/** On which line of a file each operation begins. */
export const linesOf = (
  { steps }: Program,
  begins: ReadonlyMap<ProgramStep, number>,
  above: number,
): number[] => steps.map((step) => above + 1 + (begins.get(step) ?? 0));

/** What is done before initialisation: nothing is done yet, and copies hold what registers hold after reset. */
export const opening = (names: CNames, { copies }: Program): CCode[] => [
  c`    ${names.own('done')} = false;`,
  ...copies.map(
    ({ register, reset }) => c`    ${names.copy(register)} = ${hexLiteral(reset, register.bits)};`,
  ),
];

/** The variables of the file. */
export const variables = (program: Program, names: CNames, linkage: Linkage): CCode[] => [
  c`static bool ${names.own('done')} = false;`,
  ...(linkage === 'header'
    ? []
    : program.copies.map(({ register }) => c`${widthType(register.bits)} ${names.copy(register)};`)),
  ...(program.waits.initialisation && !program.waits.accessors
    ? waitMacro(names, linkage === 'header' ? 'static inline' : 'static')
    : []),
];

/** Says whether initialisation has run to its end. */
export const printDone = (names: CNames, linkage: Linkage): CCode[] => [
  c``,
  c`${linked(linkage)}bool ${names.own('init_done')}(void)`,
  c`{`,
  c`    return ${names.own('done')};`,
  c`}`,
];

/** Everything that runs: routines, initialisation, and whether it has run to its end. */
export function printBody(program: Program, names: CNames, linkage: Linkage): Body {
  const begins = new Map<ProgramStep, number>();
  const lines = variables(program, names, linkage);
  for (const routine of program.routines) {
    lines.push(
      c``,
      ...routineComment(routine),
      c`${linked(linkage)}${routinePrototype(names, routine)}`,
      c`{`,
    );
    printSteps(names, routine.steps, c`return false;`, begins, lines);
    lines.push(c`    return true;`, c`}`);
  }
  lines.push(c``, c`${linked(linkage)}void ${names.own('init')}(void)`, c`{`, ...opening(names, program));
  if (program.calls)
    append(
      lines,
      program.calls.map((one) => c`    if (!${names.routine(one)}()) { return; }`),
    );
  else if (program.steps.length === 0) lines.push(indented(comment('the plan places no pin yet')));
  else {
    lines.push(c``);
    printSteps(names, program.steps, c`return;`, begins, lines);
    lines.push(c``);
  }
  lines.push(
    c`    ${names.own('done')} = true;`,
    c`}`,
    ...printDone(names, linkage),
    ...printInterrupts(names, program, linkage),
  );
  return { lines, begins };
}
