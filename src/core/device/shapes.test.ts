import { on } from '@/testing/frost-guard';
import { planOn, shapeDevice, shapeProblems } from '@/testing/shape';
import type { Derived } from '../derive/derive';
import { placePlan } from '../place/place';
import { readBack } from '../read-back/read-back';
import { lackOf, valuesOn } from './available';
import type { Device } from './device';

/** What the worked examples of the format's page mean for plans, checks, proof, placing and reading back. */

const input = { kind: 'input' } as const;
const output = { kind: 'output' } as const;
const signal = (name: string) => ({ kind: 'signal', signal: name }) as const;
const rules = (derived: Derived): string[] => derived.findings.map((one) => one.rule);
const valuesOf = (derived: Derived, name: string) =>
  derived.resolved.find((one) => one.net.name === name)?.planned?.settings.values;
const padOf = (device: Device, id: string) => {
  const pad = device.pads.get(id);
  if (!pad) throw new Error(`no pad ${id}`);
  return pad;
};
const expectProven = (derived: Derived, pads: number): void => {
  expect(derived.proof.failures).toEqual([]);
  expect(derived.proof.proven).toBe(pads);
};
const faults = (derived: Derived): string[] =>
  derived.accessors.list.flatMap(({ action, fault }) => (fault ? [`${action}: ${fault}`] : []));

describe('what no bit tells apart', () => {
  const nets = [
    { name: 'TALK', role: signal('UART1.TX'), placement: on('A0') },
    { name: 'PROBE', role: input, placement: on('A2') },
  ];
  test('is planned with its owner, proven, and read back as a set', () => {
    const derived = planOn(shapeDevice(15), nets);
    expectProven(derived, 2);
    expect(derived.byPad.get('A0')?.[0]?.fn?.signal).toBe('UART1.TX');
    const held = new Map(derived.lowered.image.map((one) => [one.register, one.planned]));
    const readings = readBack(
      derived,
      (register) => held.get(register) ?? register.reset,
      () => 'x',
    );
    const talk = readings.find((one) => one.pad === 'A0');
    expect(talk?.state).toBe('same');
    expect(talk?.equally).toEqual(['input', 'analog']);
    // Nobody planned B0, and a pull is on there: it may be an input or the receiver that takes it by itself.
    const dir = derived.device.registers.byName.get('PB.UP');
    const other = readBack(
      derived,
      (register) => (register === dir ? 1 : (held.get(register) ?? register.reset)),
      () => 'x',
    ).find((one) => one.pad === 'B0');
    expect(other?.state).toBe('other');
    expect(other?.meanings.map((one) => one.text)).toEqual([
      'input, pull up',
      'UART1.RX, which takes the pad by itself, pull up',
    ]);
    expect(other?.meanings.every((one) => one.exact)).toBe(true);
  });
  test('is refused where nobody says so', () => {
    expect(shapeProblems(15, (recipe) => delete recipe.alike).join()).toMatch(
      /"input.*" and "analog.*" give the same bits; if no bit tells them apart on this part, say so with "alike"/,
    );
  });
});

