import { loadSmall, problemsOfSmall, type SmallRecipe } from '@/testing/small-part';
import { canonical } from '../../device/fields/encode';
import type { PlannedPad } from '../../device/planned-pad';
import type { CodeStyle } from '../../plan/model/types';
import { lower } from '../lower/lower';
import { prove } from './proof';

/**
 * Signals that choose their pad: a register of the signal holds the number of the pad that it drives. On A0 and on B0 it is UART1.TX.
 * `direction`: the function needs the port's direction to be input; else it takes the pad whatever the port says.
 */
const recipe = (direction: boolean, reset = '0xFF'): SmallRecipe => ({
  settings: { mode: ['input', 'output', 'function'], level: ['low', 'high'] },
  applies: { input: [], output: ['level'], function: [], analog: [] },
  registers: {
    blocks: [
      {
        id: 'PORT',
        each: 'port',
        base: '0x1000 + 0x400*p',
        name: 'P{port}',
        registers: [
          { id: 'DIR', offset: '0', bits: 8 },
          { id: 'LATCH', offset: '1', bits: 8 },
        ],
      },
      {
        id: 'SIG',
        each: 'signal',
        base: '0x3000 + fn.line',
        name: 'S_{signal}',
        registers: [{ id: 'SEL', offset: '0', bits: 8, reset }],
      },
    ],
  },
  fields: {
    dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
    latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
    sel: { in: 'SIG.SEL', at: '0', bits: 8 },
  },
  access: { latch: 'latch' },
  encode: [
    {
      field: 'dir',
      from: ['mode', 'line'],
      table: direction
        ? { 'output *': 1, '* *': 0 }
        : { 'output *': 1, 'input *': 0, 'function in': 0, 'function *': 'keep' },
    },
    { field: 'latch', from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } },
    { field: 'sel', from: ['mode'], table: { function: 'n', '*': 'keep' } },
  ],
  stages: [
    { id: 'latch', fields: ['latch'] },
    { id: 'direction', fields: ['dir'] },
    { id: 'route', fields: ['sel'] },
  ],
});

/** What stands in the way of plans like `A0 output`, `B0 function`. */
function failures(described: SmallRecipe, style: CodeStyle, ...pads: string[]): string[] {
  expect(problemsOfSmall(described)).toBe('');
  const device = loadSmall(described);
  const planned = pads.map((text): PlannedPad => {
    const [id = '', mode = ''] = text.split(' ');
    const pad = device.pads.get(id as never)!;
    const fn = mode === 'function' ? device.functionsByPad.get(pad.id)?.[0] : undefined;
    const values = { mode, ...(mode === 'output' ? { level: 'high' } : {}) };
    const settings = canonical(device.description.recipe, { values, ...device.selection(fn) }, undefined);
    return { pad, ...(fn ? { fn } : {}), settings };
  });
  return prove(device, planned, lower(device, planned, style)).failures.map(({ message }) => message);
}

const TAKEN =
  'A0 may be driven by UART1.TX in the end: nothing writes all bits of S_UART1_TX.SEL, which may select the pad';

test('out of reset no signal has chosen a pad, and no plan is refused for that', () => {
  for (const direction of [true, false])
    for (const pads of [['A0 output'], ['A0 input'], ['A0 output', 'B0 function'], ['A0 function']])
      expect(failures(recipe(direction), 'from-reset', ...pads)).toEqual([]);
});

test('a signal that has chosen the pad out of reset takes it, also from an output', () => {
  expect(failures(recipe(false, '0'), 'from-reset', 'A0 output')).toEqual([TAKEN]);
  expect(failures(recipe(false, '0'), 'from-reset', 'A0 input')).toEqual([TAKEN]);
  expect(failures(recipe(true, '0'), 'from-reset', 'A0 output')).toEqual([]);
});

test('whatever its register held: a pad that a signal may have chosen is not called proven', () => {
  expect(failures(recipe(true), 'preserving', 'A0 input')).toEqual([TAKEN]);
  expect(failures(recipe(false), 'preserving', 'A0 output')).toEqual([TAKEN]);
  // Here the direction decides, and no function of A5 is there to take it.
  expect(failures(recipe(true), 'preserving', 'A0 output')).toEqual([]);
  for (const direction of [true, false])
    expect(failures(recipe(direction), 'preserving', 'A5 input')).toEqual([]);
});

test('steps for each signal that the plan leads nowhere lead it away from the planned pads', () => {
  for (const direction of [true, false])
    for (const style of ['from-reset', 'preserving'] as const) {
      const described = recipe(direction, '0');
      const release = { id: 'release', per: 'signal' as const, where: 'fn.line', do: ['SIG.SEL := 0x1F'] };
      const stages = [release, ...(described.stages ?? [])];
      expect(failures({ ...described, stages }, style, 'A0 input')).toEqual([]);
      expect(failures({ ...described, stages }, style, 'A0 output', 'A5 output')).toEqual([]);
    }
});

test('where the plan leads the signal elsewhere, its register says so in the end', () => {
  for (const direction of [true, false])
    expect(failures(recipe(direction), 'preserving', 'A0 input', 'B0 function')).toEqual([]);
});
