import fc from 'fast-check';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family, familyPlan, workedImages } from '@/testing/families';
import { plannedByChance } from '@/testing/mutations';
import { randomFrom } from '@/testing/random';
import { derive } from '../derive/derive';
import { lower } from '../derive/lower/lower';
import { prove } from '../derive/simulate/proof';
import type { RecipeSource } from '../description/recipe';
import { sameSettings } from '../description/settings';
import type { Pad } from '../description/types';
import { compileDevice } from './compile/compile';
import { loadDevice } from './compile/load';
import { decodePad, settingsOf } from './decode';
import type { Device } from './device';
import { contributionsOf, type PlannedPad } from './planned-pad';
import type { Register } from './registers/types';

const images = workedImages();

const ioPads = (device: Device): Pad[] =>
  device.description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined);

/** Settings of a pad as a list, remembered: parts with crossbars have thousands a pad. */
const lists = new Map<string, PlannedPad[]>();
function choices(device: Device, pad: Pad): PlannedPad[] {
  const key = `${device.description.id} ${pad.id}`;
  let list = lists.get(key);
  if (!list) {
    list = [...settingsOf(device, pad)].map(({ settings, fn }) => ({ pad, fn, settings }));
    lists.set(key, list);
  }
  return list;
}

/** Settings by chance for some pads of a part. */
const randomPlan = (device: Device) => fc.nat().map((seed) => plannedByChance(device, randomFrom(seed), 14));

describe.each(FAMILIES)('%s', (folder) => {
  const device = family(folder);

  test('passes all checks of loading', () => {
    expectOk(loadDevice(device.original));
  });

  test('every setting of every pad is read back as itself, and as nothing else', () => {
    for (const pad of ioPads(device)) {
      for (const planned of choices(device, pad)) {
        const written = new Map<Register, number>();
        const contents = (register: Register) => written.get(register) ?? register.reset;
        for (const { field } of [...device.rules]) {
          for (const slot of device.slotsOf(field, pad, planned.fn))
            written.set(slot.register, contents(slot.register));
        }
        for (const one of contributionsOf(device, planned)) {
          // Fields that are taken over by another register are read where they arrive.
          const register = device
            .slotsOf(one.field, pad, planned.fn)
            .find((slot) => (slot.through ?? slot.register) === one.register)?.register;
          if (register) written.set(register, ((contents(register) & ~one.mask) | one.value) >>> 0);
        }
        const found = decodePad(device, pad, contents);
        if (found.length !== 1 || !sameSettings(found[0] as never, planned.settings)) {
          throw new Error(
            `${pad.id} ${JSON.stringify(planned.settings)} is read back as ${JSON.stringify(found)}`,
          );
        }
      }
    }
  });

  test('operations of random plans end in the planned state on the register machine, in both styles', () => {
    fc.assert(
      fc.property(
        randomPlan(device),
        fc.constantFrom('preserving' as const, 'from-reset' as const),
        (planned, style) => {
          const lowered = lower(device, planned, style);
          const proof = prove(device, planned, lowered);
          expect(lowered.clashes).toEqual([]);
          expect({ ...proof, pins: 0 }).toEqual({
            start: style === 'preserving' ? 'every' : 'reset',
            pins: 0,
            proven: planned.length,
            failures: [],
            strays: [],
          });
        },
      ),
      { numRuns: 40, seed: 11 },
    );
  });

  test('the example plan ends in the image that was worked out by hand', () => {
    const derived = expectOk(derive(device, familyPlan(device)));
    const expected = images.get(device.description.id);
    expect(derived.counts.error).toBe(0);
    expect(derived.proof.proven).toBe(derived.planned.length);
    const found = new Map(derived.lowered.image.map((one) => [one.register.name, one]));
    expect(
      expected?.map(({ register }) => {
        const one = found.get(register);
        return { register, address: one?.register.address, value: one?.planned };
      }),
    ).toEqual(expected);
    // What the page does not list must stay as it is out of reset.
    const listed = new Set(expected?.map((one) => one.register));
    const others = derived.lowered.image.filter(
      (one) => !listed.has(one.register.name) && ['read-write', 'masked'].includes(one.register.access.kind),
    );
    expect(others.filter((one) => one.planned !== one.reset).map((one) => one.register.name)).toEqual([]);
  });

  test('is sold in at least two packages', () => {
    expect(device.description.packages.length).toBeGreaterThanOrEqual(2);
  });
});

