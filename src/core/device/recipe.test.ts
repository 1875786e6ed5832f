import fc from 'fast-check';
import { expectOk } from '@/testing/expect-ok';
import { corvane, deriveOn, frostGuard } from '@/testing/frost-guard';
import { pellin } from '@/testing/pellin';
import { lower } from '../derive/lower/lower';
import { prove } from '../derive/simulate/proof';
import type { RecipeSource } from '../description/recipe';
import { sameSettings } from '../description/settings';
import type { DeviceDescription } from '../description/types';
import { compileDevice } from './compile/compile';
import { loadDevice } from './compile/load';
import { decodePad, settingsOf } from './decode';
import { contributionsOf, type PlannedPad } from './planned-pad';
import type { Register } from './registers/types';

const device = corvane();
const ioPads = device.description.pads.filter((pad) => pad.kind === 'io');

/** The description with its recipe changed by hand, as a user might get it wrong. */
function withRecipe(change: (recipe: RecipeSource) => void): DeviceDescription {
  const copy = structuredClone(device.description);
  change(copy.recipe);
  return copy;
}

const problemsOf = (description: DeviceDescription): string => {
  const loaded = loadDevice(description);
  return loaded.ok ? '' : loaded.problems.map((one) => `${one.place}: ${one.message}`).join('\n');
};

/** One random setting for some of the pads. */
const somePlan = fc
  .subarray(ioPads, { minLength: 1, maxLength: 30 })
  .chain((pads) => fc.tuple(...pads.map((pad) => fc.nat().map((seed) => pick(pad, seed)))));

function pick(pad: (typeof ioPads)[number], seed: number): PlannedPad {
  const all = [...settingsOf(device, pad)];
  const { settings, fn } = all[seed % all.length] as (typeof all)[number];
  return { pad, fn, settings };
}

describe('registers of the Corvane C40', () => {
  const register = (name: string): Register => {
    const found = device.registers.byName.get(name);
    if (!found) throw new Error(name);
    return found;
  };

  // Worked out from the recipe's tables: base 0x50020000 + 0x800 per port, FN is an array of four words from 0x10.
  test.each([
    ['PA.USE', 0x50020000, 0xffffffff],
    ['PB.OUTC', 0x5002082a, 0],
    ['PE.USE', 0x50022000, 0xfffffebf],
    ['PD.FN3', 0x5002181c, 0],
    ['GATE.ON', 0x40007018, 0x10000],
  ])('%s is at %i with reset %i', (name, address, reset) => {
    expect(register(name)).toMatchObject({ address, reset });
  });

  test('set and clear registers act on the latch, keys open the routing, gates guard the port', () => {
    expect(register('PC.OUTS').target).toBe(register('PC.OUT'));
    expect(register('PC.FN2').locks).toEqual([register('PC.SEAL')]);
    // Port D has gate 4 in the table of ports, not its index 3.
    expect(register('PD.OUT').guards).toEqual([
      { register: register('GATE.READY'), bit: 4, openAt: 1, stops: 'all' },
    ]);
  });
});

describe('encoding', () => {
  test('D4 as UART1.TX: mux code 2 in the lowest byte of FN1, use 2 in bits 8 and 9', () => {
    const pad = device.pads.get('D4');
    const fn = device.functionsByPad.get('D4')?.find((one) => one.signal === 'UART1.TX');
    if (!pad || !fn) throw new Error('no D4');
    const found = contributionsOf(device, {
      pad,
      fn,
      settings: {
        values: {
          mode: 'function',
          outputType: 'open-drain',
          pull: 'up',
          drive: '4mA',
          inputBuffer: 'plain',
          level: 'low',
        },
        mux: fn.mux,
      },
    });
    const bits = Object.fromEntries(found.map((one) => [one.register.name, [one.mask, one.value]]));
    expect(bits).toEqual({
      'PD.USE': [0x300, 0x200],
      'PD.FN1': [0x1f, 0x02],
      'PD.PULL': [0x300, 0x100],
      'PD.BUF': [0x10, 0x10],
      'PD.PLAIN': [0x10, 0x10],
      'PD.FORCE': [0x300, 0x100],
    });
  });

  test('every setting of every pad is read back as itself, and as nothing else', () => {
    let settings = 0;
    for (const pad of ioPads) {
      for (const { settings: planned, fn } of settingsOf(device, pad)) {
        const written = new Map<Register, number>();
        const contents = (register: Register) => written.get(register) ?? register.reset;
        for (const one of contributionsOf(device, { pad, fn, settings: planned })) {
          written.set(one.register, ((contents(one.register) & ~one.mask) | one.value) >>> 0);
        }
        const found = decodePad(device, pad, contents);
        if (found.length !== 1 || !sameSettings(found[0] as never, planned)) {
          throw new Error(`${pad.id} ${JSON.stringify(planned)} is read back as ${JSON.stringify(found)}`);
        }
        settings++;
      }
    }
    expect(settings).toBeGreaterThan(10_000);
  });
});

