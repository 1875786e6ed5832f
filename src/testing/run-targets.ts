import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Derived } from '@/core/derive/derive';
import { type CNames, cNames } from '@/core/output/code/c/names';
import { cppNames } from '@/core/output/code/cpp/names';
import { programOf } from '@/core/output/code/program/program';
import type { InterruptLine, ProgramFunction, ProgramRoutine } from '@/core/output/code/program/types';
import type { GeneratedFile, Target } from '@/core/output/code/types';
import { generateFiles } from '@/core/output/generate';
import { runAvr } from './run-avr';
import { STRICT, writeFolder } from './run-c';
import { secondMachine } from './second-machine';

/**
 * Runs what targets print. On the host the accesses go to the second machine; each is noted, and so is what functions give. Under an
 * emulator they are answered from such notes, and each has to be the next one noted: address, width and value.
 */
export interface Call {
  /** Without one of both it is initialisation. */
  fn?: ProgramFunction;
  routine?: ProgramRoutine;
  /** A line to the interrupt controller. */
  line?: InterruptLine;
  /** What it is given. */
  given: number;
}

/** Initialisation, then every accessor, in the program's order; those that take a number get two; at last the other routines. */
export function callsOf(derived: Derived): Call[] {
  const program = programOf(derived);
  const functions = program.sections.flatMap((one) => one.functions).filter((fn) => fn.statements.length > 0);
  return [
    { given: 0 },
    ...functions.flatMap((fn) => {
      if (fn.takes === undefined) return [{ fn, given: 0 }];
      const mask = 2 ** fn.takes - 1;
      return [0x9c3a65d2, 0x63c59a2d].map((given) => ({ fn, given: (given & mask) >>> 0 }));
    }),
    ...program.interrupts.map((line) => ({ line, given: 0 })),
    ...program.routines.map((routine) => ({ routine, given: 0 })),
  ];
}

/** What a call is called in C, with the prefix of the files. */
const nameOf = (names: CNames, { fn, routine, line }: Call): string =>
  line ? names.line(line.id) : fn ? names.function(fn) : routine ? names.routine(routine) : names.own('init');
/** The same without the prefix. */
const plainName = (names: CNames, call: Call): string =>
  nameOf(names, call).slice(names.own('init').length - 'init'.length);
const gives = ({ fn, line }: Call): boolean => !line && (!fn || fn.gives !== undefined);

/** A line of a trace: `r 32 50022800 7`, `w 8 24 ff`, `call 3`, `gives 1`. */
export type Trace = string[];

const machines = new Map<string, string>();

/** The second machine of a part as an object file: `m_start`, `m_read`, `m_write`, `m_wait`, `m_note`. */
export function machineOf(derived: Derived): string {
  const { device } = derived;
  let object = machines.get(device.fingerprint);
  if (!object) {
    const text = `${secondMachine(device.description).text}
void m_start(uint32_t chance, int any) { start(chance, any); }
uint32_t m_read(uint32_t a, int bits) { uint32_t v = reg_read(a, bits); printf("r %d %x %x\\n", bits, (unsigned)a, (unsigned)v); return v; }
void m_write(uint32_t a, int bits, uint32_t v) { printf("w %d %x %x\\n", bits, (unsigned)a, (unsigned)v); reg_write(a, bits, v); }
void m_wait(uint32_t cycles) { let_pass(cycles); }
void m_note(char const *what, uint32_t v) { printf("%s %x\\n", what, (unsigned)v); }
void m_end(void) { printf("lost %ld\\n", lost + refused); }
`;
    const folder = writeFolder([{ path: 'machine.c', text }]);
    execFileSync('gcc', ['-std=c11', '-w', '-c', 'machine.c', '-o', 'machine.o'], { cwd: folder });
    object = join(folder, 'machine.o');
    machines.set(device.fingerprint, object);
  }
  return object;
}

export const DECLARED = `#include <stdint.h>
void m_start(uint32_t chance, int any);
uint32_t m_read(uint32_t a, int bits);
void m_write(uint32_t a, int bits, uint32_t v);
void m_wait(uint32_t cycles);
void m_note(char const *what, uint32_t v);
void m_end(void);
`;

/** What the files say after a change by a test. */
export type Change = (files: GeneratedFile[]) => { path: string; text: string }[];

