import { append } from '../../../base/lists';
import type { Derived } from '../../../derive/derive';
import { identityLines, initialisationWords, lineWords, missingText, TORN_WORDS } from '../identity';
import { programOf } from '../program/program';
import { type FactKind, isLocal, type Program, type ProgramStep } from '../program/types';
import type { Target } from '../types';
import { type RustNames, rustNames } from './names';
import { printFunction, printStatement, widthType } from './statements';
import {
  comments,
  decimal,
  documentation,
  fileText,
  hexLiteral,
  indented,
  type RustCode,
  rust,
  stringLiteral,
  wrappedComment,
} from './writer';

/** Rust without its standard library: one module with a struct whose methods are the accessors. */
export const rustTarget: Target = {
  id: 'rust',
  title: 'Rust',
  language: 'rust',
  seal: (text) => rust`${comments([text])[0] ?? rust``}\n`,
  files(derived) {
    const names = rustNames(derived);
    return [{ path: `${names.file}.rs`, initialises: true, print: () => printModule(derived, names) }];
  },
};

const FACT_WORDS: Record<FactKind, string> = {
  PORT: 'The port, counted from 0,',
  BIT: 'The bit in its port',
  INSTANCE: 'The instance of the peripheral',
  RATE_WANTED: 'The rate that is wanted',
  RATE_GOT: 'The nearest rate that there is',
  DIVIDER: 'What gives that rate',
  DATA_BITS: 'Data bits of a frame',
  PARITY: 'Parity of a frame, 0 none, 1 odd, 2 even,',
  STOP_HALF_BITS: 'Half stop bits of a frame',
  SPI_MODE: 'Mode of the clock',
  LSB_FIRST: '1 where the lowest bit goes first; bit order',
  INTERRUPT_NUMBER: 'Number at the interrupt controller',
};

const twice = (line: RustCode): RustCode => indented(indented(line));

