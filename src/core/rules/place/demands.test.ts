import { frostGuard, planOf } from '@/testing/frost-guard';
import { describeRules, fixed, one, out, output, tied } from '@/testing/rules';

describeRules({
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
});
