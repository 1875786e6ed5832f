import { frostGuard, planOf } from '@/testing/frost-guard';
import { type Case, constrained, fixed, one, out, output } from '@/testing/rules';

export const DEMAND_CASES: Record<string, Case[]> = {
  'constraint-broken': [
    { name: 'a bus in order', plan: constrained('bus', [out('A', 'B7'), out('B', 'B8')]), messages: [] },
    {
      name: 'a bus out of order',
      plan: constrained('bus', [out('A', 'B8'), out('B', 'B7')]),
      messages: [
        /`A` and `B` shall be on consecutive bits of one port, but `A` is on `B8` and `B` is on `B7`/,
      ],
      remedies: [['give the demand up']],
    },
    {
      name: 'a bus over two ports',
      plan: constrained('bus', [out('A', 'B7'), out('B', 'C3')]),
      messages: [/consecutive bits/],
      remedies: [['give the demand up']],
    },
    { name: 'neighbours', plan: constrained('pair', [out('A', 'E12'), out('B', 'E13')]), messages: [] },
    {
      name: 'a pair apart',
      plan: constrained('pair', [out('A', 'E12'), out('B', 'A5')]),
      messages: [/which are not neighbours/],
      remedies: [['give the demand up']],
    },
    {
      name: 'one timer',
      plan: constrained('same-instance', [fixed('A', 'PACE3.Q1', 'D12'), fixed('B', 'PACE3.Q2', 'D13')]),
      messages: [],
    },
    {
      name: 'two timers',
      plan: constrained('same-instance', [fixed('A', 'PACE3.Q1', 'D12'), fixed('B', 'PACE5.Q4', 'F10')]),
      messages: [/`A` is PACE3\.Q1 and `B` PACE5\.Q4/],
      remedies: [['give the demand up']],
    },
    {
      name: 'one timer where two are wanted',
      plan: constrained('other-instances', [fixed('A', 'PACE3.Q1', 'D12'), fixed('B', 'PACE3.Q2', 'D13')]),
      messages: [/two of them are on PACE3/],
      remedies: [['give the demand up']],
    },
    {
      name: 'beside each other',
      plan: constrained('apart', [out('A', 'E12'), out('B', 'E13')]),
      messages: [/not beside each other, but `A` is on `E12` beside `B` is on `E13`/],
      remedies: [['give the demand up']],
    },
    {
      name: 'on two sides',
      plan: constrained('together', [out('A', 'A5'), out('B', 'F7')]),
      messages: [/one side of the package, but `A` is on `A5` \(left\) and `B` is on `F7` \(top\)/],
      remedies: [['give the demand up']],
    },
    {
      name: 'one of them is unplaced',
      plan: constrained('bus', [out('A', 'B8'), { name: 'B', role: output }]),
      messages: [],
    },
  ],
  'wrong-side': [
    { name: 'on its side', plan: one('A5', { demands: { side: 'left' } }), messages: [] },
    {
      name: 'on another',
      plan: one('A5', { demands: { side: 'top' } }),
      messages: [/`X` shall be on the top side, but pad `A5` \(pin 8\) is on the left side/],
      remedies: [['move X to E13', 'move X to F11', 'move X to E12', 'any side will do']],
    },
  ],
  'ruled-out-pad': [
    { name: 'on another pad', plan: one('A5', { demands: { notPads: ['B7'] } }), messages: [] },
    {
      name: 'on that pad',
      plan: one('B7', { demands: { notPads: ['B7', 'B8'] } }),
      messages: [/`X` is on pad `B7` \(pin 27\), which the plan rules out for it/],
      remedies: [['move X to A2', 'move X to E13', 'move X to E1', 'allow B7']],
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
      remedies: [['put them all into Mast']],
    },
  ],
};
