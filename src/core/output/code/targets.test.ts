import { spawnSync } from 'node:child_process';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn, frostGuard, on, planOf } from '@/testing/frost-guard';
import { shapeDerived } from '@/testing/hardware-shapes';
import { hostileText } from '@/testing/hostile-text';
import { randomBoard } from '@/testing/instances';
import { PROCEDURES } from '@/testing/procedure-shapes';
import { ALL, fuzzBudget, randomFrom, share } from '@/testing/random';
import { removeFolders, writeFolder } from '@/testing/run-c';
import {
  type Change,
  type Cpu,
  emulate,
  linkFor,
  runC,
  runCpp,
  runRust,
  type Trace,
} from '@/testing/run-targets';
import { planOn as planOnShape, shapeDevice } from '@/testing/shape';
import type { Derived } from '../../derive/derive';
import { placingEdit } from '../../place/model/moves';
import { placePlan } from '../../place/place';
import { applyEdit } from '../../plan/edits/edits';
import type { Plan } from '../../plan/model/types';
import { generateFiles } from '../generate';
import { armTarget, avrTarget, riscvTarget } from './asm/target';
import { cTableTarget, cTarget } from './c/target';
import { cppTarget } from './cpp/target';
import { devicetreeTarget } from './devicetree/target';
import { rustTarget } from './rust/target';
import type { Target } from './types';

// Compilers for six processors share two cores with whatever else runs.
jest.setTimeout(300_000);
afterAll(removeFolders);

const STYLES: Plan['code']['style'][] = ['preserving', 'from-reset'];
const CHANCE = 20261126;

/**
 * C is held to the second machine elsewhere. Every other target makes the same accesses in the same order, from the same state: the
 * same registers, widths and values, and its functions give the same.
 */
const plans: [string, (style: Plan['code']['style']) => Derived][] = [
  ['the demo', (style) => deriveOn({ ...frostGuard(), code: { prefix: '', style } })],
  ...FAMILIES.map((folder): [string, (style: Plan['code']['style']) => Derived] => [
    folder,
    (style) => {
      const plan = familyPlan(family(folder));
      return deriveOn({ ...plan, code: { ...plan.code, style } }, family(folder));
    },
  ]),
];

const shapes = Object.entries(PROCEDURES).map(([name, shape]): (typeof plans)[number] => [
  name,
  (style) => shapeDerived(shape, style),
]);

const ASSEMBLY: [Cpu, Target][] = [
  ['arm', armTarget],
  ['riscv', riscvTarget],
  ['avr', avrTarget],
];

/** Both styles for the demo; for the families and a share of the shapes in turn, and C on the processors of the assemblers for the first only. */
const cases = [...plans, ...share(shapes, 3, CHANCE)].flatMap(([name, deriving], at) =>
  STYLES.filter((_, which) => at === 0 || ALL || which === at % 2).map(
    (style): [string, Plan['code']['style'], () => Derived] => [name, style, () => deriving(style)],
  ),
);

test.each(cases)('%s, %s: every target does the same on its processor', (name, style, deriving) => {
  const derived = deriving();
  const start = style === 'preserving' ? { chance: CHANCE } : {};
  const trace: Trace = runC(cTarget, derived, start);
  expect(trace.length).toBeGreaterThan(6);
  expect(runC(cTableTarget, derived, start)).toEqual(trace);
  expect(runCpp(cppTarget, derived, start)).toEqual(trace);
  expect(runRust(rustTarget, derived, start)).toEqual(trace);
  for (const [cpu, target] of ASSEMBLY) {
    if (target.lacks?.(derived) !== undefined) continue;
    for (const one of ALL || name === FAMILIES[0] ? [cTarget, cTableTarget, target] : [target]) {
      expect([cpu, one.id, emulate(linkFor(cpu, one, derived), trace)]).toEqual([cpu, one.id, '']);
    }
  }
});

