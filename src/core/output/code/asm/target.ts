import { append } from '../../../base/lists';
import type { Derived } from '../../../derive/derive';
import { cNames } from '../c/names';
import { printPrototypes } from '../c/prototypes';
import { cTarget } from '../c/target';
import { identityLines, initialisationWords, lineWords, missingText, TORN_WORDS } from '../identity';
import { programOf } from '../program/program';
import type { ProgramFunction, ProgramStep, Statement, Width } from '../program/types';
import type { Target } from '../types';
import { arm } from './arm';
import { avr, fitsAvr } from './avr';
import { type Body, type Frame, type Processor, slotsOf } from './machine-code';
import { type AsmNames, asmNames } from './names';
import { riscv } from './riscv';
import {
  type AsmCode,
  asm,
  blockComment,
  comment,
  decimal,
  fileText,
  hex,
  stringLiteral,
  wrappedComment,
} from './writer';

/** Assembly for GNU as, called like C functions, with a C header that declares them. */
function assembly(
  processor: Processor,
  title: string,
  lacks: (derived: Derived) => string | undefined = () => undefined,
): Target {
  return {
    id: `asm-${processor.id}`,
    title,
    language: 'asm',
    lacks,
    seal: (text) => asm`${comment(text)}\n`,
    files(derived) {
      const names = asmNames(derived);
      const inC = cNames(derived);
      return [
        {
          path: `${names.file}.h`,
          seal: cTarget.seal,
          print: () => ({ text: printPrototypes(derived, inC) }),
        },
        { path: `${names.file}.s`, initialises: true, print: () => printSource(derived, names, processor) },
      ];
    },
  };
}

export const armTarget = assembly(arm, 'Assembly, ARM Thumb');
export const riscvTarget = assembly(riscv, 'Assembly, RISC-V 32');
export const avrTarget = assembly(avr, 'Assembly, AVR', (derived) => {
  const program = programOf(derived);
  const wide = program.registers.find((one) => one.bits !== 8);
  if (wide) return `${wide.name} is a register of ${wide.bits} bits; AVR reaches registers of 8 bits`;
  const functions = [program.steps, ...program.routines.map(({ steps }) => steps)];
  if (!functions.every((steps) => fitsAvr(steps.flatMap(({ statements }) => statements))))
    return 'the steps of the recipe hold more at once than AVR has registers';
  const far = program.registers.find((one) => one.address > 0xffff);
  return far && `${far.name} is at ${far.address.toString(16)}h; AVR reaches addresses below 10000h`;
});

