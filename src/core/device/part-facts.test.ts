import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { emptyRecipe } from '../import/compose/infer';
import { loadDevice } from './compile/load';
import { partFacts } from './part-facts';

describe('what lists show of a part', () => {
  const hadrik = family('hadrik-h7');
  test('counts packages with their pins and I/O, pads, functions and registers', () => {
    expect(partFacts(hadrik)).toMatchObject({
      packages: [
        { id: 'b361', pins: 361, io: 270 },
        { id: 'b196', pins: 196, io: 150 },
      ],
      ioPads: 270,
      recipe: true,
      corrections: 0,
    });
    expect(partFacts(hadrik).registers).toBe(
      hadrik.registers.all.filter((one) => one.access.kind !== 'internal').length,
    );
  });
  test('says that a recipe is missing, and how many corrections there are', () => {
    const correction = {
      id: 'c',
      what: ['supply', 'VDD', 'nominalVolts'],
      from: '1.1',
      to: '1.2',
      why: 'data sheet, revision 12',
      who: '',
      when: '2026-11-25',
    };
    const { original } = hadrik;
    const bare = {
      ...original,
      recipe: emptyRecipe(Object.keys(original.recipe.ports)),
      corrections: [correction],
    };
    expect(partFacts(expectOk(loadDevice(bare)))).toMatchObject({
      recipe: false,
      registers: 0,
      corrections: 1,
    });
  });
  test('internal state that the bus does not reach is no register for lists', () => {
    const ketter = family('ketter-k2');
    expect(ketter.registers.all.some((one) => one.access.kind === 'internal')).toBe(true);
    expect(partFacts(ketter).registers).toBeLessThan(ketter.registers.all.length);
  });
});
