import { spawn } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { launcherIn } from '@/testing/launcher';
import { commandIn } from './testing/command';

const CLEAN = resolve('examples/frost-guard.plan.json');
const FAULTY = resolve('examples/frost-guard-faulty.plan.json');
const { folder, mavrek, file } = commandIn('mavrek-cli-');

describe('the launcher', () => {
  const { mavrek: launched } = launcherIn('mavrek-launched-');
  test('runs commands as they are, with their exit status, from any folder', () => {
    expect(launched('check', CLEAN)).toMatchObject({
      status: 0,
      stderr: '',
      stdout: expect.stringContaining('0 errors'),
    });
    expect(launched('check', FAULTY, '--format', 'json')).toMatchObject({ status: 1, stderr: '' });
    expect(launched('chekc')).toMatchObject({
      status: 2,
      stdout: '',
      stderr: expect.stringContaining('chekc'),
    });
    expect(launched('--help').stdout).toContain('./mavrek start');
  });
});

describe('mavrek check', () => {
  test('exit 0 on the shipped plan', async () => {
    expect(await mavrek('check', CLEAN)).toMatchObject({
      status: 0,
      stderr: '',
      stdout: expect.stringContaining('0 errors'),
    });
  });
  test('exit 1 on the plan with faults, with remedies', async () => {
    const { status, stdout } = await mavrek('check', FAULTY);
    expect(status).toBe(1);
    expect(stdout).toMatch(
      /error: two-nets: FAN_2 and LOG_D1 are both on pad F7 \(pin 93\)\. Move one\.\n {4}could move FAN_2 to E12/,
    );
  });
  test('JSON on request', async () => {
    const report = JSON.parse((await mavrek('check', FAULTY, '--format', 'json')).stdout);
    expect(report.counts).toEqual({ error: 8, warning: 3, note: 0 });
    expect(report.plan).toMatchObject({
      name: 'Frost guard, with faults',
      device: 'corvane-c40-80',
      package: 'q100',
    });
    expect(report.findings[0]).toMatchObject({
      rule: 'two-nets',
      severity: 'error',
      pads: ['F7'],
      pins: ['93'],
      nets: ['FAN_2', 'LOG_D1'],
      waived: false,
    });
  });
  test('SARIF on request', async () => {
    const log = JSON.parse((await mavrek('check', FAULTY, '--format', 'sarif')).stdout);
    expect(log.version).toBe('2.1.0');
    expect(log.runs[0].results[0]).toMatchObject({ ruleId: 'two-nets', level: 'error' });
  });
  test.each([
    ['no such file', ['check', 'nothing.json'], /^nothing\.json: there is no such file\n$/],
    ['a folder', ['check', '.'], /^\.: cannot be read \(EISDIR\)/],
    ['an unknown option', ['check', CLEAN, '--fast'], /unknown option '--fast'/],
    ['an unknown command', ['chekc'], /unknown command 'chekc'/],
    ['an unknown format', ['check', CLEAN, '--format', 'xml'], /Allowed choices are text, json, sarif/],
  ])('exit 2 on %s', async (_name, args, message) => {
    const { status, stderr, stdout } = await mavrek(...args);
    expect({ status, stdout }).toEqual({ status: 2, stdout: '' });
    expect(stderr).toMatch(message);
    expect(stderr).not.toMatch(/\n {4}at /);
  });
  test('exit 2 with row and column on a broken plan, on an unknown part and package', async () => {
    const text = readFileSync(CLEAN, 'utf8');
    expect((await mavrek('check', file('half.json', text.slice(0, 900)))).stderr).toMatch(
      /^half\.json:\d+:\d+: not valid JSON/,
    );
    expect(
      await mavrek('check', file('part.json', text.replace('corvane-c40-80', 'nobody-n1'))),
    ).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/^part\.json: there is no part "nobody-n1" \(known: .*corvane-c40-80, /),
    });
    expect((await mavrek('check', file('package.json', text.replace('q100', 'q99')))).stderr).toMatch(
      /package\.json, package: Corvane C40-80 has no package "q99"/,
    );
  });
});

