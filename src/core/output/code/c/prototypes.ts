import type { Derived } from '../../../derive/derive';
import { programOf } from '../program/program';
import { identityComment, interruptPrototypes, routineComment, routinePrototype } from './common';
import type { CNames } from './names';
import { prototypeOf } from './statements';
import { type CCode, c, comment, decimal, fileText, wrappedComment } from './writer';

/** A header that only declares: for code that stands in another language. */
export function printPrototypes(derived: Derived, names: CNames): CCode {
  const program = programOf(derived);
  const guard = names.ownMacro('H');
  return fileText([
    ...identityComment(derived, `${names.file}.h`, 'declarations'),
    c`#ifndef ${guard}`,
    c`#define ${guard}`,
    c``,
    c`#include <stdbool.h>`,
    c`#include <stdint.h>`,
    c``,
    comment('Puts every planned pin into its planned state. Call it once, before anything uses the pins.'),
    c`void ${names.own('init')}(void);`,
    c``,
    comment('True after that has run to its end; false when a port did not become ready in time.'),
    c`bool ${names.own('init_done')}(void);`,
    ...program.routines.flatMap((one) => [c``, ...routineComment(one), c`${routinePrototype(names, one)};`]),
    ...program.sections.flatMap(({ about, facts, functions }) => [
      c``,
      ...wrappedComment(about, 92),
      ...facts.map((fact) => c`#define ${names.fact(fact)} ${decimal(fact.value)}u`),
      ...functions
        .filter(({ statements }) => statements.length > 0)
        .map((fn) => c`${prototypeOf(names, fn)};`),
    ]),
    ...interruptPrototypes(names, program, 'source'),
    c``,
    c`#endif ${comment(guard)}`,
  ]);
}
