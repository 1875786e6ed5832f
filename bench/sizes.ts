import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { derive } from '@/core/derive/derive';
import { armTarget, riscvTarget } from '@/core/output/code/asm/target';
import { cTableTarget, cTarget } from '@/core/output/code/c/target';
import type { Target } from '@/core/output/code/types';
import { generateFiles } from '@/core/output/generate';
import { parsePlan } from '@/core/plan/file/plan-file';
import { readDeviceFolder } from '@/files/devices';

/** How large initialisation of the demo becomes, beside the same written by hand. */
const COMPILERS: [string, string, readonly string[], Target | undefined][] = [
  ['ARM, Cortex-M0', 'arm-none-eabi', ['-mcpu=cortex-m0', '-mthumb'], armTarget],
  ['ARM, Cortex-M3', 'arm-none-eabi', ['-mcpu=cortex-m3', '-mthumb'], undefined],
  ['RISC-V, RV32I', 'riscv64-unknown-elf', ['-march=rv32i', '-mabi=ilp32'], riscvTarget],
  ['RISC-V, RV32IMC', 'riscv64-unknown-elf', ['-march=rv32imc', '-mabi=ilp32'], undefined],
];

const device = readDeviceFolder('devices/corvane-c40');
const file = 'examples/frost-guard.plan.json';
const plan = parsePlan(file, readFileSync(file, 'utf8'));
if (!device.ok || !plan.ok) throw new Error('the demo cannot be read');
const derived = derive(device.value, plan.value);
if (!derived.ok) throw new Error('the demo cannot be derived');

const folder = mkdtempSync(join(tmpdir(), 'mavrek-sizes-'));
const sizeOf = (prefix: string, flags: readonly string[], source: string): number => {
  const args = [...flags, '-Os', '-std=c11', '-ffreestanding', '-c', source, '-o', 'out.o'];
  execFileSync(`${prefix}-gcc`, args, { cwd: folder });
  const sizes = execFileSync(`${prefix}-size`, ['-A', 'out.o'], { cwd: folder, encoding: 'utf8' });
  // Accessors of assembly are code, those of C are not there until they are called.
  return [...sizes.matchAll(/^(\.text\S*|\.rodata\S*)\s+(\d+)/gm)]
    .filter(([, section]) => !/_(set|clear|toggle|read|write)$/.test(section ?? ''))
    .reduce((sum, [, , bytes]) => sum + Number(bytes), 0);
};

console.log('\nSize of initialisation of the demo, in bytes; and as a part of the same written by hand\n');
console.log(
  `${'processor'.padEnd(18)}${['by hand', 'C', 'C, table', 'assembly'].map((one) => one.padStart(16)).join('')}`,
);
for (const [title, prefix, flags, assembly] of COMPILERS) {
  writeFileSync(join(folder, 'reference.c'), readFileSync('bench/reference/frost_guard.c', 'utf8'));
  const reference = sizeOf(prefix, flags, 'reference.c');
  const sizes = [cTarget, cTableTarget, assembly].map((target) => {
    if (!target) return '–';
    const files = generateFiles(target, derived.value);
    for (const { path, text } of files) writeFileSync(join(folder, path), text);
    const size = sizeOf(prefix, flags, files.find((one) => one.initialises)?.path ?? '');
    return `${size} (${(size / reference).toFixed(2)})`;
  });
  console.log(`${title.padEnd(18)}${[String(reference), ...sizes].map((one) => one.padStart(16)).join('')}`);
}
rmSync(folder, { recursive: true });
