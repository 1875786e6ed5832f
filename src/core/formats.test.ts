import { readdirSync, readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { corvane, deriveOn, frostGuard, readExample } from '@/testing/frost-guard';
import { readJson } from './base/json/read-json';
import { parseDevice, readDeviceFiles } from './import/compose/device-files';
import { deviceProblems } from './import/compose/device-problems';
import { recipeFileOf } from './import/compose/print-tables';
import { checkReport, registersReport } from './output/reports/reports';
import { parsePlan } from './plan/file/plan-file';
import { planProblems } from './plan/file/plan-problems';
import { planFileName, printPlan } from './plan/file/print-plan';

const demoText = readExample('frost-guard.plan.json');
const firstProblem = (text: string) => {
  const result = parsePlan('x.json', text);
  return result.ok ? 'fine' : `${result.problems[0]?.place}: ${result.problems[0]?.message}`;
};
const replaced = (from: string | RegExp, to: string) => {
  const text = demoText.replace(from, to);
  if (text === demoText) throw new Error(`${from} is not in the demo`);
  return text;
};

describe('plan files', () => {
  test('are read and written without a difference', () => {
    expect(printPlan(frostGuard())).toBe(demoText);
  });
  test('hold one net a line, so that they merge', () => {
    expect(demoText.split('\n').filter((line) => line.includes('"role"'))).toHaveLength(
      frostGuard().nets.length,
    );
  });

  test.each<[string, string, RegExp]>([
    ['nothing', '', /^x\.json:1:1: not valid JSON/],
    ['half a file', demoText.slice(0, 3000), /^x\.json:\d+:\d+: not valid JSON/],
    ['a comma too many', replaced('"revision": "C",', '"revision": "C",,'), /^x\.json:4:19: not valid JSON/],
    ['a comment', replaced('"revision"', '/* hello */ "revision"'), /not valid JSON/],
    ['a list', '[]', /this is no plan: it lacks "format"/],
    [
      'something else',
      '{"format": "spreadsheet"}',
      /^x\.json:1:12: this is no plan: its format is "spreadsheet"/,
    ],
    [
      'a newer version',
      replaced('mavrek-plan/2', 'mavrek-plan/9'),
      /^x\.json:2:13: the plan has format mavrek-plan\/9; this version of Mavrek reads mavrek-plan\/2/,
    ],
    ['a missing key', replaced('  "package": "q100",\n', ''), /the file lacks "package"/],
    ['an unknown key', replaced('"revision": "C"', '"revision": "C", "colour": 1'), /unknown key "colour"/],
    [
      'a prototype attack',
      replaced('"revision": "C"', '"revision": "C", "__proto__": {"x": 1}'),
      /unknown key "__proto__"/,
    ],
    ['a wrong type', replaced('"name":"FAN_1"', '"name":7'), /nets\.0\.name must be string/],
    ['a wrong role', replaced('{"kind":"output"}', '{"kind":"outward"}'), /nets\.0\.role\.kind must be/],
    [
      'a net without a circuit',
      replaced('"circuit":"fans"', '"circuit":"gone"'),
      /net "FAN_1" belongs to a circuit "gone" that is not there/,
    ],
    ['two nets with one id', replaced('"id":"fan-2"', '"id":"fan-1"'), /two nets have the id "fan-1"/],
    ['an enormous file', `{"format":"mavrek-plan/2","name":"${'x'.repeat(2_100_000)}"}`, /larger than 2 MB/],
    ['a deep file', `${'['.repeat(100_000)}`, /nested deeper than 60 levels/],
    ['a NUL in a name', replaced('"name": "Frost guard"', '"name": "a\\u0000b"'), /name must match pattern/],
  ])('%s is refused with its place', (_name, text, message) => {
    expect(firstProblem(text)).toMatch(message);
  });

  test('problems point at row and column of the value', () => {
    const row = demoText.split('\n').findIndex((line) => line.includes('"name":"RAIN_TIP"')) + 1;
    expect(firstProblem(replaced('"name":"RAIN_TIP"', '"name":[]'))).toMatch(
      new RegExp(`^x\\.json:${row}:\\d+: nets\\.`),
    );
  });

  test.each([
    ['../../etc/passwd', 'etc-passwd-c.plan.json'],
    ['<script>', 'script-c.plan.json'],
    ['***', 'c.plan.json'],
    ["'; drop table plans", 'drop-table-plans-c.plan.json'],
  ])('a plan called %j is exported as %s', (name, file) => {
    expect(planFileName({ name, revision: 'C' })).toBe(file);
  });
  test('a plan without any letter still has a file name', () => {
    expect(planFileName({ name: '…', revision: '' })).toBe('plan.plan.json');
  });
});

describe('the published schemas', () => {
  test('accept every shipped plan and the composed description', () => {
    for (const file of readdirSync('examples').filter((name) => name.endsWith('.plan.json'))) {
      expect([file, planProblems()(expectOk(readJson(file, readExample(file))))]).toEqual([file, []]);
    }
    const text = JSON.stringify(corvane().description);
    expect(deviceProblems()(expectOk(readJson('c40', text, 'deviceBytes')))).toEqual([]);
  });
  test('a description as JSON is the description of the tables', () => {
    const text = JSON.stringify(corvane().description);
    expect(expectOk(parseDevice('c40.json', text))).toEqual(corvane().description);
    const broken = parseDevice('c40.json', text.replace('"kind":"supply"', '"kind":"power"'));
    expect(broken).toMatchObject({
      ok: false,
      problems: [{ message: expect.stringContaining('must be one of io, supply') }],
    });
  });
});

describe('device tables', () => {
  const folder = 'devices/corvane-c40';
  const read = (name: string) => readFileSync(`${folder}/${name}`, 'utf8');
  const texts = {
    pinout: read('pinout.csv'),
    functions: read('functions.csv'),
    recipe: JSON.stringify(recipeFileOf(corvane().original), null, 2),
  };
  const problemsOf = (change: Partial<typeof texts>): string => {
    const all = { ...texts, ...change };
    const result = readDeviceFiles(
      { name: 'pinout.csv', text: all.pinout },
      { name: 'functions.csv', text: all.functions },
      { name: 'recipe.json', text: all.recipe },
    );
    return result.ok ? '' : result.problems.map((one) => `${one.place}: ${one.message}`).join('\n');
  };

  test('carry where each datum came from', () => {
    expect(corvane().pads.get('A4')?.source).toEqual({ document: 'corvane-c40/pinout.csv', row: 8 });
  });
  test.each<[string, Partial<typeof texts>, RegExp]>([
    [
      'a pad twice',
      { pinout: texts.pinout.replace('\nA1,', '\nA0,') },
      /pinout\.csv, row 5, column pad: A0 stands in row 4 already/,
    ],
    [
      'an unknown kind',
      { pinout: texts.pinout.replace('A0,io', 'A0,port') },
      /pinout\.csv, row 4, column kind: "port" is none of io/,
    ],
    [
      'a bit that is no number',
      { pinout: texts.pinout.replace('A0,io,A,0', 'A0,io,A,x') },
      /row 4, column bit: "x" is no bit number/,
    ],
    [
      'a pin twice',
      { pinout: texts.pinout.replace('7,3,3,3', '7,3,4,3') },
      /column q100: pin 4 is bonded to A0 already/,
    ],
    [
      'a missing column',
      { pinout: texts.pinout.replace('q100', 'q99') },
      /pinout\.csv, row 1: there is no column "q100"/,
    ],
    [
      'a row too short',
      { pinout: `${texts.pinout}A99,io\n` },
      /^pinout\.csv, row 124: has 2 cells, the headings are 14/,
    ],
    [
      'an unknown pad',
      { functions: texts.functions.replace('\nA0,', '\nQ0,') },
      /functions\.csv, row 2, column pad: the pinout has no pad Q0/,
    ],
    [
      'an unknown peripheral',
      { functions: texts.functions.replace('UART1.TX', 'VART1.TX') },
      /functions\.csv, row \d+, column F2: there is no peripheral VART1/,
    ],
    [
      'an unknown line',
      { functions: texts.functions.replace('UART1.TX', 'UART1.TZ') },
      /UART1 has no line TZ/,
    ],
    [
      'a strange signal',
      { functions: texts.functions.replace('UART1.TX', '=cmd()') },
      /"=cmd\(\)" is no signal/,
    ],
    [
      'a recipe that is no JSON',
      { recipe: texts.recipe.slice(0, 500) },
      /recipe\.json:\d+:\d+: not valid JSON/,
    ],
    [
      'a recipe with a wrong key',
      { recipe: texts.recipe.replace('"stages"', '"steps"') },
      /recipe has an unknown key "steps"/,
    ],
  ])('%s is refused with row and column', (_name, change, message) => {
    expect(problemsOf(change)).toMatch(message);
  });
});

describe('reports', () => {
  test('check and registers have their stable shapes', () => {
    const derived = deriveOn(frostGuard());
    expect(Object.keys(checkReport(derived))).toEqual(['plan', 'counts', 'findings']);
    const { registers, operations } = registersReport(derived);
    expect(registers.find((one) => one.name === 'PB.OUT')).toMatchObject({
      address: '0x50020824',
      bits: 16,
      reset: '0x0000',
      planned: '0x0080',
    });
    expect(operations[0]).toMatchObject({
      stage: 'gate',
      kind: 'update',
      register: 'GATE.ON',
      clear: '0x000000B7',
      set: '0x000000B7',
    });
  });
});

test('a plan whose keys come in any order is printed in the one', () => {
  const plan = frostGuard();
  const shuffled = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(shuffled);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value)
        .reverse()
        .map(([key, one]) => [key, shuffled(one)]),
    );
  };
  expect(printPlan(shuffled(plan) as typeof plan)).toBe(demoText);
});