function printSource(
  derived: Derived,
  names: AsmNames,
  processor: Processor,
): { text: AsmCode; operations: number[] } {
  const program = programOf(derived);
  const missing = missingText(derived);
  let labels = 0;
  const label = (): AsmCode => asm`.L${names.own('init')}_${decimal(labels++)}`;
  const lines: AsmCode[] = [
    ...blockComment(identityLines(derived, `${names.file}.s`, initialisationWords(derived))),
    ...(missing ? blockComment(missing.lines) : []),
    ...(missing?.refusal === undefined ? [] : [asm`    .error ${stringLiteral(missing.refusal)}`]),
    ...processor.head,
    asm``,
    ...program.registers.map((one) => asm`    .equ ${names.register(one)}, ${hex(one.address)}`),
    asm``,
    asm`    .section .bss.${names.own('done')}, "aw", ${processor.type}nobits`,
    ...program.copies.flatMap(({ register }) => [
      asm`    .global ${names.copy(register)}`,
      asm`    .balign ${decimal(register.bits / 8)}`,
      asm`${names.copy(register)}:`,
      asm`    .skip ${decimal(register.bits / 8)}`,
    ]),
    asm`${names.own('done')}:`,
    asm`    .skip 1`,
  ];
  const begins = new Map<ProgramStep, number>();
  const frameFor = (
    statements: readonly Statement[],
    takes?: Width,
    own: { calls?: boolean; tells?: boolean } = {},
  ): Frame => ({
    names,
    statements,
    slots: slotsOf(statements),
    takes,
    calls: own.calls === true || statements.some((one) => one.kind === 'enter'),
    tells: own.tells === true,
    label,
  });
  const printSteps = (steps: readonly ProgramStep[], body: Body): void => {
    for (const step of steps) {
      const { stage, about, statements } = step;
      if (stage !== undefined) lines.push(asm``, asm`    ${comment(stage)}`);
      begins.set(step, lines.length + 1);
      if (about !== undefined)
        append(
          lines,
          wrappedComment(about, 88).map((text) => asm`    ${text}`),
        );
      append(
        lines,
        statements.flatMap((one) => body.statement(one)),
      );
    }
  };
  for (const one of program.routines) {
    const frame = frameFor(
      one.steps.flatMap((step) => step.statements),
      undefined,
      { tells: true },
    );
    const name = names.routine(one);
    lines.push(asm``, ...wrappedComment(one.about, 92));
    if (one.fault !== undefined) lines.push(comment(`not proven: ${one.fault}`));
    lines.push(...begin(processor, name), ...processor.enter(frame));
    printSteps(one.steps, processor.body(frame));
    lines.push(...processor.result(1), ...processor.leave(frame), ...end(processor, name));
  }
  const init = frameFor(program.calls ? [] : program.steps.flatMap((step) => step.statements), undefined, {
    calls: program.calls !== undefined,
  });
  const body = processor.body(init);
  lines.push(...begin(processor, names.own('init')), ...processor.enter(init), ...processor.done(init, 0));
  for (const { register, reset } of program.copies) append(lines, body.firstCopy(register, reset));
  if (program.calls)
    for (const one of program.calls) append(lines, processor.callOrLeave(init, names.routine(one)));
  else printSteps(program.steps, body);
  lines.push(
    asm``,
    ...processor.done(init, 1),
    ...processor.leave(init),
    ...end(processor, names.own('init')),
  );
  const none = frameFor([]);
  lines.push(
    ...begin(processor, names.own('init_done')),
    ...processor.isDone(none),
    ...processor.leave(none),
    ...end(processor, names.own('init_done')),
    ...(program.torn && processor.id !== 'avr' ? printHooks(names, processor) : []),
  );
  for (const { about, functions } of program.sections) {
    lines.push(asm``, ...wrappedComment(about, 92));
    for (const fn of functions) append(lines, printFunction(names, processor, fn, frameFor));
  }
  for (const one of program.interrupts) {
    for (const { net } of one.nets) {
      const none = frameFor([]);
      const name = names.handler(net);
      lines.push(
        ...begin(processor, name),
        asm`    .weak ${name}`,
        ...processor.leave(none),
        ...end(processor, name),
      );
    }
    const frame = frameFor([], undefined, { calls: true });
    const name = names.line(one.id);
    lines.push(
      asm``,
      ...wrappedComment(lineWords(one), 92),
      ...begin(processor, name),
      ...processor.enter(frame),
    );
    for (const { net, pending, acknowledge, byLevel } of one.nets) {
      const handle = processor.call(names.handler(net));
      if (!pending || !acknowledge) {
        append(lines, handle);
        continue;
      }
      const [on, take] = [label(), processor.call(names.function(acknowledge))];
      lines.push(
        ...processor.call(names.function(pending)),
        ...processor.unlessGiven(on),
        ...(byLevel ? [...handle, ...take] : [...take, ...handle]),
        asm`${on}:`,
      );
    }
    lines.push(...processor.leave(frame), ...end(processor, name));
  }
  return { text: fileText(lines), operations: program.steps.map((step) => begins.get(step) ?? 0) };
}

function printFunction(
  names: AsmNames,
  processor: Processor,
  fn: ProgramFunction,
  frameFor: (statements: readonly Statement[], takes?: Width) => Frame,
): AsmCode[] {
  const notes = fn.fault === undefined ? [] : [comment(`not proven: ${fn.fault}`)];
  if (fn.statements.length === 0) return [...notes, comment(`there is no ${fn.accessor.action}`)];
  if (processor.id === 'avr' && !fitsAvr(fn.statements))
    return [...notes, comment(`there is no ${fn.accessor.action}: it needs more registers than there are`)];
  const frame = frameFor(fn.statements, fn.takes);
  const body = processor.body(frame);
  return [
    ...notes,
    ...begin(processor, names.function(fn)),
    ...processor.enter(frame),
    ...fn.statements.flatMap((one) => body.statement(one)),
    ...processor.leave(frame),
    ...end(processor, names.function(fn)),
  ];
}

const begin = ({ type, align, id }: Processor, name: AsmCode): AsmCode[] => [
  asm``,
  asm`    .section .text.${name}, "ax", ${type}progbits`,
  asm`    .global ${name}`,
  asm`    .type ${name}, ${type}function`,
  asm`    .p2align ${decimal(align)}`,
  ...(id === 'arm' ? [asm`    .thumb_func`] : []),
  asm`${name}:`,
];

const end = ({ after }: Processor, name: AsmCode): AsmCode[] => [
  ...after,
  asm`    .size ${name}, . - ${name}`,
];

/** What stands around accessors that are not one access, for the user to replace. */
function printHooks(names: AsmNames, processor: Processor): AsmCode[] {
  const hooks = [names.own('enter'), names.own('leave')];
  const none: Frame = {
    names,
    statements: [],
    slots: new Map(),
    takes: undefined,
    calls: false,
    tells: false,
    label: () => asm``,
  };
  return [
    asm``,
    ...wrappedComment(
      `${TORN_WORDS} These two stand around them and do nothing: where interrupts or other threads touch the same registers, define them. What the first gives is given to the second.`,
      92,
    ),
    ...hooks.flatMap((hook) => [
      ...begin(processor, hook),
      asm`    .weak ${hook}`,
      ...processor.leave(none),
      ...end(processor, hook),
    ]),
  ];
}