describe('fields that only some pads have', () => {
  const device = shapeDevice(16);
  test('offer what there is, with the reason', () => {
    expect(valuesOn(device, padOf(device, 'A0'), 'pull')).toEqual(['none', 'up']);
    expect(lackOf(device, padOf(device, 'B0'), 'pull', 'up')).toBe('B0 has no up (only where port.pulls)');
    expect(valuesOn(device, padOf(device, 'A2'), 'speed')).toEqual(['slow']);
    // A column that holds 0 is filled in.
    expect(valuesOn(device, padOf(device, 'A0'), 'speed')).toEqual(['slow', 'fast']);
    expect(valuesOn(device, padOf(device, 'A5'), 'mode')).toEqual(['input', 'output']);
    expect([...device.registers.byName.keys()].filter((name) => name.endsWith('.UP'))).toEqual(['PA.UP']);
  });
  test('a net that asks for what its pad has not is told, and the placer goes elsewhere', () => {
    const nets = [{ name: 'QUICK', role: output, settings: { speed: 'fast' }, placement: on('A2') }];
    const derived = planOn(device, nets);
    expect(rules(derived)).toContain('setting-not-here');
    const { plan, pkg } = derived;
    const free = { ...plan, nets: plan.nets.map((net) => ({ ...net, placement: null })) };
    expect(['A0', 'A1', 'B3']).toContain(placePlan(device, pkg, free).placements.n0);
  });
  test('what a pad without the field behaves like can be said', () => {
    // Pads without the bit are always fast.
    const other = shapeDevice(16, (recipe) => {
      Object.assign(recipe.fields?.fast ?? {}, { absent: 1 });
    });
    expect(valuesOn(other, padOf(other, 'A2'), 'speed')).toEqual(['fast']);
    expectProven(planOn(other, [{ name: 'QUICK', role: output, placement: on('A2') }]), 1);
  });
  test('some packages have less', () => {
    const device = shapeDevice(16, (recipe) => {
      Object.assign(recipe.fields?.fast ?? {}, { packages: ['q16'] });
      Object.assign(recipe.registers?.blocks[1] ?? {}, { packages: ['q16'] });
      recipe.excludes = [{ settings: { pull: 'up' }, packages: ['q12'], why: 'not bonded out' }];
      const pins = (count: number) =>
        Object.fromEntries(
          Array.from({ length: count }, (_, at) => [String(at + 1), `${at < 8 ? 'A' : 'B'}${at % 8}`]),
        );
      recipe.part = {
        ...recipe.part,
        packages: [16, 12].map((count) => ({
          id: `q${count}`,
          name: `quad ${count}`,
          shape: { kind: 'quad', pins: count },
          pins: pins(count),
        })),
      };
    });
    const nets = [
      { name: 'QUICK', role: output, settings: { speed: 'fast' }, placement: on('A0') },
      { name: 'KEY', role: input, settings: { pull: 'up' }, placement: on('A1') },
    ];
    const large = planOn(device, nets);
    expect(rules(large)).not.toContain('setting-not-here');
    expectProven(large, 2);
    const small = planOn(device, nets, 'from-reset', 'q12');
    expect(small.findings.filter((one) => one.rule === 'setting-not-here').map((one) => one.message)).toEqual(
      [
        expect.stringMatching(/`QUICK` asks for speed fast/),
        expect.stringMatching(/`KEY` asks for pull up.*not bonded out/),
      ],
    );
    expect(small.device.registers.byName.has('RATE.FAST')).toBe(false);
    expect(small.device.fingerprint).toBe(large.device.fingerprint);
    expectProven(small, 2);
  });
  test('a position that leads nowhere is told once', () => {
    const problems = shapeProblems(16, (recipe) => {
      if (recipe.fields?.fast) delete recipe.fields.fast.has;
    });
    expect(problems.join('\n')).toMatch(/pad\.slew/);
    expect(problems.length).toBeLessThan(4);
  });
});

describe('combinations that do not exist', () => {
  const device = shapeDevice(17);
  test('a bus line is open-drain without being asked, and a wish that does not go is told', () => {
    const derived = planOn(device, [
      { name: 'BUS', role: signal('UART1.RX'), placement: on('A1') },
      { name: 'LAMP', role: output, settings: { pull: 'up' }, placement: on('A3') },
      { name: 'KEY', role: input, settings: { pull: 'down' }, placement: on('B7') },
    ]);
    expect(valuesOf(derived, 'BUS')?.outputType).toBe('open-drain');
    // The least gives way: the pull was asked for, the output type was not.
    expect(valuesOf(derived, 'LAMP')).toMatchObject({ pull: 'up', outputType: 'open-drain' });
    const messages = derived.findings
      .filter((one) => one.rule === 'setting-not-here')
      .map((one) => one.message);
    expect(messages.join()).toMatch(/`KEY` asks for pull down.*pads 6 and 7 have no pull-down/);
    expectProven(derived, 3);
  });
  test('two wishes that do not go together are told with the reason', () => {
    const derived = planOn(device, [
      {
        name: 'LAMP',
        role: output,
        settings: { pull: 'down', outputType: 'push-pull' },
        placement: on('A3'),
      },
    ]);
    expect(derived.findings.map((one) => one.message).join()).toMatch(/there is no number for it/);
  });
  test('what a table leaves out is told once, with all of it and what may be written instead', () => {
    const problems = shapeProblems(17, (recipe) => {
      const rule = recipe.encode?.[0];
      if (rule) delete rule.leftOut;
    });
    expect(problems).toHaveLength(1);
    expect(problems[0]).toMatch(
      /^recipe, encode 1 \(kind\): its table has no row for "output push-pull up".*"output push-pull down".*say why with "left out"/,
    );
  });
  test.each([
    [{ settings: { pull: 'sideways' }, why: '' }, /"sideways" is no value of pull, which has none, up, down/],
    [{ settings: { drive: 'low' }, why: '' }, /"drive" is not a setting of this part; it has mode/],
    [{ settings: { pull: 'up' }, classes: ['odder'], why: '' }, /there is no pad class odder/],
    [{ settings: { pull: 'up' }, signals: ['TWI1.*'], why: '' }, /no function is TWI1\.\*/],
    [{ settings: { pull: 'up' }, where: 'b <', why: '' }, /excludes 1/],
    [{ settings: { pull: 'up' }, packages: ['q99'], why: '' }, /there is no package q99/],
  ])('%j is refused', (exclude, message) => {
    expect(shapeProblems(17, (recipe) => (recipe.excludes = [exclude])).join()).toMatch(message);
  });
});

