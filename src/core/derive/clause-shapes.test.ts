import { fuzzBudget, type Random, randomFrom } from '@/testing/random';
import { SecondJudge } from '@/testing/second-judge';
import { loadSmall, problemsOfSmall, type SmallRecipe, smallPart } from '@/testing/small-part';
import type { BlockSource, RecipeSource, RegisterSource, StageSource } from '../description/recipe';
import type { Device } from '../device/device';
import { canonical } from '../device/fields/encode';
import type { PlannedPad } from '../device/planned-pad';
import type { CodeStyle } from '../plan/model/types';
import { lower } from './lower/lower';
import type { Operation } from './machine/operations';
import { prove } from './simulate/proof';

/**
 * Hardware that only clauses can say: described, solved for, proven from reset and from every state, and run on the second machine, whose
 * clauses are translated from the text by other code.
 */

interface Shape {
  registers: RegisterSource[];
  blocks?: BlockSource[];
  stages?: StageSource[];
  more?: Partial<RecipeSource>;
}

const DIR: RegisterSource = { id: 'DIR', offset: '0', bits: 8 };
const hidden = (id: string, more: Partial<RegisterSource> = {}): RegisterSource => ({
  id,
  offset: '0',
  bits: 8,
  access: 'internal',
  ...more,
});
const at = (offset: number, id: string, more: Partial<RegisterSource>): RegisterSource => ({
  id,
  offset: String(offset),
  bits: 8,
  ...more,
});

const recipeOf = ({ registers, blocks = [], stages, more }: Shape): SmallRecipe => ({
  settings: { mode: ['input', 'output'], level: ['low', 'high'] },
  applies: { input: [], output: ['level'], function: [], analog: [] },
  registers: {
    blocks: [{ id: 'PORT', each: 'port', base: '0x1000 + 0x400*p', name: 'P{port}', registers }, ...blocks],
  },
  fields: {
    dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
    latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
  },
  access: { latch: 'latch' },
  encode: [
    { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
    { field: 'latch', from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } },
  ],
  stages: stages ?? [
    { id: 'latch', fields: ['latch'] },
    { id: 'direction', fields: ['dir'] },
  ],
  ...more,
});