function filesOf(target: Target, derived: Derived, change?: Change): { path: string; text: string }[] {
  const files = generateFiles(target, derived);
  return change ? change(files) : files.map(({ path, text }) => ({ path, text }));
}

const tool = (command: string, args: readonly string[], folder: string): void => {
  const { status, stderr, error } = spawnSync(command, args, { cwd: folder, encoding: 'utf8' });
  if (status !== 0) throw new Error(`${command} ${args.join(' ')}\n${stderr}${error ?? ''}`);
};

const traceOf = (folder: string): Trace => {
  const { stdout, status, signal } = spawnSync('./main', { cwd: folder, encoding: 'utf8', timeout: 20_000 });
  if (status !== 0) throw new Error(`ended with ${status ?? signal}`);
  return stdout.trim().split('\n');
};

export interface Start {
  /** From a state by this chance, or from reset. */
  chance?: number;
  change?: Change;
}

const startOf = ({ chance }: Start): string => `m_start(${chance ?? 0}u, ${chance === undefined ? 0 : 1});`;

/** The calls in a language of C's family: `each` writes one. */
const calls = (derived: Derived, each: (call: Call, given: string) => string, init: string): string =>
  callsOf(derived)
    .map((one, at) => {
      if (!one.fn && !one.routine && !one.line) return `m_note("call", 0); m_note("gives", ${init});`;
      const call = each(one, one.fn?.takes === undefined ? '' : String(one.given));
      return `m_note("call", ${at}); ${gives(one) ? `m_note("gives", ${call});` : `${call};`}`;
    })
    .join('\n  ');

/** The handlers that an application has to define. */
const handlersOf = (derived: Derived): string =>
  programOf(derived)
    .interrupts.flatMap((one) => one.nets)
    .map(({ net }) => `void ${cNames(derived).handler(net)}(void) {}`)
    .join('\n');

/** C: the files of a target that are C, with macros that lead to the machine. */
export function runC(target: Target, derived: Derived, start: Start = {}): Trace {
  const names = cNames(derived);
  const prefix = names.own('init').slice(0, -'_init'.length).toUpperCase();
  const whole = derived.plan.code.layout === 'header' && target.id === 'c';
  const source = `${names.file}.${whole ? 'h' : 'c'}`;
  const macros = [8, 16, 32].map(
    (bits) => `#define ${prefix}_READ${bits}(a) ((uint${bits}_t)m_read((uint32_t)(a), ${bits}))
#define ${prefix}_WRITE${bits}(a, v) m_write((uint32_t)(a), ${bits}, (v))`,
  );
  const init = `(${names.own('init')}(), ${names.own('init_done')}())`;
  const text = `${DECLARED}${macros.join('\n')}
#define ${prefix}_WAIT(cycles) m_wait(cycles)
#include "${source}"
${whole ? handlersOf(derived) : ''}
int main(void) {
  ${startOf(start)}
  ${calls(derived, (call, given) => `${nameOf(names, call)}(${given})`, init)}
  m_end();
  return 0;
}
`;
  const folder = writeFolder([...filesOf(target, derived, start.change), { path: 'main.c', text }]);
  if (whole) writeFileSync(join(folder, 'own.c'), `#include "${source}"\n`);
  tool('gcc', [...STRICT, '-c', whole ? 'own.c' : source, '-o', 'own.o'], folder);
  tool('gcc', ['-std=c11', '-w', 'main.c', machineOf(derived), '-o', 'main'], folder);
  return traceOf(folder);
}

