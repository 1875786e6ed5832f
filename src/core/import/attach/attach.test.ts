import { FAMILIES, family } from '@/testing/families';
import { expectOk } from '@/testing/frost-guard';
import { encodeTrial, readsBack } from '../../derive/lower/trial';
import type { Mode } from '../../description/settings';
import { loadDevice } from '../../device/compile/load';
import { settingsOf } from '../../device/decode';
import type { Device } from '../../device/device';
import { printSvd } from '../../output/svd/print-svd';
import { emptyRecipe } from '../compose/infer';
import { readSvd } from '../svd/read-svd';
import type { RegisterFile } from '../svd/types';
import { buildRecipe } from './build';
import type { Proposal } from './choices';
import { placeTitle } from './places';
import { propose } from './propose';
import type { FieldRole } from './roles';

const portsOf = (device: Device): Record<string, number> => {
  const ports: Record<string, number> = {};
  for (const pad of device.description.pads)
    if (pad.kind === 'io' && pad.port !== undefined)
      ports[pad.port] = Math.max(ports[pad.port] ?? 0, (pad.bit ?? 0) + 1);
  return ports;
};
const ioPads = (device: Device) =>
  device.description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined);
const fileOf = (device: Device): RegisterFile => expectOk(readSvd('part.svd', printSvd(device)));
const proposalFor = (device: Device, file = fileOf(device)): Proposal =>
  propose(
    file,
    portsOf(device),
    ioPads(device).map((pad) => pad.id),
  );
const proposed = (proposal: Proposal, role: FieldRole): string | undefined => {
  const choice = proposal.choices.find((one) => one.role === role);
  const place = proposal.places.find((one) => one.id === choice?.place);
  return place && placeTitle(place);
};
/** The part's own tables with nothing known of its registers, and the proposed recipe attached. */
const attached = (device: Device, proposal = proposalFor(device)) => {
  const bare = { ...device.original, recipe: emptyRecipe(Object.keys(portsOf(device))) };
  const { recipe, padColumns } = buildRecipe(proposal, Object.keys(portsOf(device)), ioPads(device), {
    endian: device.description.recipe.endian,
    choices: proposal.choices,
    gates: proposal.gates,
  });
  const pads = bare.pads.map((pad) => ({ ...pad, columns: { ...pad.columns, ...padColumns[pad.id] } }));
  return loadDevice({ ...bare, pads, recipe });
};

