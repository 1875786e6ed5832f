import { planOf } from '@/testing/frost-guard';
import { type Case, netlist, one, out, output } from '@/testing/rules';

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
