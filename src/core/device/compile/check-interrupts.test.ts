import { FAMILIES, family } from '@/testing/families';
import type { DeviceDescription } from '../../description/types';
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

test('a listed line for each pad is one, too; listed lines that are shared are none', () => {
  const { original } = family('hadrik-h7');
  const pads = original.pads.filter((pad) => pad.kind === 'io' && pad.bit === 3).map(({ id }) => id);
  const each = pads.map((id) => ({ name: id, pads: [id] }));
  expect(told('hadrik-h7', { lines: 'listed', listed: each, why: 'x' }).join()).toMatch(
    /only one of them can/,
  );
  expect(told('hadrik-h7', { lines: 'listed', listed: [{ name: 'L3', pads }], why: 'x' })).toEqual([]);
});
