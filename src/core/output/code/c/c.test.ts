import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family, familyPlan, workedImages } from '@/testing/families';
import { corvane, deriveOn, frostGuard, on, planOf, withNets } from '@/testing/frost-guard';
import { pellin } from '@/testing/pellin';
import { compile, removeFolders, runGenerated, writeFolder } from '@/testing/run-c';
import { machineMacros, secondMachine } from '@/testing/second-machine';
import { derive } from '../../../derive/derive';
import type { Plan } from '../../../plan/model/types';
import { generateFiles, isUntouched } from '../../generate';
import { cTarget } from './target';
import { comment, stringLiteral } from './writer';

afterAll(removeFolders);

const generate = (plan: Plan) => generateFiles(cTarget, deriveOn(plan));

const STYLES: Plan['code']['style'][] = ['preserving', 'from-reset'];
const demo = frostGuard();
const empty = planOf([]);
const hostile = planOf(
  [
    '*/ int x; /*',
    '<script>alert(1)</script>',
    "'; drop table plans; --",
    '../../etc',
    'a\\',
    '??/',
    'int',
    '0',
    'Ünïcödé',
    '*/',
    'init',
  ].map((name, index) => ({
    name,
    role: { kind: 'output' as const },
    placement: on(`D${index}`),
    note: name,
  })),
  { name: '*/ #error "plan" /* ??/', revision: '" \\' },
);

describe.each(['gcc', 'arm-none-eabi-gcc'])('%s accepts with all warnings as errors', (compiler) => {
  test.each([
    ...STYLES.map((style): [string, Plan] => [
      `the demo, ${style}`,
      { ...demo, code: { prefix: '', style } },
    ]),
    ['a plan without nets', empty],
    ['a plan whose names attack the file', hostile],
    ['a plan in another package', { ...demo, package: 'q144' }],
  ] as [string, Plan][])('%s', (_name, plan) => {
    const files = generate(plan);
    const source = files.find((file) => file.path.endsWith('.c'));
    expect(compile(compiler, writeFolder(files), source?.path ?? '')).toBe('');
  });
});

describe('run on a register array', () => {
  test.each(STYLES)('the demo ends in the image of the core (%s)', (style) => {
    const plan: Plan = { ...demo, code: { prefix: '', style } };
    const { registers, lost, done } = runGenerated(plan);
    expect({ lost, done }).toEqual({ lost: 0, done: true });
    const planned = new Map(deriveOn(plan).lowered.image.map((one) => [one.register.name, one.planned]));
    for (const register of corvane().registers.all) {
      if (register.access.kind !== 'read-write') continue;
      const expected = planned.get(register.name) ?? register.reset;
      expect([register.name, registers.get(register.name)]).toEqual([register.name, expected]);
    }
    expect(planned.size).toBeGreaterThan(30);
  });

  // By hand: FAN_1 on B7 asserted low, starts inactive: latch bit 7 of port B is 1, use 1 in bits 14 and 15.
  test('a contactor output by hand: latch 1, output, 4 mA', () => {
    const { registers } = runGenerated(
      planOf([
        {
          name: 'FAN_1',
          role: { kind: 'output' },
          placement: on('B7'),
          settings: { active: 'low', drive: '4mA' },
        },
      ]),
    );
    expect(registers.get('PB.OUT')).toBe(0x0080);
    expect(registers.get('PB.USE')).toBe(0xffff7fff);
    expect(registers.get('PB.FORCE')).toBe(0x00004000);
    expect(registers.get('GATE.ON')).toBe(0x00010002);
  });

  test('a gate that never opens ends initialisation, and init_done says so', () => {
    const folder = writeFolder(generate(demo));
    const main = `#include <stdint.h>
#include <stdio.h>
static long writes;
#define FROST_GUARD_READ8(a) 0u
#define FROST_GUARD_WRITE8(a, v) (void)(v)
#define FROST_GUARD_READ16(a) 0u
#define FROST_GUARD_WRITE16(a, v) (writes++, (void)(v))
#define FROST_GUARD_READ32(a) 0u
#define FROST_GUARD_WRITE32(a, v) (writes++, (void)(v))
#include "frost_guard.c"
int main(void) { frost_guard_init(); printf("%d %ld", frost_guard_init_done(), writes); return 0; }`;
    writeFileSync(join(folder, 'main.c'), main);
    execFileSync('gcc', ['-std=c11', 'main.c', '-o', 'main'], { cwd: folder });
    expect(execFileSync('./main', { cwd: folder, encoding: 'utf8' })).toBe('0 1');
  });

  test('accessors honour the active level: asserted means asserted', () => {
    const plan = planOf([
      { name: 'LAMP', role: { kind: 'output' }, placement: on('B7'), settings: { active: 'low' } },
      { name: 'PUMP', role: { kind: 'output' }, placement: on('B8') },
      { name: 'DOOR', role: { kind: 'input' }, placement: on('B9'), settings: { active: 'low', pull: 'up' } },
    ]);
    const show = `printf("%u\\n", (unsigned)(look(row("PB.OUT")) >> 7 & 3u));`;
    const { lines } = runGenerated(plan, {
      extra: `frost_guard_lamp_set(); frost_guard_pump_set(); ${show}
       frost_guard_lamp_clear(); frost_guard_pump_clear(); ${show}
       frost_guard_lamp_toggle(); frost_guard_pump_toggle(); ${show}
       keep(row("PB.IN"), 0); printf("%d %d\\n", frost_guard_door_read(), frost_guard_lamp_read());
       keep(row("PB.IN"), 0xFFFF); printf("%d %d\\n", frost_guard_door_read(), frost_guard_pump_read());`,
    });
    // Bits 7 (LAMP, asserted low) and 8 (PUMP, asserted high) of the latch.
    expect(lines).toEqual(['2', '1', '2', '1 1', '0 1']);
  });
});