describe('operations', () => {
  test('end in the planned state for random plans, in both styles, and touch nothing else', () => {
    fc.assert(
      fc.property(
        somePlan,
        fc.constantFrom('preserving' as const, 'from-reset' as const),
        (planned, style) => {
          const proof = prove(device, planned, lower(device, planned, style));
          expect(proof).toMatchObject({
            pins: planned.length,
            proven: planned.length,
            failures: [],
            strays: [],
          });
        },
      ),
      { numRuns: 60 },
    );
  });

  test('merge to one write per register and stage', () => {
    for (const style of ['preserving', 'from-reset'] as const) {
      const { operations } = lower(device, deriveOn(frostGuard()).planned, style);
      const keys = operations.flatMap((one) =>
        one.kind === 'write' || one.kind === 'update' ? [`${one.stage} ${one.register.name}`] : [],
      );
      expect(new Set(keys).size).toBe(keys.length);
    }
  });

  test('open and await the gates of the used ports before anything else, and only those', () => {
    const { operations } = deriveOn(frostGuard()).lowered;
    // Ports A to F are used; their gates are 0, 1, 2, 4, 5, 7.
    expect(operations[0]).toMatchObject({ kind: 'update', stage: 'gate', set: 0xb7 });
    expect(operations[1]).toMatchObject({ kind: 'await', mask: 0xb7, value: 0xb7, cycles: 16 });
  });

  test('set latches before direction', () => {
    const stages = deriveOn(frostGuard()).lowered.operations.map((one) => one.stage);
    expect(stages.lastIndexOf('latch')).toBeLessThan(stages.indexOf('direction'));
  });
});

describe('the proof notices', () => {
  const planned = deriveOn(frostGuard()).planned;
  const provenWith = (change: (recipe: RecipeSource) => void): ReturnType<typeof prove> => {
    const other = expectOk(compileDevice(withRecipe(change)));
    return prove(other, planned, lower(other, planned, 'preserving'));
  };
  const without = (stage: string) => (recipe: RecipeSource) => {
    recipe.stages = recipe.stages.filter((one) => one.id !== stage);
  };

  test('nothing when the recipe is right', () => {
    expect(provenWith(() => undefined).proven).toBe(planned.length);
  });
  test('a missing gate: no write has any effect', () => {
    // Analog pads are analog out of reset, so they alone end as planned.
    const { failures } = provenWith(without('gate'));
    expect(failures.map((one) => one.pad)).toContain('B7');
  });
  test('a gate that is not awaited: the first writes come too early', () => {
    const { proven } = provenWith((recipe) => {
      const gate = recipe.stages.find((one) => one.id === 'gate');
      if (gate?.do) gate.do = gate.do.slice(0, 1);
      recipe.registers.blocks.find((one) => one.id === 'GATE')!.registers[1]!.follows = 'ON after 200 cycles';
    });
    expect(proven).toBeLessThan(planned.length);
  });
  test('a missing unlock: routing stays sealed', () => {
    expect(provenWith(without('unlock')).failures.map((one) => one.kind)).toContain('lost');
  });
  test('a wrong order: outputs pulse before their latch is set', () => {
    const { failures } = provenWith((recipe) => {
      const at = recipe.stages.findIndex((one) => one.id === 'latch');
      const [latch] = recipe.stages.splice(at, 1);
      if (latch)
        recipe.stages.splice(
          recipe.stages.findIndex((one) => one.id === 'lock'),
          0,
          latch,
        );
    });
    expect(failures.filter((one) => one.kind === 'on-the-way').map((one) => one.pad)).toEqual(
      expect.arrayContaining(['B7', 'E12', 'E13', 'E14']),
    );
  });
  test('a field that is never written', () => {
    const { failures } = provenWith((recipe) => {
      const electrical = recipe.stages.find((one) => one.id === 'electrical');
      if (electrical) electrical.fields = electrical.fields?.filter((id) => id !== 'pull');
    });
    expect(failures.map((one) => one.pad)).toContain('E15');
  });
});