const SHAPES: Record<string, Shape> = {
  'a latch that no address reads, and registers that set and clear it': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(2, 'SETS', { write: 'LATCH |= v' }),
      at(3, 'CLRS', { write: 'LATCH &= ~v' }),
    ],
  },
  'of two states one: a write sets one and clears the other': {
    registers: [
      hidden('DIR'),
      hidden('IN'),
      at(1, 'LATCH', {}),
      at(2, 'DRIVE', { write: 'DIR |= v; IN &= ~v' }),
      at(3, 'LISTEN', { write: 'DIR &= ~v; IN |= v' }),
    ],
  },
  'an address that is itself the mask': {
    registers: [
      DIR,
      hidden('LATCH'),
      {
        id: 'AT',
        offset: '0x100 + i',
        bits: 8,
        count: 256,
        read: 'LATCH & i',
        write: 'LATCH := LATCH & ~i | v & i',
      },
    ],
  },
  'a word for each pad that is a bit of the port’s register': {
    registers: [DIR, hidden('LATCH')],
    blocks: [
      {
        id: 'PAD',
        each: 'pad',
        base: '0x3000 + 0x10*n',
        name: 'W{pad}',
        registers: [
          at(0, 'OUT', {
            read: 'PORT.LATCH >> b & 1',
            write: 'PORT.LATCH := PORT.LATCH & ~(1 << b) | (v & 1) << b',
          }),
        ],
      },
    ],
  },
  'a window of three accesses after a key': {
    registers: [
      DIR,
      hidden('LATCH'),
      hidden('LEFT', { 'any access': 'this := this == 0 ? 0 : this - 1' }),
      at(5, 'KEY', { write: 'LEFT := v == 0x5A ? 3 : LEFT' }),
      at(6, 'OUT', { read: 'LATCH', write: 'LATCH := v', 'write when': 'LEFT > 0' }),
    ],
    stages: [
      { id: 'latch', per: 'port', 'before each': ['PORT.KEY := 0x5A'], fields: ['latch'] },
      { id: 'direction', fields: ['dir'] },
    ],
  },
  'a sequence that any access in between breaks, with a value for each port': {
    registers: [
      DIR,
      hidden('LATCH'),
      hidden('STEP', { 'any access': 'this := 0' }),
      at(5, 'KEY', { write: 'STEP := v == 0xA0 + p ? 1 : (v == 0x50 + p) & (STEP == 1) ? 2 : 0' }),
      at(6, 'OUT', { write: 'LATCH := v', 'write when': 'STEP == 2' }),
    ],
    stages: [
      {
        id: 'latch',
        per: 'port',
        'before each': ['PORT.KEY := 0xA0 + p', 'PORT.KEY := 0x50 + p'],
        fields: ['latch'],
      },
      { id: 'direction', fields: ['dir'] },
    ],
  },
  'a command register that sets or clears by what its upper half says': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(4, 'ORDER', {
        bits: 16,
        write: 'LATCH := v >> 8 == 1 ? LATCH | v : v >> 8 == 2 ? LATCH & ~v : LATCH',
      }),
    ],
  },
  'a command register for all ports, with port and bit in the word': {
    registers: [DIR, hidden('LATCH')],
    blocks: [
      {
        id: 'ALL',
        base: '0x3000',
        registers: [
          at(0, 'ORDER', {
            write:
              'PORT[A].LATCH := v & 0x40 == 0 ? PORT[A].LATCH & ~(v & 1 == 1 ? 1 : 0) | (v & 0x81 == 0x81 ? 1 : 0) | 0 : PORT[A].LATCH',
          }),
          {
            id: 'UP',
            offset: '0x10 + i',
            bits: 8,
            count: 8,
            write: 'PORT[A].LATCH |= v & 1 == 1 ? 1 << i : 0; PORT[B].LATCH |= v & 2 == 2 ? 1 << i : 0',
          },
          {
            id: 'DOWN',
            offset: '0x20 + i',
            bits: 8,
            count: 8,
            write: 'PORT[A].LATCH &= ~(v & 1 == 1 ? 1 << i : 0); PORT[B].LATCH &= ~(v & 2 == 2 ? 1 << i : 0)',
          },
        ],
      },
    ],
  },
  'a broadcast word that must be read once before it is taken': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(6, 'OUT', { read: 'LATCH', write: 'LATCH := v', 'write when': 'ALL.READY == 1' }),
    ],
    blocks: [
      {
        id: 'ALL',
        base: '0x3000',
        registers: [
          hidden('READY', {}),
          at(0, 'LOOK', { read: '0', 'after read': 'READY := 1' }),
          at(1, 'QUIET', { write: 'PORT[*].DIR := v' }),
        ],
      },
    ],
    stages: [
      { id: 'quiet', do: ['await ALL.LOOK bit 0 = 0 within 1'] },
      { id: 'latch', fields: ['latch'] },
      { id: 'direction', fields: ['dir'] },
    ],
  },
  'turned by ones only: what is not known is read first': {
    registers: [DIR, at(1, 'LATCH', { read: 'this', write: 'this ^= v' })],
  },
  'a mirror in reversed order': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(4, 'OUT', {
        read: mirrored('LATCH'),
        write: `LATCH := ${mirrored('v')}`,
      }),
    ],
  },
  'two bits of state that agree or not: a difference is written': {
    registers: [
      hidden('DIR'),
      hidden('SIDE'),
      at(1, 'LATCH', {}),
      at(2, 'TURN', { read: 'DIR ^ SIDE', write: 'DIR := v ^ SIDE' }),
      at(3, 'SIDES', { read: 'SIDE' }),
    ],
  },
};

function mirrored(name: string): string {
  return Array.from({ length: 8 }, (_, bit) => `(${name} >> ${bit} & 1) << ${7 - bit}`).join(' | ');
}

function planOf(device: Device, seed: number): PlannedPad[] {
  const random = randomFrom(seed);
  const pads = [...device.pads.values()].filter((pad) => pad.id !== 'B4' && random.int(3) > 0);
  return pads.map((pad) => {
    const values =
      random.int(3) === 0 ? { mode: 'input' } : { mode: 'output', level: random.pick(['low', 'high']) };
    const settings = canonical(
      device.description.recipe,
      { values, ...device.selection(undefined) },
      undefined,
    );
    return { pad, settings };
  });
}

