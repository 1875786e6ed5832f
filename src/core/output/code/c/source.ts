import type { Derived } from '../../../derive/derive';
import { initialisationWords } from '../identity';
import { programOf } from '../program/program';
import { identityComment, waitMacro, widthType } from './common';
import type { CNames } from './names';
import { printStatement } from './statements';
import {
  type CCode,
  c,
  comment,
  fileText,
  hexLiteral,
  indented,
  stringLiteral,
  wrappedComment,
} from './writer';

/** The source file: the operations in their order, stage by stage, and on which line each of them begins. */
export function printSource(derived: Derived, names: CNames): { text: CCode; operations: number[] } {
  const program = programOf(derived);
  const body: CCode[] = [];
  const begins: number[] = [];
  for (const { stage, about, statements } of program.steps) {
    if (stage !== undefined) {
      if (body.length > 0) body.push(c``);
      body.push(indented(comment(stage)));
    }
    begins.push(body.length);
    if (about !== undefined) body.push(...wrappedComment(about, 88).map(indented));
    body.push(...block(statements.flatMap((one) => printStatement(names, one))));
  }
  const [init, done] = [names.own('init'), names.own('done')];
  const head = [
    ...identityComment(derived, `${names.file}.c`, initialisationWords(derived)),
    c`#include ${stringLiteral(`${names.file}.h`)}`,
    c``,
    c`static bool ${done} = false;`,
    ...program.copies.map(({ register }) => c`${widthType(register.bits)} ${names.copy(register)};`),
    ...(program.waits.initialisation && !program.waits.accessors ? waitMacro(names, 'static') : []),
    c``,
    c`void ${init}(void)`,
    c`{`,
    c`    ${done} = false;`,
    // What initialisation does not write holds its reset value.
    ...program.copies.map(
      ({ register, reset }) => c`    ${names.copy(register)} = ${hexLiteral(reset, register.bits)};`,
    ),
  ];
  const text = fileText([
    ...head,
    ...(body.length > 0 ? [c``, ...body, c``] : [indented(comment('the plan places no pin yet'))]),
    c`    ${done} = true;`,
    c`}`,
    c``,
    c`bool ${names.own('init_done')}(void)`,
    c`{`,
    c`    return ${done};`,
    c`}`,
  ]);
  // After the head comes an empty line.
  return { text, operations: begins.map((line) => head.length + 2 + line) };
}

/** A step that holds something has a block of its own, so that names do not meet. */
const block = (lines: readonly CCode[]): CCode[] =>
  lines.some((line) => line.startsWith('    uint32_t const '))
    ? [c`    {`, ...lines.map(indented), c`    }`]
    : [...lines];
