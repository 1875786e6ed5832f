import type { Plan, SchematicPin } from '@/core/plan/model/types';
import { family } from '@/testing/families';
import { corvane, planOf } from '@/testing/frost-guard';
import { type Case, input, netlist, one, out, output } from '@/testing/rules';

/** The pins of a pad on a net. */
const on = (pad: string, net: string): Record<string, string> =>
  Object.fromEntries(
    Object.entries(corvane().packages.get('q100')?.pins ?? {})
      .filter(([, id]) => id === pad)
      .map(([pin]) => [pin, net]),
  );

/** A plan without nets whose netlist has the unconnected pin of a package on a net, and its supplies as they should be. */
function onPellin(net: string): Pick<Case, 'plan' | 'device'> {
  const device = family('pellin-p8');
  const [pkg] = [...device.packages.values()].filter(({ pins }) => pins['24'] === 'NC');
  if (!pkg) throw new Error('no package with an unconnected pin');
  const supplies = Object.entries(pkg.pins)
    .filter(([, pad]) => ['supply', 'ground'].includes(device.pads.get(pad)?.kind ?? ''))
    .map(([pin, pad]) => ({ pin, net: pad }));
  const schematic = { file: 'b', designator: 'U1', pins: [...supplies, { pin: '24', net }] };
  return { device, plan: planOf([], { device: device.description.id, package: pkg.id, schematic }) };
}

/** A plan with a net X on B7, and a netlist with its pins changed, or left out. */
function withPins(
  { schematic }: Partial<Plan>,
  change: (pin: SchematicPin) => SchematicPin | undefined,
): Plan {
  if (!schematic) throw new Error('no netlist');
  return one(
    'B7',
    {},
    { schematic: { ...schematic, pins: schematic.pins.flatMap((pin) => change(pin) ?? []) } },
  );
}

