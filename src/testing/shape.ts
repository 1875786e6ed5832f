import { readFileSync } from 'node:fs';
import { loadDevice } from '@/core/device/compile/load';
import type { Device } from '@/core/device/device';
import type { Net } from '@/core/plan/model/types';
import { expectOk } from './expect-ok';
import { deriveOn, planOf } from './frost-guard';
import { type SmallRecipe, smallPart } from './small-part';

const PAGE = readFileSync('docs/device-format.md', 'utf8');

/** A worked example of the page that teaches the format, perhaps changed. */
export function shapeRecipe(shape: number): SmallRecipe {
  const found = new RegExp(`^\`\`\`json shape ${shape}\\n([\\s\\S]*?)^\`\`\`$`, 'm').exec(PAGE);
  if (!found) throw new Error(`the page has no example of shape ${shape}`);
  return JSON.parse(found[1] as string);
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
