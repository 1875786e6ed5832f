import { expectOk } from '@/testing/expect-ok';
import { randomFrom } from '@/testing/random';
import { smallPart } from '@/testing/small-part';
import { lower } from '../../derive/lower/lower';
import { prove } from '../../derive/simulate/proof';
import type { DeviceDescription } from '../../description/types';
import { loadDevice } from '../../device/compile/load';
import { settingsOf } from '../../device/decode';
import type { BuiltRecipe } from '../attach/build';
import type { HardwareAnswers } from './answers';
import { blankAnswers, recipeOfAnswers, withBits, withShape } from './hardware';
import { mergeByHand } from './merge';
import { NONE, shapeOf, TOPICS } from './topics';

const part = smallPart({});
const pads = part.pads;
const PORTS = ['A', 'B'];

const described = ({ recipe, padColumns }: BuiltRecipe): DeviceDescription => ({
  ...part,
  pads: pads.map((pad) => ({ ...pad, columns: { ...pad.columns, ...padColumns[pad.id] } })),
  recipe,
});

/** Answers with shapes chosen, the registers standing one after the other. */
function answered(shapes: Record<string, string>, change: Partial<HardwareAnswers> = {}): HardwareAnswers {
  const answers = { ...blankAnswers(), base: '0x40001000', step: '0x100', ...change };
  let offset = 0;
  let low = 0;
  for (const topic of TOPICS) {
    const shape = shapeOf(topic, shapes[topic.id] ?? NONE);
    const next = withShape(answers.topics[topic.id] as never, shape);
    for (const { role, bits } of shape?.registers ?? []) {
      const register = next.registers[role];
      if (!register) continue;
      register.offset = `0x${offset.toString(16)}`;
      register.low = String(low);
      offset += 4;
      low += bits === 'open' ? next.bits : bits;
    }
    answers.topics[topic.id] = next;
  }
  return answers;
}

const problemsOf = (answers: HardwareAnswers): string =>
  recipeOfAnswers(answers, PORTS, pads)
    .problems.map((one) => `${one.place}: ${one.message}`)
    .join('\n');
const build = (answers: HardwareAnswers): BuiltRecipe => {
  const { built, problems } = recipeOfAnswers(answers, PORTS, pads);
  if (!built || problems.length > 0) throw new Error(problemsOf(answers));
  return built;
};

test('any of the usual shapes, with any others, is a recipe that loads and is proven', () => {
  const random = randomFrom(13);
  for (let round = 0; round < 40; round++) {
    const shapes = Object.fromEntries(
      TOPICS.map((topic) => {
        const all = [...(topic.needed ? [] : [NONE]), ...topic.shapes.map((one) => one.id)];
        return [topic.id, random.pick(all)];
      }),
    );
    // Without a latch no output has a level; without the bit a code of 0 is the plain port.
    const device = expectOk(loadDevice(described(build(answered(shapes)))));
    const pad = device.pads.get(random.pick(['A0', 'A1', 'B0', 'B7']));
    if (!pad) throw new Error('no pad');
    for (const { settings, fn } of settingsOf(device, pad)) {
      for (const style of ['from-reset', 'preserving'] as const) {
        const planned = [{ pad, fn, settings }];
        expect([shapes, prove(device, planned, lower(device, planned, style)).failures]).toEqual([
          shapes,
          [],
        ]);
      }
    }
  }
});

test('addresses, strides and values are as typed', () => {
  const answers = answered({ direction: 'mode', level: 'set-clear', function: 'code' });
  const mode = answers.topics.direction;
  if (mode)
    Object.assign(mode, { bits: 2, stride: 4, values: { mode: { input: 0, output: 1, function: 3 } } });
  const code = answers.topics.function;
  if (code) Object.assign(code, { bits: 4, stride: 8 });
  const device = expectOk(loadDevice(described(build(answers))));
  expect(device.registers.byName.get('PB.USE')?.address).toBe(0x40001100);
  const pad = device.pads.get('B5');
  if (!pad) throw new Error('no pad');
  expect(device.slotsOf('mode', pad)).toMatchObject([{ low: 20, bits: 2 }]);
  // Four codes of eight bits in a word: the second register holds those of pads 4 to 7.
  expect(device.slotsOf('code', pad)).toMatchObject([{ low: 8, bits: 4, register: { address: 0x40001114 } }]);
  expect(device.description.recipe.fields.latch).toMatchObject({ setBy: 'PORT.SETS' });
});

