import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import {
  corvane,
  deriveOn,
  frostGuard,
  netOf,
  on,
  planOf,
  readExample,
  withNets,
} from '@/testing/frost-guard';
import { type Case, clickAll, describeRules } from '@/testing/rules';
import { loadDevice } from '../../device/compile/load';
import type { Device } from '../../device/device';
import { emptyRecipe } from '../../import/compose/infer';
import { parsePlan } from '../../plan/file/plan-file';
import type { Net, Plan } from '../../plan/model/types';
import { BOARD_CASES } from '../rules/board/board-rules.cases';
import { CURRENT_CASES } from '../rules/current/currents.cases';
import { INTERRUPT_CASES } from '../rules/interrupt/interrupts.cases';
import { LEVEL_CASES } from '../rules/level/levels.cases';
import { DEMAND_CASES } from '../rules/place/demands.cases';
import { RATE_CASES } from '../rules/rate/rates.cases';
import { START_UP_CASES } from '../rules/start-up/start-up.cases';
import type { Finding } from '../rules/types';
import { UNUSED_CASES } from '../rules/unused/unused.cases';
import { RULES } from './catalogue';

const demo = frostGuard();
const found = (plan: Plan, rule: string, device?: Device): Finding[] =>
  deriveOn(plan, device).findings.filter((one) => one.rule === rule);
const output = { kind: 'output' } as const;
const input = { kind: 'input' } as const;
const line = (peripheral: string, name: string) => ({ kind: 'open-signal', peripheral, line: name }) as const;
const signal = (id: string) => ({ kind: 'signal', signal: id }) as const;

const pellin = family('pellin-p8');
const onPellin = (nets: Parameters<typeof planOf>[0], pkg = 'd28') => ({
  plan: planOf(nets, { device: pellin.description.id, package: pkg }),
  device: pellin,
});
const { description } = corvane();
const bare = expectOk(
  loadDevice({ ...description, recipe: emptyRecipe(Object.keys(description.recipe.ports)) }),
);

const unsure = expectOk(
  loadDevice({
    ...description,
    unconfirmed: [{ id: 'direction', says: 'direction is PORT*.DIR', rests: 'its name' }],
  }),
);

