import { operationsFor } from '@/core/derive/accessors/access';
import type { Accessor } from '@/core/derive/accessors/accessors';
import type { Derived } from '@/core/derive/derive';
import { lower } from '@/core/derive/lower/lower';
import { heldName, type Operation } from '@/core/derive/machine/operations';
import { prove } from '@/core/derive/simulate/proof';
import { heldText } from '@/core/description/language/held-value';
import type { BlockSource, RecipeSource, RegisterSource, StageSource } from '@/core/description/recipe';
import type { Device } from '@/core/device/device';
import { canonical } from '@/core/device/fields/encode';
import type { PlannedPad } from '@/core/device/planned-pad';
import type { CodeStyle } from '@/core/plan/model/types';
import { deriveOn, on, planOf } from './frost-guard';
import { fuzzBudget, type Random, randomFrom } from './random';
import { SecondJudge } from './second-judge';
import { loadSmall, problemsOfSmall, type SmallRecipe, smallPart } from './small-part';

/**
 * Hardware described in a few registers and steps: solved for, proven, and run on the second machine, as it is and with changes, and under
 * accessors in any order.
 */

export interface Shape {
  registers: RegisterSource[];
  blocks?: BlockSource[];
  stages?: StageSource[];
  more?: Partial<RecipeSource>;
}

export const DIR: RegisterSource = { id: 'DIR', offset: '0', bits: 8 };
export const hidden = (id: string, more: Partial<RegisterSource> = {}): RegisterSource => ({
  id,
  offset: '0',
  bits: 8,
  access: 'internal',
  ...more,
});
export const at = (offset: number, id: string, more: Partial<RegisterSource>): RegisterSource => ({
  id,
  offset: String(offset),
  bits: 8,
  ...more,
});