test('flags that a 0 clears: every target writes 1 to those that are not meant', () => {
  const nets = ['A0', 'A1'].map((pad) => ({
    name: `N${pad}`,
    role: { kind: 'input' as const },
    settings: { trigger: 'rising' },
    placement: on(pad),
  }));
  const derived = planOnShape(shapeDevice(28), nets, 'preserving');
  const trace = runC(cTarget, derived, { chance: CHANCE });
  expect(trace.at(-1)).toBe('lost 0');
  for (const run of [
    runCpp(cppTarget, derived, { chance: CHANCE }),
    runRust(rustTarget, derived, { chance: CHANCE }),
  ])
    expect(run).toEqual(trace);
  for (const [cpu, target] of ASSEMBLY)
    if (target.lacks?.(derived) === undefined)
      expect([cpu, emulate(linkFor(cpu, target, derived), trace)]).toEqual([cpu, '']);
});

/** How a target's files are run and held to the trace of C; what is wrong, or nothing. */
const RUNS: [string, (derived: Derived, trace: Trace, chance: number, change?: Change) => string][] = [
  ...(
    [
      ['c', runC, cTarget],
      ['c-table', runC, cTableTarget],
      ['cpp', runCpp, cppTarget],
      ['rust', runRust, rustTarget],
    ] as const
  ).map(([id, run, target]): (typeof RUNS)[number] => [
    id,
    (derived, trace, chance, change) => {
      const own = run(target, derived, { chance, ...(change ? { change } : {}) });
      const at = trace.findIndex((line, index) => line !== own[index]);
      return at < 0 && own.length === trace.length ? '' : `${at}: ${own[at]} instead of ${trace[at]}`;
    },
  ]),
  ...ASSEMBLY.filter(([cpu]) => cpu !== 'avr').map(([cpu, target]): (typeof RUNS)[number] => [
    target.id,
    (derived, trace, _chance, change) => emulate(linkFor(cpu, target, derived, change), trace),
  ]),
];

test(`${fuzzBudget(3)} random boards: every target does the same`, () => {
  const random = randomFrom(CHANCE);
  for (let turn = 0; turn < fuzzBudget(3); turn++) {
    const device = family(random.pick(FAMILIES));
    const pkg = random.pick([...device.packages.values()]);
    const board = randomBoard(device, pkg, 16, random.int(1000));
    const placed = expectOk(applyEdit(board, placingEdit(placePlan(device, pkg, board).moves, 'placed')));
    const derived = deriveOn({ ...placed, code: { ...placed.code, style: random.pick(STYLES) } }, device);
    const start = derived.plan.code.style === 'preserving' ? { chance: random.int(1 << 20) } : {};
    const trace = runC(cTarget, derived, start);
    const about = [device.description.id, turn];
    expect([about, runC(cTableTarget, derived, start)]).toEqual([about, trace]);
    expect([about, runCpp(cppTarget, derived, start)]).toEqual([about, trace]);
    expect([about, runRust(rustTarget, derived, start)]).toEqual([about, trace]);
    for (const [cpu, target] of ASSEMBLY) {
      if (target.lacks?.(derived) === undefined)
        expect([about, cpu, emulate(linkFor(cpu, target, derived), trace)]).toEqual([about, cpu, '']);
    }
  }
});

const HEX = /0x[0-9A-Fa-f]+/g;

/** One thing wrong in the lines of the operations: a bit of a number, a line too few, two lines in the wrong order, a width. */
const MUTATIONS: [string, (lines: string[], at: number) => string[] | undefined][] = [
  [
    'a bit of a number',
    (lines, at) => {
      const numbers = [...(lines[at]?.matchAll(HEX) ?? [])];
      const last = numbers.at(-1);
      if (!last) return undefined;
      const changed = `0x${(Number(last[0]) ^ 4)
        .toString(16)
        .toUpperCase()
        .padStart(last[0].length - 2, '0')}`;
      const line = lines[at] ?? '';
      return lines.with(at, line.slice(0, last.index) + changed + line.slice(last.index + last[0].length));
    },
  ],
  ['a line too few', (lines, at) => lines.toSpliced(at, 1)],
  [
    'two lines in the wrong order',
    (lines, at) => {
      const next = lines.findIndex((line, index) => index > at && isWrite(line) && line !== lines[at]);
      return next < 0 ? undefined : lines.with(at, lines[next] ?? '').with(next, lines[at] ?? '');
    },
  ],
  [
    'another width',
    (lines, at) => {
      const line = lines[at] ?? '';
      const other = line
        .replace(/(write|WRITE)(16|32)/, (_, word, bits) => `${word}${bits === '16' ? '8' : '16'}`)
        .replace(/^(\s*)(str|sw)\b/, (_, blank, word) => `${blank}${word === 'str' ? 'strh' : 'sh'}`)
        .replace(/^(\s*)(strh|sh)\b/, (whole, blank, word) =>
          line.includes(word) ? `${blank}${word === 'strh' ? 'strb' : 'sb'}` : whole,
        )
        .replace(/^(\s*)0x([0-9A-F])([0-9A-F])u/, (whole, blank, high, low) =>
          [1, 2].includes(Number.parseInt(low, 16) & 3)
            ? `${blank}0x${high}${(Number.parseInt(low, 16) - 1).toString(16).toUpperCase()}u`
            : whole,
        );
      return other === line ? undefined : lines.with(at, other);
    },
  ],
];