function printModule(derived: Derived, names: RustNames): { text: RustCode; operations: number[] } {
  const program = programOf(derived);
  const { copies } = program;
  const missing = missingText(derived);
  const lines: RustCode[] = [
    ...comments(identityLines(derived, `${names.file}.rs`, initialisationWords(derived))),
    ...comments(missing?.lines ?? []),
    rust`//! Port initialisation and access to the nets by name.`,
    rust`#![deny(unsafe_op_in_unsafe_fn, unused_must_use, missing_docs)]`,
    rust`#![allow(dead_code)]`,
    ...(missing?.refusal === undefined
      ? []
      : [rust``, rust`compile_error!(${stringLiteral(missing.refusal)});`]),
    rust``,
    ...documentation('The name of the plan.'),
    rust`pub const PLAN: &str = ${stringLiteral(derived.plan.name)};`,
    ...documentation('The revision of the plan.'),
    rust`pub const REVISION: &str = ${stringLiteral(derived.plan.revision)};`,
    ...documentation('The fingerprint of what the plan says.'),
    rust`pub const CONTENT: &str = ${stringLiteral(derived.fingerprint)};`,
    rust``,
    ...program.registers.map(
      (one) => rust`const ${names.register(one)}: usize = ${hexLiteral(one.address, 32)};`,
    ),
    rust``,
    ...program.sections.flatMap(({ group, bits }) =>
      group === undefined
        ? []
        : (bits ?? []).flatMap(({ net, bit }) => [
            ...documentation(`Bit of ${derived.byNet.get(net)?.net.name ?? ''} in the number of its group.`),
            rust`pub const ${names.bit(group, net)}: u32 = ${decimal(bit)};`,
          ]),
    ),
    ...program.sections.flatMap(({ facts }) =>
      facts.flatMap((fact) => [
        ...documentation(
          `${FACT_WORDS[fact.kind]} of ${derived.byNet.get(fact.net)?.net.name ?? ''}${fact.kind.startsWith('RATE') ? ', in hertz' : ''}.`,
        ),
        rust`pub const ${names.fact(fact)}: u32 = ${decimal(fact.value)};`,
      ]),
    ),
    ...printStages(names, program),
    ...printBus(program),
    rust``,
    ...documentation('The pins of the plan, and how they are reached.'),
    rust`pub struct Ports<B: Bus> {`,
    rust`    bus: B,`,
    rust`    done: bool,`,
    ...copies.map(({ register }) => rust`    ${names.copy(register)}: ${widthType(register.bits)},`),
    rust`}`,
    rust``,
    rust`impl<B: Bus> Ports<B> {`,
    ...documentation('Takes the bus; touches no register.').map(indented),
    rust`    pub const fn new(bus: B) -> Self {`,
    rust`        Self {`,
    rust`            bus,`,
    rust`            done: false,`,
    ...copies.map(
      ({ register, reset }) =>
        rust`            ${names.copy(register)}: ${hexLiteral(reset, register.bits)},`,
    ),
    rust`        }`,
    rust`    }`,
    rust``,
    ...documentation('Gives the bus back.').map(indented),
    rust`    pub fn free(self) -> B {`,
    rust`        self.bus`,
    rust`    }`,
    rust``,
    ...documentation(
      'Puts every planned pin into its planned state; false when a port did not become ready in time.',
    ).map(indented),
    rust`    pub fn init(&mut self) -> bool {`,
    rust`        self.done = false;`,
    ...copies.map(
      ({ register, reset }) =>
        rust`        self.${names.copy(register)} = ${hexLiteral(reset, register.bits)};`,
    ),
  ];
  const begins = new Map<ProgramStep, number>();
  if (program.calls) {
    for (const one of program.calls)
      lines.push(
        rust`        if !self.${names.routine(one)}() {`,
        rust`            return false;`,
        rust`        }`,
      );
  } else printSteps(names, program.steps, begins, lines);
  lines.push(
    rust``,
    rust`        self.done = true;`,
    rust`        true`,
    rust`    }`,
    rust``,
    ...documentation('True after initialisation has run to its end.').map(indented),
    rust`    #[must_use]`,
    rust`    pub fn init_done(&self) -> bool {`,
    rust`        self.done`,
    rust`    }`,
  );
  for (const one of program.routines) {
    lines.push(
      rust``,
      ...documentation(one.about).map(indented),
      ...(one.fault === undefined ? [] : documentation(`Not proven: ${one.fault}`).map(indented)),
      rust`    pub fn ${names.routine(one)}(&mut self) -> bool {`,
    );
    printSteps(names, one.steps, begins, lines);
    lines.push(rust`        true`, rust`    }`);
  }
  for (const { about, functions } of program.sections) {
    for (const fn of functions) lines.push(rust``, ...printFunction(names, fn, about).map(indented));
  }
  for (const one of program.interrupts) {
    lines.push(
      rust``,
      ...documentation(lineWords(one)).map(indented),
      rust`    pub fn ${names.line(one.id)}<H: Handlers<B>>(&mut self, handlers: &mut H) {`,
    );
    for (const { net, pending, acknowledge, byLevel } of one.nets) {
      const handle = rust`handlers.${names.handler(net)}(self);`;
      if (!pending || !acknowledge) {
        lines.push(rust`        ${handle}`);
        continue;
      }
      const take = rust`self.${names.function(acknowledge)}();`;
      const both = byLevel ? [handle, take] : [take, handle];
      lines.push(
        rust`        if self.${names.function(pending)}() {`,
        ...both.map((text) => rust`            ${text}`),
        rust`        }`,
      );
    }
    lines.push(rust`    }`);
  }
  lines.push(rust`}`, ...printHandlers(names, program));
  const operations = program.steps.map((step) => begins.get(step) ?? 0);
  return { text: fileText(lines), operations };
}

/** Steps as lines, and on which line of the file each of them begins. */
function printSteps(
  names: RustNames,
  steps: readonly ProgramStep[],
  begins: Map<ProgramStep, number>,
  lines: RustCode[],
): void {
  for (const step of steps) {
    const { stage, about, statements } = step;
    if (stage !== undefined) lines.push(rust``, ...comments([stage]).map(twice));
    if (step.begins !== undefined)
      lines.push(rust`        self.bus.before(Stage::${names.stage(step.begins)});`);
    begins.set(step, lines.length + 1);
    if (about !== undefined) append(lines, wrappedComment(about, 88).map(twice));
    const body = statements.flatMap((one) => printStatement(names, one, rust`return false;`));
    const own = statements.some(isLocal);
    append(lines, (own ? [rust`{`, ...body.map(indented), rust`}`] : body).map(twice));
    if (step.ends !== undefined) lines.push(rust`        self.bus.after(Stage::${names.stage(step.ends)});`);
  }
}

