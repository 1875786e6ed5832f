import { FAMILIES, family, familyPlan } from '@/testing/families';
import { corvane, deriveOn, frostGuard } from '@/testing/frost-guard';
import { ALL, share } from '@/testing/random';
import { removeFolders, writeFolder } from '@/testing/run-c';
import { type Cpu, emulate, linkFor, runC, runCpp, runRust } from '@/testing/run-targets';
import type { Derived } from '../../derive/derive';
import type { Device } from '../../device/device';
import { reviewCode } from '../../existing-code/review';
import type { CodeOptions, Plan } from '../../plan/model/types';
import { readBack } from '../../read-back/read-back';
import { generateFiles } from '../generate';
import { armTarget, avrTarget, riscvTarget } from './asm/target';
import { cTableTarget, cTarget } from './c/target';
import { cppTarget } from './cpp/target';
import { programOf } from './program/program';
import { rustTarget } from './rust/target';
import type { Target } from './types';

jest.setTimeout(300_000);
afterAll(removeFolders);

const ASSEMBLY: [Cpu, Target][] = [
  ['arm', armTarget],
  ['riscv', riscvTarget],
  ['avr', avrTarget],
];

const EVERYTHING: Partial<CodeOptions> = {
  functions: 'circuits',
  deinit: true,
  hooks: true,
  comments: 'stages',
  file: 'board-pins',
};

/** The plan with options, and with something asleep in every way that its pads can be. */
function withOptions(device: Device, plan: Plan, code: Partial<CodeOptions>): Derived {
  const states = ['release', 'inactive', 'asserted', 'analog', 'keep'] as const;
  const nets = plan.nets.map((net, at) => ({
    ...net,
    settings: { ...net.settings, sleep: states[at % states.length] },
  }));
  return deriveOn({ ...plan, nets, code: { ...plan.code, ...code } }, device);
}

describe.each(FAMILIES)('the example of %s with every option', (folder) => {
  const device = family(folder);
  const derived = withOptions(device, familyPlan(device), EVERYTHING);

  test('each circuit, deinit, sleep and wake are proven by themselves, from every state', () => {
    const kinds = derived.routines.map(({ kind }) => kind);
    expect(kinds).toEqual([...kinds.filter((one) => one === 'circuit'), 'deinit', 'sleep', 'wake']);
    expect(derived.routines.flatMap((one) => one.proof.failures)).toEqual([]);
    expect(derived.routines.every((one) => one.proof.start === 'every')).toBe(true);
    expect(derived.proof.failures).toEqual([]);
    const count = derived.routines
      .filter(({ kind }) => kind === 'circuit')
      .flatMap((one) => one.lowered.operations);
    expect(derived.lowered.operations).toHaveLength(count.length);
  });

  // Compilers for six processors take their time; the demo's part, and two more, stand for all in a quick run.
  const compiled = share(FAMILIES, 3, 2).includes(folder);

  test('every target does the same, routines included', () => {
    const trace = runC(cTarget, derived, { chance: 7 });
    expect(trace.filter((line) => line.startsWith('call')).length).toBeGreaterThan(4);
    expect(trace.at(-1)).toBe('lost 0');
    if (!compiled) return;
    expect(runC(cTableTarget, derived, { chance: 7 })).toEqual(trace);
    expect(runCpp(cppTarget, derived, { chance: 7 })).toEqual(trace);
    expect(runRust(rustTarget, derived, { chance: 7 })).toEqual(trace);
    const whole = withOptions(device, familyPlan(device), { ...EVERYTHING, layout: 'header' });
    expect(runC(cTarget, whole, { chance: 7 })).toEqual(trace);
    for (const [cpu, target] of ASSEMBLY) {
      if (target.lacks?.(derived) !== undefined) continue;
      for (const one of ALL ? [cTarget, cTableTarget, target] : [target])
        expect([cpu, one.id, emulate(linkFor(cpu, one, derived), trace)]).toEqual([cpu, one.id, '']);
    }
  });

  test('names of the project’s own headers: the code compiles beside them, and reads back as the plan', () => {
    const named = withOptions(device, familyPlan(device), {
      style: 'from-reset',
      registers: 'HW_{block:upper}->{register:lower}',
      include: 'registers.h',
    });
    const files = generateFiles(cTarget, named).map(({ path, text }) => ({ name: path, path, text }));
    expect(files[0]?.text).toContain('#include "registers.h"');
    for (const { address } of programOf(named).registers)
      expect(files[0]?.text).not.toContain(`0x${address.toString(16).toUpperCase().padStart(8, '0')}u\n`);
    const header = structs(named);
    const folder = writeFolder([...files, { path: 'registers.h', text: header }]);
    expect(compileIn(folder, files[1]?.path ?? '')).toBe('');
    let count = 0;
    const review = reviewCode(
      named,
      [...files, { name: 'registers.h', text: header }],
      { entries: [`${files[1]?.name.replace('.c', '')}_init`] },
      () => `id${++count}`,
    );
    expect(review.findings.map(({ message }) => message)).toEqual([]);
    expect(review.readings.filter(({ state }) => state !== 'same' && state !== 'reset')).toEqual([]);
  });

  test('after deinit and in low power pads are what was asked', () => {
    const [deinit, sleep, wake] = derived.routines.slice(-3);
    for (const routine of [deinit, sleep, wake]) {
      const ends = new Map<string, string>();
      for (const one of routine?.planned ?? []) ends.set(one.pad.id, one.settings.values.mode ?? '');
      expect(ends.size).toBeGreaterThan(0);
      if (routine === deinit) for (const mode of ends.values()) expect(['input', 'output']).toContain(mode);
      if (routine === wake)
        for (const [pad, mode] of ends)
          expect(derived.planned.find((one) => one.pad.id === pad)?.settings.values.mode).toBe(mode);
    }
  });
});

