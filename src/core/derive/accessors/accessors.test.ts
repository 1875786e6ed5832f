import { corvane, deriveOn, on, planOf } from '@/testing/frost-guard';
import { compile, removeFolders, runGenerated, writeFolder } from '@/testing/run-c';
import { loadSmall } from '@/testing/small-part';
import type { RecipeSource, RegisterSource } from '../../description/recipe';
import type { Device } from '../../device/device';
import { cTarget } from '../../output/code/c/target';
import { generateFiles } from '../../output/generate';
import type { CodeStyle, Net, Plan } from '../../plan/model/types';

afterAll(removeFolders);

type Registers = RegisterSource[];
const DIR: RegisterSource = { id: 'DIR', offset: '0', bits: 8 };
const LATCH: RegisterSource = { id: 'LATCH', offset: '1', bits: 8 };
const SEEN: RegisterSource = { id: 'SEEN', offset: '2', bits: 8, access: 'read', follows: 'pads' };

/** A recipe with a direction, a latch and levels; a case changes what it is about. */
const recipe = (registers: Registers, change: Partial<RecipeSource> = {}): Partial<RecipeSource> => ({
  settings: { mode: ['input', 'output'], level: ['low', 'high'] },
  applies: { input: [], output: ['level'], function: [], analog: [] },
  registers: { blocks: [{ id: 'PORT', each: 'port', base: '0x1000 + 0x40*p', name: 'P{port}', registers }] },
  fields: {
    dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
    latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
    seen: { in: 'PORT.SEEN', at: 'b', bits: 1 },
  },
  access: { latch: 'latch', level: 'seen' },
  encode: [
    { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
    { field: 'latch', from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } },
  ],
  stages: [
    { id: 'latch', fields: ['latch'] },
    { id: 'direction', fields: ['dir'] },
  ],
  ...change,
});

const output = { kind: 'output' } as const;
const plan = (style: CodeStyle, nets: Parameters<typeof planOf>[0], change: Partial<Plan> = {}): Plan =>
  planOf(nets, { device: 'shape', package: 'q16', code: { prefix: 'p', style }, ...change });
const STYLES = ['preserving', 'from-reset'] as const;
const pins = (...pads: string[]): (Pick<Net, 'name' | 'role'> & Partial<Net>)[] =>
  pads.map((pad) => ({ name: `N${pad}`, role: output, placement: on(pad) }));

const faults = (device: Device, one: Plan): string[] =>
  deriveOn(one, device).accessors.list.flatMap(({ action, fault }) => (fault ? [`${action}: ${fault}`] : []));

/** The generated files pass the strict compiler, and what they print on the second machine. */
function run(device: Device, one: Plan, extra: string): string[] {
  const files = generateFiles(cTarget, deriveOn(one, device));
  expect(compile('gcc', writeFolder(files), 'p.c')).toBe('');
  const ran = runGenerated(one, { device, extra });
  expect([ran.lost, ran.done]).toEqual([0, true]);
  return ran.lines;
}
const show = (name: string): string => `printf("%x ", (unsigned)look(row("${name}")));`;

