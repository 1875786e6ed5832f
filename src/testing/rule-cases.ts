import type { Net, Plan, Tie, Waiver } from '@/core/plan/types';
import type { Device } from '@/core/recipe/device';
import { family } from './families';
import { frostGuard, on, planOf } from './frost-guard';

export interface Case {
  name: string;
  plan: Plan;
  /** Another part than the frost guard's. */
  device?: Device;
  /** Parts of the messages expected, one for each finding; none when the plan is valid. */
  messages: RegExp[];
}

type PlannedNet = Parameters<typeof planOf>[0][number];

const output = { kind: 'output' } as const;
const input = { kind: 'input' } as const;
const analog = { kind: 'analog' } as const;
const interrupt = { kind: 'interrupt' } as const;
const signal = (id: string) => ({ kind: 'signal', signal: id }) as const;

/** A net X on a pad of the Corvane C40-80 in quad 100. */
const one = (pad: string, net: Partial<Net>, change: Partial<Plan> = {}): Plan =>
  planOf([{ name: 'X', role: output, placement: on(pad), ...net }], change);

const onFamily = (folder: string, pkg: string, nets: PlannedNet[], change: Partial<Plan> = {}) => {
  const device = family(folder);
  return { device, plan: planOf(nets, { device: device.description.id, package: pkg, ...change }) };
};

const tied = (kind: Tie['kind'], nets: PlannedNet[]): Plan => {
  const plan = planOf(nets);
  return { ...plan, ties: [{ id: 't', kind, nets: plan.nets.map((net) => net.id) }] };
};

const out = (name: string, pad: string): PlannedNet => ({ name, role: output, placement: on(pad) });
const irq = (name: string, pad: string): PlannedNet => ({
  name,
  role: interrupt,
  placement: on(pad),
  demands: { farPull: 'driven' },
});
const fixed = (name: string, id: string, pad: string, more: Partial<Net> = {}): PlannedNet => ({
  name,
  role: signal(id),
  placement: on(pad),
  ...more,
});

const netlist = (pins: Record<string, string>): Partial<Plan> => ({
  schematic: {
    file: 'board.csv',
    designator: 'U1',
    pins: Object.entries(pins).map(([terminal, net]) => ({ terminal, net })),
  },
});

const waiver = (change: Partial<Waiver> = {}): Waiver => ({
  id: 'w',
  rule: 'floating-input',
  nets: ['n0'],
  pads: [],
  reason: 'the cable has a resistor',
  author: 'mk',
  date: '2026-11-20',
  ...change,
});

