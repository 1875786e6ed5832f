import { planOf } from '@/testing/frost-guard';
import { type Case, fixed, one } from '@/testing/rules';

export const RATE_CASES: Record<string, Case[]> = {
  'rate-too-high': [
    { name: 'as fast as it goes', plan: one('F7', { demands: { rateHertz: 100e6 } }), messages: [] },
    {
      name: 'a slow pad',
      plan: one('B7', { demands: { rateHertz: 40e6 } }),
      messages: [/`X` wants 40 MHz, but pad B7 \(5 V tolerant\) does 25 MHz at most/],
      remedies: [['move X to A2', 'move X to E13', 'want 25 MHz']],
    },
    {
      name: 'more than the divider gives',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { rateHertz: 8e6 } }),
        fixed('Y', 'UART1.RX', 'D3'),
      ]),
      messages: [/`X` wants 8 MHz, but the divider of UART1\.TX gives 5 MHz at most/],
      remedies: [['want 5 MHz']],
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
      remedies: [['want 1.667 MHz']],
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
      remedies: [['all 9.6 kHz', 'all 115.2 kHz']],
    },
  ],
};