describe('what values mean', () => {
  const device = shapeDevice(18);
  test('a pull that is asked for in the words of the trade is the weakest that is one', () => {
    const derived = planOn(device, [
      { name: 'KEY', role: input, settings: { pull: 'up', active: 'low' }, placement: on('A0') },
      { name: 'STRONG', role: input, settings: { pull: 'up22k' }, placement: on('A1') },
      { name: 'HELD', role: input, settings: { pull: 'hold' }, placement: on('A2') },
      { name: 'LOOSE', role: input, placement: on('A3') },
    ]);
    expect(['KEY', 'STRONG', 'HELD', 'LOOSE'].map((name) => valuesOf(derived, name)?.pull)).toEqual([
      'up100k',
      'up22k',
      'hold',
      'none',
    ]);
    const floating = derived.findings.filter((one) => one.rule === 'floating-input');
    expect(floating.flatMap((one) => one.nets)).toEqual(['n3']);
    expectProven(derived, 4);
  });
  test('rules speak of the resistance, and drives are chosen by their currents', () => {
    const derived = planOn(device, [
      {
        name: 'KEY',
        role: input,
        settings: { pull: 'up22k' },
        demands: { farPull: 'down', farPullOhms: 10_000 },
        placement: on('A1'),
      },
      { name: 'LAMP', role: output, demands: { milliamps: 5 }, placement: on('A4') },
    ]);
    expect(derived.findings.find((one) => one.rule === 'pulls-fight')?.message).toMatch(
      /up by the pad \(22 kΩ\)/,
    );
    expect(valuesOf(derived, 'LAMP')?.drive).toBe('high');
  });
  test('an inverted input reads right', () => {
    const derived = planOn(device, [
      { name: 'PLAIN', role: input, settings: { pull: 'hold' }, placement: on('A0') },
      { name: 'TURNED', role: input, settings: { pull: 'hold', 'own.inverted': 'yes' }, placement: on('A1') },
    ]);
    expect(faults(derived)).toEqual([]);
    const gets = derived.accessors.list.filter(
      (one) => one.action.startsWith('is_') || one.action === 'read',
    );
    const turned = gets.map((one) =>
      one.steps.flatMap((step) => (step.kind === 'get' ? step.moves.map((move) => move.inverted) : [])),
    );
    expect(turned.flat()).toContain(true);
    expect(turned.flat()).toContain(false);
  });
  test.each([
    [
      { pull: { values: { up22k: { is: 'upwards' } } } },
      /"up22k" is said to be "upwards"; it is one of none, up, down, keeper/,
    ],
    [{ pull: { default: 'soft' } }, /"soft" is no value of it/],
    [{ drive: { order: ['low'] } }, /"order" lists each of low, high once/],
    [{ speed: { title: 'x' } }, /the part has no such setting/],
  ])('%j is refused', (meanings, message) => {
    expect(shapeProblems(18, (recipe) => Object.assign(recipe, { meanings })).join()).toMatch(message);
  });
});

