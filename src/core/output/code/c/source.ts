import type { Derived } from '../../../derive/derive';
import type { PadShare } from '../../../derive/machine/operations';
import { accessorsWait, identityComment, waitMacro, widthType } from './common';
import type { CNames } from './names';
import { printOperation } from './operations';
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
  const { operations } = derived.lowered;
  const waits = operations.some((operation) => operation.kind === 'wait');
  const body: CCode[] = [];
  const begins: number[] = [];
  let stage = '';
  for (const operation of operations) {
    if (operation.stage !== stage) {
      stage = operation.stage;
      if (body.length > 0) body.push(c``);
      body.push(indented(comment(stageText(derived, stage))));
    }
    begins.push(body.length);
    body.push(...netsComment(derived, operation.pads), ...printOperation(names, operation, c`return;`));
  }
  const shadows = [...derived.accessors.shadows.keys()];
  const [init, done] = [names.own('init'), names.own('done')];
  const head = [
    ...identityComment(derived, `${names.file}.c`, `${styleWords(derived)} for ${derived.proof.pins} pins`),
    c`#include ${stringLiteral(`${names.file}.h`)}`,
    c``,
    c`static bool ${done} = false;`,
    ...shadows.map((register) => c`${widthType(register.bits)} ${names.shadow(register)};`),
    ...(waits && !accessorsWait(derived) ? waitMacro(names, 'static') : []),
    c``,
    c`void ${init}(void)`,
    c`{`,
    c`    ${done} = false;`,
    // What initialisation does not write holds its reset value.
    ...shadows.map(
      (register) => c`    ${names.shadow(register)} = ${hexLiteral(register.reset, register.bits)};`,
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

const styleWords = (derived: Derived): string =>
  derived.plan.code.style === 'from-reset'
    ? 'initialisation from reset (whole registers are written)'
    : 'initialisation (only planned bits are changed)';

function stageText(derived: Derived, id: string): string {
  const stage = derived.device.stages.find((one) => one.id === id);
  const text = [stage?.title ?? id, stage?.why].filter(Boolean).join(': ');
  return `${id}: ${text}`;
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
