import { planOf } from '@/testing/frost-guard';
import { type Case, input, ioPads, irq, onFamily, portPads } from '@/testing/rules';

export const INTERRUPT_CASES: Record<string, Case[]> = {
  'interrupt-line-shared': [
    { name: 'different bits', plan: planOf([irq('A', 'B7'), irq('B', 'E12')]), messages: [] },
    {
      name: 'bit 12 twice',
      plan: planOf([irq('A', 'E12'), irq('B', 'F12')]),
      messages: [
        /`A` and `B` are on `E12` and `F12`, which share interrupt line 12: one interrupt line serves/,
      ],
      remedies: [['move A to F11', 'move A to A2', 'move B to E13', 'move B to E14']],
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
      remedies: [['move A to A1', 'move A to C5']],
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
      remedies: [[]],
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
      remedies: [['trigger as its asserted level says', 'make A a plain input']],
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
      remedies: [[]],
    },
    {
      name: 'one',
      ...onFamily('pellin-p8', 'd28', [irq('A', portPads('pellin-p8', 'd28')[0] ?? '')]),
      messages: [],
    },
  ],
  'shared-bits': [
    {
      name: 'two pads of one line, which knows one port',
      ...onFamily('hadrik-h7', 'b361', [irq('A', 'A3'), irq('B', 'B3')]),
      messages: [/`A3` and `B3` want different values in EDGE\.WHO/],
      remedies: [['move A to B25', 'move B to A24']],
    },
  ],
};
