import { append } from '../../../base/lists';
import type { Derived } from '../../../derive/derive';
import { identityLines, initialisationWords, lineWords, missingText, TORN_WORDS } from '../identity';
import { programOf } from '../program/program';
import { isLocal, type Program, type ProgramStep } from '../program/types';
import type { Target } from '../types';
import { type CppNames, cppNames } from './names';
import { printFunction, printStatement, widthType } from './statements';
import {
  type CppCode,
  comments,
  cpp,
  decimal,
  fileText,
  hexLiteral,
  indented,
  join,
  stringLiteral,
  wrappedComment,
} from './writer';

/** C++17, one header without macros: a class template whose functions are the accessors. */
export const cppTarget: Target = {
  id: 'cpp',
  title: 'C++17',
  language: 'cpp',
  seal: (text) => cpp`${comments([text])[0] ?? cpp``}\n`,
  files(derived) {
    const names = cppNames(derived);
    return [{ path: `${names.file}.hpp`, initialises: true, print: () => printHeader(derived, names) }];
  },
};

function printHeader(derived: Derived, names: CppNames): { text: CppCode; operations: number[] } {
  const program = programOf(derived);
  const lines: CppCode[] = [
    ...comments(identityLines(derived, `${names.file}.hpp`, initialisationWords(derived))),
    cpp`#pragma once`,
    cpp``,
    cpp`#include <cstdint>`,
    cpp``,
    ...printMissing(derived),
    cpp`namespace ${names.space} {`,
    cpp``,
    cpp`inline constexpr char plan[] = ${stringLiteral(derived.plan.name)};`,
    cpp`inline constexpr char revision[] = ${stringLiteral(derived.plan.revision)};`,
    cpp`inline constexpr char content[] = ${stringLiteral(derived.fingerprint)};`,
    cpp``,
    ...comments(['Addresses of registers.']),
    cpp`namespace at {`,
    ...program.registers.map(
      (one) => cpp`inline constexpr std::uintptr_t ${names.register(one)} = ${hexLiteral(one.address, 32)};`,
    ),
    cpp`}`,
    cpp``,
    ...printNumbers(names, program),
    ...printStages(names, program),
    ...printBus(program),
    cpp``,
    ...printHandlers(names, program),
    ...comments(['The pins of the plan. All functions are static: `using pins = ports<>; pins::init();`']),
    cpp`template <class Bus = memory>`,
    cpp`class ports {`,
    cpp`public:`,
    ...comments([
      'Puts every planned pin into its planned state; false when a port did not become ready in time.',
    ]).map(indented),
    cpp`    static bool init() noexcept {`,
    cpp`        done = false;`,
    ...program.copies.map(
      ({ register, reset }) => cpp`        ${names.copy(register)} = ${hexLiteral(reset, register.bits)};`,
    ),
  ];
  const begins = new Map<ProgramStep, number>();
  if (program.calls) {
    for (const one of program.calls) lines.push(cpp`        if (!${names.routine(one)}()) { return false; }`);
  } else printSteps(names, program.steps, begins, lines);
  lines.push(
    cpp``,
    cpp`        done = true;`,
    cpp`        return true;`,
    cpp`    }`,
    cpp``,
    cpp`    [[nodiscard]] static bool init_done() noexcept { return done; }`,
  );
  for (const one of program.routines) {
    const said = one.fault === undefined ? [] : comments([`not proven: ${one.fault}`]);
    lines.push(
      cpp``,
      ...[...wrappedComment(one.about, 110), ...said].map(indented),
      cpp`    static bool ${names.routine(one)}() noexcept {`,
    );
    printSteps(names, one.steps, begins, lines);
    lines.push(cpp`        return true;`, cpp`    }`);
  }
  lines.push(
    ...printSections(names, program).map(indented),
    ...printInterrupts(names, program).map(indented),
    cpp``,
    cpp`private:`,
    cpp`    inline static bool done = false;`,
    ...program.copies.map(
      ({ register, reset }) =>
        cpp`    inline static ${widthType(register.bits)} ${names.copy(register)} = ${hexLiteral(reset, register.bits)};`,
    ),
    cpp`};`,
    cpp``,
    cpp`}  // namespace ${names.space}`,
  );
  const operations = program.steps.map((step) => begins.get(step) ?? 0);
  return { text: fileText(lines), operations };
}

/** Steps as lines, and on which line of the file each of them begins. */
function printSteps(
  names: CppNames,
  steps: readonly ProgramStep[],
  begins: Map<ProgramStep, number>,
  lines: CppCode[],
): void {
  for (const step of steps) {
    const { stage, about, statements } = step;
    if (stage !== undefined) lines.push(cpp``, ...comments([stage]).map(twice));
    if (step.begins !== undefined) lines.push(cpp`        Bus::before(stage::${names.stage(step.begins)});`);
    begins.set(step, lines.length + 1);
    if (about !== undefined) append(lines, wrappedComment(about, 88).map(twice));
    const body = statements.flatMap((one) => printStatement(names, one, cpp`return false;`));
    const own = statements.some(isLocal);
    append(lines, (own ? [cpp`{`, ...body.map(indented), cpp`}`] : body).map(twice));
    if (step.ends !== undefined) lines.push(cpp`        Bus::after(stage::${names.stage(step.ends)});`);
  }
}