/** C++: the class with a bus of its own. */
export function runCpp(target: Target, derived: Derived, start: Start = {}): Trace {
  const names = cNames(derived);
  const own = filesOf(target, derived, start.change);
  const header = own[0]?.path ?? '';
  const { space } = cppNames(derived);
  const bus = [8, 16, 32].map(
    (
      bits,
    ) => `  static std::uint${bits}_t read${bits}(std::uintptr_t a) noexcept { return static_cast<std::uint${bits}_t>(m_read(static_cast<std::uint32_t>(a), ${bits})); }
  static void write${bits}(std::uintptr_t a, std::uint${bits}_t v) noexcept { m_write(static_cast<std::uint32_t>(a), ${bits}, v); }`,
  );
  const text = `#include "${header}"
extern "C" {
${DECLARED}}
struct TestBus {
${bus.join('\n')}
  static void wait(std::uint32_t cycles) noexcept { m_wait(cycles); }
  static bool enter() noexcept { return true; }
  static void leave(bool) noexcept {}
  template <class Stage> static void before(Stage) noexcept {}
  template <class Stage> static void after(Stage) noexcept {}
};
using TestPins = ${space}::ports<TestBus>;
int main() {
  ${startOf(start)}
  ${calls(derived, (call, given) => `TestPins::${plainName(names, call)}(${given})`, 'TestPins::init()')}
  m_end();
}
`;
  const folder = writeFolder([...own, { path: 'main.cpp', text }]);
  const strict = ['-std=c++17', '-Wall', '-Wextra', '-Wconversion', '-pedantic', '-Werror'];
  tool('g++', [...strict, 'main.cpp', machineOf(derived), '-o', 'main'], folder);
  return traceOf(folder);
}

/** Rust: the module with a bus of its own. */
export function runRust(target: Target, derived: Derived, start: Start = {}): Trace {
  const names = cNames(derived);
  const own = filesOf(target, derived, start.change);
  const path = own[0]?.path ?? '';
  const lines = callsOf(derived).map((one, at) => {
    const given = one.line ? '&mut Silent' : one.fn?.takes === undefined ? '' : one.given;
    const call = `pins.${plainName(names, one)}(${given})`;
    return `note("call", ${at}); ${gives(one) ? `note("gives", ${call} as u32);` : `${call};`}`;
  });
  const text = `#[path = "${path}"]
#[deny(warnings)]
pub mod own;
use own::{Bus, Ports};
extern "C" {
    fn m_start(chance: u32, any: i32);
    fn m_read(a: u32, bits: i32) -> u32;
    fn m_write(a: u32, bits: i32, v: u32);
    fn m_wait(cycles: u32);
    fn m_note(what: *const u8, v: u32);
    fn m_end();
}
struct Machine;
${programOf(derived).interrupts.length > 0 ? 'struct Silent;\nimpl<B: Bus> own::Handlers<B> for Silent {}' : ''}
impl Bus for Machine {
${[8, 16, 32]
  .map(
    (
      bits,
    ) => `    fn read${bits}(&mut self, a: usize) -> u${bits} { unsafe { m_read(a as u32, ${bits}) as u${bits} } }
    fn write${bits}(&mut self, a: usize, v: u${bits}) { unsafe { m_write(a as u32, ${bits}, v as u32) } }`,
  )
  .join('\n')}
    fn wait(&mut self, cycles: u32) { unsafe { m_wait(cycles) } }
}
fn note(what: &str, v: u32) { let text = format!("{what}\\0"); unsafe { m_note(text.as_ptr(), v) } }
fn main() {
    unsafe { m_start(${start.chance ?? 0}, ${start.chance === undefined ? 0 : 1}) };
    let mut pins = Ports::new(Machine);
    ${lines.join('\n    ')}
    unsafe { m_end() };
}
`;
  const folder = writeFolder([...own, { path: 'main.rs', text }]);
  // Debian's own: others may be in the path.
  const linking = ['-C', `link-arg=${machineOf(derived)}`];
  tool('/usr/bin/rustc', ['--edition', '2021', '-A', 'unused', ...linking, 'main.rs', '-o', 'main'], folder);
  return traceOf(folder);
}

const CROSS = {
  arm: {
    gcc: 'arm-none-eabi-gcc',
    flags: ['-mcpu=cortex-m0', '-mthumb'],
    place: ['-Wl,-Ttext=0x10000', '-Wl,-Tbss=0x30000'],
    nm: 'arm-none-eabi-nm',
    objcopy: 'arm-none-eabi-objcopy',
  },
  riscv: {
    gcc: 'riscv64-unknown-elf-gcc',
    flags: ['-march=rv32i', '-mabi=ilp32'],
    place: ['-Wl,-Ttext=0x10000', '-Wl,-Tbss=0x30000', '-Wl,--no-relax'],
    nm: 'riscv64-unknown-elf-nm',
    objcopy: 'riscv64-unknown-elf-objcopy',
  },
  avr: {
    gcc: 'avr-gcc',
    flags: ['-mmcu=avr5'],
    place: ['-Wl,-Ttext=0', '-Wl,--section-start=.data=0x80d000', '-Wl,--section-start=.bss=0x80e000'],
    nm: 'avr-nm',
    objcopy: 'avr-objcopy',
  },
} as const;
export type Cpu = keyof typeof CROSS;

