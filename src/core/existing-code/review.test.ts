import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn } from '@/testing/frost-guard';
import type { Derived } from '../derive/derive';
import { cTableTarget, cTarget } from '../output/code/c/target';
import { generateFiles } from '../output/generate';
import type { SourceFile } from './c/preprocess';
import { type Review, reviewCode } from './review';

let count = 0;
const review = (derived: Derived, files: SourceFile[], entries?: string[]): Review =>
  reviewCode(derived, files, entries ? { entries } : {}, () => `id${++count}`);

describe.each(FAMILIES)('the generated code of the example of %s', (folder) => {
  const device = family(folder);
  const plan = familyPlan(device);
  test.each([
    ['C', cTarget],
    ['C table', cTableTarget],
  ] as const)('%s reads back as the plan, and nothing is found', (_, target) => {
    const derived = deriveOn({ ...plan, code: { ...plan.code, style: 'from-reset' } }, device);
    const files = generateFiles(target, derived).map(({ path, text }) => ({ name: path, text }));
    const found = review(derived, files);
    expect(found.findings.map((one) => `${one.rule} ${one.place.line} ${one.message}`)).toEqual([]);
    expect(found.readings.filter((one) => one.state !== 'same' && one.state !== 'reset')).toEqual([]);
  });
});
