import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { share } from '@/testing/random';
import { encodeTrial, readsBack } from '../../derive/lower/trial';
import type { RegisterFile } from '../../description/register-file';
import type { Mode } from '../../description/settings';
import { loadDevice } from '../../device/compile/load';
import { settingsOf } from '../../device/decode';
import type { Device } from '../../device/device';
import { printSvd } from '../../output/registers/print-svd';
import { emptyRecipe } from '../compose/infer';
import { readSvd } from '../svd/read-svd';
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
  // Numbers of interrupt lines may be worked out from columns of ports that a proposal does not have.
  const { interrupts, ...rest } = device.original;
  const { number: _number, ...lines } = interrupts ?? {};
  const bare = {
    ...rest,
    ...(interrupts ? { interrupts: lines as typeof interrupts } : {}),
    recipe: emptyRecipe(Object.keys(portsOf(device))),
  };
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
    for (const folder of share(FAMILIES, 4, 1)) {
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

describe('what the file itself says', () => {
  interface Said {
    name: string;
    description?: string;
    access?: string;
    more?: string;
    fields?: string;
  }
  const register = ({ name, description = '', access = 'read-write', more = '', fields }: Said, at: number) =>
    `<register><name>${name}</name><description>${description}</description><addressOffset>${4 * at}</addressOffset><size>32</size><access>${access}</access>${more}${fields ? `<fields>${fields}</fields>` : ''}</register>`;
  const bits = (stem: string, count: number, width = 1, inside = '', from = 0) =>
    Array.from(
      { length: count },
      (_, bit) =>
        `<field><name>${stem}${bit}</name><bitOffset>${from + bit * width}</bitOffset><bitWidth>${width}</bitWidth>${inside}</field>`,
    ).join('');
  const values = (list: Record<string, number>, words: Record<string, string> = {}) =>
    `<enumeratedValues>${Object.entries(list)
      .map(
        ([name, value]) =>
          `<enumeratedValue><name>${name}</name><description>${words[name] ?? ''}</description><value>${value}</value></enumeratedValue>`,
      )
      .join('')}</enumeratedValues>`;
  /** Two ports with such registers, and others in a block of their own. */
  const file = (registers: readonly Said[], others: readonly Said[] = [], ofB = registers): RegisterFile =>
    expectOk(
      readSvd(
        'x.svd',
        `<device><name>X</name><peripherals>${[registers, ofB]
          .map(
            (own, port) =>
              `<peripheral><name>P${'AB'[port]}</name><baseAddress>${0x4000 + 0x100 * port}</baseAddress><registers>${own.map(register).join('')}</registers></peripheral>`,
          )
          .join(
            '',
          )}<peripheral><name>SYS</name><baseAddress>0x9000</baseAddress><registers>${(others.length > 0 ? others : [{ name: 'VERSION', access: 'read-only' }]).map(register).join('')}</registers></peripheral></peripherals></device>`,
      ),
    );
  const PORTS = { A: 8, B: 8 };
  const pads = ['A', 'B'].flatMap((port) =>
    Array.from({ length: 8 }, (_, bit) => ({ id: `${port}${bit}`, kind: 'io' as const, port, bit })),
  );
  const proposalOf = (read: RegisterFile) =>
    propose(
      read,
      PORTS,
      pads.map((pad) => pad.id),
    );
  const choiceOf = (proposal: Proposal, role: FieldRole) => proposal.choices.find((one) => one.role === role);
  const built = (proposal: Proposal) =>
    buildRecipe(proposal, ['A', 'B'], pads, {
      endian: 'little',
      choices: proposal.choices,
      gates: proposal.gates,
    });
  const direction = { name: 'DIR', description: 'direction', fields: bits('D', 8) };

  test('values it lists are taken before what is usual, by their names or their descriptions', () => {
    const proposal = proposalOf(
      file([
        { name: 'CTL', fields: bits('X', 8, 2, values({ FLOAT: 3, PULLDOWN: 1, PULLUP: 0, KEEPER: 2 })) },
        {
          name: 'SEL',
          fields: bits(
            'S',
            8,
            1,
            values({ V0: 0, V1: 1 }, { V0: 'pad is an output', V1: 'pad is an input' }),
          ),
        },
        {
          name: 'STRENGTH',
          description: 'drive strength',
          fields: bits('Y', 8, 1, values({ '2 mA': 1, '8 mA': 0 })),
        },
      ]),
    );
    expect(choiceOf(proposal, 'pull')?.values).toEqual({ none: 3, up: 0, down: 1, keeper: 2 });
    expect(choiceOf(proposal, 'pull')?.reason).toMatch(/the file lists its values/);
    expect(choiceOf(proposal, 'direction')?.values).toEqual({ input: 1, output: 0 });
    expect(choiceOf(proposal, 'drive')?.values).toEqual({ '2mA': 1, '8mA': 0 });
  });

  test('what acts when it is written, or changes when it is read, is never taken for what holds', () => {
    const proposal = proposalOf(
      file([
        direction,
        { name: 'OUT', description: 'output latch', fields: bits('O', 8) },
        {
          name: 'ONE',
          description: 'output latch bits',
          more: '<modifiedWriteValues>oneToSet</modifiedWriteValues>',
          access: 'write-only',
        },
        {
          name: 'TWO',
          description: 'output latch bits',
          more: '<modifiedWriteValues>oneToClear</modifiedWriteValues>',
          access: 'write-only',
        },
        {
          name: 'THREE',
          description: 'output latch bits',
          more: '<modifiedWriteValues>oneToToggle</modifiedWriteValues>',
          access: 'write-only',
        },
        {
          name: 'SEEN',
          description: 'input level',
          access: 'read-only',
          more: '<readAction>clear</readAction>',
        },
        {
          name: 'PULLEV',
          description: 'pull-up event',
          more: '<modifiedWriteValues>oneToClear</modifiedWriteValues>',
        },
      ]),
    );
    expect(proposed(proposal, 'latch')).toContain('P*.OUT');
    expect(choiceOf(proposal, 'level')?.place).toBeNull();
    expect(choiceOf(proposal, 'pull-up')?.place).toBeNull();
    for (const [role, id, way, reason] of [
      ['set', 'ONE', 'setBy', 'writing 1 sets'],
      ['clear', 'TWO', 'clearedBy', 'writing 1 clears'],
      ['toggle', 'THREE', 'toggledBy', 'writing 1 toggles'],
    ] as const) {
      expect([role, proposed(proposal, role)]).toEqual([role, expect.stringContaining(`P*.${id}`)]);
      expect(choiceOf(proposal, role)?.reason).toMatch(`the file says that ${reason}`);
      expect(built(proposal).recipe.fields.latch?.[way]).toBe(`PORT.${id}`);
    }
  });

  test('a word whose halves set and clear', () => {
    const proposal = proposalOf(
      file([
        direction,
        { name: 'OUT', description: 'output latch', fields: bits('O', 8) },
        {
          name: 'OUTW',
          description: 'sets latch bits in its lower half, resets them in its upper half',
          access: 'write-only',
        },
      ]),
    );
    expect(proposed(proposal, 'halves')).toContain('P*.OUTW');
    const { recipe } = built(proposal);
    expect(recipe.fields.latch).toMatchObject({ setBy: 'PORT.OUTW', clearedBy: 'PORT.OUTW' });
    const word = recipe.registers.blocks[0]?.registers.find((one) => one.id === 'OUTW');
    expect(word?.access).toBe('set and clear of OUT');
  });

  test('three registers that enable, disable and show', () => {
    const proposal = proposalOf(
      file([
        { name: 'OE_EN', description: 'output enable', access: 'write-only', fields: bits('E', 8) },
        { name: 'OE_DIS', description: 'output disable', access: 'write-only', fields: bits('E', 8) },
        { name: 'OE_STAT', description: 'output status', access: 'read-only', fields: bits('E', 8) },
      ]),
    );
    expect(choiceOf(proposal, 'direction')?.reason).toMatch(
      /set by OE_EN, cleared by OE_DIS, shown by OE_STAT/,
    );
    const { recipe } = built(proposal);
    expect(recipe.fields.direction).toEqual({
      in: 'PORT.OE_STAT',
      at: 'b',
      bits: 1,
      setBy: 'PORT.OE_EN',
      clearedBy: 'PORT.OE_DIS',
    });
    const bare = { ...family('corvane-c40').original };
    const loaded = loadDevice({
      ...bare,
      id: 'x',
      pads: pads.map((pad) => ({ ...pad, class: Object.keys(bare.padClasses)[0] })),
      padClasses: Object.fromEntries(Object.keys(bare.padClasses).map((id) => [id, { title: id }])),
      packages: [
        {
          id: 'q16',
          name: 'q16',
          shape: { kind: 'quad', pins: 16 },
          pins: Object.fromEntries(pads.map((pad, at) => [String(at + 1), pad.id])),
        },
      ],
      functions: [],
      forced: [],
      recipe,
    } as never);
    expect(loaded.ok ? [] : loaded.problems).toEqual([]);
  });

  test('a code whose bits stand in registers of their own, and one cut into low and high', () => {
    const sliced = proposalOf(
      file([
        direction,
        { name: 'CODE0', description: 'function select, low bit', fields: bits('F', 8) },
        { name: 'CODE1', description: 'function select, high bit', fields: bits('F', 8) },
      ]),
    );
    expect(choiceOf(sliced, 'code')?.reason).toMatch(/2 bits, one in each of 2 registers/);
    expect(built(sliced).recipe.fields.code).toEqual({
      parts: [
        { in: 'PORT.CODE0', at: 'b', bits: 1 },
        { in: 'PORT.CODE1', at: 'b', bits: 1 },
      ],
    });
    const halved = proposalOf(
      file([
        direction,
        { name: 'MUXL', description: 'function code of bits 0 to 3', fields: bits('F', 4, 8) },
        { name: 'MUXH', description: 'function code of bits 4 to 7', fields: bits('F', 4, 8) },
      ]),
    );
    expect(built(halved).recipe.fields.code).toMatchObject({ at: '8*(b%4)', bits: 8 });
  });

  test('bits that a register lacks are given to no pad', () => {
    const less = { ...direction, fields: bits('D', 3) };
    const proposal = proposalOf(file([direction], [], [less]));
    expect(choiceOf(proposal, 'direction')?.reason).toMatch(/5 pads have no such bit/);
    const { recipe, padColumns } = built(proposal);
    expect(recipe.fields.direction).toMatchObject({ has: 'pad.has_direction' });
    expect(Object.keys(padColumns).filter((id) => id.startsWith('B'))).toEqual(['B0', 'B1', 'B2']);
  });

  test('bits without a reset value by the mask of the file', () => {
    const proposal = proposalOf(
      file([{ ...direction, more: '<resetValue>0x10</resetValue><resetMask>0xFF</resetMask>' }]),
    );
    expect(built(proposal).recipe.registers.blocks[0]?.registers[0]?.reset).toBe(
      '0x00000010 unknown in 0xFFFFFF00',
    );
  });

  test('clock gates and resets by the names and descriptions of their bits', () => {
    const field = (name: string, low: number, description = '') =>
      `<field><name>${name}</name><description>${description}</description><bitOffset>${low}</bitOffset><bitWidth>1</bitWidth></field>`;
    const proposal = proposalOf(
      file(
        [direction],
        [
          {
            name: 'CLOCKS',
            description: 'clock enable',
            fields: field('DATAB', 0) + field('PAEN', 5) + field('PBEN', 9),
          },
          { name: 'HOLD', description: 'held in reset', fields: field('PARST', 2) + field('PBRST', 3) },
          { name: 'LAST', description: 'clock enable', fields: field('X', 0, 'port A') },
        ],
      ),
    );
    expect(proposal.gates).toMatchObject([
      { register: 'SYS.CLOCKS', ports: { A: 5, B: 9 }, opensAt: 1 },
      { register: 'SYS.HOLD', ports: { A: 2, B: 3 }, opensAt: 0 },
    ]);
    expect(proposal.otherGates.map((one) => one.register)).not.toContain('SYS.LAST');
  });
});