export interface Image {
  cpu: Cpu;
  code: Buffer;
  /** What start-up code would have copied into memory, at 0xD000. */
  data: Buffer;
  /** Where the calls begin, in their order. */
  addresses: number[];
}

/** The files for a processor, compiled or assembled with every warning as an error, and linked with a function for each call. */
export function linkFor(cpu: Cpu, target: Target, derived: Derived, change?: Change): Image {
  const { gcc, flags, place, nm, objcopy } = CROSS[cpu];
  const names = cNames(derived);
  const own = filesOf(target, derived, change);
  const source = own.find(({ path }) => /\.[cs]$/.test(path))?.path ?? '';
  const all = callsOf(derived);
  const bodies = all.map((one, at) => {
    const { fn, routine, line, given } = one;
    if (!fn && !routine && !line)
      return `uint32_t call_0(void); uint32_t call_0(void) { ${names.own('init')}(); return ${names.own('init_done')}(); }`;
    const call = `${nameOf(names, one)}(${fn?.takes === undefined ? '' : `${given}u`})`;
    const head = `uint32_t call_${at}(void)`;
    return `${head}; ${head} { ${gives(one) ? `return ${call};` : `${call}; return 0u;`} }`;
  });
  const text = `#include "${names.file}.h"\n${bodies.join('\n')}\n`;
  const folder = writeFolder([...own, { path: 'drive.c', text }]);
  // GCC takes addresses below a page for mistakes, but for processors that it knows to have memory there.
  const low = cpu === 'avr' ? [] : ['--param=min-pagesize=0'];
  const common = [...flags, ...low, '-Os', '-ffreestanding', '-ffunction-sections'];
  const warnings = source.endsWith('.c') ? STRICT : ['-Wa,--fatal-warnings'];
  tool(gcc, [...common, ...warnings, '-c', source, '-o', 'own.o'], folder);
  tool(gcc, [...common, ...STRICT, '-c', 'drive.c', '-o', 'drive.o'], folder);
  tool(
    gcc,
    [...flags, '-nostdlib', ...place, '-Wl,-e,0', 'own.o', 'drive.o', '-lgcc', '-o', 'all.elf'],
    folder,
  );
  const initialised = cpu === 'avr' ? ['-R', '.data'] : [];
  tool(objcopy, ['-O', 'binary', '-R', '.bss', ...initialised, 'all.elf', 'all.bin'], folder);
  tool(objcopy, ['-O', 'binary', '-j', '.data', 'all.elf', 'data.bin'], folder);
  const symbols = new Map(
    execFileSync(nm, ['all.elf'], { cwd: folder, encoding: 'utf8' })
      .split('\n')
      .map((line) => line.split(' '))
      .map(([address, , name]) => [name ?? '', Number.parseInt(address ?? '', 16)]),
  );
  return {
    cpu,
    code: readFileSync(join(folder, 'all.bin')),
    data: readFileSync(join(folder, 'data.bin')),
    addresses: all.map((_, at) => symbols.get(`call_${at}`) ?? -1),
  };
}

/** Runs an image; empty when it has done all that the trace has, and nothing else. */
export function emulate(image: Image, trace: Trace): string {
  const accesses = trace.filter((one) => !one.startsWith('lost'));
  if (image.cpu === 'avr') return runAvr(image, accesses);
  const folder = writeFolder([]);
  writeFileSync(join(folder, 'code.bin'), image.code);
  const input = JSON.stringify({ cpu: image.cpu, addresses: image.addresses, trace: accesses });
  const { stdout, stderr, status } = spawnSync(
    '/usr/bin/python3',
    [join(process.cwd(), 'src/testing/emulate.py'), 'code.bin'],
    {
      cwd: folder,
      input,
      encoding: 'utf8',
      timeout: 120_000,
    },
  );
  return status === 0 ? stdout.trim() : `${stdout}${stderr}`;
}