const word = (operation: Operation): string => {
  switch (operation.kind) {
    case 'write':
      return `${operation.register.name} := ${operation.value}`;
    case 'update':
      return `${operation.register.name} &= ~${operation.clear} |= ${operation.set}`;
    default:
      return operation.kind;
  }
};

/** Operations with one left out, repeated, exchanged, or with a bit of its values turned. */
function mutated(operations: readonly Operation[], random: Random): Operation[] {
  const changed = [...operations];
  const at = random.int(changed.length);
  const operation = changed[at];
  if (!operation) return changed;
  switch (random.int(4)) {
    case 0:
      changed.splice(at, 1);
      break;
    case 1:
      changed.splice(random.int(changed.length + 1), 0, operation);
      break;
    case 2: {
      const other = random.int(changed.length);
      changed[at] = changed[other] as Operation;
      changed[other] = operation;
      break;
    }
    default:
      if (operation.kind === 'write')
        changed[at] = {
          ...operation,
          value: (operation.value ^ (1 << random.int(operation.register.bits))) >>> 0,
        };
      if (operation.kind === 'update') {
        const bit = (1 << random.int(operation.register.bits)) >>> 0;
        changed[at] = random.int(2)
          ? { ...operation, set: (operation.set ^ bit) >>> 0, clear: operation.clear & ~bit }
          : { ...operation, clear: (operation.clear ^ bit) >>> 0, set: operation.set & ~bit };
      }
  }
  return changed;
}

/**
 * From reset only: words that must be computed from what is read beyond changing bits of it, which operations do not; and a latch that
 * nothing can read, whose other bits nobody knows.
 */
const FROM_RESET_ONLY: ReadonlySet<string> = new Set([
  'a sequence that any access in between breaks, with a value for each port',
  'turned by ones only: what is not known is read first',
  'two bits of state that agree or not: a difference is written',
]);

describe.each(Object.entries(SHAPES))('%s', (name, shape) => {
  const recipe = recipeOf(shape);

  test('is loaded, solved for and proven, and the second machine agrees', () => {
    expect(problemsOfSmall(recipe)).toBe('');
    const device = loadSmall(recipe);
    const judge = new SecondJudge(smallPart(recipe));
    const styles: CodeStyle[] = FROM_RESET_ONLY.has(name) ? ['from-reset'] : ['from-reset', 'preserving'];
    for (const style of styles)
      for (let seed = 1; seed <= 6; seed++) {
        const planned = planOf(device, seed);
        const lowered = lower(device, planned, style);
        const { failures } = prove(device, planned, lowered);
        expect([lowered.operations.map(word), failures.map(({ message }) => message)]).toEqual([
          lowered.operations.map(word),
          [],
        ]);
        const beginnings = Array.from({ length: 8 }, (_, k) => ({
          chance: 1 + k,
          any: style === 'preserving',
        }));
        expect(judge.judge(planned, [{ operations: lowered.operations, beginnings }])).toEqual([true]);
      }
    judge.close();
  });

  test('changed operations that are proven all the same are right on the second machine', () => {
    const device = loadSmall(recipe);
    const judge = new SecondJudge(smallPart(recipe));
    const random = randomFrom(name.length);
    const wrong: string[] = [];
    for (let seed = 1; seed <= 3; seed++) {
      const style = random.pick(['from-reset', 'preserving'] as const);
      const planned = planOf(device, seed);
      const lowered = lower(device, planned, style);
      const proven = Array.from({ length: fuzzBudget(60) }, () => mutated(lowered.operations, random)).filter(
        (operations) => prove(device, planned, { ...lowered, operations }).failures.length === 0,
      );
      const beginnings = Array.from({ length: 12 }, (_, k) => ({
        chance: 1 + k,
        any: style === 'preserving',
      }));
      const verdicts = judge.judge(
        planned,
        proven.map((operations) => ({ operations, beginnings })),
      );
      for (const [at, right] of verdicts.entries())
        if (!right) wrong.push(`${style}: ${proven[at]?.map(word).join('; ')}`);
    }
    judge.close();
    expect(wrong).toEqual([]);
  });

  if (FROM_RESET_ONLY.has(name))
    test('is not called proven from every state', () => {
      const device = loadSmall(recipe);
      const planned = planOf(device, 1);
      const { proven, failures } = prove(device, planned, lower(device, planned, 'preserving'));
      expect(proven).toBeLessThan(planned.length);
      expect(failures.length).toBe(planned.length - proven);
    });
});