describe('words whose halves set and clear', () => {
  const lamp = [{ name: 'LAMP', role: output, placement: on('A3') }];
  test('drive, clear and toggle with one write', () => {
    const derived = planOn(shapeDevice(19), lamp, 'preserving');
    expectProven(derived, 1);
    expect(faults(derived)).toEqual([]);
    const words = derived.accessors.list.flatMap((one) =>
      one.steps.flatMap((step) => (step.kind === 'write' ? [`${step.register.name} ${step.value}`] : [])),
    );
    expect(words).toEqual(
      expect.arrayContaining(['PA.OUTW 8', `PA.OUTW ${8 << 16}`, `PA.OUTW ${8 + (8 << 16)}`]),
    );
    // The upper half sets there.
    const dir = derived.lowered.operations.find((one) => one.kind === 'write' && one.register.id === 'DIRW');
    expect(dir && 'value' in dir ? dir.value : undefined).toBe(8 << 8);
  });
  test('a register that only shows what two others enable and disable', () => {
    const device = shapeDevice(19, (recipe) => {
      const registers = recipe.registers?.blocks[0]?.registers ?? [];
      for (const one of registers) if (one.id === 'LO' || one.id === 'HI') one.access = 'read';
    });
    for (const style of ['from-reset', 'preserving'] as const) {
      const derived = planOn(device, [{ ...lamp[0], settings: { speed: 'fast' } } as never], style);
      expectProven(derived, 1);
      expect(derived.lowered.operations.map((one) => ('register' in one ? one.register.id : ''))).toContain(
        'LOS',
      );
    }
  });
  test('what does not toggle cannot be said to', () => {
    const problems = shapeProblems(19, (recipe) => {
      const word = recipe.registers?.blocks[0]?.registers[1];
      if (word) word.access = 'set and clear of OUT';
    });
    expect(problems.join()).toMatch(/where both halves set a bit; say "both toggle" there if they do/);
  });
});

describe('bits that show something', () => {
  const nets = [
    { name: 'KEY', role: input, settings: { 'own.inverted': 'yes' }, placement: on('A1') },
    { name: 'LAMP', role: output, placement: on('A3') },
  ] as const;
  test('are awaited, and a level in a word that is written is read, inverted where it is', () => {
    const derived = planOn(shapeDevice(20), [...nets]);
    expectProven(derived, 2);
    expect(faults(derived)).toEqual([]);
  });
  test.each([
    ['the wait for what takes no known time', 1],
    ['the wait for what is inverted', 2],
  ])('without %s nothing is proven', (_name, step) => {
    const device = shapeDevice(20, (recipe) => {
      recipe.stages?.[0]?.do?.splice(step, 1);
    });
    const derived = planOn(device, [...nets]);
    expect(derived.proof.proven).toBe(0);
    expect(derived.proof.failures.map((one) => one.message).join()).toMatch(/SYS\.ON bit [89]/);
  });
  test.each([
    ['bit 40 = pad', /bit 40 is outside/],
    ['bit 8 = bit 8', /follows itself/],
    ['bit 8 = pad sideways', /unexpected "sideways"/],
    ['bit 8 = NONE bit 0', /there is no register NONE beside it/],
    ['bit 8 = bit 0 after some cycles', /"some" is no number of cycles/],
  ])('"%s" is refused', (text, message) => {
    const problems = shapeProblems(20, (recipe) => {
      const word = recipe.registers?.blocks[0]?.registers[0];
      if (word) word.shows = [text];
    });
    expect(problems.join()).toMatch(message);
  });
});

describe('one signal on one pad under several codes', () => {
  const device = shapeDevice(21);
  const talk = { name: 'TALK', role: signal('UART1.TX'), placement: on('A0') };
  test.each([
    ['A1', 1],
    ['B0', 5],
  ])('with the other line on %s its code is %i', (pad, code) => {
    const listen = { name: 'LISTEN', role: signal('UART1.RX'), placement: on(pad) };
    for (const nets of [
      [talk, listen],
      [listen, talk],
    ]) {
      const derived = planOn(device, nets);
      expect(derived.resolved.find((one) => one.net.name === 'TALK')?.fn?.mux).toBe(code);
      expect(derived.lowered.clashes).toEqual([]);
      expectProven(derived, 2);
    }
  });
  test('a field is as wide as its peripheral needs', () => {
    const derived = planOn(device, [{ name: 'BEAT', role: signal('PACE1.Q1'), placement: on('B1') }]);
    expectProven(derived, 1);
    expect(
      shapeProblems(21, (recipe) => {
        for (const fn of recipe.part?.functions ?? []) if (fn.pad === 'B0' && fn.columns) fn.columns.way = 2;
      }).join(),
    ).toMatch(/2 does not fit its 1 bits in ROUTE\.WAY at 0x4000 \(UART1\.RX\); from 0 to 1 do/);
  });
});