const CASES: Record<string, Case[]> = {
  'two-nets': [
    { name: 'one net a pad', plan: demo, messages: [] },
    {
      name: 'two on F7',
      plan: withNets(demo, { FAN_3: { placement: on('F7') } }),
      messages: [/`FAN_3` and `LOG_D1` are both on pad `F7` \(pin 93\)\. Move one\./],
      remedies: [['move LOG_D1 to C8', 'move FAN_3 to E13', 'move FAN_3 to E11']],
    },
    {
      name: 'three on one pad',
      plan: planOf(['A', 'B', 'C'].map((name) => ({ name, role: output, placement: on('B7') }))),
      messages: [/`A`, `B` and `C` are all on pad `B7`/],
      remedies: [[]],
    },
  ],
  'pad-missing': [
    {
      name: 'in the big package',
      plan: planOf([{ name: 'X', role: input, placement: on('G3') }], { package: 'q144' }),
      messages: [],
    },
    {
      name: 'not in quad 100',
      plan: planOf([{ name: 'X', role: input, placement: on('G3') }]),
      messages: [
        /`X` is on pad `G3`, which is not bonded in quad 100, 0\.5 mm\. It is in quad 144, 0\.5 mm\./,
      ],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7', 'take X off G3']],
    },
    {
      name: 'nowhere',
      plan: planOf([{ name: 'X', role: input, placement: on('Z9') }]),
      messages: [/which the Corvane C40-80 does not have/],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7', 'take X off Z9']],
    },
  ],
  'function-not-here': [
    {
      name: 'UART1.TX on D4',
      plan: planOf([{ name: 'X', role: signal('UART1.TX'), placement: on('D4') }]),
      messages: [],
    },
    {
      name: 'UART1.TX on D5',
      plan: planOf([{ name: 'X', role: signal('UART1.TX'), placement: on('D5') }]),
      messages: [
        /`X` needs UART1\.TX, but D5 does not offer UART1\.TX\. In quad 100, 0\.5 mm it is on `C4`, `D0`, `D4`/,
      ],
      remedies: [['move X to C4', 'move X to D4', 'move X to D0', 'make it UART5.TX']],
    },
    {
      name: 'UART1.TX on K6',
      ...onPellin([{ name: 'X', role: signal('UART1.TX'), placement: on('K6') }]),
      messages: [],
    },
    {
      name: 'a package note takes UART1.TX on K6 away',
      ...onPellin([{ name: 'X', role: signal('UART1.TX'), placement: on('K6') }], 'd14'),
      messages: [/K6 does not have UART1\.TX in dual row 14: note 5: the 14-pin package does not bring/],
      remedies: [['take X off K6']],
    },
    {
      name: 'analog without a channel',
      plan: planOf([{ name: 'X', role: { kind: 'analog' }, placement: on('B7') }]),
      messages: [/B7 has no analog channel/],
      remedies: [['move X to F2', 'move X to D1', 'move X to D2']],
    },
    {
      name: 'output on an input-only pad',
      plan: planOf([{ name: 'X', role: output, placement: on('D11') }]),
      messages: [/note 5: this pad has no output stage/],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7']],
    },
    {
      name: 'a signal that the part does not have',
      plan: planOf([{ name: 'X', role: signal('UART9.TX'), placement: on('D4') }]),
      messages: [/The part has no signal `UART9\.TX`/],
      remedies: [['take X off D4']],
    },
  ],
  'signal-twice': [
    {
      name: 'once',
      plan: planOf([{ name: 'X', role: signal('UART1.TX'), placement: on('D4') }]),
      messages: [],
    },
    {
      name: 'on D4 and C4',
      plan: planOf([
        { name: 'X', role: signal('UART1.TX'), placement: on('D4') },
        { name: 'Y', role: line('UART', 'TX'), placement: on('C4', 'UART1.TX') },
      ]),
      messages: [/`UART1\.TX` is placed twice: `X` on `D4` and `Y` on `C4`/],
      remedies: [['move Y to D5', 'move Y to D6', 'make X UART3.RX', 'make X UART5.DE']],
    },
    {
      name: 'two analog nets may share a converter',
      plan: planOf([
        { name: 'X', role: { kind: 'analog' }, placement: on('B0') },
        { name: 'Y', role: { kind: 'analog' }, placement: on('B1') },
      ]),
      messages: [],
    },
  ],
  'half-placed': [
    { name: 'the demo', plan: demo, messages: [] },
    {
      name: 'a line is unplaced',
      plan: withNets(demo, { SET_SCL: { placement: null } }),
      messages: [/`I2C2` is half placed: `SET_SCL` has no pad yet/],
      remedies: [['place SET_SCL on C2']],
    },
    {
      name: 'two instances',
      plan: withNets(demo, { MAST_TX: { placement: on('F0', 'UART2.TX') } }),
      messages: [/UART lines of one circuit are on `UART1` and `UART2`/],
      remedies: [['all on UART1: MAST_TX to D4', 'all on UART2: MAST_RX to E5, MAST_DE to E7']],
    },
    {
      name: "a needed line is nobody's",
      plan: planOf([{ name: 'X', role: signal('I2C2.SDA'), placement: on('C0') }]),
      messages: [/`I2C2` is used by `X` but no net carries its `SCL`/],
      remedies: [['add I2C2_SCL on C2']],
    },
    {
      name: 'timer channels stand alone',
      plan: planOf([{ name: 'X', role: signal('PACE3.Q1'), placement: on('D12') }]),
      messages: [],
    },
  ],
  'reserved-pad': [
    { name: 'debug lines on their own pads', plan: demo, messages: [] },
    {
      name: 'on a supply',
      plan: planOf([{ name: 'X', role: input, placement: on('VDD') }]),
      messages: [/which is a supply/],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7', 'take X off VDD']],
    },
    {
      name: 'on the crystal',
      plan: planOf([{ name: 'X', role: input, placement: on('XI') }]),
      messages: [/`X` is on pad `XI` \(pin 9\), which is a crystal connection/],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7', 'take X off XI']],
    },
    {
      name: 'on reset',
      plan: planOf([{ name: 'X', role: input, placement: on('RES') }]),
      messages: [/which is the reset input/],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7', 'take X off RES']],
    },
    {
      name: 'on a boot strap pad',
      plan: planOf([{ name: 'X', role: input, placement: on('A4') }]),
      messages: [/a strap pad: sampled as boot select 1/],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7']],
    },
    {
      name: 'on a debug pad',
      plan: planOf([{ name: 'X', role: input, placement: on('E3') }]),
      messages: [/the probe cannot attach/],
      remedies: [['move X to A2', 'move X to E13', 'move X to B7']],
    },
  ],
  'setting-not-here': [
    {
      name: '12 mA on a fast pad',
      plan: planOf([{ name: 'X', role: output, placement: on('F7'), settings: { drive: '12mA' } }]),
      messages: [],
    },
    {
      name: '12 mA on a standard pad',
      plan: planOf([{ name: 'X', role: output, placement: on('A5'), settings: { drive: '12mA' } }]),
      messages: [
        /`X` asks for drive 12mA, which pad `A5` \(pin 8\) does not have: 12 mA is offered by fast pads only/,
      ],
      remedies: [['drive 8mA', 'drive 4mA', 'move X to F11', 'move X to F10']],
    },
    {
      name: 'a default of the line that the pad lacks',
      plan: planOf([
        { name: 'X', role: signal('QSP1.D1'), placement: on('E3') },
        { name: 'Y', role: input, placement: on('D11'), settings: { pull: 'up' } },
      ]),
      messages: [/note 5: this pad has no pull resistors/],
      remedies: [['pull none', 'move Y to E2', 'move Y to E1']],
    },
  ],
  'shared-bits': [{ name: 'pads of this part share no field', plan: demo, messages: [] }],
  'bad-name': [
    { name: 'identifiers', plan: demo, messages: [] },
    ...[
      ['FAN 1', 'FAN_1'],
      ['1ST', 'n_1ST'],
      ['Lüfter', 'Lufter'],
      ['*/ int x; /*', 'int_x'],
      ['<script>', 'script'],
      ["'; drop table plans", 'drop_table_plans'],
      ['../../x', 'x'],
      ['a`b', 'a_b'],
      ['', 'NET'],
    ].map(([name = '', usable]) => ({
      name: `"${name}"`,
      plan: planOf([{ name, role: output, placement: on('B7') }]),
      messages: [/cannot be an identifier/],
      remedies: [[`rename to ${usable}`]],
    })),
    {
      name: 'too long',
      plan: planOf([{ name: 'A'.repeat(60), role: output, placement: on('B7') }]),
      messages: [/longer than 48/],
      remedies: [['rename to AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA']],
    },
  ],
  'name-twice': [
    { name: 'different names', plan: demo, messages: [] },
    {
      name: 'case does not tell names apart',
      plan: planOf([
        { name: 'Fan', role: output },
        { name: 'FAN', role: output },
      ]),
      messages: [/2 nets are called `FAN`/],
      remedies: [['rename one to FAN_2']],
    },
  ],
  unproven: [{ name: 'the demo', plan: demo, messages: [] }],
  unplaced: [
    { name: 'all placed', plan: demo, messages: [] },
    {
      name: 'free pads',
      plan: withNets(demo, { MAST_PWR: { placement: null } }),
      messages: [/`MAST_PWR` \(output\) has no pad; \d+ free pads can take it/],
      remedies: [['place MAST_PWR on D1', 'place MAST_PWR on D2', 'place MAST_PWR on D0']],
    },
    {
      name: 'all alternatives taken',
      plan: planOf([
        { name: 'TX', role: signal('UART1.TX') },
        ...['C4', 'D0', 'D4'].map((pad) => ({ name: `ON_${pad}`, role: output, placement: on(pad) })),
      ]),
      messages: [/all 3 that could take it are in use: .*`C4` by `ON_C4`/],
      remedies: [[]],
    },
    {
      name: 'no pad at all',
      plan: planOf([{ name: 'X', role: signal('UART4.DE') }], { package: 'q64' }),
      messages: [/has no pad/],
      remedies: [[]],
    },
  ],
};

