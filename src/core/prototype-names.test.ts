import { expectOk } from '@/testing/expect-ok';
import { derive } from './derive/derive';
import { search } from './derive/search';
import { printDevice } from './description/print-device';
import type { DeviceDescription } from './description/types';
import { loadDevice } from './device/compile/load';
import { parseDevice, readDeviceFiles } from './import/compose/device-files';
import { EMPTY_REST, readDraft } from './import/compose/draft';
import { printTables } from './import/compose/print-tables';
import { guessMapping } from './import/tables/guess';
import { readText } from './import/tables/read-text';
import { cTarget } from './output/code/c/target';
import { generateFiles } from './output/generate';
import { applyEdit } from './plan/edits/edits';
import { setEntry } from './plan/edits/make-edits';
import { parsePlan } from './plan/file/plan-file';
import { printPlan } from './plan/file/print-plan';
import { emptyPlan, entryOf, type Plan } from './plan/model/types';

/** Every object has these, whether anybody put them there or not. They are names like any other here. */
const NAMES = [
  'constructor',
  'toString',
  'valueOf',
  'hasOwnProperty',
  'isPrototypeOf',
  'propertyIsEnumerable',
];
const [PORT = '', KIND = '', LINE = '', CLASS = '', SUPPLY = '', NOTE = ''] = NAMES;

const description: DeviceDescription = {
  format: 'mavrek-device/3',
  id: 'toString',
  name: 'Prototype',
  maker: 'nobody',
  summary: '',
  packages: [
    {
      id: 'valueOf',
      name: 'q8',
      shape: { kind: 'dual-row', pins: 8 },
      pins: Object.fromEntries([
        ...NAMES.map((pad, at) => [String(at + 1), pad]),
        ['7', 'VDD'],
        ['8', 'VSS'],
      ]),
    },
  ],
  pads: [
    ...NAMES.map((id, bit) => ({
      id,
      kind: 'io' as const,
      port: PORT,
      bit,
      class: CLASS,
      supply: SUPPLY,
      notes: [NOTE],
    })),
    { id: 'VDD', kind: 'supply' as const },
    { id: 'VSS', kind: 'ground' as const },
  ],
  padClasses: { [CLASS]: { title: 'standard' } },
  supplies: [{ id: SUPPLY, title: 'supply', nominalVolts: 3.3 }],
  peripheralKinds: { [KIND]: { title: 'kind', lines: { [LINE]: { direction: 'out' } } } },
  peripherals: [{ id: `${KIND}1`, kind: KIND }],
  functions: [{ pad: PORT, signal: `${KIND}1.${LINE}`, mux: 1 }],
  notes: { [NOTE]: 'a note' },
  recipe: {
    endian: 'little',
    settings: { mode: ['input', 'output', 'function'], level: ['low', 'high'] },
    applies: { output: ['level'] },
    ports: { [PORT]: { valueOf: 0 } },
    registers: {
      blocks: [
        {
          id: 'constructor',
          each: 'port',
          base: '0x1000 + port.valueOf',
          registers: [
            { id: 'valueOf', offset: '0', bits: 32, reset: { [PORT]: '0x0' } },
            { id: 'toString', offset: '4', bits: 8 },
          ],
        },
      ],
    },
    fields: {
      constructor: { in: 'constructor.valueOf', at: 'b * 2', bits: 2 },
      toString: { in: 'constructor.toString', at: 'b', bits: 1 },
    },
    access: { latch: 'toString' },
    encode: [
      { field: 'constructor', from: ['mode'], table: { input: 0, output: 1, function: 2 } },
      { field: 'toString', from: ['level'], table: { high: 1, low: 0 } },
    ],
    stages: [{ id: 'constructor', fields: ['toString', 'constructor'] }],
  },
};

test('a part whose every name is one of them loads, and comes back from its file and its tables', () => {
  const device = expectOk(loadDevice(description));
  const read = expectOk(parseDevice('x', printDevice(device.original)));
  expect(JSON.parse(JSON.stringify(read))).toEqual(description);
  const { pinout, functions, recipe } = printTables(device.original);
  const again = expectOk(
    readDeviceFiles({ name: 'p', text: pinout }, { name: 'f', text: functions }, { name: 'r', text: recipe }),
  );
  expect(expectOk(loadDevice(again)).fingerprint).toBe(device.fingerprint);
});

test('tables of such names are read without a recipe', () => {
  const table = (kind: 'pinout' | 'functions', text: string) => {
    const grid = expectOk(readText(kind, text));
    return { grid, mapping: guessMapping(kind, grid, { unknown: 'ignore' }), source: { document: kind } };
  };
  const reading = readDraft({
    pinout: table(
      'pinout',
      `pad,kind,supply,class,q8\n${NAMES.map((name, at) => `${name},io,${SUPPLY},${CLASS},${at + 1}`).join('\n')}`,
    ),
    functions: table('functions', `pad,F0\nconstructor,toString1.valueOf\nvalueOf,toString1.constructor\n`),
    device: { id: 'x', name: 'X', maker: '', summary: '' },
    rest: EMPTY_REST,
    corrections: [],
    padColumns: {},
  });
  expect(
    [...reading.pinout.problems, ...reading.functionTable.problems].filter((one) => one.severity === 'error'),
  ).toEqual([]);
  expect(Object.keys(reading.description?.peripheralKinds['toString' as string]?.lines ?? {})).toEqual([
    'valueOf',
    'constructor',
  ]);
});

test('a plan on it is derived, checked, printed and found; what nobody set is not set', () => {
  const device = expectOk(loadDevice(description));
  let plan: Plan = {
    ...emptyPlan('constructor', 'toString', 'valueOf', device.fingerprint),
    circuits: [{ id: 'constructor', name: 'toString' }],
    nets: NAMES.map((name, at) => ({
      id: name,
      name,
      circuit: 'constructor',
      role: at === 0 ? { kind: 'signal', signal: `${KIND}1.${LINE}` } : { kind: 'output' },
      placement: { pad: name, locked: false },
      settings: {},
    })),
  };
  for (const name of NAMES) {
    expect(entryOf(plan, 'label', name)).toBeUndefined();
    plan = expectOk(applyEdit(plan, setEntry(plan, 'label', name, `at ${name}`)));
    expect(entryOf(plan, 'label', name)).toBe(`at ${name}`);
  }
  const derived = expectOk(derive(device, plan));
  expect(derived.findings.filter((one) => one.severity === 'error')).toEqual([]);
  expect(derived.proof.proven).toBe(NAMES.length);
  expect(generateFiles(cTarget, derived)).toHaveLength(2);
  expect(search(derived, 'constructor').length).toBeGreaterThan(1);
  expect(JSON.parse(JSON.stringify(expectOk(parsePlan('x', printPlan(plan)))))).toEqual(
    JSON.parse(JSON.stringify(plan)),
  );
});

test('as keys of a file they are refused like any other unknown key', () => {
  const text = printPlan(emptyPlan('x', 'toString', 'q', ''));
  for (const key of [...NAMES, '__proto__']) {
    const result = parsePlan('x', text.replace('{', `{ "${key}": 1,`));
    expect([key, result.ok ? '' : result.problems[0]?.message]).toEqual([
      key,
      `the file has an unknown key "${key}"`,
    ]);
  }
});
