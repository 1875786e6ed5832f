import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn } from '@/testing/frost-guard';
import { HANDS, handWritten } from '@/testing/hand-written';
import { shapeDerived } from '@/testing/hardware-shapes';
import { randomBoard } from '@/testing/instances';
import { PROCEDURES } from '@/testing/procedure-shapes';
import { fuzzBudget } from '@/testing/random';
import type { Derived } from '../derive/derive';
import { cTableTarget, cTarget } from '../output/code/c/target';
import { generateFiles } from '../output/generate';
import type { Plan } from '../plan/model/types';
import type { SourceFile } from './c/preprocess';
import type { FollowOptions } from './follow';
import { type Review, reviewCode } from './review';

let count = 0;
const review = (derived: Derived, files: readonly SourceFile[], options: FollowOptions = {}): Review =>
  reviewCode(derived, files, options, () => `id${++count}`);

const told = ({ findings }: Review): string[] =>
  findings.map(({ rule, place, message }) => `${rule} ${place.line} ${message}`);
const differing = ({ readings }: Review) =>
  readings.filter((one) => one.state !== 'same' && one.state !== 'reset');
const fromReset = (plan: Plan): Plan => ({ ...plan, code: { ...plan.code, style: 'from-reset' } });

describe.each(FAMILIES)('the example of %s', (folder) => {
  const device = family(folder);
  const derived = deriveOn(fromReset(familyPlan(device)), device);
  test.each([
    ['C', cTarget],
    ['C table', cTableTarget],
  ] as const)('as generated (%s): it reads back as the plan, and nothing is found', (_, target) => {
    const files = generateFiles(target, derived).map(({ path, text }) => ({ name: path, text }));
    const found = review(derived, files);
    expect(told(found)).toEqual([]);
    expect(differing(found)).toEqual([]);
  });

  test.each(HANDS)('by hand (%s): it reads back as the plan, and nothing is found', (hand) => {
    const found = review(derived, handWritten(derived, hand));
    expect(told(found)).toEqual([]);
    expect(differing(found)).toEqual([]);
  });

  test('by hand, boards by chance', () => {
    for (const pkg of device.description.packages) {
      for (let seed = 1; seed <= fuzzBudget(2); seed++) {
        const board = deriveOn(fromReset(randomBoard(device, pkg, 12, seed)), device);
        if (board.proof.failures.length > 0) continue;
        const hand = HANDS[seed % HANDS.length] as (typeof HANDS)[number];
        const found = review(board, handWritten(board, hand));
        expect([hand, seed, told(found), differing(found)]).toEqual([hand, seed, [], []]);
      }
    }
  });
});

test.each(Object.entries(PROCEDURES))(
  'code with steps around its writes, %s: it reads back, or says what it cannot know',
  (name, shape) => {
    const derived = shapeDerived(shape, 'from-reset');
    const files = generateFiles(cTarget, derived).map(({ path, text }) => ({ name: path, text }));
    const { findings, asPlanned } = review(derived, files);
    // Here what is written depends on a number that only the hardware knows.
    if (/the opposite of a number/.test(name))
      expect(findings.map(({ rule }) => rule)).toContain('not-understood');
    else expect([asPlanned, findings]).toEqual([derived.resolved.length, []]);
  },
);