test('ports are counted in their own order, and one that does not keep the distance is where it is said to be', () => {
  const order = (ports: readonly string[]) => {
    const { built } = recipeOfAnswers(answered({ direction: 'bit' }), ports, pads);
    return Object.keys(built?.recipe.ports ?? {});
  };
  // Pads may stand in the table in any order.
  expect(order(['B', 'A'])).toEqual(['A', 'B']);
  expect(order(['10', '9', '1'])).toEqual(['1', '9', '10']);
  const answers = answered({ direction: 'bit' }, { bases: { B: '0x4000A000' } });
  const device = expectOk(loadDevice(described(build(answers))));
  expect(device.registers.byName.get('PA.DIR')?.address).toBe(0x40001000);
  expect(device.registers.byName.get('PB.DIR')?.address).toBe(0x4000a000);
});

test('a word for each pad', () => {
  const answers = answered(
    { direction: 'bit', level: 'latch', read: 'bit', pull: 'on-way', function: 'code' },
    { layout: 'pad', base: '0x5000', step: '4' },
  );
  const device = expectOk(loadDevice(described(build(answers))));
  const pad = device.pads.get('B0');
  if (!pad) throw new Error('no pad');
  expect(device.slotsOf('direction', pad)[0]?.register.address).toBe(0x5000 + 8 * 4);
  // The level is shown among bits that are written, and the word's value after reset is one.
  const word = device.registers.byName.get('B0.WORD');
  expect(word?.levels.map((one) => one.bit)).toEqual([2]);
  const low = Object.assign(answers, { wordReset: '0x3' });
  const other = expectOk(loadDevice(described(build(low))));
  expect(other.registers.byName.get('B0.WORD')?.reset).toBe(3);
  expect(problemsOf({ ...answers, wordReset: 'x' })).toMatch(/"x" is no number/);
});

test('what is not answered whole is left out, and the rest can be tried', () => {
  const answers = answered({ direction: 'bit', pull: 'on-way' });
  Object.assign(answers.topics.pull?.registers['pull-way'] ?? {}, { offset: '' });
  const { built, problems } = recipeOfAnswers(answers, PORTS, pads);
  expect(problems).toEqual([
    { place: 'How is a pull switched on?', message: 'the offset of WAY is not said yet' },
  ]);
  expect(Object.keys(built?.recipe.fields ?? {})).toEqual(['direction']);
});

test('words of pads stand in the order of ports and bits, whatever the order of the table', () => {
  const layout = { layout: 'pad', base: '0x5000', step: '4' } as const;
  const address = (change: Partial<HardwareAnswers>, id: string): number | undefined => {
    const turned = [...pads].reverse();
    const { built } = recipeOfAnswers(
      answered({ direction: 'bit' }, { ...layout, ...change }),
      PORTS,
      turned,
    );
    if (!built) throw new Error('no recipe');
    const device = expectOk(
      loadDevice({
        ...part,
        pads: turned.map((pad) => ({ ...pad, columns: { ...pad.columns, ...built.padColumns[pad.id] } })),
        recipe: built.recipe,
      }),
    );
    const pad = device.pads.get(id);
    return pad && device.slotsOf('direction', pad)[0]?.register.address;
  };
  expect(address({}, 'A0')).toBe(0x5000);
  expect(address({}, 'B1')).toBe(0x5000 + 4 * 9);
  expect(address({ portStep: '0x100' }, 'B1')).toBe(0x5000 + 0x100 + 4);
});