export const recipeOf = ({ registers, blocks = [], stages, more }: Shape): SmallRecipe => ({
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

function padsBy(device: Device, seed: number): PlannedPad[] {
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
    case 'read':
      return `${operation.holds === undefined ? '' : `${heldName(operation.holds)} = `}read ${operation.register.name}`;
    case 'write held':
      return `${operation.register.name} := ${heldText(operation.value, heldName)}`;
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
      if (operation.kind === 'write held')
        changed[at] = {
          ...operation,
          value: {
            kind: 'bits',
            operator: random.pick(['^', '|']),
            left: operation.value,
            right: { kind: 'number', value: 1 << random.int(operation.register.bits) },
          },
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

const PADS = ['A0', 'A3', 'A6', 'B1', 'B2', 'B7'];

/** Outputs on all pads of a shape. */
export const shapeDerived = (shape: Shape, style: CodeStyle): Derived =>
  derivedOn(loadSmall(recipeOf(shape)), style, PADS);

/** Outputs on some pads. */
const derivedBy = (device: Device, style: CodeStyle, random: Random): Derived =>
  derivedOn(
    device,
    style,
    PADS.filter(() => random.int(4) > 0),
  );

function derivedOn(device: Device, style: CodeStyle, pads: readonly string[]): Derived {
  const nets = pads.map((pad) => ({
    name: `N${pad}`,
    role: { kind: 'output' as const },
    placement: on(pad),
  }));
  return deriveOn(planOf(nets, { device: 'shape', package: 'q16', code: { prefix: 'p', style } }), device);
}

/** A chain of calls of what is proven, and what pads shall be after it. */
function sequence(
  derived: Derived,
  random: Random,
): { operations: Operation[]; planned: PlannedPad[]; text: string } {
  const usable = derived.accessors.list.filter(
    ({ action, fault, steps }) =>
      ['set', 'clear', 'toggle'].includes(action) &&
      fault === undefined &&
      steps.length > 0 &&
      // The second machine keeps no copies in memory.
      !steps.some((step) => 'shadow' in step && step.shadow),
  );
  const planned = derived.resolved.flatMap(({ planned: one }) => (one ? [one] : []));
  const levels = new Map(planned.map(({ pad, settings }) => [pad.id, settings.values.level]));
  const calls =
    usable.length === 0 ? [] : Array.from({ length: 1 + random.int(12) }, () => random.pick(usable));
  for (const { action, nets } of calls) {
    const pad = derived.byNet.get(nets[0] ?? '')?.pad?.id ?? '';
    const before = levels.get(pad);
    levels.set(
      pad,
      action === 'toggle' ? (before === 'high' ? 'low' : 'high') : action === 'set' ? 'high' : 'low',
    );
  }
  return {
    operations: calls.flatMap(({ steps }: Accessor) => steps.flatMap((step) => operationsFor(step, 0))),
    planned: planned.map((one) => ({
      ...one,
      settings: { ...one.settings, values: { ...one.settings.values, level: levels.get(one.pad.id) } },
    })),
    text: calls
      .map(({ action, nets }) => `${action} ${derived.byNet.get(nets[0] ?? '')?.net.name}`)
      .join(', '),
  };
}

/** Tests of shapes; `fromResetOnly`: those that are not proven from every state, and must not be. */
export function testShapes(
  shapes: Record<string, Shape>,
  fromResetOnly: ReadonlySet<string> = new Set(),
): void {
  describe.each(Object.entries(shapes))('%s', (name, shape) => {
    const recipe = recipeOf(shape);
    let judge: SecondJudge;
    beforeAll(() => {
      judge = new SecondJudge(smallPart(recipe));
    });
    afterAll(() => judge.close());

    test('is loaded, solved for and proven, and the second machine agrees', () => {
      expect(problemsOfSmall(recipe)).toBe('');
      const device = loadSmall(recipe);
      const styles: CodeStyle[] = fromResetOnly.has(name) ? ['from-reset'] : ['from-reset', 'preserving'];
      for (const style of styles)
        for (let seed = 1; seed <= 6; seed++) {
          const planned = padsBy(device, seed);
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
    });

    test('changed operations that are proven all the same are right on the second machine', () => {
      const device = loadSmall(recipe);
      const random = randomFrom(name.length);
      const wrong: string[] = [];
      for (let seed = 1; seed <= 3; seed++) {
        const style = random.pick(['from-reset', 'preserving'] as const);
        const planned = padsBy(device, seed);
        const lowered = lower(device, planned, style);
        const proven = Array.from({ length: fuzzBudget(60) }, () =>
          mutated(lowered.operations, random),
        ).filter((operations) => prove(device, planned, { ...lowered, operations }).failures.length === 0);
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
      expect(wrong).toEqual([]);
    });

    test('accessors that are proven, in any order and any number of times, do what they say on the second machine', () => {
      const device = loadSmall(recipe);
      const random = randomFrom(name.length + 1);
      const wrong: string[] = [];
      for (let seed = 1; seed <= 3; seed++) {
        const style = random.pick(
          fromResetOnly.has(name) ? ['from-reset'] : ['from-reset', 'preserving'],
        ) as CodeStyle;
        const derived = derivedBy(device, style, random);
        if (derived.proof.failures.length > 0) continue;
        const runs = Array.from({ length: fuzzBudget(20) }, () => sequence(derived, random));
        const beginnings = Array.from({ length: 4 }, (_, k) => ({
          chance: 1 + k,
          any: style === 'preserving',
        }));
        const verdicts = judge.judge(
          [],
          runs.map(({ operations, planned }) => ({
            planned,
            beginnings,
            operations: [...derived.lowered.operations, ...operations],
          })),
        );
        for (const [at, right] of verdicts.entries()) if (!right) wrong.push(`${style}: ${runs[at]?.text}`);
      }
      expect(wrong).toEqual([]);
    });

    if (fromResetOnly.has(name))
      test('is not called proven from every state', () => {
        const device = loadSmall(recipe);
        const planned = padsBy(device, 1);
        const { proven, failures } = prove(device, planned, lower(device, planned, 'preserving'));
        expect(proven).toBeLessThan(planned.length);
        expect(failures.length).toBe(planned.length - proven);
      });
  });
}
