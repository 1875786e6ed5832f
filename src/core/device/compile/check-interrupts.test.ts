import { FAMILIES, family } from '@/testing/families';
import { loadSmall, problemsOfSmall, type SmallRecipe } from '@/testing/small-part';
import type { DeviceDescription, ListedLine } from '../../description/types';
import { interruptLine } from '../interrupt-lines';
import { loadDevice } from './load';

/** What a part says of its interrupt lines, and what its registers do. */
const saying = (folder: string, interrupts: DeviceDescription['interrupts']) => {
  const { original } = family(folder);
  const { interrupts: _own, ...rest } = original;
  return loadDevice(interrupts ? { ...rest, interrupts } : rest);
};
const told = (folder: string, interrupts: DeviceDescription['interrupts']): string[] => {
  const loaded = saying(folder, interrupts);
  return loaded.ok ? [] : loaded.problems.map(({ place, message }) => `${place}: ${message}`);
};

test.each(FAMILIES)('%s says one thing', (folder) => {
  expect(saying(folder, family(folder).original.interrupts).ok).toBe(true);
});

test('lines of their own, where registers let one of several pads interrupt, is a contradiction', () => {
  for (const lines of ['pad', 'port'] as const)
    expect(told('hadrik-h7', { lines, why: 'x' }).join()).toMatch(
      /^interrupts: say that \w+ and \w+ can both interrupt \(lines: \w+\), but they need different values in the same bits of EDGE\.WHO/,
    );
});

test('a line that the pads of several ports raise together is nobody’s alone; ports that are not there are named', () => {
  const small = (listed: ListedLine[]): SmallRecipe => ({
    part: { interrupts: { lines: 'listed', listed, why: 'x' } },
    settings: { mode: ['input', 'output'], trigger: ['none', 'rising'] },
    applies: { input: ['trigger'], output: [], function: [], analog: [] },
    registers: {
      blocks: [
        {
          id: 'PORT',
          each: 'port',
          base: '0x1000 + 0x40*p',
          name: 'P{port}',
          registers: [
            { id: 'DIR', offset: '0', bits: 8 },
            { id: 'RISE', offset: '1', bits: 8 },
          ],
        },
      ],
    },
    fields: {
      dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
      rise: { in: 'PORT.RISE', at: 'b', bits: 1 },
    },
    encode: [
      { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
      { field: 'rise', from: ['trigger'], table: { rising: 1, none: 0 } },
    ],
    stages: [{ id: 'all', fields: ['dir', 'rise'] }],
  });
  const lineOf = (listed: ListedLine[], id: string) => {
    const device = loadSmall(small(listed));
    return interruptLine(device, device.pads.get(id as never)!);
  };
  const both = [{ name: 'ALL', ports: ['A', 'B'], together: true, number: 9 }];
  for (const pad of ['A0', 'B7'])
    expect(lineOf(both, pad)).toEqual({ id: 'ALL', shared: 'together', number: 9 });
  const some = [
    { name: 'SOME', pads: ['A0', 'B1', 'B2'], together: true },
    { name: 'REST', ports: ['A'].slice(1), pads: ['A5'] },
  ];
  expect(lineOf(some, 'B1')).toEqual({ id: 'SOME', shared: 'together' });
  expect(lineOf(some, 'A5')).toMatchObject({ id: 'REST' });
  expect(lineOf(some, 'A6')).toBe('none');
  expect(problemsOfSmall(small([{ name: 'ALL', ports: ['C'] }]))).toMatch(/line ALL: there is no port C/);
  expect(problemsOfSmall(small([...both, { name: 'ONE', pads: ['A3'] }]))).toMatch(
    /line ONE: A3 is on line ALL as well/,
  );
});

test('registers that let one of several pads interrupt contradict a line that all raise together', () => {
  const ports = Object.keys(family('hadrik-h7').original.recipe.ports);
  const listed = [{ name: 'ALL', ports, together: true }];
  expect(told('hadrik-h7', { lines: 'listed', listed, why: 'x' }).join()).toMatch(/only one of them can/);
});

test('a listed line for each pad is one, too; listed lines that are shared are none', () => {
  const { original } = family('hadrik-h7');
  const pads = original.pads.filter((pad) => pad.kind === 'io' && pad.bit === 3).map(({ id }) => id);
  const each = pads.map((id) => ({ name: id, pads: [id] }));
  expect(told('hadrik-h7', { lines: 'listed', listed: each, why: 'x' }).join()).toMatch(
    /only one of them can/,
  );
  expect(told('hadrik-h7', { lines: 'listed', listed: [{ name: 'L3', pads }], why: 'x' })).toEqual([]);
});
