import type { RecipeSource } from '@/core/description/recipe';
import type { DeviceDescription, Pad, PadFunction } from '@/core/description/types';
import { loadDevice } from '@/core/device/compile/load';
import { expectOk } from './expect-ok';

/** A recipe, and what of the part is different under it. */
export type SmallRecipe = Partial<RecipeSource> & {
  part?: Partial<Omit<DeviceDescription, 'pads' | 'recipe'>> & { pads?: Record<string, Partial<Pad>> };
};

/**
 * A part of two ports of eight pads that a recipe can be laid into: UART1.TX on A0 (code 1) and B0 (code 2), UART1.RX on A1
 * (code 1); B4 is open-drain only where the recipe knows buffers.
 */
export function smallPart({ part = {}, ...recipe }: SmallRecipe): DeviceDescription {
  const { pads: _changed, ...rest } = part;
  const pads = ['A', 'B'].flatMap((port) =>
    Array.from(
      { length: 8 },
      (_, bit): Pad => ({
        id: `${port}${bit}`,
        kind: 'io',
        port,
        bit,
        class: port === 'B' && bit === 4 ? 'odd' : 'std',
        ...part.pads?.[`${port}${bit}`],
      }),
    ),
  );
  const functions: PadFunction[] = [
    { pad: 'A0', signal: 'UART1.TX', mux: 1, columns: { line: 5 } },
    { pad: 'A1', signal: 'UART1.RX', mux: 1, columns: { line: 6, sel: 0 } },
    { pad: 'B0', signal: 'UART1.TX', mux: 2, columns: { line: 5 } },
  ];
  return {
    format: 'mavrek-device/3',
    id: 'shape',
    name: 'Shape',
    maker: 'made up',
    summary: 'a part of sixteen pads',
    source: { document: 'none' },
    pads,
    functions,
    packages: [
      {
        id: 'q16',
        name: 'quad 16',
        shape: { kind: 'quad', pins: 16 },
        pins: Object.fromEntries(pads.map((pad, index) => [String(index + 1), pad.id])),
      },
    ],
    supplies: [],
    padClasses: {
      std: { title: 'standard' },
      odd: {
        title: 'open-drain only',
        lacks: recipe.settings?.outputType
          ? [{ setting: 'outputType', values: ['push-pull'], why: 'B4 is open-drain only' }]
          : [],
      },
    },
    peripheralKinds: {
      UART: {
        title: 'UART',
        lines: { TX: { direction: 'out' }, RX: { direction: 'in', defaults: { pull: 'up' } } },
        needs: ['TX'],
      },
    },
    peripherals: [{ id: 'UART1', kind: 'UART', columns: { route: 3 } }],
    notes: {},
    ...rest,
    recipe: {
      endian: 'little',
      settings: { mode: ['input', 'output'] },
      applies: { input: [], output: [], function: [], analog: [] },
      ports: { A: {}, B: {} },
      registers: { blocks: [] },
      fields: {},
      access: {},
      encode: [],
      stages: [],
      ...recipe,
    },
  };
}

export const loadSmall = (recipe: SmallRecipe) => expectOk(loadDevice(smallPart(recipe)));

/** What is wrong with a recipe when it is loaded; empty when nothing is. */
export function problemsOfSmall(recipe: SmallRecipe): string {
  const loaded = loadDevice(smallPart(recipe));
  return loaded.ok ? '' : loaded.problems.map((one) => `${one.place}: ${one.message}`).join('\n');
}