export const BOARD_CASES: Record<string, Case[]> = {
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
      remedies: [
        ['FAN_2 to B7, LOG_CS to E12', 'the schematic is to change: U1-27 is LOG_CS'],
        ['LOG_CS to E12, FAN_2 to B7', 'the schematic is to change: U1-80 is FAN_2'],
      ],
    },
    {
      name: 'a name the plan does not know',
      plan: planOf([out('LOG_CS', 'B7')], netlist({ '27': 'CHIP_SELECT' })),
      messages: [/is `CHIP_SELECT`, the plan says/],
      remedies: [['rename LOG_CS to CHIP_SELECT', 'the schematic is to change: U1-27 is LOG_CS']],
    },
  ],
  'schematic-only': [
    { name: 'unconnected', plan: one('B7', {}, netlist({ '27': 'X', '80': 'NC' })), messages: [] },
    {
      name: 'a net nobody planned',
      plan: one('B7', {}, netlist({ '27': 'X', '80': 'HEATER' })),
      messages: [/The schematic has `HEATER` on pad `E12` \(pin 80\); the plan has no such net/],
      remedies: [['add HEATER on E12', 'the schematic is to change: U1-80 is not connected']],
    },
    {
      name: 'an unplaced net',
      plan: planOf([{ name: 'HEATER', role: output }], netlist({ '80': 'HEATER' })),
      messages: [/the plan has it without a pad/],
      remedies: [['HEATER to E12', 'the schematic is to change: U1-80 is not connected']],
    },
  ],
  'plan-only': [
    { name: 'drawn', plan: one('B7', {}, netlist({ '27': 'X' })), messages: [] },
    {
      name: 'not drawn',
      plan: one('B7', {}, netlist({ '32': 'VDD' })),
      messages: [/The plan has `X` on pad `B7` \(pin 27\); the schematic connects nothing there/],
      remedies: [['take X off B7', 'the schematic is to change: U1-27 is X']],
    },
  ],
  'supply-open': [
    { name: 'all connected', plan: one('B7', {}, netlist({ '27': 'X' })), messages: [] },
    {
      name: 'one pin of five: to where the others are',
      plan: one('B7', {}, netlist({ '27': 'X', '32': '' })),
      messages: [/^U1-32 \(`VDD`\), a supply, is not connected in the schematic\.$/],
      remedies: [['the schematic is to change: U1-32 is VDD']],
    },
    {
      name: 'a net where nothing else is',
      plan: withPins(netlist({ '27': 'X' }), (pin) =>
        pin.pin === '32' ? { ...pin, net: 'N7', alone: true } : pin,
      ),
      messages: [
        /^U1-32 \(`VDD`\), a supply, is on a net in the schematic where nothing else of the board is\.$/,
      ],
      remedies: [['the schematic is to change: U1-32 is VDD']],
    },
    {
      name: 'two grounds: one finding for the pad',
      plan: one('B7', {}, netlist({ '27': 'X', '46': '', '67': '' })),
      messages: [/^`VSS` \(U1-46, U1-67\), ground pins, are not connected/],
      remedies: [['the schematic is to change: U1-46, U1-67 are VSS']],
    },
    {
      name: 'a table of the I/O pins alone: one finding',
      plan: withPins(netlist({ '27': 'X' }), (pin) => (pin.net === 'X' ? pin : undefined)),
      messages: [
        /^No supply or ground pin of U1 is connected in the schematic \(\d+ pins\), or the netlist leaves them out/,
      ],
      remedies: [[]],
    },
  ],
  'supply-wrong': [
    {
      name: 'volts within the range',
      plan: one('B7', {}, netlist({ '27': 'X', ...on('VDD', '+3V3') })),
      messages: [],
    },
    {
      name: 'a name that says nothing',
      plan: one('B7', {}, netlist({ '27': 'X', ...on('VDD', 'N$17') })),
      messages: [],
    },
    {
      name: 'other volts',
      plan: one('B7', {}, netlist({ '27': 'X', ...on('VDA', '+5V') })),
      messages: [/`VDA`\), a supply, is on `\+5V` in the schematic, and VDA takes 2\.7 V to 3\.6 V/],
      remedies: [[]],
    },
    {
      name: 'a ground on a supply, a supply on a ground, which no pin of that kind shares',
      plan: one('B7', {}, netlist({ '27': 'X', '32': 'AGND', '33': 'VCC' })),
      messages: [
        /U1-32 \(`VDD`\), a supply, is on `AGND` in the schematic, which is named like a ground/,
        /U1-33 \(`VSS`\), a ground, is on `VCC` in the schematic, which is named like a supply/,
      ],
      remedies: [['the schematic is to change: U1-32 is VDD'], ['the schematic is to change: U1-33 is VSS']],
    },
    {
      name: 'a signal of the plan',
      plan: one('B7', {}, netlist({ '32': '/fans/x' })),
      messages: [
        /U1-32 \(`VDD`\), a supply, is on `\/fans\/x` in the schematic, which the plan has as a signal/,
      ],
      remedies: [['the schematic is to change: U1-32 is VDD']],
    },
  ],
  'supply-split': [
    { name: 'one net', plan: one('B7', {}, netlist({ '27': 'X' })), messages: [] },
    {
      name: 'one pin on another net',
      plan: one('B7', {}, netlist({ '27': 'X', '32': '+3V3' })),
      messages: [
        /The pins of `VDD` are on 2 nets in the schematic, `VDD`, `\+3V3`; inside the part they are one/,
      ],
      remedies: [['the schematic is to change: U1-32 is VDD']],
    },
  ],
  'supply-shorted': [
    { name: 'apart', plan: one('B7', {}, netlist({ '27': 'X' })), messages: [] },
    {
      name: 'a supply pin on the ground',
      plan: one('B7', {}, netlist({ '27': 'X', '32': 'VSS' })),
      messages: [/^`VSS` shorts `VDD` \(U1-32\) to `VSS` \(U1-2, /],
      remedies: [['the schematic is to change: U1-32 is VDD']],
    },
    {
      name: 'an output tied to the ground: that, and not a name that differs as well',
      plan: one('B7', {}, netlist({ '27': 'VSS' })),
      messages: [
        /^U1-27 \(`B7`\) is tied to the ground `VSS` in the schematic, and the plan drives `X` there/,
      ],
      remedies: [['take X off B7', 'the schematic is to change: U1-27 is not connected']],
    },
    {
      name: 'an input tied to the ground is none',
      plan: one('B7', { name: 'VSS', role: input }, netlist({ '27': 'VSS' })),
      messages: [],
    },
    {
      name: 'an unused pad tied to the supply, where unused pads drive low',
      plan: planOf([], { ...netlist({ '27': 'VDD' }), tables: { unused: { '*': 'output-low' } } }),
      messages: [
        /^U1-27 \(`B7`\) is tied to the supply `VDD` in the schematic, and the plan makes unused pads outputs/,
      ],
      remedies: [['the schematic is to change: U1-27 is not connected']],
    },
    {
      name: 'the reset pin on the ground',
      plan: one('B7', {}, netlist({ '27': 'X', ...on('RES', 'VSS') })),
      messages: [/the reset pin, is on `VSS` in the schematic: the part never starts/],
      remedies: [['the schematic is to change: U1-58 is not connected']],
    },
  ],
  'not-left-open': [
    { name: 'open', plan: one('B7', {}, netlist({ '27': 'X' })), messages: [] },
    {
      name: 'connected',
      ...onPellin('GUARD'),
      messages: [/^U1-24 \(`NC`\) is to be left open, and is on `GUARD` in the schematic\.$/],
      remedies: [['the schematic is to change: U1-24 is not connected']],
    },
    { name: 'alone on its net', ...onPellin('unconnected-(U1-24)'), messages: [] },
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
      remedies: [['no label on B7', 'no label on B8']],
    },
  ],
};