test('options say what is printed: comments, file names, functions, hooks', () => {
  const plan = frostGuard();
  const text = (code: Partial<CodeOptions>): string =>
    generateFiles(cTarget, deriveOn({ ...plan, code: { ...plan.code, ...code } }))
      .map((file) => `${file.path}\n${file.text}`)
      .join('\n');
  const plain = text({});
  expect(plain).toContain('/* latch: output levels');
  expect(text({ comments: 'stages' })).toContain('/* latch: output levels');
  expect(text({ comments: 'stages' }).length).toBeLessThan(plain.length);
  expect(text({ comments: 'none' })).not.toContain('/* latch: output levels');
  expect(text({ file: 'pins' })).toMatch(/^pins\.h\n/);
  expect(text({ functions: 'circuits' })).toMatch(/bool frost_guard_init_fans\(void\)\n\{/);
  expect(text({ functions: 'circuits' })).toContain('if (!frost_guard_init_fans()) { return; }');
  expect(text({ hooks: true })).toContain('FROST_GUARD_BEFORE_LATCH();');
  expect(text({ layout: 'header' })).toContain('static inline void frost_guard_init(void)\n{');
  expect(text({ deinit: true })).toContain('bool frost_guard_deinit(void);');
  expect(
    readBack(
      deriveOn(plan),
      () => undefined,
      () => 'x',
    ).length,
  ).toBeGreaterThan(0);
});

test.each(['preserving', 'from-reset'] as const)(
  'clocks of peripherals are opened on request, and proven (%s)',
  (style) => {
    const plan = frostGuard();
    const fed = (code: Partial<CodeOptions>) => {
      const derived = deriveOn({ ...plan, code: { ...plan.code, style, ...code } });
      expect(derived.proof.failures).toEqual([]);
      return derived.lowered.image.find((one) => one.register.name === 'GATE.FEED')?.planned;
    };
    expect(fed({})).toBeUndefined();
    const used = new Set(deriveOn(plan).resolved.flatMap(({ fn }) => (fn ? [fn.signal.split('.')[0]] : [])));
    const feeds = corvane().description.peripherals.flatMap((one) =>
      used.has(one.id) && one.columns?.feed !== undefined ? [one.columns.feed - 1] : [],
    );
    expect(feeds.length).toBeGreaterThan(3);
    const expected = feeds.reduce((sum, bit) => sum + 2 ** bit, 0);
    expect(fed({ peripheralClocks: true })).toBe(expected);
    expect(fed({ peripheralClocks: true, functions: 'circuits' })).toBe(expected);
  },
);

test('circuits are initialised in their order', () => {
  const plan = frostGuard();
  const order = (one: Plan): string[] =>
    [
      ...(
        generateFiles(cTarget, deriveOn({ ...one, code: { ...one.code, functions: 'circuits' } }))[1]?.text ??
        ''
      ).matchAll(/if \(!frost_guard_(init_\w+)\(\)/g),
    ].map((found) => found[1] ?? '');
  const first = order(plan);
  expect(first.length).toBeGreaterThan(5);
  expect(order({ ...plan, circuits: [...plan.circuits].reverse() })).toEqual([...first].reverse());
});

/** A project's header: a struct for each block, with its members where the part has registers. */
function structs({ device }: Derived): string {
  const blocks = new Map<string, { name: string; address: number; bits: number }[]>();
  for (const { name, address, bits, access } of device.registers.all) {
    if (access.kind === 'internal') continue;
    const [block = '', ...rest] = name.split('.');
    const list = blocks.get(block) ?? [];
    list.push({ name: rest.join('_').toLowerCase(), address, bits });
    blocks.set(block, list);
  }
  const lines = [...blocks].flatMap(([block, list]) => {
    const base = Math.min(...list.map(({ address }) => address));
    const members = list.map(
      ({ name, address, bits }, at) =>
        `  struct __attribute__((packed)) { ${address > base ? `uint8_t gap${at}[${address - base}]; ` : ''}volatile uint${bits}_t ${name}; };`,
    );
    return [
      `union hw_${block} {`,
      ...members,
      '};',
      `#define HW_${block.toUpperCase()} ((union hw_${block} *)0x${base.toString(16)}u)`,
    ];
  });
  return `#include <stdint.h>\n${lines.join('\n')}\n`;
}

function compileIn(folder: string, file: string): string {
  const { spawnSync } = require('node:child_process') as typeof import('node:child_process');
  const flags = ['-std=gnu11', '-Wall', '-Wextra', '-Wconversion', '-Werror', '-Wno-int-to-pointer-cast'];
  return spawnSync('arm-none-eabi-gcc', [...flags, '-c', file, '-o', 'out.o'], {
    cwd: folder,
    encoding: 'utf8',
  }).stderr;
}