const twice = (line: CppCode): CppCode => indented(indented(line));

/** What interrupts call, for the application to replace by functions of its own. */
function printHandlers(names: CppNames, { interrupts }: Program): CppCode[] {
  if (interrupts.length === 0) return [];
  return [
    ...comments(['What interrupts call. Derive from it, and define those that are wanted.']),
    cpp`struct handlers {`,
    ...interrupts.flatMap((one) =>
      one.nets.map(({ net }) => cpp`    static void ${names.handler(net)}() noexcept {}`),
    ),
    cpp`};`,
    cpp``,
  ];
}

function printInterrupts(names: CppNames, { interrupts }: Program): CppCode[] {
  return interrupts.flatMap((one) => [
    cpp``,
    ...wrappedComment(lineWords(one), 110),
    cpp`template <class Handlers = handlers>`,
    cpp`static void ${names.line(one.id)}() noexcept {`,
    ...one.nets.flatMap(({ net, pending, acknowledge, byLevel }) => {
      const handle = cpp`Handlers::${names.handler(net)}();`;
      if (!pending || !acknowledge) return [cpp`    ${handle}`];
      const take = cpp`${names.function(acknowledge)}();`;
      const both = byLevel ? cpp`${handle} ${take}` : cpp`${take} ${handle}`;
      return [cpp`    if (${names.function(pending)}()) { ${both} }`];
    }),
    cpp`}`,
  ]);
}

/** The stages around which the bus is told. */
function printStages(names: CppNames, { hooks }: Program): CppCode[] {
  if (hooks.length === 0) return [];
  const list = hooks.map((one) => names.stage(one));
  return [
    ...comments(['Stages of initialisation: the bus is told before and after each.']),
    cpp`enum class stage { ${join(list, cpp`, `)} };`,
    cpp``,
  ];
}

/** How registers are reached: a class that the user may replace by one of the same functions. */
function printBus({ torn, hooks }: Program): CppCode[] {
  return [
    ...comments([
      'How registers are reached. Give ports another class of the same functions to run the code off the target, to wait',
      'in another way, or to keep interrupts out.',
    ]),
    ...(torn ? wrappedComment(`${TORN_WORDS} enter() and leave() stand around them.`, 110) : []),
    cpp`struct memory {`,
    ...([8, 16, 32] as const).flatMap((bits) => [
      cpp`    [[nodiscard]] static ${widthType(bits)} read${decimal(bits)}(std::uintptr_t address) noexcept { return *reinterpret_cast<${widthType(bits)} const volatile*>(address); }`,
      cpp`    static void write${decimal(bits)}(std::uintptr_t address, ${widthType(bits)} value) noexcept { *reinterpret_cast<${widthType(bits)} volatile*>(address) = value; }`,
    ]),
    cpp`    static void wait(std::uint32_t cycles) noexcept { for (std::uint32_t volatile left = cycles; left > 0u; left = left - 1u) { } }`,
    cpp`    [[nodiscard]] static bool enter() noexcept { return true; }`,
    cpp`    static void leave(bool) noexcept {}`,
    ...(hooks.length > 0
      ? [cpp`    static void before(stage) noexcept {}`, cpp`    static void after(stage) noexcept {}`]
      : []),
    cpp`};`,
  ];
}

/** The places of nets in the numbers of their groups, and what drivers of peripherals need to know. */
function printNumbers(names: CppNames, { sections }: Program): CppCode[] {
  const bits = sections.flatMap(({ group, bits: places }) =>
    group === undefined
      ? []
      : (places ?? []).map(
          ({ net, bit }) => cpp`inline constexpr unsigned ${names.bit(group, net)} = ${decimal(bit)}u;`,
        ),
  );
  const facts = sections.flatMap((one) =>
    one.facts.map(
      (fact) => cpp`inline constexpr std::uint32_t ${names.fact(fact)} = ${decimal(fact.value)}u;`,
    ),
  );
  const space = (title: string, name: CppCode, lines: readonly CppCode[]): CppCode[] =>
    lines.length === 0 ? [] : [...comments([title]), cpp`namespace ${name} {`, ...lines, cpp`}`, cpp``];
  return [
    ...space('Bits of the numbers that groups of nets are written and read by.', cpp`bit`, bits),
    ...space('Instances of peripherals, rates in hertz, and what divides their clocks.', cpp`fact`, facts),
  ];
}

function printSections(names: CppNames, { sections }: Program): CppCode[] {
  return sections.flatMap(({ about, functions }) => [
    cpp``,
    ...wrappedComment(about, 110),
    ...functions.flatMap((fn) => printFunction(names, fn)),
  ]);
}

function printMissing(derived: Derived): CppCode[] {
  const missing = missingText(derived);
  if (!missing) return [];
  return [
    ...comments(missing.lines),
    ...(missing.refusal === undefined ? [] : [cpp`static_assert(false, ${stringLiteral(missing.refusal)});`]),
    cpp``,
  ];
}
