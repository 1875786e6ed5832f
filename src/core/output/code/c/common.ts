import { append } from '../../../base/lists';
import type { Derived } from '../../../derive/derive';
import { identityLines, lineWords } from '../identity';
import {
  type InterruptNet,
  isLocal,
  type Program,
  type ProgramRoutine,
  type ProgramStep,
  type Statement,
} from '../program/types';
import type { CNames } from './names';
import { printStatement } from './statements';
import { blockComment, type CCode, c, comment, indented, wrappedComment } from './writer';

/** The lines that say which plan this is. */
export const identityComment = (derived: Derived, file: string, about: string): CCode[] =>
  blockComment(identityLines(derived, file, about));

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

/** A call of the application's own code, where the plan asks for it. */
export const hookCall = (names: CNames, when: 'BEFORE' | 'AFTER', stage: string | undefined): CCode[] =>
  stage === undefined ? [] : [c`    ${names.ownMacro(when)}_${names.stage(stage)}();`];

/** Steps as lines, and at which of them each begins. */
export function printSteps(
  names: CNames,
  steps: readonly ProgramStep[],
  late: CCode,
  begins: Map<ProgramStep, number>,
  lines: CCode[],
): void {
  const first = lines.length;
  for (const step of steps) {
    const { stage, about, statements } = step;
    if (stage !== undefined) {
      if (lines.length > first) lines.push(c``);
      lines.push(indented(comment(stage)));
    }
    append(lines, hookCall(names, 'BEFORE', step.begins));
    begins.set(step, lines.length);
    if (about !== undefined) append(lines, wrappedComment(about, 88).map(indented));
    append(lines, block(statements, names, late));
    append(lines, hookCall(names, 'AFTER', step.ends));
  }
}

/** The statements of a step, in a block of their own where names could meet. */
export function block(statements: readonly Statement[], names: CNames, late: CCode): CCode[] {
  const lines = statements.flatMap((one) => printStatement(names, one, late));
  return statements.some(isLocal) ? [c`    {`, ...lines.map(indented), c`    }`] : lines;
}

/** What is said of a routine before it. */
export const routineComment = ({ about, fault }: ProgramRoutine): CCode[] => [
  ...wrappedComment(about, 92),
  ...(fault === undefined ? [] : wrappedComment(`not proven: ${fault}`, 92)),
];

export const routinePrototype = (names: CNames, routine: ProgramRoutine): CCode =>
  c`bool ${names.routine(routine)}(void)`;

/** How functions of a file begin: of a header that holds all of it, or of a source file. */
export type Linkage = 'source' | 'header';
export const linked = (linkage: Linkage): CCode => (linkage === 'header' ? c`static inline ` : c``);

/** What interrupts call: for each line a function that looks which of its nets it is, and calls their handlers. */
export function printInterrupts(names: CNames, { interrupts }: Program, linkage: Linkage): CCode[] {
  return interrupts.flatMap((one) => [
    ...(linkage === 'header'
      ? []
      : one.nets.flatMap(({ net }) => [
          c``,
          c`${names.ownMacro('WEAK')} void ${names.handler(net)}(void)`,
          c`{`,
          c`}`,
        ])),
    c``,
    c`${linked(linkage)}void ${names.line(one.id)}(void)`,
    c`{`,
    ...one.nets.flatMap((entry) => dispatch(names, entry)),
    c`}`,
  ]);
}

/** A level stays until its cause is gone: it is taken back after that; an edge before, so that the next one is not lost. */
function dispatch(names: CNames, { net, pending, acknowledge, byLevel }: InterruptNet): CCode[] {
  const handle = c`${names.handler(net)}();`;
  if (!pending || !acknowledge) return [c`    ${handle}`];
  const take = c`${names.function(acknowledge)}();`;
  return [
    c`    if (${names.function(pending)}()) {`,
    ...(byLevel ? [handle, take] : [take, handle]).map((one) => c`        ${one}`),
    c`    }`,
  ];
}

/** The prototypes of both. */
export const interruptPrototypes = (names: CNames, { interrupts }: Program, linkage: Linkage): CCode[] =>
  interrupts.flatMap((one) => [
    c``,
    ...wrappedComment(lineWords(one), 92),
    c`${linked(linkage)}void ${names.line(one.id)}(void);`,
    comment(
      linkage === 'header'
        ? 'To be defined by the application.'
        : 'Does nothing unless the application defines it.',
    ),
    ...one.nets.map(({ net }) => c`void ${names.handler(net)}(void);`),
  ]);