test('between them the packages have the sizes and shapes that parts come in', () => {
  const shapes = FAMILIES.flatMap((folder) => family(folder).description.packages.map((one) => one.shape));
  const kinds = new Set(shapes.map((one) => one.kind));
  const sizes = shapes.flatMap((one) => (one.kind === 'ball-grid' ? [] : [one.pins]));
  expect([...kinds].sort()).toEqual(['ball-grid', 'dual-row', 'quad']);
  expect(sizes).toEqual(expect.arrayContaining([8, 14, 28, 48, 64, 100, 144]));
  const balls = FAMILIES.flatMap((folder) => family(folder).description.packages)
    .filter((one) => one.shape.kind === 'ball-grid')
    .map((one) => Object.keys(one.pins).length);
  // 361 balls on a grid of 441: the missing ones are missing.
  expect(balls).toContain(361);
});

/** The example plan's proof after a change to the recipe: what a wrong recipe would have led to. */
function provenWith(folder: string, change: (recipe: RecipeSource) => void) {
  const device = family(folder);
  const { planned } = expectOk(derive(device, familyPlan(device)));
  const description = structuredClone(device.description);
  change(description.recipe);
  const other = expectOk(compileDevice(description));
  const proof = prove(other, planned, lower(other, planned, 'preserving'));
  return { proven: proof.proven, of: planned.length };
}

const dropStage = (id: string) => (recipe: RecipeSource) => {
  expect(recipe.stages.map((one) => one.id)).toContain(id);
  recipe.stages = recipe.stages.filter((one) => one.id !== id);
};

describe('the machine takes nothing for granted', () => {
  test.each<[string, string, (recipe: RecipeSource) => void]>([
    ['a clock gate is forgotten', 'velm-v3', dropStage('gate')],
    ['a port is left in reset', 'velm-v3', dropStage('release')],
    ['write protection stays closed', 'velm-v3', dropStage('unprotect')],
    ['a sealed pad is not committed', 'velm-v3', dropStage('unseal')],
    [
      'protection is closed before the end',
      'velm-v3',
      (recipe) => {
        const last = recipe.stages.pop();
        recipe.stages.splice(4, 0, last as never);
      },
    ],
    [
      'a fixed wait is too short',
      'ketter-k2',
      (recipe) => {
        recipe.stages[0]!.do = ['CLOCK.FEED bit port.gate := 1', 'wait 1 cycles'];
      },
    ],
    ['routes are not taken over', 'ketter-k2', dropStage('take')],
    [
      'both keys are not written before each write',
      'brask-b14',
      (recipe) => {
        delete recipe.stages.find((one) => one.id === 'route')!.beforeEach;
      },
    ],
    [
      'the keys come in the wrong order',
      'brask-b14',
      (recipe) => {
        recipe.stages.find((one) => one.id === 'route')!.beforeEach!.reverse();
      },
    ],
    ['analog is never switched off', 'brask-b14', dropStage('digital')],
    ['the crossbar is held', 'sarn-s9', dropStage('open')],
    [
      'a gate opens later than it is awaited',
      'hadrik-h7',
      (recipe) => {
        recipe.registers.blocks.find((one) => one.id === 'POWER')!.registers[1]!.follows =
          'CLKON after 300 cycles';
      },
    ],
    [
      'direction comes before the latch',
      'pellin-p8',
      (recipe) => {
        const at = recipe.stages.findIndex((one) => one.id === 'direction');
        recipe.stages.unshift(...recipe.stages.splice(at, 1));
      },
    ],
  ])('%s (%s)', (_name, folder, change) => {
    const right = provenWith(folder, () => undefined);
    expect(right.proven).toBe(right.of);
    const wrong = provenWith(folder, change);
    expect(wrong.proven).toBeLessThan(wrong.of);
  });
});

describe.each(FAMILIES)('the example plan of %s', (folder) => {
  const device = family(folder);
  test('was made against the description as it is shipped', () => {
    expect(familyPlan(device).deviceFingerprint).toBe(device.fingerprint);
  });
});