describe('mavrek generate', () => {
  test('writes header and source, the same ones each time', async () => {
    const first = await mavrek('generate', CLEAN, '--target', 'c', '--out', 'out', '--format', 'json');
    expect(first).toMatchObject({ status: 0, stderr: '' });
    const report = JSON.parse(first.stdout);
    expect(report.files.map((one: { path: string }) => one.path)).toEqual(['frost_guard.h', 'frost_guard.c']);
    expect(report.proof).toMatchObject({ pins: 50, proven: 50, from: 'every', failures: [] });
    expect(report.proof.notCovered.map(({ kind }: { kind: string }) => kind)).toEqual([
      'steps',
      'effects',
      'time',
    ]);
    expect(readFileSync(join(folder, 'out/frost_guard.c')).length).toBe(report.files[1].bytes);
    expect(
      (await mavrek('generate', CLEAN, '--target', 'c', '--out', 'out', '--format', 'json')).stdout,
    ).toBe(first.stdout);
    expect(readdirSync(join(folder, 'out')).sort()).toEqual([
      'frost_guard.c',
      'frost_guard.h',
      'mavrek-generated.json',
    ]);
  });
  test('refuses a plan with errors and writes nothing, unless forced', async () => {
    const refused = await mavrek('generate', FAULTY, '--target', 'c', '--out', 'bad');
    expect(refused.status).toBe(1);
    expect(refused.stderr).toMatch(/two-nets: FAN_2 and LOG_D1.*\n[\s\S]*nothing was written/);
    expect(existsSync(join(folder, 'bad'))).toBe(false);
    expect((await mavrek('generate', FAULTY, '--target', 'c', '--out', 'bad', '--force')).status).toBe(0);
  });
  test('never overwrites a file changed by hand, and then writes none of them', async () => {
    await mavrek('generate', CLEAN, '--target', 'c', '--out', 'hand');
    const header = join(folder, 'hand/frost_guard.h');
    const source = join(folder, 'hand/frost_guard.c');
    writeFileSync(source, `${readFileSync(source, 'utf8')}int mine;\n`);
    writeFileSync(header, readFileSync(header, 'utf8').replaceAll('\n', '\r\n'));
    const before = readFileSync(header, 'utf8');
    const refused = await mavrek('generate', CLEAN, '--target', 'c', '--out', 'hand');
    expect(refused).toMatchObject({
      status: 1,
      stderr: expect.stringContaining('frost_guard.c: was changed by hand; use --overwrite'),
    });
    expect(readFileSync(header, 'utf8')).toBe(before);
    expect((await mavrek('generate', CLEAN, '--target', 'c', '--out', 'hand', '--overwrite')).status).toBe(0);
    expect(readFileSync(source, 'utf8')).not.toContain('int mine');
  });
  test.each([
    ['c-table', ['frost_guard.c', 'frost_guard.h']],
    ['cpp', ['frost_guard.hpp']],
    ['rust', ['frost_guard.rs']],
    ['asm-arm', ['frost_guard.h', 'frost_guard.s']],
    ['asm-riscv', ['frost_guard.h', 'frost_guard.s']],
    ['devicetree', ['frost_guard.dts']],
    ['schedule-md', ['frost_guard_pins.md']],
    ['schedule-csv', ['frost_guard_pins.csv']],
    ['svd', ['frost_guard.svd']],
  ])('%s: its files, twice without a word of changes by hand', async (target, paths) => {
    for (const turn of [1, 2]) {
      const { status, stderr } = await mavrek('generate', CLEAN, '--target', target, '--out', target);
      expect([turn, status, stderr]).toEqual([turn, 0, '']);
    }
    expect(readdirSync(join(folder, target)).sort()).toEqual([...paths, 'mavrek-generated.json'].sort());
  });
  test('a target that the part is not for says why, and writes nothing', async () => {
    expect(await mavrek('generate', CLEAN, '--target', 'asm-avr', '--out', 'avr')).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/asm-avr: no code for this plan: GATE.ON is a register of 32 bits/),
    });
    expect(existsSync(join(folder, 'avr'))).toBe(false);
  });
  test('says what it cannot write', async () => {
    file('blocked', 'a file where a folder should be');
    expect(await mavrek('generate', CLEAN, '--target', 'c', '--out', 'blocked')).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/cannot be written \(E/),
    });
  });
});

describe('mavrek watch', () => {
  test('generates again when the plan changes, and ends when it is told to', async () => {
    const plan = join(folder, file('watched.plan.json', readFileSync(CLEAN, 'utf8')));
    const child = spawn(resolve('mavrek'), ['watch', plan, '--target', 'c', '--out', 'watched'], {
      cwd: folder,
    });
    const ended = new Promise((end) => child.once('exit', end));
    try {
      let said = '';
      child.stdout.on('data', (data: Buffer) => {
        said += data;
      });
      const until = async (pattern: RegExp): Promise<void> => {
        for (let waited = 0; !pattern.test(said) && waited < 30_000; waited += 50)
          await new Promise((go) => setTimeout(go, 50));
        expect(said).toMatch(pattern);
      };
      await until(/pins proven/);
      said = '';
      writeFileSync(plan, readFileSync(plan, 'utf8').replace('"revision": "C"', '"revision": "D"'));
      await until(/pins proven/);
      expect(readFileSync(join(folder, 'watched/frost_guard.h'), 'utf8')).toMatch(/revision D/);
    } finally {
      child.kill('SIGTERM');
      await ended;
    }
  });
});