describe.each(STYLES)('set, clear and toggle of a latch (%s)', (style) => {
  const through = 'p_na1_set();';
  const sequence = (name: string): string =>
    `${through} ${show(name)} p_na1_clear(); ${show(name)} p_na1_toggle(); ${show(name)} p_na1_toggle(); ${show(name)} printf("\\n");`;
  test.each<[string, Registers, Partial<RecipeSource>, string, boolean]>([
    ['read, changed and written back', [DIR, LATCH, SEEN], {}, '2 0 2 0', true],
    [
      'set and cleared by registers of their own',
      [
        DIR,
        LATCH,
        SEEN,
        { id: 'UP', offset: '4', bits: 8, access: 'set of LATCH' },
        { id: 'DOWN', offset: '5', bits: 8, access: 'clear of LATCH' },
      ],
      {
        fields: {
          ...recipe([]).fields,
          latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.UP', clearedBy: 'PORT.DOWN' },
        },
      },
      '2 0 2 0',
      false,
    ],
    [
      'set and cleared by the halves of one word',
      [DIR, LATCH, SEEN, { id: 'BOTH', offset: '4', bits: 16, access: 'set and clear of LATCH' }],
      {
        fields: {
          ...recipe([]).fields,
          latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.BOTH', clearedBy: 'PORT.BOTH' },
        },
      },
      '2 0 2 0',
      false,
    ],
    ['masked', [DIR, { ...LATCH, offset: '4', bits: 16, access: 'masked' }, SEEN], {}, '2 0 2 0', false],
    [
      'turned at the address where levels are read',
      [
        DIR,
        LATCH,
        { ...SEEN, overlaps: 'TURN' },
        { id: 'TURN', offset: '2', bits: 8, access: 'toggle of LATCH' },
      ],
      {
        fields: {
          ...recipe([]).fields,
          latch: { in: 'PORT.LATCH', at: 'b', bits: 1, toggledBy: 'PORT.TURN' },
        },
      },
      '2 0 2 0',
      true,
    ],
    [
      'behind reserved bits that must be given',
      [DIR, { ...LATCH, reset: '0x80', always: '0x80 in 0xC0' }, SEEN],
      {},
      '82 80 82 80',
      true,
    ],
    [
      'beside flags that a 1 clears',
      [DIR, { ...LATCH, bits: 16, offset: '4', clearedByOne: '0xFF00' }, SEEN],
      {},
      '2 0 2 0',
      true,
    ],
    [
      'low where its bit is 1',
      [DIR, LATCH, SEEN],
      {
        encode: [
          { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
          {
            field: 'latch',
            from: ['mode', 'level'],
            table: { 'output high': 0, 'output low': 1, '*': 'keep' },
          },
        ],
      },
      '0 2 0 2',
      true,
    ],
    [
      'behind a lock that initialisation has shut again',
      [DIR, LATCH, SEEN, { id: 'KEY', offset: '6', bits: 8, access: 'key 0x5A then 0xA5 opens LATCH' }],
      {
        stages: [
          { id: 'open', per: 'port', do: ['PORT.KEY := 0x5A', 'PORT.KEY := 0xA5'] },
          { id: 'latch', fields: ['latch'] },
          { id: 'direction', fields: ['dir'] },
          { id: 'shut', per: 'port', do: ['PORT.KEY := 0'] },
        ],
      },
      '2 0 2 0',
      true,
    ],
    [
      'behind a key that is good for one write',
      [DIR, LATCH, SEEN, { id: 'KEY', offset: '6', bits: 8, access: 'key 0x5A then 0xA5 opens LATCH once' }],
      {
        stages: [
          { id: 'latch', beforeEach: ['PORT.KEY := 0x5A', 'PORT.KEY := 0xA5'], fields: ['latch'] },
          { id: 'direction', fields: ['dir'] },
        ],
      },
      '2 0 2 0',
      true,
    ],
    [
      'where commit bits are shut again',
      [DIR, { ...LATCH, writableWhere: 'MAY' }, SEEN, { id: 'MAY', offset: '6', bits: 8 }],
      {
        stages: [
          { id: 'may', per: 'pad', do: ['PORT.MAY bit b := 1'] },
          { id: 'latch', fields: ['latch'] },
          { id: 'direction', fields: ['dir'] },
          { id: 'may-not', per: 'pad', do: ['PORT.MAY bit b := 0'] },
        ],
      },
      '2 0 2 0',
      true,
    ],
    [
      'written beside it and taken over',
      [
        DIR,
        { id: 'NEXT', offset: '1', bits: 8 },
        SEEN,
        { ...LATCH, offset: '4', access: 'read' },
        { id: 'TAKE', offset: '5', bits: 8, access: 'act copies NEXT to LATCH' },
      ],
      {
        fields: { ...recipe([]).fields, latch: { in: 'PORT.LATCH', through: 'PORT.NEXT', at: 'b', bits: 1 } },
        stages: [
          { id: 'latch', fields: ['latch'] },
          { id: 'take', per: 'pad', do: ['PORT.TAKE bit b := 1'] },
          { id: 'direction', fields: ['dir'] },
        ],
      },
      '2 0 2 0',
      true,
    ],
  ])('%s', (_name, registers, change, expected, torn) => {
    const device = loadSmall(recipe(registers, change));
    const one = plan(style, pins('A1'));
    expect(faults(device, one)).toEqual([]);
    expect(run(device, one, sequence('PA.LATCH')).map((line) => line.trim())).toEqual([expected]);
    const accessor = deriveOn(one, device).accessors.list.find((it) => it.action === 'set');
    expect(accessor?.torn).toBe(torn);
    expect(generateFiles(cTarget, deriveOn(one, device))[0]?.text.includes('P_CRITICAL_ENTER()')).toBe(torn);
  });
});

describe.each(STYLES)('what only clauses reach (%s)', (style) => {
  const HIDDEN: RegisterSource = { id: 'LATCH', offset: '0', bits: 8, access: 'internal' };
  const WIRE: RegisterSource = { id: 'WIRE', offset: '0', bits: 8, access: 'internal', follows: 'pads' };
  const looked: RegisterSource[] = [
    WIRE,
    { id: 'HIDE', offset: '8', bits: 8 },
    { id: 'SEEN', offset: '2', bits: 8, read: '~WIRE & ~HIDE' },
  ];
  const driving = [
    {
      name: 'set and cleared through a latch that no address reads',
      registers: [
        DIR,
        HIDDEN,
        { id: 'SETS', offset: '4', bits: 8, write: 'LATCH |= v' },
        { id: 'CLRS', offset: '5', bits: 8, write: 'LATCH &= ~v' },
        { id: 'TURN', offset: '6', bits: 8, write: 'LATCH ^= v' },
      ],
    },
    {
      name: 'written as it is read',
      registers: [DIR, { id: 'LATCH', offset: '1', bits: 8, read: '~this', write: 'this := ~v' }],
    },
    {
      name: 'in a window of four accesses',
      registers: [
        DIR,
        HIDDEN,
        {
          id: 'LEFT',
          offset: '0',
          bits: 8,
          access: 'internal',
          anyAccess: 'this := this == 0 ? 0 : this - 1',
        },
        { id: 'KEY', offset: '4', bits: 8, write: 'LEFT := v == 0x5A ? 4 : LEFT' },
        { id: 'OUT', offset: '5', bits: 8, read: 'LATCH', write: 'LATCH := v', writeWhen: 'LEFT > 0' },
      ],
      stages: [
        { id: 'latch', per: 'port', beforeEach: ['PORT.KEY := 0x5A'], fields: ['latch'] },
        { id: 'direction', fields: ['dir'] },
      ],
    },
  ] as { name: string; registers: Registers; stages?: RecipeSource['stages'] }[];

  test.each(driving)('$name', ({ registers, stages }) => {
    const visible = (stages ? { stages } : {}) as Partial<RecipeSource>;
    const device = loadSmall(
      recipe([...registers, ...looked], {
        ...visible,
        stages: [
          { id: 'see', per: 'port', do: ['PORT.HIDE := 0'] },
          ...(stages ?? [
            { id: 'latch', fields: ['latch'] },
            { id: 'direction', fields: ['dir'] },
          ]),
        ],
      }),
    );
    const one = plan(style, pins('A0', 'A1'));
    expect(faults(device, one)).toEqual([]);
    const lines = run(
      device,
      one,
      `p_na0_set(); ${show('PA.LATCH')} p_na1_set(); ${show('PA.LATCH')} p_na0_toggle(); ${show('PA.LATCH')}
       p_na1_clear(); p_na0_set(); ${show('PA.LATCH')} p_na0_clear(); ${show('PA.LATCH')}`,
    );
    const held = lines
      .join(' ')
      .match(/[0-9a-f]+/g)
      ?.map((word) => Number.parseInt(word, 16) & 3);
    expect(held).toEqual([1, 3, 2, 1, 0]);
  });
});

test.each(STYLES)('flags of both ports gathered in one word, which is theirs to read only (%s)', (style) => {
  const device = loadSmall({
    ...recipe([]),
    settings: { mode: ['input', 'output'], level: ['low', 'high'], trigger: ['none', 'rising'] },
    applies: { input: ['trigger'], output: ['level'], function: [], analog: [] },
    registers: {
      blocks: [
        ...(recipe([
          DIR,
          LATCH,
          SEEN,
          { id: 'ASK', offset: '4', bits: 8 },
          { id: 'FLAG', offset: '0', bits: 8, access: 'internal' },
          { id: 'TAKE', offset: '5', bits: 8, write: 'FLAG &= ~v' },
        ]).registers?.blocks ?? []),
        {
          id: 'ALL',
          base: '0x3000',
          registers: [{ id: 'FLAGS', offset: '0', bits: 16, read: 'PORT[A].FLAG | ~PORT[B].FLAG << 8' }],
        },
      ],
    },
    fields: {
      ...recipe([]).fields,
      ask: { in: 'PORT.ASK', at: 'b', bits: 1 },
      flag: { in: 'PORT.FLAG', at: 'b', bits: 1 },
    },
    access: { latch: 'latch', level: 'seen', pending: 'flag', enable: 'ask' },
    encode: [
      ...(recipe([]).encode ?? []),
      { field: 'ask', from: ['trigger'], table: { rising: 1, none: 0 } },
    ],
    stages: [
      ...(recipe([]).stages ?? []),
      { id: 'forget', per: 'pad', do: ['PORT.TAKE bit b := 1'] },
      { id: 'ask', fields: ['ask'] },
    ],
  });
  const nets = ['A3', 'B2'].map((pad) => ({
    name: `N${pad}`,
    role: { kind: 'input' } as const,
    settings: { trigger: 'rising' },
    placement: on(pad),
  }));
  const one = plan(style, nets);
  expect(deriveOn(one, device).proof.failures).toEqual([]);
  expect(faults(device, one)).toEqual([]);
  const lines = run(
    device,
    one,
    `keep(row("PA.FLAG"), 0x09); keep(row("PB.FLAG"), 0x06);
     printf("%d %d ", p_na3_interrupt_pending(), p_nb2_interrupt_pending());
     p_nb2_interrupt_acknowledge(); p_na3_interrupt_acknowledge();
     printf("%d %d ", p_na3_interrupt_pending(), p_nb2_interrupt_pending()); ${show('PA.FLAG')} ${show('PB.FLAG')}`,
  );
  expect(lines.join(' ').trim()).toContain('1 1 0 0 1 2');
});

test('what the hardware does not allow is not offered, and said', () => {
  const device = loadSmall(
    recipe([
      DIR,
      SEEN,
      { id: 'LATCH', offset: '0', bits: 8, access: 'internal' },
      // Bit by bit in reversed order: no number can be written as it stands.
      {
        id: 'RAISE',
        offset: '4',
        bits: 8,
        write: 'LATCH |= (v & 1) << 1 | (v & 2) >> 1',
      },
      { id: 'LOWER', offset: '5', bits: 8, write: 'LATCH &= ~((v & 1) << 1 | (v & 2) >> 1)' },
    ]),
  );
  const derived = deriveOn(plan('preserving', pins('A0', 'A1')), device);
  expect(derived.proof.failures).toEqual([]);
  expect(derived.accessors.list.map(({ action, fault }) => [action, fault])).toEqual([
    ['set', undefined],
    ['clear', undefined],
    ['read', undefined],
    ['set', undefined],
    ['clear', undefined],
    ['read', undefined],
    ['read', undefined],
  ]);
  const head = generateFiles(cTarget, derived)[0]?.text ?? '';
  for (const line of [
    'no toggle is offered for A0, A1: nothing reads PA.LATCH, and no write turns its bits',
    'no write is offered for A0, A1: no write takes bits of PA.LATCH as they stand in a number',
  ])
    expect(head.replace(/\s+\*\s+/g, ' ')).toContain(line);
});

test('a level in two places is set in both', () => {
  const device = loadSmall(
    recipe([DIR, LATCH, SEEN, { id: 'OTHER', offset: '3', bits: 8 }], {
      fields: {
        ...recipe([]).fields,
        latch: {
          parts: [
            { in: 'PORT.LATCH', at: 'b', bits: 1 },
            { in: 'PORT.OTHER', at: '7 - b', bits: 1 },
          ],
        },
      },
      encode: [
        { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
        {
          field: 'latch',
          from: ['mode', 'level'],
          table: { 'output high': 1, 'output low': 2, '*': 'keep' },
        },
      ],
    }),
  );
  const one = plan('preserving', pins('A1'));
  expect(faults(device, one)).toEqual([]);
  const both = `${show('PA.LATCH')} ${show('PA.OTHER')} printf("\\n");`;
  expect(run(device, one, `p_na1_set(); ${both} p_na1_clear(); ${both} p_na1_toggle(); ${both}`)).toEqual([
    '2 0 ',
    '0 40 ',
    '2 0',
  ]);
});

test('a latch that can only be written is kept in memory where all of it is known, and else not proven', () => {
  const device = loadSmall(recipe([DIR, { ...LATCH, access: 'write', reset: '0x10' }, SEEN]));
  const one = plan('from-reset', pins('A1', 'A2'));
  expect(faults(device, one)).toEqual([]);
  expect(
    run(
      device,
      one,
      `p_na1_set(); p_na2_set(); ${show('PA.LATCH')} p_na1_toggle(); ${show('PA.LATCH')} printf("\\n");`,
    ),
  ).toEqual(['16 14']);
  // In the other style nothing is known of what the other pads have.
  expect(deriveOn(plan('preserving', pins('A1')), device).proof.failures[0]?.message).toMatch(
    /changes bits 0xFD of PA\.LATCH, which are not the plan's/,
  );
});

describe('reading', () => {
  const reads = (seen: RegisterSource, more: Registers = [], stages: RecipeSource['stages'] = []) =>
    loadSmall(recipe([DIR, LATCH, seen, ...more], { stages: [...stages, ...(recipe([]).stages ?? [])] }));
  const door = (active: 'high' | 'low') =>
    plan('from-reset', [
      { name: 'DOOR', role: { kind: 'input' }, placement: on('A3'), settings: { active } },
    ]);
  test.each<[string, Device, string]>([
    ['as it is', reads(SEEN), '1 0'],
    ['inverted by the part', reads({ ...SEEN, follows: 'pads inverted' }), '0 1'],
    [
      'inverted by a register that the recipe sets',
      reads(
        { ...SEEN, follows: 'pads inverted by TURN' },
        [{ id: 'TURN', offset: '6', bits: 8 }],
        [{ id: 'turn', per: 'pad', do: ['PORT.TURN bit b := 1'] }],
      ),
      '0 1',
    ],
  ])('a level %s', (_name, device, expected) => {
    expect(faults(device, door('high'))).toEqual([]);
    const extra = (bits: string): string => `keep(row("PA.SEEN"), ${bits}); printf("%d ", p_door_read());`;
    expect(run(device, door('high'), `${extra('0x08')} ${extra('0xF7')} printf("\\n");`)[0]?.trim()).toBe(
      expected,
    );
    const turned = expected.split(' ').reverse().join(' ');
    expect(run(device, door('low'), `${extra('0x08')} ${extra('0xF7')} printf("\\n");`)[0]?.trim()).toBe(
      turned,
    );
  });
  test('what is not known to be the level is not claimed to be', () => {
    const turn: RegisterSource = { id: 'TURN', offset: '6', bits: 8, reset: 'unknown' };
    expect(faults(reads({ ...SEEN, follows: 'pads inverted by TURN' }, [turn]), door('high'))).toEqual([
      'read: whether PA.SEEN bit 3 is inverted depends on PA.TURN, of which nothing is known',
    ]);
    expect(faults(reads({ id: 'SEEN', offset: '2', bits: 8, access: 'read' }), door('high'))).toEqual([
      'read: the description does not say that PA.SEEN follows the pads',
    ]);
  });
});

describe('several at once', () => {
  const nets = [
    ...pins('A1', 'A2', 'A5', 'B0'),
    { name: 'LOW', role: output, placement: on('A3'), settings: { active: 'low' as const } },
  ];
  const board = (style: CodeStyle) => plan(style, nets);
  const pair: Registers = [
    DIR,
    LATCH,
    SEEN,
    { id: 'UP', offset: '4', bits: 8, access: 'set of LATCH' },
    { id: 'DOWN', offset: '5', bits: 8, access: 'clear of LATCH' },
  ];
  const paired = {
    fields: {
      ...recipe([]).fields,
      latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.UP', clearedBy: 'PORT.DOWN' },
    },
  };
  test.each<[string, Registers, Partial<RecipeSource>]>([
    ['read, changed and written back', [DIR, LATCH, SEEN], {}],
    ['set and cleared', pair, paired],
    ['masked', [DIR, { ...LATCH, offset: '4', bits: 16, access: 'masked' }, SEEN], {}],
    [
      'written beside it and taken over',
      [
        DIR,
        { id: 'NEXT', offset: '1', bits: 8 },
        SEEN,
        { ...LATCH, offset: '4', access: 'read' },
        { id: 'TAKE', offset: '5', bits: 8, access: 'act copies NEXT to LATCH' },
      ],
      {
        fields: { ...recipe([]).fields, latch: { in: 'PORT.LATCH', through: 'PORT.NEXT', at: 'b', bits: 1 } },
        stages: [
          { id: 'latch', fields: ['latch'] },
          { id: 'take', per: 'pad', do: ['PORT.TAKE bit b := 1'] },
          { id: 'direction', fields: ['dir'] },
        ],
      },
    ],
    [
      'locked',
      [DIR, LATCH, SEEN, { id: 'KEY', offset: '6', bits: 8, access: 'key 0x5A then 0xA5 opens LATCH' }],
      {
        stages: [
          { id: 'open', per: 'port', do: ['PORT.KEY := 0x5A', 'PORT.KEY := 0xA5'] },
          { id: 'latch', fields: ['latch'] },
          { id: 'direction', fields: ['dir'] },
          { id: 'shut', per: 'port', do: ['PORT.KEY := 0'] },
        ],
      },
    ],
    [
      'set and cleared by halves',
      [DIR, LATCH, SEEN, { id: 'BOTH', offset: '4', bits: 16, access: 'set and clear of LATCH' }],
      {
        fields: {
          ...recipe([]).fields,
          latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.BOTH', clearedBy: 'PORT.BOTH' },
        },
      },
    ],
  ])('a number is written to latches that are %s, and read back as it is', (_name, registers, change) => {
    const device = loadSmall(recipe(registers, change));
    for (const style of STYLES) {
      expect(faults(device, board(style))).toEqual([]);
      const lines = run(
        device,
        board(style),
        `for (unsigned v = 0; v < 32; v++) {
           unsigned others = look(row("PA.LATCH")) & ~0x2Eu;
           p_board_outputs_write((uint8_t)v);
           unsigned a = look(row("PA.LATCH")), b = look(row("PB.LATCH"));
           unsigned is = (a >> 1 & 3u) | (a >> 5 & 1u) << 2 | (b & 1u) << 3 | (~a >> 3 & 1u) << 4;
           keep(row("PA.SEEN"), a); keep(row("PB.SEEN"), b);
           if (is != v || (a & ~0x2Eu) != others || p_board_outputs_read() != v) printf("%u is %u\\n", v, is);
         }
         printf("ok\\n");`,
      );
      expect(lines).toEqual(['ok']);
    }
  });
  test('one access a register where the part can, and none that touches what keeps its level', () => {
    const device = loadSmall(recipe(pair, paired));
    const lines = run(
      device,
      board('preserving'),
      `long before = accesses; p_board_outputs_write(5); printf("%ld\\n", accesses - before);
       before = accesses; (void)p_board_outputs_read(); printf("%ld\\n", accesses - before);`,
    );
    // Two ports, each set and cleared; each port read once.
    expect(lines).toEqual(['4', '2']);
  });
  test('a bus is called after its nets, and is what its circuit would be', () => {
    const bus = planOf(
      ['D0', 'D1', 'D2', 'D3'].map((name, bit) => ({ name, role: output, placement: on(`B${bit + 4}`) })),
    );
    const constrained = {
      ...bus,
      constraints: [{ id: 't', kind: 'bus' as const, nets: bus.nets.map((net) => net.id) }],
    };
    const header = generateFiles(cTarget, deriveOn(constrained))[0]?.text ?? '';
    expect(header).toMatch(/static inline void frost_guard_d_write\(uint8_t value\)/);
    expect(header).toMatch(/static inline uint8_t frost_guard_d_read\(void\)/);
    expect(header).not.toMatch(/board_outputs/);
    const { lines } = runGenerated(constrained, {
      device: corvane(),
      extra: `keep(row("PB.OUT"), 0xA005); frost_guard_d_write(9); printf("%x\\n", (unsigned)look(row("PB.OUT")));`,
    });
    expect(lines).toEqual(['a095']);
  });
});

test('accessors that are not one access call the hooks around them, which may declare what they need', () => {
  const device = loadSmall(recipe([DIR, LATCH, SEEN]));
  const one = plan('from-reset', pins('A1'));
  const files = generateFiles(cTarget, deriveOn(one, device));
  const folder = writeFolder([
    ...files,
    {
      path: 'user.c',
      text: `#include <stdint.h>
extern uint32_t off(void); extern void back(uint32_t);
#define P_CRITICAL_ENTER() uint32_t const was = off()
#define P_CRITICAL_LEAVE() back(was)
#include "p.h"
void use(void); void use(void) { p_na1_set(); p_na1_toggle(); }
`,
    },
  ]);
  expect(compile('gcc', folder, 'user.c')).toBe('');
});

describe('what accessors rest on is kept by all of them', () => {
  const button = (pad: string): Pick<Net, 'name' | 'role'> & Partial<Net> => ({
    name: `N${pad}`,
    role: { kind: 'input' },
    placement: on(pad),
    settings: { trigger: 'rising' },
  });
  // Initialisation ends with a step that writes the enable bits of all pads, which their accessors change later.
  const withInterrupts = (
    enabled: string,
    flags: Partial<RegisterSource> = { clearedByOne: '0xFF' },
  ): Device =>
    loadSmall(
      recipe(
        [
          DIR,
          LATCH,
          SEEN,
          { id: 'SENSE', offset: '3', bits: 8 },
          { id: 'ENABLE', offset: '4', bits: 8 },
          { id: 'FLAGS', offset: '5', bits: 8, ...flags },
        ],
        {
          settings: { mode: ['input', 'output'], level: ['low', 'high'], trigger: ['none', 'rising'] },
          applies: { input: ['trigger'], output: ['level'], function: [], analog: [] },
          fields: {
            dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
            latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
            seen: { in: 'PORT.SEEN', at: 'b', bits: 1 },
            enable: { in: 'PORT.ENABLE', at: 'b', bits: 1 },
            flag: { in: 'PORT.FLAGS', at: 'b', bits: 1 },
          },
          access: { latch: 'latch', level: 'seen', pending: 'flag' },
          encode: [
            { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
            {
              field: 'latch',
              from: ['mode', 'level'],
              table: { 'output high': 1, 'output low': 0, '*': 'keep' },
            },
            { field: 'enable', from: ['trigger'], table: { none: 0, rising: 1 } },
          ],
          stages: [
            { id: 'latch', fields: ['latch'] },
            { id: 'direction', fields: ['dir'] },
            { id: 'flags', per: 'port', do: [`PORT.FLAGS := ${flags.clearedByZero ? '0x00' : '0xFF'}`] },
            { id: 'interrupts', fields: ['enable'] },
            { id: 'enabled', per: 'port', do: [`PORT.ENABLE := ${enabled}`] },
          ],
        },
      ),
    );

  test.each(STYLES)(
    'disabling one interrupt leaves another as it was since, whatever a step wrote (%s)',
    (style) => {
      const device = withInterrupts('0x03');
      const two = plan(style, [button('A0'), button('A1')]);
      const derived = deriveOn(two, device);
      expect(derived.accessors.list.map(({ action, fault }) => [action, fault])).toEqual(
        expect.arrayContaining([
          ['interrupt_enable', undefined],
          ['interrupt_disable', undefined],
        ]),
      );
      const lines = run(
        device,
        two,
        `p_na0_interrupt_disable(); ${show('PA.ENABLE')} p_na1_interrupt_disable(); ${show('PA.ENABLE')}
       p_na0_interrupt_enable(); ${show('PA.ENABLE')} p_na0_interrupt_disable(); ${show('PA.ENABLE')}`,
      );
      expect(lines.join(' ').trim().split(/\s+/)).toEqual(['2', '0', '1', '0']);
    },
  );

  test('a flag that initialisation has cleared is not taken to be down: acknowledging it is an access', () => {
    const device = withInterrupts('0x01');
    const { list } = deriveOn(plan('from-reset', [button('A0')]), device).accessors;
    const acknowledge = list.find(({ action }) => action === 'interrupt_acknowledge');
    expect(acknowledge).toMatchObject({ steps: [{ register: { name: 'PA.FLAGS' } }] });
    expect(acknowledge?.fault).toBeUndefined();
  });

  test.each(STYLES)(
    'flags that a 0 clears are acknowledged one by one, the others written 1 (%s)',
    (style) => {
      const device = withInterrupts('0x03', { clearedByZero: '0x0F' });
      const two = plan(style, [button('A0'), button('A1')]);
      const { list } = deriveOn(two, device).accessors;
      expect(list.filter(({ fault }) => fault !== undefined)).toEqual([]);
      const raise = 'keep(row("PA.FLAGS"), 0x0F);';
      const lines = run(
        device,
        two,
        `${raise} p_na0_interrupt_acknowledge(); ${show('PA.FLAGS')} p_na1_interrupt_acknowledge(); ${show('PA.FLAGS')}`,
      );
      expect(lines.join(' ').trim().split(/\s+/)).toEqual(['e', 'c']);
    },
  );
});