describe('the files', () => {
  const [header, source] = generate(demo);

  test('say which plan they are of', () => {
    for (const file of [header, source]) {
      expect(file?.text).toMatch(/plan +Frost guard, revision C/);
      expect(file?.text).toMatch(/part +Corvane C40-80 \(corvane-c40-80\), description [0-9a-f]{16}/);
      expect(file?.text).toMatch(/package +quad 100, 0\.5 mm \(q100\)/);
      expect(file?.text).toMatch(new RegExp(`content +${deriveOn(demo).fingerprint}`));
    }
  });
  test('change their fingerprint with any change of the plan, and with nothing else', () => {
    const other = deriveOn(withNets(demo, { FAN_4: { settings: { active: 'low', drive: '2mA' } } }));
    expect(other.fingerprint).not.toBe(deriveOn(demo).fingerprint);
    expect(generate(demo)).toEqual(generate(frostGuard()));
  });
  test('say on which line each operation begins', () => {
    const { operations } = deriveOn(demo).lowered;
    const lines = source?.text.split('\n') ?? [];
    expect(source?.operations).toHaveLength(operations.length);
    operations.forEach((operation, index) => {
      const from = source?.operations?.[index] ?? 0;
      const to = source?.operations?.[index + 1] ?? from + 4;
      const text = lines.slice(from - 1, to - 1).join('\n');
      expect(text).toContain(
        'register' in operation ? operation.register.name.replace('.', '_') : 'FROST_GUARD_WAIT',
      );
    });
    expect(header?.operations).toBeUndefined();
  });
  test('use unsigned masks only', () => {
    for (const literal of source?.text.match(/\b0x[0-9A-F]+u?\b/g) ?? []) expect(literal).toMatch(/u$/);
  });
  test('carry a digest by which a change by hand is noticed', () => {
    expect(isUntouched(source?.text ?? '')).toBe(true);
    expect(isUntouched(source?.text.replaceAll('\n', '\r\n') ?? '')).toBe(true);
    expect(isUntouched(source?.text.replace('0x00C40C40u', '0x00C40C41u') ?? '')).toBe(false);
    expect(isUntouched('int main(void) { return 0; }\n')).toBe(false);
  });
  test('hostile text stays inside comments and strings', () => {
    expect(comment('a */ b /* c ??/ \\ \n d')).toBe('/* a * / b / * c ? ?/ /   d */');
    expect(comment('*\\ __asm__(".long 1"); \\*')).toBe('/* * / __asm__(".long 1"); / * */');
    expect(comment('/*/ **/ //')).toBe('/* / * / ** / / / */');
    expect(stringLiteral('say "hi" \\ %s ???/ é7')).toBe(
      String.raw`"say \042hi\042 \134 %s \077\077\077/ \303\2517"`,
    );
    for (const file of generate(hostile)) expect(file.path).toMatch(/^[a-z0-9_]+\.[ch]$/);
  });
  test('nets that the code does not know are listed with the reason, and refused where the plan asks for it', () => {
    const plan = planOf([
      { name: 'LAMP', role: { kind: 'output' }, placement: on('B7') },
      { name: 'HORN', role: { kind: 'output' } },
      { name: 'FAR', role: { kind: 'input' }, placement: on('G3') },
      { name: '*/ #error', role: { kind: 'input' } },
    ]);
    const [header, source] = generate(plan);
    expect(header?.text).toContain(
      [
        ' * Not in this code: 3 of 4 nets of the plan:',
        ' *   HORN: has no pad',
        ' *   FAR: pad G3 is not in this package',
        ' *   * / #error: has no pad',
        ' */',
      ].join('\n'),
    );
    expect(header?.text).not.toMatch(/^#error/m);
    expect(
      compile('gcc', writeFolder([header, source].flatMap((file) => file ?? [])), source?.path ?? ''),
    ).toBe('');
    const refusing = generate({ ...plan, code: { ...plan.code, incomplete: 'refuse' } });
    const text = compile('gcc', writeFolder(refusing), source?.path ?? '');
    expect(text).toMatch(/#error "the plan is incomplete: 3 of 4 nets not in this code, HORN first"/);
    expect(generate({ ...demo, code: { ...demo.code, incomplete: 'refuse' } })[0]?.text).not.toMatch(
      /#error/,
    );
  });
  test('a plan with errors is marked as not fit to ship', () => {
    const [, marked] = generate(withNets(demo, { FAN_3: { placement: on('F7') } }));
    expect(marked?.text).toMatch(/WARNING +the plan has 1 unresolved errors; do not ship this/);
  });
});

describe('a part with narrow registers and no set or clear registers', () => {
  const plan = planOf(
    [
      { name: 'LAMP', role: { kind: 'output' }, placement: on('A0'), settings: { active: 'low' } },
      { name: 'DOOR', role: { kind: 'input' }, placement: on('A1'), settings: { pull: 'up' } },
    ],
    { device: 'pellin-p8', package: 'd8' },
  );
  const device = pellin();
  const generated = (style: Plan['code']['style']) =>
    generateFiles(cTarget, expectOk(derive(device, { ...plan, code: { prefix: 'p8', style } })));

  test.each(STYLES)('compiles with all warnings as errors (%s)', (style) => {
    for (const compiler of ['gcc', 'arm-none-eabi-gcc']) {
      expect(compile(compiler, writeFolder(generated(style)), 'p8.c')).toBe('');
    }
  });

  test.each(STYLES)(
    'runs, and its accessors change one bit by reading and writing, or by the toggle register (%s)',
    (style) => {
      // A0 output asserted low, starts inactive: latch bit 0 is 1. A1 input with pull-up: latch bit 1 is 1.
      const main = `
${secondMachine(device.description).text}${machineMacros('P8')}
#include "p8.c"
int main(void) {
  start(0, 0); p8_init();
  uint32_t dir = look(at(0x24, 8, 1)), latch = look(at(0x25, 8, 1));
  printf("%u %u %d\\n", (unsigned)dir, (unsigned)latch, p8_init_done());
  p8_lamp_set(); printf("%u\\n", (unsigned)look(at(0x25, 8, 1)));
  p8_lamp_clear(); printf("%u\\n", (unsigned)look(at(0x25, 8, 1)));
  p8_lamp_toggle(); printf("%u\\n", (unsigned)look(at(0x25, 8, 1)));
  keep(at(0x28, 8, 0), 2); printf("%d %d\\n", p8_door_read(), p8_lamp_read());
  return 0;
}`;
      const folder = writeFolder([...generated(style), { path: 'main.c', text: main }]);
      execFileSync('gcc', ['-std=c11', 'main.c', '-o', 'main'], { cwd: folder });
      expect(execFileSync('./main', { cwd: folder, encoding: 'utf8' }).trim().split('\n')).toEqual([
        '1 3 1',
        '2',
        '3',
        '2',
        '1 1',
      ]);
    },
  );

  test('whole-register style writes only what differs from reset', () => {
    const source = generated('from-reset').find((file) => file.path === 'p8.c')?.text ?? '';
    expect(source.match(/P8_WRITE8\(/g)).toHaveLength(2);
    expect(source).toContain('P8_WRITE8(P8_PA_LATCH, 0x03u);');
  });
});

describe.each(FAMILIES)('the example plan of %s', (folder) => {
  const device = family(folder);
  const plan = familyPlan(device);

  test.each(STYLES)('compiles strictly and, run in C, gives the image worked out by hand (%s)', (style) => {
    const styled = { ...plan, code: { ...plan.code, style } };
    const files = generateFiles(cTarget, deriveOn(styled, device));
    const source = files.find((file) => file.path.endsWith('.c'))?.path ?? '';
    expect(compile('gcc', writeFolder(files), source)).toBe('');
    const { registers, lost, done } = runGenerated(styled, { device });
    expect([lost, done]).toEqual([0, true]);
    const worked = workedImages().get(device.description.id) ?? [];
    expect(worked.length).toBeGreaterThan(3);
    for (const { register, value } of worked)
      if (device.registers.byName.get(register)?.pieces === undefined)
        expect([register, registers.get(register)]).toEqual([register, value]);
  });
});