/** What interrupts call, for the application to implement. */
function printHandlers(names: RustNames, { interrupts }: Program): RustCode[] {
  if (interrupts.length === 0) return [];
  return [
    rust``,
    ...documentation('What interrupts call. Implement those that are wanted.'),
    rust`pub trait Handlers<B: Bus> {`,
    ...interrupts.flatMap((one) =>
      one.nets.flatMap(({ net, name }) => [
        ...documentation(`The interrupt of ${name}.`).map(indented),
        rust`    fn ${names.handler(net)}(&mut self, ports: &mut Ports<B>) {`,
        rust`        let _ = ports;`,
        rust`    }`,
      ]),
    ),
    rust`}`,
  ];
}

/** The stages around which the bus is told. */
function printStages(names: RustNames, { hooks }: Program): RustCode[] {
  if (hooks.length === 0) return [];
  return [
    rust``,
    ...documentation('Stages of initialisation: the bus is told before and after each.'),
    rust`#[derive(Clone, Copy, Debug, PartialEq, Eq)]`,
    rust`#[allow(non_camel_case_types, clippy::upper_case_acronyms)]`,
    rust`pub enum Stage {`,
    ...hooks.flatMap((one) => [
      ...documentation(`The stage ${one}.`).map(indented),
      rust`    ${names.stage(one)},`,
    ]),
    rust`}`,
  ];
}

/** How registers are reached: a trait that the user may implement to run the code off the target. */
function printBus({ torn, hooks }: Program): RustCode[] {
  const widths = [8, 16, 32] as const;
  return [
    ...documentation(
      'How registers are reached. Implement it to run the code off the target, or to wait in another way.',
    ),
    ...(torn
      ? documentation(`${TORN_WORDS} \`enter\` and \`leave\` stand around them, and may keep interrupts out.`)
      : []),
    rust`pub trait Bus {`,
    ...widths.flatMap((bits) => [
      ...documentation(`Reads a register of ${bits} bits.`).map(indented),
      rust`    fn read${decimal(bits)}(&mut self, address: usize) -> ${widthType(bits)};`,
      ...documentation(`Writes a register of ${bits} bits.`).map(indented),
      rust`    fn write${decimal(bits)}(&mut self, address: usize, value: ${widthType(bits)});`,
    ]),
    ...documentation('Lets at least so many cycles pass.').map(indented),
    rust`    fn wait(&mut self, cycles: u32);`,
    ...documentation('Before what no interrupt may come between; what it gives is given back.').map(indented),
    rust`    fn enter(&mut self) -> usize {`,
    rust`        0`,
    rust`    }`,
    ...documentation('After it.').map(indented),
    rust`    fn leave(&mut self, entered: usize) {`,
    rust`        let _ = entered;`,
    rust`    }`,
    ...(['before', 'after'] as const).flatMap((when) =>
      hooks.length === 0
        ? []
        : [
            ...documentation(`Told ${when} each stage of initialisation.`).map(indented),
            rust`    fn ${when === 'before' ? rust`before` : rust`after`}(&mut self, stage: Stage) {`,
            rust`        let _ = stage;`,
            rust`    }`,
          ],
    ),
    rust`}`,
    rust``,
    ...documentation('The registers of the chip itself.'),
    rust`pub struct Memory(());`,
    rust``,
    rust`impl Memory {`,
    ...documentation('# Safety').map(indented),
    ...documentation(
      'Only on the part that the plan is for, where the addresses are those of its registers.',
    ).map(indented),
    rust`    #[must_use]`,
    rust`    pub const unsafe fn new() -> Self {`,
    rust`        Self(())`,
    rust`    }`,
    rust`}`,
    rust``,
    rust`impl Bus for Memory {`,
    ...widths.flatMap((bits) => [
      rust`    #[inline]`,
      rust`    fn read${decimal(bits)}(&mut self, address: usize) -> ${widthType(bits)} {`,
      ...comments(['SAFETY: whoever made this has promised that the addresses are those of registers.']).map(
        twice,
      ),
      rust`        unsafe { core::ptr::read_volatile(address as *const ${widthType(bits)}) }`,
      rust`    }`,
      rust`    #[inline]`,
      rust`    fn write${decimal(bits)}(&mut self, address: usize, value: ${widthType(bits)}) {`,
      ...comments(['SAFETY: as above.']).map(twice),
      rust`        unsafe { core::ptr::write_volatile(address as *mut ${widthType(bits)}, value) }`,
      rust`    }`,
    ]),
    rust`    #[inline]`,
    rust`    fn wait(&mut self, cycles: u32) {`,
    rust`        for _ in 0..cycles {`,
    rust`            core::hint::spin_loop();`,
    rust`        }`,
    rust`    }`,
    rust`}`,
  ];
}
