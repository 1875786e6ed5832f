import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Derived, derive } from '@/core/derive/derive';
import { armTarget, avrTarget, riscvTarget } from '@/core/output/code/asm/target';
import { cTableTarget, cTarget } from '@/core/output/code/c/target';
import type { Target } from '@/core/output/code/types';
import { generateFiles } from '@/core/output/generate';
import { parsePlan } from '@/core/plan/file/plan-file';
import { readDeviceFolder } from '@/files/devices';

/** Initialisation of an example, and the same written by hand. */
interface Example {
  derived: Derived;
  reference: string;
}

function exampleOf(folder: string, file: string, reference: string): Example {
  const device = readDeviceFolder(`devices/${folder}`);
  const plan = parsePlan(file, readFileSync(file, 'utf8'));
  if (!device.ok || !plan.ok) throw new Error(`${file} cannot be read`);
  const derived = derive(device.value, plan.value);
  if (!derived.ok) throw new Error(`${file} cannot be derived`);
  return { derived: derived.value, reference: readFileSync(`bench/reference/${reference}`, 'utf8') };
}

const demo = exampleOf('corvane-c40', 'examples/frost-guard.plan.json', 'frost_guard.c');
/** The demo's part has registers that AVR does not reach. */
const small = exampleOf('pellin-p8', 'examples/families/pellin-p8-22.plan.json', 'pellin.c');

/** How large initialisation becomes, beside the same written by hand. */
const COMPILERS: [string, string, readonly string[], Target | undefined, Example][] = [
  ['ARM, Cortex-M0', 'arm-none-eabi', ['-mcpu=cortex-m0', '-mthumb'], armTarget, demo],
  ['ARM, Cortex-M3', 'arm-none-eabi', ['-mcpu=cortex-m3', '-mthumb'], undefined, demo],
  ['RISC-V, RV32I', 'riscv64-unknown-elf', ['-march=rv32i', '-mabi=ilp32'], riscvTarget, demo],
  ['RISC-V, RV32IMC', 'riscv64-unknown-elf', ['-march=rv32imc', '-mabi=ilp32'], undefined, demo],
  ['AVR, small example', 'avr', ['-mmcu=avr5'], avrTarget, small],
];

const folder = mkdtempSync(join(tmpdir(), 'mavrek-sizes-'));
const sizeOf = (prefix: string, flags: readonly string[], source: string): number => {
  const args = [
    ...flags,
    '-Os',
    '-std=c11',
    '-ffreestanding',
    '-ffunction-sections',
    '-c',
    source,
    '-o',
    'out.o',
  ];
  execFileSync(`${prefix}-gcc`, args, { cwd: folder });
  const sizes = execFileSync(`${prefix}-size`, ['-A', 'out.o'], { cwd: folder, encoding: 'utf8' });
  // Accessors of assembly are code, those of C are not there until they are called.
  return [...sizes.matchAll(/^(\.text\S*|\.rodata\S*)\s+(\d+)/gm)]
    .filter(
      ([, section]) =>
        !/_(set|clear|toggle|read|write|enable|disable|acknowledge|pending|handler|interrupt_\w+)$/.test(
          section ?? '',
        ),
    )
    .reduce((sum, [, , bytes]) => sum + Number(bytes), 0);
};

console.log('\nSize of initialisation of the demo, in bytes; and as a part of the same written by hand\n');
console.log(
  `${'processor'.padEnd(20)}${['by hand', 'C', 'C, table', 'assembly'].map((one) => one.padStart(16)).join('')}`,
);
for (const [title, prefix, flags, assembly, { derived, reference: text }] of COMPILERS) {
  writeFileSync(join(folder, 'reference.c'), text);
  const reference = sizeOf(prefix, flags, 'reference.c');
  const sizes = [cTarget, cTableTarget, assembly].map((target) => {
    if (!target) return '–';
    const files = generateFiles(target, derived);
    for (const { path, text } of files) writeFileSync(join(folder, path), text);
    const size = sizeOf(prefix, flags, files.find((one) => one.initialises)?.path ?? '');
    return `${size} (${(size / reference).toFixed(2)})`;
  });
  console.log(`${title.padEnd(20)}${[String(reference), ...sizes].map((one) => one.padStart(16)).join('')}`);
}
rmSync(folder, { recursive: true });