Object.assign(CASES, {
  'taken-along': [
    {
      name: 'the crystal is not used',
      ...onPellin([{ name: 'X', role: output, placement: on('M4') }]),
      messages: [],
    },
    {
      name: 'the crystal alone',
      ...onPellin([{ name: 'XTAL', role: signal('OSC.XI'), placement: on('M3') }]),
      messages: [],
    },
    {
      name: 'a lamp on the second pad of the crystal',
      ...onPellin([
        { name: 'XTAL', role: signal('OSC.XI'), placement: on('M3') },
        { name: 'LAMP', role: output, placement: on('M4') },
      ]),
      messages: [/`LAMP` is on pad `M4` \(pin \d+\), which `OSC\.XI` on `M3` takes along: note 3/],
      remedies: [['move LAMP to M0', 'move LAMP to M2']],
    },
  ],
  'no-recipe': [
    { name: 'with one', plan: planOf([{ name: 'X', role: output }]), messages: [] },
    { name: 'without, and nothing planned', plan: planOf([]), device: bare, messages: [] },
    {
      name: 'without',
      plan: planOf([{ name: 'X', role: output, placement: on('B7') }]),
      device: bare,
      messages: [/Corvane C40-80 has no recipe yet/],
      remedies: [[]],
    },
  ],
  'not-confirmed': [
    { name: 'all of it is', plan: planOf([{ name: 'X', role: output }]), messages: [] },
    { name: 'not, and nothing planned', plan: planOf([]), device: unsure, messages: [] },
    {
      name: 'not',
      plan: planOf([{ name: 'X', role: output, placement: on('B7') }]),
      device: unsure,
      messages: [
        /1 statements about the registers of Corvane C40-80 are not confirmed \(direction is PORT\*\.DIR\)/,
      ],
      remedies: [[]],
    },
  ],
  'part-changed': [
    { name: 'the description it was made against', plan: demo, messages: [] },
    { name: 'not known against which', plan: { ...demo, deviceFingerprint: '' }, messages: [] },
    {
      name: 'another one',
      plan: { ...demo, deviceFingerprint: 'feedfacefeedface' },
      messages: [
        /was made against description `feedfacefeedface` of Corvane C40-80; the one here is `[0-9a-f]{16}`/,
      ],
      remedies: [['take over the description here']],
    },
  ],
});