test('values are as many as bits hold, and those that the part has not may be taken away', () => {
  const shape = shapeOf(TOPICS.find((one) => one.id === 'drive') as never, 'field');
  if (!shape) throw new Error('no shape');
  const one = withBits(withShape(blankAnswers().topics.drive as never, shape), shape, 1);
  expect(one.values.drive).toEqual({ 'drive-0': 0, 'drive-1': 1 });
  expect(Object.values(withBits(one, shape, 2).values.drive ?? {})).toEqual([0, 1, 2, 3]);
  const answers = answered({ direction: 'bit', pull: 'field' });
  Object.assign(answers.topics.pull?.values ?? {}, { pull: { none: 0, up: 3 } });
  expect(build(answers).recipe.settings.pull).toEqual(['none', 'up']);
});

test('clock gates, as bits that are typed', () => {
  const gate = { name: 'ON', address: '0x40020000', opensAt: 1 as const, ports: { A: '3', B: '7' } };
  const device = expectOk(loadDevice(described(build(answered({ direction: 'bit' }, { gate })))));
  expect(device.description.recipe.ports).toMatchObject({ A: { gate: 3 }, B: { gate: 7 } });
  expect(
    problemsOf(answered({ direction: 'bit' }, { gate: { ...gate, ports: { A: '3', B: '3' } } })),
  ).toMatch(/two ports have the same bit/);
});

test.each<[string, (answers: HardwareAnswers) => void, RegExp]>([
  ['nothing', (a) => Object.assign(a, blankAnswers()), /How is direction chosen\?: choose one of the shapes/],
  ['no base', (a) => (a.base = ''), /the address of the first port is not said yet/],
  ['no number', (a) => (a.base = '4G'), /"4G" is no number/],
  ['no distance', (a) => (a.step = '0'), /all ports would have the same registers/],
  [
    'no offset',
    (a) => Object.assign(a.topics.direction?.registers.direction ?? {}, { offset: '' }),
    /the offset of DIR is not said yet/,
  ],
  [
    'askew',
    (a) => Object.assign(a.topics.direction?.registers.direction ?? {}, { offset: '2' }),
    /not aligned to its 32 bits/,
  ],
  [
    'a hostile name',
    (a) => Object.assign(a.topics.direction?.registers.direction ?? {}, { name: 'A;x' }),
    /the name of the register/,
  ],
  [
    'one offset twice',
    (a) => Object.assign(a.topics.level?.registers.latch ?? {}, { offset: '0' }),
    /DIR and LATCH have the same offset/,
  ],
  [
    'one name twice',
    (a) => Object.assign(a.topics.level?.registers.latch ?? {}, { name: 'DIR' }),
    /two registers are called DIR/,
  ],
  [
    'equal values',
    (a) => Object.assign(a.topics.direction?.values.direction ?? {}, { input: 1 }),
    /two of its values have the same number/,
  ],
  [
    'a value too large',
    (a) => Object.assign(a.topics.direction?.values.direction ?? {}, { input: 9 }),
    /9 does not fit 1 bit/,
  ],
])('%s is told with the question', (_name, change, message) => {
  const answers = answered({ direction: 'bit', level: 'latch' });
  change(answers);
  expect(problemsOf(answers)).toMatch(message);
});

describe('a change of the answers laid over a text that was edited by hand', () => {
  const before = build(answered({ direction: 'bit', level: 'latch' })).recipe;
  const after = build(answered({ direction: 'bit', level: 'latch', pull: 'up' })).recipe;
  test('keeps what was edited', () => {
    const byHand = structuredClone(before);
    byHand.stages.push({ id: 'mine', do: ['PORT.DIR bit 3 := 1'] });
    const { value, replaced } = mergeByHand(before, byHand, after);
    const merged = value as typeof before;
    expect(replaced).toEqual([]);
    expect(merged.stages.map((one) => one.id)).toEqual(['latch', 'electrical', 'direction', 'mine']);
    expect(merged.fields).toHaveProperty('pull_up');
  });
  test('says what it had to replace', () => {
    const byHand = structuredClone(before);
    byHand.settings.pull = ['none', 'soft'];
    const { value, replaced } = mergeByHand(before, byHand, after);
    expect(replaced).toEqual(['settings, pull']);
    expect((value as typeof before).settings.pull).toEqual(['none', 'up']);
  });
  test('changes nothing where nothing was edited', () => {
    expect(mergeByHand(before, before, after).value).toEqual(after);
    expect(mergeByHand(before, before, before).value).toEqual(before);
  });
});