describe('proposals by field shape and words', () => {
  test('packed two-bit fields, an array of code registers, set and clear', () => {
    const proposal = proposalFor(family('corvane-c40'));
    expect(proposed(proposal, 'mode')).toBe('P*.USE: 16 fields of 2 bits');
    expect(proposed(proposal, 'code')).toBe(
      'P*.FN0 … 4 registers: 4 fields of 5 bits in each of 4 registers',
    );
    expect(proposed(proposal, 'pull')).toBe('P*.PULL: 16 fields of 2 bits');
    expect(proposed(proposal, 'latch')).toBe('P*.OUT: 16 fields of 1 bit');
    expect(proposed(proposal, 'set')).toContain('P*.OUTS');
    expect(proposed(proposal, 'clear')).toContain('P*.OUTC');
    expect(proposed(proposal, 'direction')).toBeUndefined();
    expect(proposal.gates[0]?.register).toBe('GATE.ON');
    expect(proposal.choices.find((one) => one.role === 'mode')?.reason).toMatch(
      /16 fields of 2 bits; it speaks of/,
    );
  });

  test('one-bit fields: direction, function, analog, digital, pulls', () => {
    const proposal = proposalFor(family('velm-v3'));
    for (const [role, register] of [
      ['direction', 'OE'],
      ['function', 'ALT'],
      ['analog', 'ANLG'],
      ['digital', 'DIG'],
      ['pull-up', 'UPR'],
      ['pull-down', 'DNR'],
      ['latch', 'LATCH'],
      ['level', 'PADS'],
      ['outputType', 'OPEN'],
    ] as const)
      expect([role, proposed(proposal, role)]).toEqual([role, expect.stringContaining(`P*.${register}:`)]);
    expect(proposed(proposal, 'code')).toBe('P*.CODE: 8 fields of 4 bits');
  });

  test('one configuration word a pad', () => {
    const proposal = proposalFor(family('ostrel-n5'));
    expect(proposed(proposal, 'pull')).toMatch(/^CELL_\*\.WORD: pull_.*, 2 bits in a register of the pad$/);
    expect(proposed(proposal, 'code')).toMatch(/4 bits in a register of the pad$/);
  });

  test('ports that are numbered, and registers that carry the port in their own name', () => {
    const register = (name: string, offset: number, description: string) =>
      `<register><name>${name}</name><description>${description}</description><addressOffset>${offset}</addressOffset><size>16</size></register>`;
    const text = `<device><name>X</name><peripherals><peripheral><name>IO</name><baseAddress>0x4000</baseAddress><registers>${[
      'A',
      'B',
    ]
      .map(
        (port, i) =>
          register(`DIR_${port}`, 0x10 * i, 'direction of the pads') +
          register(`LATCH_${port}`, 0x10 * i + 2, 'output latch') +
          register(`PULL_${port}`, 0x10 * i + 4, 'pull-up on'),
      )
      .join('')}</registers></peripheral></peripherals></device>`;
    const file = expectOk(readSvd('x.svd', text));
    const proposal = propose(file, { A: 16, B: 16 }, []);
    expect(proposed(proposal, 'direction')).toBe('IO.DIR_*: room for 16 fields of 1 bit');
    expect(proposed(proposal, 'latch')).toContain('LATCH_*');
    const { recipe } = buildRecipe(proposal, ['A', 'B'], [], {
      endian: 'little',
      choices: proposal.choices,
      gates: [],
    });
    expect(recipe.registers.blocks[0]).toMatchObject({ each: 'port', base: '0x00004000 + 0x10*p' });
    const numbered = propose(
      expectOk(readSvd('x.svd', text.replaceAll('_A<', '_0<').replaceAll('_B<', '_1<'))),
      { A: 16, B: 16 },
      [],
    );
    expect(proposed(numbered, 'direction')).toContain('IO.DIR_*');
  });

  test('a file without port registers proposes nothing', () => {
    const file = expectOk(
      readSvd(
        'x.svd',
        '<device><name>X</name><peripherals><peripheral><name>TIMER</name><baseAddress>0</baseAddress><registers><register><name>COUNT</name><addressOffset>0</addressOffset></register></registers></peripheral></peripherals></device>',
      ),
    );
    const proposal = propose(file, { A: 8, B: 8 }, ['A0', 'B0']);
    expect(proposal.choices.every((one) => one.place === null)).toBe(true);
    expect(proposal.places).toEqual([]);
  });
});