/** Everything that is said of every rule. One rule may have cases in several lists. */
const ALL: Record<string, Case[]>[] = [
  CASES,
  BOARD_CASES,
  CURRENT_CASES,
  INTERRUPT_CASES,
  LEVEL_CASES,
  DEMAND_CASES,
  RATE_CASES,
  UNUSED_CASES,
  START_UP_CASES,
];
for (const cases of ALL) describeRules(cases);

test.each(RULES.map((rule) => rule.meta.id))('%s has cases with findings, and cases without', (id) => {
  const cases = ALL.flatMap((list) => list[id] ?? []);
  expect(cases.filter((one) => one.messages.length > 0).length).toBeGreaterThan(0);
  expect(cases.filter((one) => one.messages.length === 0).length).toBeGreaterThan(0);
  // A case that is there twice is one that somebody meant to change.
  const names = cases.map((one) => one.name);
  expect(names.filter((name, at) => names.indexOf(name) !== at)).toEqual([]);
});

describe('remedies', () => {
  const faulty = expectOk(parsePlan('faulty', readExample('frost-guard-faulty.plan.json')));
  const plans: Pick<Case, 'plan' | 'device'>[] = [...Object.values(CASES).flat(), { plan: faulty }];

  test('each one applies, removes its finding, and adds no error', () => {
    const clicked = clickAll(plans);
    expect(clicked).toBeGreaterThan(60);
  });

  test('conflicts that a move can resolve offer one', () => {
    for (const rule of [
      'two-nets',
      'pad-missing',
      'function-not-here',
      'reserved-pad',
      'setting-not-here',
      'bad-name',
      'name-twice',
      'signal-twice',
    ]) {
      for (const finding of found(faulty, rule))
        expect([rule, finding.remedies.length > 0]).toEqual([rule, true]);
    }
  });

  test('locked nets are not proposed for a move', () => {
    const plan = withNets(demo, { FAN_1: { placement: { pad: 'E13', locked: true } } });
    const [finding] = found(plan, 'two-nets');
    expect(finding?.remedies.length).toBeGreaterThan(0);
    for (const remedy of finding?.remedies ?? []) expect(remedy.edit).toMatchObject({ id: 'fan-3' });
  });
});

test('the faulty example shows what its name says, and the shipped plan is clean', () => {
  const faulty = deriveOn(expectOk(parsePlan('faulty', readExample('frost-guard-faulty.plan.json'))));
  expect(new Set(faulty.findings.map((one) => one.rule))).toEqual(
    new Set([
      'two-nets',
      'pad-missing',
      'function-not-here',
      'signal-twice',
      'half-placed',
      'reserved-pad',
      'setting-not-here',
      'bad-name',
      'name-twice',
      'unplaced',
    ]),
  );
  expect(deriveOn(demo).findings).toEqual([]);
});

test('the demo is as large as a real board', () => {
  const { description } = corvane();
  const inQuad100 = Object.values(description.packages[0]?.pins ?? {});
  expect(Object.keys(description.packages[0]?.pins ?? {})).toHaveLength(100);
  expect(inQuad100.filter((pad) => corvane().pads.get(pad)?.kind === 'io').length).toBeGreaterThanOrEqual(80);
  expect(description.functions.filter((fn) => inQuad100.includes(fn.pad)).length).toBeGreaterThan(300);
  expect(demo.nets.length).toBeGreaterThanOrEqual(40);
  expect(demo.circuits.length).toBeGreaterThanOrEqual(8);
});

test('asserted low and inactive means latch high', () => {
  const settings = (net: Partial<Net>) =>
    deriveOn(planOf([{ name: 'X', role: output, placement: on('B7'), ...net }])).planned[0]?.settings.values
      .level;
  expect(settings({ settings: { active: 'low' } })).toBe('high');
  expect(settings({ settings: { active: 'low', start: 'asserted' } })).toBe('low');
  expect(settings({ settings: {} })).toBe('low');
  expect(settings({ settings: { start: 'asserted' } })).toBe('high');
  expect(netOf(demo, 'FAN_1').settings.active).toBe('low');
});

test('the shipped plans were made against the shipped description', () => {
  for (const name of ['frost-guard.plan.json', 'frost-guard-faulty.plan.json'])
    expect(expectOk(parsePlan(name, readExample(name))).deviceFingerprint).toBe(corvane().fingerprint);
});