/** Lines of initialisation that write a register: statements, rows of the table, instructions that store. */
const isWrite = (line: string): boolean =>
  /WRITE\d+\(|write\d+\(|^\s*0x[0-9A-F]{2}u, \w*ROW_\d\(\w+ -|^\s*(str[bh]?|s[bhw]) \w+, .*\b(r[3567]|t[456]|a[1-7])\b/.test(
    line,
  ) && !/#define|inline|fn write/.test(line);

describe.each(RUNS)('%s', (id, run) => {
  const at = RUNS.findIndex(([known]) => known === id);
  const derived = deriveOn({ ...frostGuard(), code: { prefix: '', style: 'preserving' } });
  /** A wrong bit of a mask shows only where what was read has it. */
  const traces = new Map<number, Trace>();
  beforeAll(() => {
    for (const chance of [CHANCE, 7, 1234567]) traces.set(chance, runC(cTarget, derived, { chance }));
  });
  const firstWrong = (change: Change): string => {
    for (const [chance, trace] of traces) {
      const said = run(derived, trace, chance, change);
      if (said !== '') return said;
    }
    return '';
  };

  test.each(share(MUTATIONS, 2, at))('printed with %s, it is found out', (kind, mutate) => {
    const random = randomFrom(CHANCE);
    let tried = 0;
    for (let turn = 0; tried < fuzzBudget(1) && turn < 60; turn++) {
      let mutated = false;
      let said = '';
      const choice = random.int(1 << 20);
      try {
        said = firstWrong((files) =>
          files.map(({ path, text, operations }) => {
            if (!operations) return { path, text };
            const lines = text.split('\n');
            const last = (operations.at(-1) ?? 0) + 1;
            const fits = (line: string): boolean =>
              isWrite(line) ||
              // How long is waited at most makes no difference where nothing is late.
              (kind === 'a bit of a number' && /0x/.test(line) && !/ (r2|t2), /.test(line));
            const writes = lines.flatMap((line, at) =>
              at >= (operations[0] ?? 0) && at < last && fits(line) ? [at] : [],
            );
            const changed = mutate(lines, writes[choice % writes.length] ?? 0);
            mutated = changed !== undefined;
            return { path, text: (changed ?? lines).join('\n') };
          }),
        );
      } catch (error) {
        // What a compiler refuses is found out, too.
        said = String(error);
      }
      if (!mutated) continue;
      tried++;
      expect(said).not.toBe('');
    }
    expect(tried).toBeGreaterThan(0);
  });

  test('whatever nets, plans and notes are called, it compiles and does the same', () => {
    const random = randomFrom(CHANCE);
    for (let turn = 0; turn < fuzzBudget(1); turn++) {
      const demo = frostGuard();
      const plan: Plan = {
        ...demo,
        name: hostileText(random),
        revision: hostileText(random),
        code: { prefix: turn % 2 === 0 ? '' : 'namespace', style: 'preserving' },
        circuits: demo.circuits.map((circuit) => ({ ...circuit, name: hostileText(random) })),
        nets: demo.nets.map((net) => ({ ...net, name: hostileText(random), note: hostileText(random) })),
      };
      const hostile = deriveOn(plan);
      expect(run(hostile, runC(cTarget, hostile, { chance: CHANCE }), CHANCE)).toBe('');
    }
  });
});

const RESERVED = [
  'class',
  'template',
  'fn',
  'type',
  'self',
  'int',
  'namespace',
  'r0',
  'init',
  'done',
  'new',
  'bus',
];

test.each(share(RESERVED, 4, 0))('a plan and nets called "%s", which a language has for itself', (name) => {
  const demo = frostGuard();
  const words = [name, ...RESERVED.filter((word) => word !== name)];
  const plan: Plan = {
    ...demo,
    name,
    code: { prefix: '', style: 'from-reset' },
    nets: demo.nets.slice(0, 24).map((net, at) => ({
      ...net,
      name: words[at] ?? `${name}_${at}`,
    })),
  };
  const derived = deriveOn(plan);
  const trace = runC(cTarget, derived);
  expect(runCpp(cppTarget, derived)).toEqual(trace);
  expect(runRust(rustTarget, derived)).toEqual(trace);
});

describe('devicetree', () => {
  test.each([...plans.map(([name, deriving]) => [name, deriving] as const)])(
    '%s passes dtc without a word',
    (_name, deriving) => {
      expect(compiled(deriving('preserving'))).toBe('');
    },
  );

  test('whatever things are called', () => {
    const random = randomFrom(CHANCE);
    for (let turn = 0; turn < fuzzBudget(20); turn++) {
      const demo = frostGuard();
      expect(
        compiled(
          deriveOn({
            ...demo,
            name: hostileText(random),
            circuits: demo.circuits.map((circuit) => ({ ...circuit, name: hostileText(random) })),
            nets: demo.nets.map((net) => ({ ...net, name: hostileText(random) })),
          }),
        ),
      ).toBe('');
    }
  });

  test('an output with its level, its current and its type; an input with its pull', () => {
    const [file] = generateFiles(
      devicetreeTarget,
      deriveOn(
        planOf([
          {
            name: 'FAN_1',
            role: { kind: 'output' },
            placement: on('B7'),
            settings: { active: 'low', drive: '4mA' },
          },
          { name: 'DOOR', role: { kind: 'input' }, placement: on('B9'), settings: { pull: 'up' } },
        ]),
      ),
    );
    const nodeOf = (name: string): string =>
      file?.text.split(`${name}-pins {`)[1]?.split('};')[0]?.replace(/\s+/g, ' ').trim() ?? '';
    expect(nodeOf('fan-1')).toBe(
      'pins = "B7"; function = "gpio"; bias-disable; drive-push-pull; drive-strength = <4>; output-high;',
    );
    expect(nodeOf('door')).toBe(
      'pins = "B9"; function = "gpio"; bias-pull-up; input-schmitt-enable; input-enable;',
    );
    expect(file?.text).toContain('gpio-line-names = "", "", "", "", "", "", "", "FAN_1", "", "DOOR"');
  });

  const compiled = (derived: Derived): string => {
    const files = generateFiles(devicetreeTarget, derived);
    const folder = writeFolder(files.map(({ path, text }) => ({ path, text })));
    const { status, stderr } = spawnSync(
      'dtc',
      ['-I', 'dts', '-O', 'dtb', '-o', 'out.dtb', files[0]?.path ?? ''],
      {
        cwd: folder,
        encoding: 'utf8',
      },
    );
    return status === 0 ? stderr : `${status} ${stderr}`;
  };
});

test('what the driver of a peripheral needs is a constant in every language', () => {
  const textOf = (target: Target): string =>
    generateFiles(target, deriveOn(frostGuard()))
      .map((file) => file.text)
      .join('');
  // 115200 of a clock of 80 MHz / 16: by hand 80e6 / 16 / 115200 = 43.4, so 43, which gives 116279.
  for (const [kind, value] of [
    ['INSTANCE', 1],
    ['RATE_WANTED', 115200],
    ['RATE_GOT', 116279],
    ['DIVIDER', 43],
  ] as const) {
    for (const target of [cTarget, cTableTarget, armTarget])
      expect(textOf(target)).toContain(`#define FROST_GUARD_MAST_TX_${kind} ${value}u\n`);
    expect(textOf(cppTarget)).toContain(`std::uint32_t mast_tx_${kind.toLowerCase()} = ${value}u;`);
    expect(textOf(rustTarget)).toContain(`pub const MAST_TX_${kind}: u32 = ${value};`);
  }
});

test('AVR assembly says what it cannot reach', () => {
  expect(avrTarget.lacks?.(deriveOn(frostGuard()))).toMatch(/GATE\.ON is a register of 32 bits/);
  expect(avrTarget.lacks?.(deriveOn(familyPlan(family('pellin-p8')), family('pellin-p8')))).toBeUndefined();
});
