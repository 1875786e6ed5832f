import { readFileSync } from 'node:fs';
import { readPartLines } from '@/core/description/part-text/text-form';
import type { Pad } from '@/core/description/types';
import { loadDevice } from '@/core/device/compile/load';
import type { Device } from '@/core/device/device';
import type { Net } from '@/core/plan/model/types';
import { expectOk } from './expect-ok';
import { deriveOn, planOf } from './frost-guard';
import { type SmallRecipe, smallPart } from './small-part';

const PAGE = readFileSync('docs/device-format.md', 'utf8');

/** A worked example of the page that teaches the format, perhaps changed. */
export const shapeRecipe = (shape: number): SmallRecipe => recipeOfLines(`shape ${shape}`, shapeText(shape));

export function shapeText(shape: number): string {
  const block = new RegExp(`^\`\`\`part shape ${shape}\\n([\\s\\S]*?)^\`\`\`$`, 'm').exec(PAGE);
  if (!block) throw new Error(`the page has no example of shape ${shape}`);
  return block[1] as string;
}

/** What lines say of the small part: its hardware, and what else of it is different. */
export function recipeOfLines(name: string, lines: string): SmallRecipe {
  const {
    recipe = {},
    pads,
    ...rest
  } = expectOk(readPartLines(name, lines)) as {
    recipe?: SmallRecipe;
    pads?: Pad[];
  };
  const changed = Object.fromEntries((pads ?? []).map(({ id, kind: _io, ...pad }) => [id, pad]));
  const part = { ...rest, ...(pads ? { pads: changed } : {}) };
  return { ...recipe, ...(Object.keys(part).length > 0 ? { part } : {}) };
}

/** The example as a part, ready for work. */
export function shapeDevice(shape: number, change: (recipe: SmallRecipe) => void = () => {}): Device {
  const recipe = shapeRecipe(shape);
  change(recipe);
  return expectOk(loadDevice(smallPart(recipe)));
}

/** What is wrong with a changed example when it is loaded. */
export function shapeProblems(shape: number, change: (recipe: SmallRecipe) => void): string[] {
  const recipe = shapeRecipe(shape);
  change(recipe);
  const loaded = loadDevice(smallPart(recipe));
  return loaded.ok ? [] : loaded.problems.map((one) => `${one.place}: ${one.message}`);
}

/** A plan of some nets on the example. */
export const planOn = (
  device: Device,
  nets: (Pick<Net, 'name' | 'role'> & Partial<Net>)[],
  style: 'from-reset' | 'preserving' = 'from-reset',
  pkg = 'q16',
) => {
  const plan = planOf(nets);
  return deriveOn({ ...plan, device: 'shape', package: pkg, code: { ...plan.code, style } }, device);
};