describe('a recipe that is wrong is refused when it is loaded', () => {
  const fields = (recipe: RecipeSource) => recipe.fields as Record<string, { at: string; bits: number }>;
  test.each<[string, (recipe: RecipeSource) => void, RegExp]>([
    [
      'a syntax error',
      (r) => {
        fields(r).use!.at = '2*';
      },
      /field use, column 3: expected more/,
    ],
    [
      'a field beyond its register',
      (r) => {
        fields(r).use!.at = '2*b + 2';
      },
      /field use, pad A15: bits 32…33 leave PA\.USE/,
    ],
    [
      'overlapping fields',
      (r) => {
        fields(r).plain!.at = 'b';
        (r.fields.plain as { in: string }).in = 'PORT.BUF';
      },
      /overlaps field buffer/,
    ],
    [
      'a division by zero',
      (r) => {
        fields(r).use!.at = '2*b/(b-b)';
      },
      /division by zero/,
    ],
    [
      'an unknown variable',
      (r) => {
        fields(r).use!.at = 'pad.lane';
      },
      /"pad\.lane" has no value here/,
    ],
    [
      'an unknown register',
      (r) => {
        (r.fields.use as { in: string }).in = 'PORT.NIL';
      },
      /there is no register PORT\.NIL/,
    ],
    [
      'a table that misses a tuple',
      (r) => {
        delete r.encode[0]!.table.analog;
      },
      /no row for "analog"/,
    ],
    [
      'a value too large for its field',
      (r) => {
        r.encode[0]!.table.analog = 4;
      },
      /4 does not fit its 2 bits/,
    ],
    [
      'settings with the same bits',
      (r) => {
        r.encode[0]!.table.analog = 0;
      },
      /give the same bits/,
    ],
    [
      'a mux code too large',
      (r) => {
        fields(r).fn!.bits = 2;
      },
      /does not fit its 2 bits in PA\.FN0 at 0x[0-9A-F]+ \(/,
    ],
    [
      'a broken step',
      (r) => {
        r.stages[0]!.do = ['GATE.ON bit := 1'];
      },
      /stage gate, step 1, column 13/,
    ],
    [
      'a stage with an unknown field',
      (r) => {
        r.stages[2]!.fields = ['nothing'];
      },
      /there is no field nothing/,
    ],
    [
      'an unknown access',
      (r) => {
        r.registers.blocks[0]!.registers[0]!.access = 'sometimes';
      },
      /access "sometimes" is not known/,
    ],
    [
      'a guard on an unknown block',
      (r) => {
        r.registers.guards![0]!.block = 'X';
      },
      /guard 1, column 1: there is no block X/,
    ],
    [
      'a misaligned register',
      (r) => {
        r.registers.blocks[0]!.registers[0]!.offset = '0x01';
      },
      /not aligned/,
    ],
  ])('%s', (_name, change, message) => {
    expect(problemsOf(withRecipe(change))).toMatch(message);
  });

  test('the shipped one is right', () => {
    expect(problemsOf(device.description)).toBe('');
  });
});

describe('other shapes of port hardware', () => {
  const p8 = pellin();

  test('a code split over two registers and a pull chosen by the latch are encoded, run and read back', () => {
    const a0 = p8.pads.get('A0')!;
    const a1 = p8.pads.get('A1')!;
    const planned: PlannedPad[] = [
      {
        pad: a0,
        fn: p8.functionsByPad.get('A0')?.[0],
        settings: { values: { mode: 'function', pull: 'none', level: 'low' }, mux: 2 },
      },
      { pad: a1, settings: { values: { mode: 'input', pull: 'up', level: 'low' }, mux: null } },
    ];
    const lowered = lower(p8, planned, 'from-reset');
    // Code 2 is binary 10: low bit 0 in SEL bit 0, high bit 1 in SELX bit 7.
    expect(Object.fromEntries(lowered.image.map((one) => [one.register.name, one.planned]))).toEqual({
      'PA.DIR': 0,
      'PA.LATCH': 0b10,
      'PA.SEL': 0,
      'PA.SELX': 0x80,
    });
    expect(prove(p8, planned, lowered).proven).toBe(2);
  });
});
