import { loadSmall } from '@/testing/small-part';
import type { RecipeSource, StageSource } from '../../description/recipe';
import { canonical } from '../../device/fields/encode';
import type { CodeStyle } from '../../plan/model/types';
import { lower } from '../lower/lower';
import { notCovered } from './not-covered';
import { prove } from './proof';

/** An interrupt enabled while its flag may be up runs at once, for nothing. */

const recipe = (stages: StageSource[], change: Partial<RecipeSource> = {}): Partial<RecipeSource> => ({
  settings: { mode: ['input', 'output'], trigger: ['none', 'rising', 'falling'] },
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
          { id: 'FALLS', offset: '1', bits: 8 },
          { id: 'ASK', offset: '2', bits: 8 },
          { id: 'FLAG', offset: '3', bits: 8, clearedByOne: '0xFF' },
        ],
      },
    ],
  },
  fields: {
    dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
    falls: { in: 'PORT.FALLS', at: 'b', bits: 1 },
    ask: { in: 'PORT.ASK', at: 'b', bits: 1 },
    flag: { in: 'PORT.FLAG', at: 'b', bits: 1 },
  },
  access: { pending: 'flag', enable: 'ask' },
  encode: [
    { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
    { field: 'falls', from: ['trigger'], table: { falling: 1, '*': 0 } },
    { field: 'ask', from: ['trigger'], table: { none: 0, '*': 1 } },
  ],
  stages,
  ...change,
});
const direction: StageSource = { id: 'direction', fields: ['dir'] };
const sense: StageSource = { id: 'sense', fields: ['falls'] };
const clear: StageSource = { id: 'clear', per: 'pad', do: ['PORT.FLAG bit b := 1'] };
const enable: StageSource = { id: 'enable', fields: ['ask'] };

function outcome(
  stages: StageSource[],
  style: CodeStyle,
  trigger = 'falling',
  change?: Partial<RecipeSource>,
) {
  const device = loadSmall(recipe(stages, change));
  const planned = ['A0', 'A5'].map((id) => {
    const pad = device.pads.get(id);
    if (!pad) throw new Error(id);
    const values = id === 'A0' ? { mode: 'input', trigger } : { mode: 'input' };
    const settings = canonical(
      device.description.recipe,
      { values, ...device.selection(undefined) },
      undefined,
    );
    return { pad, settings };
  });
  const lowered = lower(device, planned, style);
  return {
    messages: prove(device, planned, lowered).failures.map(({ message }) => message),
    uncovered: notCovered(device, planned, lowered)
      .filter(({ kind }) => kind === 'flags')
      .map(({ text }) => text),
  };
}

describe.each(['from-reset', 'preserving'] as const)('an old flag (%s)', (style) => {
  test('is cleared after what is noticed is chosen, and before the interrupt is enabled', () => {
    expect(outcome([direction, sense, clear, enable], style)).toEqual({ messages: [], uncovered: [] });
  });
  test('raised by the choice of what is noticed is seen', () => {
    expect(outcome([direction, clear, sense, enable], style).messages).toEqual([
      'after operation ' +
        `${style === 'from-reset' ? 3 : 4} (stage enable) the interrupt of A0 is enabled while its flag may be up: ` +
        `operation ${style === 'from-reset' ? 2 : 3} (stage sense) has changed what it notices, and nothing has cleared it after that`,
    ]);
  });
  test('that is cleared too late is seen', () => {
    const { messages } = outcome([direction, sense, enable, clear], style);
    expect(messages).toHaveLength(1);
    expect(messages[0]).toContain('is enabled while its flag may be up');
  });
});

test('from every state a flag may be up from the start; out of reset it is down', () => {
  const stages = [direction, sense, enable];
  expect(outcome(stages, 'from-reset', 'rising').messages).toEqual([]);
  const [message] = outcome(stages, 'preserving', 'rising').messages;
  expect(message).toContain('is enabled while its flag may be up');
});

test('where the description does not name enable and flag, that is not covered, and said', () => {
  const bare = outcome([direction, sense, enable], 'from-reset', 'falling', { access: {} });
  expect(bare.messages).toEqual([]);
  expect(bare.uncovered).toEqual([
    'A0: whether an old flag interrupts at once when the interrupt is enabled; the description does not name the field that enables an interrupt, and that is its flag',
  ]);
});