describe('mavrek read-back', () => {
  test('says pad by pad what differs, and writes the plan that it would be', async () => {
    const dump = file('dump.txt', 'PC.PULL = 0\nno register at all\n');
    const { status, stdout } = await mavrek('read-back', CLEAN, dump, '--out', 'read.plan.json');
    expect(status).toBe(1);
    expect(stdout).toMatch(/C0 SET_SDA: pull none instead of up \[not read: PC\.USE/);
    expect(stdout).toMatch(/not understood: line 2: /);
    const again = await mavrek('read-back', 'read.plan.json', dump, '--format', 'json');
    expect(again.status).toBe(0);
    expect(JSON.parse(again.stdout)).toMatchObject({ form: 'values', registers: { 'PC.PULL': 0 }, pads: [] });
  });
  test('a dump without any register of the part is unusable input', async () => {
    const dump = file('nothing.txt', 'hello\n');
    expect(await mavrek('read-back', CLEAN, dump)).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/nothing in it is of a register of this part/),
    });
    expect(await mavrek('read-back', CLEAN, 'missing.txt')).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/missing.txt: there is no such file/),
    });
  });
});

describe('mavrek registers', () => {
  test('prints the image and the operations', async () => {
    const { status, stdout } = await mavrek('registers', CLEAN);
    expect(status).toBe(0);
    expect(stdout).toMatch(/PB\.OUT +0x50020824 +16 +0x0000 +0x0080 +0x00C0 +B6 B7/);
    expect(stdout).toMatch(/gate +await +GATE\.READY +0x4000701C +0x000000B7 = 0x000000B7 within 16 cycles/);
  });
});

describe('mavrek place', () => {
  const without = (names: readonly string[]): string => {
    const plan = JSON.parse(readFileSync(CLEAN, 'utf8'));
    for (const net of plan.nets) if (names.includes(net.name)) net.placement = null;
    return file('open.json', JSON.stringify(plan));
  };
  test('places what has no pad, and writes the plan', async () => {
    const open = without(['FAN_3', 'MAST_TX', 'LAMP_RED']);
    const { status, stdout } = await mavrek('place', open, '--out', 'placed.json', '--format', 'json');
    expect(status).toBe(0);
    const report = JSON.parse(stdout);
    expect(report).toMatchObject({ status: 'optimal', conflict: [], suggestions: [] });
    expect(report.bound).toBe(report.objective);
    expect(report.moves.map((one: { net: string }) => one.net).sort()).toEqual([
      'FAN_3',
      'LAMP_RED',
      'MAST_TX',
    ]);
    expect(report.placements.FAN_1).toBe('B7');
    expect(await mavrek('check', 'placed.json')).toMatchObject({ status: 0, stderr: '' });
  });
  test('without --out nothing is written', async () => {
    const before = readdirSync(folder);
    expect((await mavrek('place', without(['FAN_3']))).stdout).toMatch(/FAN_3 +new +\w+/);
    expect(readdirSync(folder)).toEqual([...new Set([...before, 'open.json'])].sort());
  });
  test('explains what cannot be, and writes nothing', async () => {
    const { status, stdout } = await mavrek('place', FAULTY, '--out', 'never.json');
    expect(status).toBe(1);
    expect(stdout).toMatch(/PACE3\.Q1 is one signal, and 2 nets want it/);
    expect(stdout).toMatch(/these cannot hold together.*\n {4}VALVE_A_OPEN needs a pad for PACE3\.Q1\n/);
    expect(stdout).toMatch(/each of these was tried/);
    expect(existsSync(join(folder, 'never.json'))).toBe(false);
  });
  test.each([
    ['an unknown term', ['--weight', 'beauty=3'], /terms are scarce, complete, split, near/],
    ['half a weight', ['--weight', 'near'], /a term and a whole number/],
    [
      'a folder that is not there',
      ['--out', 'no/where.json'],
      /no\/where\.json: cannot be written \(ENOENT\)/,
    ],
  ])('exit 2 on %s', async (_name, args, message) => {
    const { status, stderr } = await mavrek('place', CLEAN, ...args);
    expect(status).toBe(2);
    expect(stderr).toMatch(message);
  });
});