describe('conditions on access', () => {
  const nets = [
    { name: 'KEY', role: input, settings: { pull: 'down' }, placement: on('A1') },
    { name: 'LAMP', role: output, settings: { speed: 'fast' }, placement: on('B3') },
  ];
  const messages = (change: Parameters<typeof shapeDevice>[1]): string =>
    planOn(shapeDevice(22, change), nets, 'preserving')
      .proof.failures.map((one) => one.message)
      .join('\n');
  test('are kept to from every state', () => {
    for (const style of ['from-reset', 'preserving'] as const)
      expectProven(planOn(shapeDevice(22), nets, style), 2);
  });
  test('bits that are shut do not take a write', () => {
    expect(messages((recipe) => void recipe.stages?.splice(0, 1))).toMatch(
      /of PA\.UP may not take the write: PA\.SHUT may be 1 there/,
    );
  });
  test('lock bits in the register itself are looked at', () => {
    expect(messages((recipe) => void recipe.stages?.splice(1, 1))).toMatch(/PB\.FAST/);
  });
  test('a pull that is switched on before the other one is released breaks the invariant', () => {
    expect(messages((recipe) => void recipe.stages?.splice(2, 1))).toMatch(/breaks "never up and down"/);
  });
  test('a write between the keys breaks the sequence', () => {
    expect(
      messages((recipe) => {
        const stage = recipe.stages?.at(-1);
        stage?.beforeEach?.splice(1, 0, 'PORT.SHUT bit 0 := 0');
      }),
    ).toMatch(/DIR/);
  });
});

describe('interrupt lines that are listed', () => {
  const irq = (name: string, pad: string) => ({
    name,
    role: { kind: 'interrupt' } as const,
    placement: on(pad),
  });
  const device = shapeDevice(23);
  test('are shared by those that are named, missing elsewhere, and numbered', () => {
    const derived = planOn(device, [irq('DOOR', 'A0'), irq('WIND', 'B5'), irq('RAIN', 'A6')]);
    const found = derived.findings.map((one) => `${one.rule} ${one.nets.join()}`);
    expect(found).toContain('interrupt-line-shared n0,n1');
    expect(found).toContain('interrupt-line-missing n2');
  });
  test('keep the placer to one net a line', () => {
    const { plan, pkg } = planOn(device, [irq('DOOR', 'A0'), irq('WIND', 'B5')]);
    const free = { ...plan, nets: plan.nets.map((net) => ({ ...net, placement: null })) };
    const { placements } = placePlan(device, pkg, free);
    expect(Object.values(placements)).toContain('A3');
  });
  test.each([
    [{ lines: 'listed', why: '' }, /under "listed"/],
    [{ lines: 'pad', why: '', listed: [{ name: 'X', pads: ['A0'] }] }, /under "listed"/],
    [{ lines: 'listed', why: '', listed: [{ name: 'X', pads: ['Z9'] }] }, /there is no pad Z9/],
    [
      {
        lines: 'listed',
        why: '',
        listed: [
          { name: 'X', pads: ['A0'] },
          { name: 'Y', pads: ['A0'] },
        ],
      },
      /A0 is on line X as well/,
    ],
  ])('%j is refused', (interrupts, message) => {
    expect(shapeProblems(23, (recipe) => Object.assign(recipe.part ?? {}, { interrupts })).join()).toMatch(
      message,
    );
  });
});

describe('one setting before, another after', () => {
  const nets = [
    { name: 'PROBE', role: { kind: 'analog' } as const, placement: on('A0') },
    { name: 'KEY', role: input, settings: { pull: 'up', inputBuffer: 'on' }, placement: on('A1') },
  ];
  const withAnalog = (change: Parameters<typeof shapeDevice>[1] = () => {}) =>
    shapeDevice(24, (recipe) => {
      recipe.part = {
        functions: [{ pad: 'A0', signal: 'ADC1.V0', mux: null }],
        peripherals: [{ id: 'ADC1', kind: 'ADC' }],
        peripheralKinds: { ADC: { title: 'converter', lines: { V0: { direction: 'analog' } } } },
      };
      change?.(recipe);
    });
  test('the pull is released first and switched on last', () => {
    const derived = planOn(withAnalog(), nets, 'preserving');
    expectProven(derived, 2);
    const order = derived.lowered.operations.flatMap((one) =>
      'register' in one ? [`${one.stage} ${one.register.name}`] : [],
    );
    expect(order.indexOf('release PA.UP')).toBeLessThan(order.indexOf('pads PA.ANLG'));
    expect(order.indexOf('pull PA.UP')).toBeGreaterThan(order.indexOf('pads PA.BUF'));
  });
  test('in another order the invariant breaks', () => {
    const derived = planOn(
      withAnalog((recipe) => void recipe.stages?.reverse()),
      nets,
      'preserving',
    );
    expect(derived.proof.failures.map((one) => one.message).join()).toMatch(/breaks "never anlg and up"/);
  });
});

