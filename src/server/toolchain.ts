import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { LIMITS } from '@/core/base/limits';
import type { GeneratedFile } from '@/core/output/code/types';
import type { ToolResult } from '@/core/output/exports';
import { WorkRefused } from './work/pool';

/** A compiler or assembler, and how it is called for what is generated. */
interface Tool {
  id: string;
  title: string;
  command: string;
  targets: readonly string[];
  args(source: string): string[];
  /** Prints the sizes of the object file. */
  size?: string;
  /** Debian's package. */
  debian: string;
}

const STRICT = [
  '-std=c11',
  '-Wall',
  '-Wextra',
  '-Wconversion',
  '-pedantic',
  '-Werror',
  '-Os',
  '-ffreestanding',
];
/** Registers may lie below a page, which these would take for a mistake. */
const LOW = '--param=min-pagesize=0';
const C = ['c', 'c-table'];
const OUT = ['-c', '-o', 'out.o'];

const TOOLS: readonly Tool[] = [
  {
    id: 'gcc',
    title: 'GCC, this machine',
    command: 'gcc',
    targets: C,
    args: (source) => [...STRICT, LOW, ...OUT, source],
    size: 'size',
    debian: 'gcc',
  },
  {
    id: 'gcc-arm',
    title: 'GCC, ARM Thumb',
    command: 'arm-none-eabi-gcc',
    targets: C,
    args: (source) => ['-mcpu=cortex-m0', '-mthumb', ...STRICT, LOW, ...OUT, source],
    size: 'arm-none-eabi-size',
    debian: 'gcc-arm-none-eabi',
  },
  {
    id: 'gcc-riscv',
    title: 'GCC, RISC-V 32',
    command: 'riscv64-unknown-elf-gcc',
    targets: C,
    args: (source) => ['-march=rv32i', '-mabi=ilp32', ...STRICT, LOW, ...OUT, source],
    size: 'riscv64-unknown-elf-size',
    debian: 'gcc-riscv64-unknown-elf',
  },
  {
    id: 'g++',
    title: 'G++, this machine',
    command: 'g++',
    targets: ['cpp'],
    args: (source) => [
      ...['-std=c++17', '-Wall', '-Wextra', '-Wconversion', '-pedantic', '-Werror', '-Os', LOW],
      ...['-x', 'c++', '-include', source, ...OUT, '/dev/null'],
    ],
    debian: 'g++',
  },
  {
    id: 'rustc',
    title: 'rustc',
    command: 'rustc',
    targets: ['rust'],
    args: (source) => [
      ...['--edition', '2021', '--crate-type', 'lib', '--crate-name', 'pins', '-D', 'warnings'],
      ...['-C', 'opt-level=s', '--emit', 'obj=out.o', source],
    ],
    debian: 'rustc',
  },
  {
    id: 'as-arm',
    title: 'as, ARM Thumb',
    command: 'arm-none-eabi-as',
    targets: ['asm-arm'],
    args: (source) => ['--fatal-warnings', '-o', 'out.o', source],
    size: 'arm-none-eabi-size',
    debian: 'binutils-arm-none-eabi',
  },
  {
    id: 'as-riscv',
    title: 'as, RISC-V 32',
    command: 'riscv64-unknown-elf-as',
    targets: ['asm-riscv'],
    args: (source) => ['-march=rv32i', '-mabi=ilp32', '--fatal-warnings', '-o', 'out.o', source],
    size: 'riscv64-unknown-elf-size',
    debian: 'binutils-riscv64-unknown-elf',
  },
  {
    id: 'as-avr',
    title: 'as, AVR',
    command: 'avr-as',
    targets: ['asm-avr'],
    args: (source) => ['-mmcu=avr5', '--fatal-warnings', '-o', 'out.o', source],
    size: 'avr-size',
    debian: 'binutils-avr',
  },
  {
    id: 'dtc',
    title: 'dtc',
    command: 'dtc',
    targets: ['devicetree'],
    args: (source) => ['-I', 'dts', '-O', 'dtb', '-o', 'out.o', source],
    debian: 'device-tree-compiler',
  },
];