describe('an attached recipe', () => {
  test.each(['corvane-c40', 'velm-v3', 'brask-b14', 'pellin-p8'])(
    '%s: holds together, and every setting of every pad reads back',
    (folder) => {
      const device = expectOk(attached(family(folder)));
      let count = 0;
      for (const pad of ioPads(device)) {
        for (const { settings, fn } of settingsOf(device, pad)) {
          const trial = encodeTrial(device, pad, {
            mode: settings.values.mode as Mode,
            signal: fn?.signal,
            values: settings.values,
          });
          expect([pad.id, settings.values, readsBack(device, pad, trial)]).toEqual([
            pad.id,
            settings.values,
            true,
          ]);
          if (++count > 3000) return;
        }
      }
    },
  );

  test('gives the bits that the shipped recipe gives, where both say the same', () => {
    const shipped = family('corvane-c40');
    const device = expectOk(attached(shipped));
    const pad = shipped.pads.get('D4');
    const own = device.pads.get('D4');
    if (!pad || !own) throw new Error('no D4');
    const wish = {
      mode: 'function' as const,
      signal: 'UART1.TX',
      values: { pull: 'up', outputType: 'open-drain' },
    };
    const bits = (part: Device, on: typeof pad) =>
      new Map(encodeTrial(part, on, wish).registers.map(({ register, value }) => [register.address, value]));
    const expected = bits(shipped, pad);
    for (const [address, value] of bits(device, own))
      expect([address, value]).toEqual([address, expected.get(address)]);
  });

  test('says what is missing when nothing decides between input and output', () => {
    const result = attached(family('hadrik-h7'));
    expect(result.ok ? '' : result.problems[0]?.message).toMatch(
      /"input.*" and "output.*" give the same bits/,
    );
  });

  test('a role taken away takes its setting away', () => {
    const device = family('corvane-c40');
    const proposal = proposalFor(device);
    const choices = proposal.choices.map((one) => (one.role === 'pull' ? { ...one, place: null } : one));
    const without = expectOk(attached(device, { ...proposal, choices }));
    expect(without.description.recipe.settings.pull).toBeUndefined();
    expect(without.fields.has('pull')).toBe(false);
  });

  test('never throws, whatever of the choices is left out', () => {
    for (const folder of FAMILIES) {
      const device = family(folder);
      const proposal = proposalFor(device);
      for (const role of proposal.choices) {
        const choices = proposal.choices.map((one) => (one === role ? { ...one, place: null } : one));
        expect(() => attached(device, { ...proposal, choices })).not.toThrow();
      }
    }
  });
});

describe('addresses of an attached recipe', () => {
  const description = (bases: Record<string, string>, reset: Record<string, string> = {}): string =>
    `<device><name>X</name><peripherals>${Object.entries(bases)
      .map(
        ([port, base]) =>
          `<peripheral><name>PORT_${port}</name><baseAddress>${base}</baseAddress><registers><register><name>DIR</name><description>direction</description><addressOffset>4</addressOffset><size>8</size><resetValue>${reset[port] ?? '0'}</resetValue></register><register><name>UP</name><description>pull-up on</description><addressOffset>6</addressOffset><size>8</size></register></registers></peripheral>`,
      )
      .join('')}</peripherals></device>`;
  const build = (text: string, ports: string[]) => {
    const proposal = propose(
      expectOk(readSvd('x.svd', text)),
      Object.fromEntries(ports.map((port) => [port, 8])),
      [],
    );
    return buildRecipe(proposal, ports, [], { endian: 'little', choices: proposal.choices, gates: [] })
      .recipe;
  };

  test('that follow a rule become an expression', () => {
    const recipe = build(description({ A: '0x1000', B: '0x1040', C: '0x1080' }), ['A', 'B', 'C']);
    expect(recipe.registers.blocks).toMatchObject([{ each: 'port', base: '0x00001000 + 0x40*p' }]);
    expect(recipe.ports).toEqual({ A: {}, B: {}, C: {} });
  });
  test('that follow none stand with each port', () => {
    const recipe = build(description({ A: '0x1000', B: '0x1040', C: '0x5000' }), ['A', 'B', 'C']);
    expect(recipe.registers.blocks).toMatchObject([{ each: 'port', base: 'port.base' }]);
    expect(recipe.ports).toEqual({ A: { base: 0x1000 }, B: { base: 0x1040 }, C: { base: 0x5000 } });
  });
  test('registers beside each other share a block; reset values that differ stand by port', () => {
    const recipe = build(description({ A: '0x1000', B: '0x1040' }, { B: '0x81' }), ['A', 'B']);
    expect(recipe.registers.blocks).toHaveLength(1);
    expect(recipe.registers.blocks[0]?.registers).toMatchObject([
      { id: 'DIR', offset: '0x04', reset: { A: '0x00', B: '0x81', '*': '0x00' } },
      { id: 'UP', offset: '0x06' },
    ]);
  });
  test('a part with one port is a part too', () => {
    const recipe = build(description({ A: '0x1000' }), ['A']);
    expect(recipe.registers.blocks).toMatchObject([{ base: '0x00001000' }]);
    expect(recipe.settings).toMatchObject({ mode: ['input', 'output'], pull: ['none', 'up'] });
  });
});