test('bits that the document does not define are put back as they are', () => {
  const derived = planOn(shapeDevice(25), [{ name: 'LAMP', role: output, placement: on('A0') }]);
  expectProven(derived, 1);
  expect(derived.lowered.operations.map((one) => one.kind)).toEqual(['update']);
});

describe('what is wrong is told once, with its place and what may be written instead', () => {
  test('a field that cannot be read has no followers', () => {
    const problems = shapeProblems(24, (recipe) => {
      Object.assign(recipe.fields?.up ?? {}, { in: 'PORT.UPP' });
    });
    expect(problems).toEqual(['recipe, field up: there is no register PORT.UPP; did you mean PORT.UP?']);
  });
  test('names that are not there come with those that are', () => {
    expect(
      shapeProblems(24, (recipe) => {
        recipe.stages?.push({ id: 'more', fields: ['down'] });
      }),
    ).toEqual(['recipe, stage more: there is no field down; the fields are dir, up, buf, anlg']);
    expect(
      shapeProblems(24, (recipe) => {
        recipe.stages?.push({ id: 'more', per: 'port', do: ['PORT.DIRR := 0'] });
      }).join(),
    ).toMatch(/there is no register PORT\.DIRR; did you mean DIR\?/);
  });
  test('overlapping fields once for all pads, with the register, its address and the bits', () => {
    const problems = shapeProblems(24, (recipe) => {
      Object.assign(recipe.fields?.buf ?? {}, { in: 'PORT.UP' });
    });
    expect(problems).toHaveLength(1);
    expect(problems[0]).toMatch(
      /^recipe, field buf, pad A0: overlaps field up of A0 in PA\.UP at 0x1001, bit 0; if both mean the same bits, say so with "shared"; likewise on A1/,
    );
  });
  test('a part whose pads would take too many checks is refused before they are made', () => {
    const problems = shapeProblems(17, (recipe) => {
      const many = Array.from({ length: 60 }, (_, at) => `v${at}`);
      recipe.settings = { ...recipe.settings, drive: many, speed: many } as never;
      recipe.excludes = Array.from({ length: 400 }, (_, at) => ({
        settings: { pull: 'down' },
        where: `b = ${at % 8} and p = ${at % 2}`,
        why: 'x',
      }));
    });
    expect(problems.join()).toMatch(/checks would be needed; at most 20,000,000 checks are done/);
  });
});

describe('one write that does several things', () => {
  const device = shapeDevice(27);
  const pulled = (pad: string, pull: 'none' | 'up' | 'down') => ({
    name: `N${pad}`,
    role: input,
    placement: on(pad),
    settings: { pull },
  });

  test.each(['from-reset', 'preserving'] as const)('is proven where it is right (%s)', (style) => {
    for (const [a, b, c] of [
      ['up', 'down', 'none'],
      ['down', 'none', 'up'],
      ['none', 'up', 'down'],
    ] as const)
      expectProven(planOn(device, [pulled('A0', a), pulled('A1', b), pulled('A2', c)], style), 3);
  });

  test('and not where the other order undoes what was done', () => {
    const other = shapeDevice(27, (recipe) => {
      recipe.fields = {
        ...recipe.fields,
        up: { ...recipe.fields?.up, clearedBy: 'PORT.DOWN_ENDS_UP' },
      };
    });
    const { proof } = planOn(other, [pulled('A0', 'up'), pulled('A1', 'none')], 'preserving');
    expect(proof.failures.map(({ pad }) => pad)).toContain('A1');
  });
});

test('flags that a 0 clears stay where a bit beside them is changed, and are acknowledged one by one', () => {
  const derived = planOn(
    shapeDevice(28),
    ['A0', 'A1'].map((pad) => ({
      name: `N${pad}`,
      role: input,
      placement: on(pad),
      settings: { trigger: 'rising' },
    })),
    'preserving',
  );
  expectProven(derived, 2);
  expect(faults(derived)).toEqual([]);
  const acknowledge = derived.accessors.list.filter(({ action }) => action === 'interrupt_acknowledge');
  expect(acknowledge.map(({ steps }) => steps)).toEqual([
    [expect.objectContaining({ kind: 'update', clear: 0x00010000, set: 0 })],
    [expect.objectContaining({ kind: 'update', clear: 0x00020000, set: 0 })],
  ]);
});