/** What a tool says is kept up to this many characters. */
const SAID = 8_000;
/** At one time, of all requests. */
const AT_ONCE = 2;
let running = 0;
const waiting: (() => void)[] = [];

/** Whether a target's files go through any tool at all. */
export const hasTools = (target: string): boolean => TOOLS.some((tool) => tool.targets.includes(target));

/**
 * Compiles or assembles generated files with every tool for their target that the server has, in a folder of their own, without a
 * shell, within limits of time, memory and size of what is written.
 */
export async function checkCode(
  target: string,
  files: readonly GeneratedFile[],
  tools: readonly Tool[] = TOOLS,
): Promise<ToolResult[]> {
  if (waiting.length >= LIMITS.workWaiting)
    throw new WorkRefused('busy', 'the compilers are busy; try again in a moment');
  // Who waits is handed the place of who has done.
  if (running >= AT_ONCE) await new Promise<void>((go) => waiting.push(go));
  else running++;
  let folder: string | undefined;
  try {
    folder = await mkdtemp(join(tmpdir(), 'mavrek-check-'));
    for (const { path, text } of files) await writeFile(join(folder, path), text);
    const source = files.find((one) => one.initialises)?.path ?? files.at(-1)?.path ?? '';
    const results: ToolResult[] = [];
    for (const tool of tools) {
      if (tool.targets.includes(target)) results.push(await runTool(tool, source, folder));
    }
    return results;
  } finally {
    if (folder) await rm(folder, { recursive: true, force: true });
    const next = waiting.shift();
    if (next) next();
    else running--;
  }
}

async function runTool(tool: Tool, source: string, folder: string): Promise<ToolResult> {
  const { id, title } = tool;
  const { said, status, missing, stopped } = await run(tool.command, tool.args(source), folder);
  if (missing) {
    const install = `apt-get install ${tool.debian}`;
    return { id, title, state: 'absent', said: '', install };
  }
  if (stopped) return { id, title, state: 'stopped', said };
  if (status !== 0) return { id, title, state: 'failed', said };
  const sizes = tool.size ? await run(tool.size, ['out.o'], folder) : undefined;
  const [text, data, bss] = sizes?.said.split('\n')[1]?.trim().split(/\s+/).map(Number) ?? [];
  return {
    id,
    title,
    state: 'passed',
    said,
    ...(Number.isInteger(text)
      ? { size: { code: (text ?? 0) + (data ?? 0), memory: (data ?? 0) + (bss ?? 0) } }
      : {}),
  };
}

interface Run {
  said: string;
  status: number | null;
  missing: boolean;
  stopped: boolean;
}

/** Processor time is limited by the system; on the clock a busy machine may take many times as long, and what only waits is ended. */
const LONGEST_MS = LIMITS.workSeconds * 10_000;

function run(command: string, args: readonly string[], folder: string): Promise<Run> {
  return new Promise((done) => {
    const limits = [
      `--as=${LIMITS.workMegabytes * 2_000_000}`,
      `--cpu=${LIMITS.workSeconds}`,
      '--fsize=50000000',
    ];
    let said = '';
    let child: ChildProcess;
    let stopped = false;
    try {
      child = spawn('prlimit', [...limits, command, ...args], {
        cwd: folder,
        env: { NODE_ENV: 'production', PATH: '/usr/bin:/bin', LC_ALL: 'C', TMPDIR: folder },
        stdio: ['ignore', 'pipe', 'pipe'],
      });
    } catch {
      done({ said, status: null, missing: true, stopped });
      return;
    }
    const timer = setTimeout(() => {
      stopped = true;
      child.kill('SIGKILL');
    }, LONGEST_MS);
    const hear = (data: Buffer): void => {
      if (said.length < SAID) said = `${said}${data.toString('utf8')}`.slice(0, SAID);
    };
    child.stdout?.on('data', hear);
    child.stderr?.on('data', hear);
    child.once('error', () => {
      clearTimeout(timer);
      done({ said, status: null, missing: true, stopped });
    });
    child.once('close', (status) => {
      clearTimeout(timer);
      const missing = status !== 0 && /^prlimit: failed to execute/.test(said);
      done({ said: said.replaceAll(`${folder}/`, ''), status, missing, stopped });
    });
  });
}