/** What the rules about demands, the far end and the board find, and what they let pass. */
export const MORE_CASES: Record<string, Case[]> = {
  'tie-broken': [
    { name: 'a bus in order', plan: tied('bus', [out('A', 'B7'), out('B', 'B8')]), messages: [] },
    {
      name: 'a bus out of order',
      plan: tied('bus', [out('A', 'B8'), out('B', 'B7')]),
      messages: [
        /`A` and `B` shall be on consecutive bits of one port, but `A` is on `B8` and `B` is on `B7`/,
      ],
    },
    {
      name: 'a bus over two ports',
      plan: tied('bus', [out('A', 'B7'), out('B', 'C3')]),
      messages: [/consecutive bits/],
    },
    { name: 'neighbours', plan: tied('pair', [out('A', 'E12'), out('B', 'E13')]), messages: [] },
    {
      name: 'a pair apart',
      plan: tied('pair', [out('A', 'E12'), out('B', 'A5')]),
      messages: [/which are not neighbours/],
    },
    {
      name: 'one timer',
      plan: tied('same-instance', [fixed('A', 'TIM3.CH1', 'D12'), fixed('B', 'TIM3.CH2', 'D13')]),
      messages: [],
    },
    {
      name: 'two timers',
      plan: tied('same-instance', [fixed('A', 'TIM3.CH1', 'D12'), fixed('B', 'TIM5.CH4', 'F10')]),
      messages: [/`A` is TIM3\.CH1 and `B` TIM5\.CH4/],
    },
    {
      name: 'one timer where two are wanted',
      plan: tied('other-instances', [fixed('A', 'TIM3.CH1', 'D12'), fixed('B', 'TIM3.CH2', 'D13')]),
      messages: [/two of them are on TIM3/],
    },
    {
      name: 'beside each other',
      plan: tied('apart', [out('A', 'E12'), out('B', 'E13')]),
      messages: [/not beside each other, but `A` is on `E12` beside `B` is on `E13`/],
    },
    {
      name: 'on two sides',
      plan: tied('together', [out('A', 'A5'), out('B', 'F7')]),
      messages: [/one side of the package, but `A` is on `A5` \(left\) and `B` is on `F7` \(top\)/],
    },
    {
      name: 'one of them waits for a pad',
      plan: tied('bus', [out('A', 'B8'), { name: 'B', role: output }]),
      messages: [],
    },
  ],
  'wrong-side': [
    { name: 'on its side', plan: one('A5', { demands: { side: 'left' } }), messages: [] },
    {
      name: 'on another',
      plan: one('A5', { demands: { side: 'top' } }),
      messages: [/`X` shall be on the top side, but pad `A5` \(terminal 8\) is on the left side/],
    },
  ],
  'ruled-out-pad': [
    { name: 'on another pad', plan: one('A5', { demands: { notPads: ['B7'] } }), messages: [] },
    {
      name: 'on that pad',
      plan: one('B7', { demands: { notPads: ['B7', 'B8'] } }),
      messages: [/`X` is on pad `B7` \(terminal 27\), which the plan rules out for it/],
    },
  ],
  'instance-shared': [
    { name: 'the demo', plan: frostGuard(), messages: [] },
    {
      name: 'one serial port for two circuits',
      plan: planOf(
        [fixed('A', 'UART1.TX', 'D4', { circuit: 'a' }), fixed('B', 'UART1.RX', 'D3', { circuit: 'b' })],
        {
          circuits: [
            { id: 'a', name: 'Mast' },
            { id: 'b', name: 'Panel' },
          ],
        },
      ),
      messages: [/`UART1` serves `Mast` and `Panel`: `A` and `B`/],
    },
  ],
  'interrupt-line-shared': [
    { name: 'different bits', plan: planOf([irq('A', 'B7'), irq('B', 'E12')]), messages: [] },
    {
      name: 'bit 12 twice',
      plan: planOf([irq('A', 'E12'), irq('B', 'F12')]),
      messages: [
        /`A` and `B` are on `E12` and `F12`, which share interrupt line 12: one interrupt line serves/,
      ],
    },
    {
      name: 'plain inputs do not matter',
      plan: planOf([irq('A', 'E12'), { ...irq('B', 'F12'), role: input }]),
      messages: [],
    },
  ],
  'interrupt-line-missing': [
    { name: 'a bit that has one', ...onFamily('ketter-k2', 'q64', [irq('A', 'A3')]), messages: [] },
    {
      name: 'a bit beyond the last',
      ...onFamily('ketter-k2', 'q64', [irq('A', 'A9')]),
      messages: [/`A` is on `A9`, whose bit has no interrupt line: eight lines/],
    },
    {
      name: 'nine on a part with eight channels',
      ...onFamily(
        'ostrel-n5',
        'q48',
        ioPads('ostrel-n5', 'q48')
          .slice(0, 9)
          .map((pad, at) => irq(`I${'ABCDEFGHI'[at]}`, pad)),
      ),
      messages: [/9 nets want an interrupt line, and the part has 8/],
    },
  ],
  'interrupt-no-trigger': [
    {
      name: 'an edge',
      ...onFamily('ostrel-n5', 'q48', [irq('A', ioPads('ostrel-n5', 'q48')[0] ?? '')]),
      messages: [],
    },
    {
      name: 'none',
      ...onFamily('ostrel-n5', 'q48', [
        { ...irq('A', ioPads('ostrel-n5', 'q48')[0] ?? ''), settings: { trigger: 'none' } },
      ]),
      messages: [/`A` is an interrupt input, but its trigger is none/],
    },
  ],
  'interrupt-port-shared': [
    {
      name: 'two of a port',
      ...onFamily(
        'pellin-p8',
        'd28',
        portPads('pellin-p8', 'd28')
          .slice(0, 2)
          .map((pad, at) => irq(`I${'AB'[at]}`, pad)),
      ),
      messages: [/`IA` and `IB` share the interrupt of port .: one change interrupt/],
    },
    {
      name: 'one',
      ...onFamily('pellin-p8', 'd28', [irq('A', portPads('pellin-p8', 'd28')[0] ?? '')]),
      messages: [],
    },
  ],
  'too-many-volts': [
    { name: '5 V on a tolerant pad', plan: one('B7', { demands: { farVolts: 5 } }), messages: [] },
    {
      name: '5 V on a standard pad',
      plan: one('A5', { role: input, settings: { pull: 'up' }, demands: { farVolts: 5 } }),
      messages: [/`X` puts 5 V on pad `A5` \(terminal 8\), which tolerates 3\.6 V/],
    },
  ],
  'both-drive': [
    { name: 'an input', plan: one('B7', { role: input, demands: { farPull: 'driven' } }), messages: [] },
    {
      name: 'an output against an output',
      plan: one('B7', { demands: { farPull: 'driven' } }),
      messages: [/`X` on pad `B7` \(terminal 27\) is an output, and the far end always drives it too/],
    },
    {
      name: 'an open-drain line may',
      plan: one('B7', { role: { kind: 'open-drain' }, demands: { farPull: 'driven' } }),
      messages: [],
    },
  ],
  'before-init': [
    {
      name: 'held by the board',
      plan: one('B7', { demands: { before: 'high', farPull: 'up', farPullOhms: 4700 } }),
      messages: [],
    },
    {
      name: 'floating',
      plan: one('B7', { demands: { before: 'low' } }),
      messages: [/`X` must be low before initialisation, but pad `B7` \(terminal 27\) floats then/],
    },
    {
      name: 'pulled the other way by the pad',
      ...onFamily('ketter-k2', 'q64', [{ ...out('X', 'A3'), demands: { before: 'low' } }]),
      messages: [/`X` must be low before initialisation, but pad `A3` .* is high then/],
    },
  ],
  'asserted-early': [
    { name: 'floating pads say nothing', plan: one('A5', { demands: { milliamps: 4 } }), messages: [] },
    {
      name: 'a lamp on a pad that rests high',
      ...onFamily('ketter-k2', 'q64', [{ ...out('X', 'A3'), demands: { milliamps: 4 } }]),
      messages: [/`X` on pad `A3` .* is high, its asserted level, from power-up/],
    },
    {
      name: 'asserted low it rests inactive',
      ...onFamily('ketter-k2', 'q64', [
        { ...out('X', 'A3'), settings: { active: 'low' }, demands: { milliamps: 4 } },
      ]),
      messages: [],
    },
  ],
  'analog-over-supply': [
    { name: 'within', plan: one('B0', { role: analog, demands: { farVolts: 3.3 } }), messages: [] },
    {
      name: 'above',
      plan: one('B0', { role: analog, demands: { farVolts: 3.5 } }),
      messages: [/`X` reaches 3\.5 V on pad `B0` \(terminal \d+\), but VDA is 3\.3 V/],
    },
  ],
  'threshold-missed': [
    {
      name: '3.3 V logic',
      plan: one('B7', { role: input, settings: { pull: 'up' }, demands: { farVolts: 3.3 } }),
      messages: [],
    },
    {
      name: '1.8 V logic',
      plan: one('B7', { role: input, settings: { pull: 'up' }, demands: { farVolts: 1.8 } }),
      messages: [
        /`X` reaches 1\.8 V, but pad `B7` \(terminal 27\) reads high only above 2\.31 V \(0\.7 of VDD\)/,
      ],
    },
    { name: 'outputs do not read', plan: one('B7', { demands: { farVolts: 1.8 } }), messages: [] },
  ],
  'open-drain-no-pull': [
    {
      name: 'with the pad’s own',
      plan: one('B7', { role: { kind: 'open-drain' }, settings: { pull: 'up' } }),
      messages: [],
    },
    {
      name: 'with the board’s',
      plan: one('B7', { role: { kind: 'open-drain' }, demands: { farPull: 'up' } }),
      messages: [],
    },
    {
      name: 'without',
      plan: one('B7', { role: { kind: 'open-drain' } }),
      messages: [/`X` on pad `B7` \(terminal 27\) is open-drain, and nothing pulls it up/],
    },
  ],
  'floating-input': [
    { name: 'pulled', plan: one('B7', { role: input, settings: { pull: 'up' } }), messages: [] },
    { name: 'driven', plan: one('B7', { role: input, demands: { farPull: 'driven' } }), messages: [] },
    {
      name: 'nothing holds it',
      plan: one('B7', { role: input }),
      messages: [/`X` on pad `B7` \(terminal 27\) is an input without a pull/],
    },
    {
      name: 'on a pad without pulls',
      plan: one('D11', { role: input }),
      messages: [/`X` on pad `D11`/],
    },
  ],
  'pulls-fight': [
    {
      name: 'the same way',
      plan: one('B7', { role: input, settings: { pull: 'up' }, demands: { farPull: 'up' } }),
      messages: [],
    },
    {
      name: 'against each other',
      plan: one('B7', {
        role: input,
        settings: { pull: 'up' },
        demands: { farPull: 'down', farPullOhms: 10_000 },
      }),
      messages: [/is pulled up by the pad \(40 kΩ\) and down at the far end \(10 kΩ\)/],
    },
  ],
  'needless-pull': [
    { name: 'no pull', plan: one('B7', { role: input, demands: { farPull: 'driven' } }), messages: [] },
    {
      name: 'a pull on a driven line',
      plan: one('B7', { role: input, settings: { pull: 'down' }, demands: { farPull: 'driven' } }),
      messages: [/is pulled down, but the far end always drives it/],
    },
  ],
  'pad-current': [
    { name: '8 mA of 8', plan: one('A5', { demands: { milliamps: 8 } }), messages: [] },
    {
      name: 'a lamp through 150 Ω',
      plan: one('A5', {
        settings: { active: 'low' },
        demands: { load: { kind: 'lamp', volts: 3.3, dropVolts: 1.8, ohms: 150 } },
      }),
      messages: [/`X` sinks 10 mA on pad `A5` \(terminal 8\), which allows 8 mA/],
    },
    {
      name: 'too weak a drive',
      plan: one('A5', { settings: { drive: '2mA' }, demands: { milliamps: 6 } }),
      messages: [/`X` sources 6 mA on pad `A5` \(terminal 8\), which allows 2 mA at drive 2mA/],
    },
  ],
  'supply-current': [
    { name: 'within', plan: loads('corvane-c40', 10, 8), messages: [] },
    {
      name: 'twenty lamps',
      plan: loads('corvane-c40', 20, 8),
      messages: [/The pads of VDD give 160 mA in the worst case, and 120 mA are allowed: .* and 17 more/],
    },
  ],
  'package-current': [
    { name: 'within', plan: loads('corvane-c40', 15, 8), messages: [] },
    {
      name: 'more than quad 100 carries',
      plan: loads('corvane-c40', 20, 8),
      messages: [/All pads together give 160 mA in the worst case, and quad 100, 0\.5 mm allows 150 mA/],
    },
  ],
  'little-headroom': [
    { name: 'half', plan: loads('corvane-c40', 8, 8), messages: [] },
    {
      name: 'nine tenths',
      plan: loads('corvane-c40', 14, 8),
      messages: [/The pads of VDD give 112 mA of 120 mA/],
    },
  ],
  'never-off': [
    {
      name: 'fed from the pad’s supply',
      plan: one('A5', {
        settings: { active: 'low' },
        demands: { load: { kind: 'lamp', volts: 3.3, dropVolts: 1.8, ohms: 470 } },
      }),
      messages: [],
    },
    {
      name: 'a lamp on 12 V',
      plan: one('B7', {
        settings: { active: 'low' },
        demands: { load: { kind: 'lamp', volts: 12, dropVolts: 2, ohms: 4700 } },
      }),
      messages: [/`X` hangs its lamp on 12 V, and pad `B7` \(terminal 27\) goes to 3\.3 V only/],
    },
    {
      name: 'a coil on 5 V, held off by an open drain',
      plan: one('B7', {
        settings: { active: 'low', buffer: 'open-drain' },
        demands: { load: { kind: 'coil', volts: 5, ohms: 2000 }, farPull: 'up' },
      }),
      messages: [],
    },
    {
      name: 'the same push-pull',
      plan: one('B7', {
        settings: { active: 'low' },
        demands: { load: { kind: 'coil', volts: 5, ohms: 2000 }, farPull: 'up' },
      }),
      messages: [/hangs its coil on 5 V/],
    },
  ],
  'rate-too-high': [
    { name: 'as fast as it goes', plan: one('F7', { demands: { rateHertz: 100e6 } }), messages: [] },
    {
      name: 'a slow pad',
      plan: one('B7', { demands: { rateHertz: 40e6 } }),
      messages: [/`X` wants 40 MHz, but pad B7 \(5 V tolerant\) does 25 MHz at most/],
    },
    {
      name: 'more than the divider gives',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { rateHertz: 8e6 } }),
        fixed('Y', 'UART1.RX', 'D3'),
      ]),
      messages: [/`X` wants 8 MHz, but the divider of UART1\.TX gives 5 MHz at most/],
    },
  ],
  'rate-off': [
    {
      name: '115200 from 80 MHz',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { rateHertz: 115_200 } }),
        fixed('Y', 'UART1.RX', 'D3'),
      ]),
      messages: [],
    },
    {
      name: '2 MHz from 80 MHz / 16',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { rateHertz: 2e6 } }),
        fixed('Y', 'UART1.RX', 'D3'),
      ]),
      messages: [
        /`X` wants 2 MHz; the nearest that UART1\.TX does is 1\.667 MHz \(divider 3\), 16\.7 % slow/,
      ],
    },
  ],
  'rates-differ': [
    {
      name: 'one rate',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { rateHertz: 115_200 } }),
        fixed('Y', 'UART1.RX', 'D3', { demands: { rateHertz: 115_200 } }),
      ]),
      messages: [],
    },
    {
      name: 'two',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { rateHertz: 115_200 } }),
        fixed('Y', 'UART1.RX', 'D3', { demands: { rateHertz: 9600 } }),
      ]),
      messages: [/`UART1` has one divider, but `X` and `Y` want 9\.6 kHz and 115\.2 kHz/],
    },
  ],
  'schematic-differs': [
    { name: 'no netlist', plan: one('B7', {}), messages: [] },
    {
      name: 'they agree',
      plan: one('B7', { name: 'FAN_1' }, netlist({ '27': '/fans/FAN-1' })),
      messages: [],
    },
    {
      name: 'another net',
      plan: planOf([out('LOG_CS', 'B7'), out('FAN_2', 'E12')], netlist({ '27': 'FAN_2', '80': 'LOG_CS' })),
      messages: [
        /The schematic says U1-27 is `FAN_2`, the plan says `B7` is `LOG_CS`/,
        /The schematic says U1-80 is `LOG_CS`, the plan says `E12` is `FAN_2`/,
      ],
    },
    {
      name: 'a name the plan does not know',
      plan: planOf([out('LOG_CS', 'B7')], netlist({ '27': 'CHIP_SELECT' })),
      messages: [/is `CHIP_SELECT`, the plan says/],
    },
  ],
  'schematic-only': [
    { name: 'unconnected', plan: one('B7', {}, netlist({ '27': 'X', '80': 'NC' })), messages: [] },
    {
      name: 'a net nobody planned',
      plan: one('B7', {}, netlist({ '27': 'X', '80': 'HEATER' })),
      messages: [/The schematic has `HEATER` on pad `E12` \(terminal 80\); the plan has no such net/],
    },
    {
      name: 'a net that waits for its pad',
      plan: planOf([{ name: 'HEATER', role: output }], netlist({ '80': 'HEATER' })),
      messages: [/the plan has it without a pad/],
    },
  ],
  'plan-only': [
    { name: 'drawn', plan: one('B7', {}, netlist({ '27': 'X' })), messages: [] },
    {
      name: 'not drawn',
      plan: one('B7', {}, netlist({ '32': 'VDD' })),
      messages: [/The plan has `X` on pad `B7` \(terminal 27\); the schematic connects nothing there/],
    },
  ],
  'label-twice': [
    {
      name: 'different',
      plan: one('B7', {}, { tables: { label: { B7: 'J3-1', B8: 'J3-2' } } }),
      messages: [],
    },
    {
      name: 'the same',
      plan: one('B7', {}, { tables: { label: { B7: 'J3-1', B8: 'J3-1' } } }),
      messages: [/The label `J3-1` is given to `B7` and `B8`/],
    },
  ],
  'unused-not-here': [
    { name: 'no policy', plan: one('B7', {}), messages: [] },
    {
      name: 'inputs with a pull',
      plan: one(
        'D11',
        { role: input, demands: { farPull: 'driven' } },
        { tables: { unused: { '*': 'input-pulled' } } },
      ),
      messages: [],
    },
    {
      name: 'analog on pads without a switch',
      plan: one('B7', {}, { tables: { unused: { '*': 'analog' } } }),
      messages: [
        /`B6`, .* and 14 more, unused, cannot be analog, digital stages off: 5 V/,
        /`D11`, unused, cannot be analog/,
      ],
    },
    {
      name: 'a policy of its own',
      plan: one('B7', {}, { tables: { unused: { D11: 'output-low' } } }),
      messages: [/`D11`, unused, cannot be output, low: note 5/],
    },
  ],
  'circuit-twice': [
    { name: 'the demo', plan: frostGuard(), messages: [] },
    {
      name: 'two boards',
      plan: {
        ...one('B7', {}),
        circuits: [
          { id: 'board', name: 'Board' },
          { id: 'b', name: 'board' },
        ],
      },
      messages: [/Two circuits are called `board`/],
    },
  ],
  'stale-waiver': [
    { name: 'covers something', plan: one('B7', { role: input }, { waivers: [waiver()] }), messages: [] },
    {
      name: 'covers nothing',
      plan: one('B7', { role: input, settings: { pull: 'up' } }, { waivers: [waiver()] }),
      messages: [/The waiver of floating-input for `X` by mk covers nothing any more/],
    },
    {
      name: 'of another rule',
      plan: one('B7', { role: input }, { waivers: [waiver({ rule: 'two-nets' })] }),
      messages: [/The waiver of two-nets/],
    },
  ],
};

function ioPads(folder: string, pkg: string): string[] {
  const device = family(folder);
  const bonded = device.terminalsOf.get(pkg);
  return device.description.pads
    .filter((pad) => pad.kind === 'io' && !pad.boot && bonded?.has(pad.id) && pad.class === 'std')
    .map((pad) => pad.id);
}

/** Pads of the port that has most. */
function portPads(folder: string, pkg: string): string[] {
  const device = family(folder);
  const pads = ioPads(folder, pkg);
  const portOf = (pad: string): string => device.pads.get(pad)?.port ?? '';
  const ports = [...new Set(pads.map(portOf))].map((port) => pads.filter((pad) => portOf(pad) === port));
  return ports.sort((a, b) => b.length - a.length)[0] ?? [];
}

/** So many outputs of a current each, on standard pads of the digital supply. */
function loads(folder: string, count: number, milliamps: number): Plan {
  const device = family(folder);
  const pads = ioPads(folder, 'q100').filter((pad) => device.pads.get(pad)?.supply === 'VDD');
  return planOf(
    pads.slice(0, count).map((pad, at) => ({
      name: `LOAD_${at}`,
      role: output,
      placement: on(pad),
      demands: { milliamps },
    })),
  );
}
