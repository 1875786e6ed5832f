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
  'format-not-here': [
    {
      name: 'what the peripherals have',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { format: '8E1' } }),
        fixed('Y', 'UART1.RX', 'D3', { demands: { format: '9N2', rateHertz: 115_200 } }),
      ]),
      messages: [],
    },
    {
      name: 'a frame, a mode and a class that they have not',
      plan: planOf([
        fixed('X', 'UART1.TX', 'D4', { demands: { format: '5N1' } }),
        fixed('Y', 'UART1.RX', 'D3', { demands: { format: 'mode 3 msb' } }),
      ]),
      messages: [
        /`X` asks for 5N1 on UART1, but its data bits are 7, 8, 9\./,
        /`Y` asks for mode 3, highest bit first on UART1, but it has no modes\./,
      ],
      remedies: [['ask for no format'], ['ask for no format']],
    },
    {
      name: 'a frame on a pad that is no line of a peripheral',
      plan: one('B7', { demands: { format: '8N1' } }),
      messages: [/asks for 8N1 on B7, but it is no line of a peripheral\./],
      remedies: [['ask for no format']],
    },
    {
      name: 'a class that is too slow for the rate',
      plan: planOf([
        fixed('X', 'I2C1.SDA', 'C6', { demands: { format: 'standard', rateHertz: 400_000 } }),
        fixed('Y', 'I2C1.SCL', 'C7'),
      ]),
      messages: [/`X` asks for standard on I2C1, but that class ends at 100 kHz and 400 kHz are wanted\./],
      remedies: [['ask for no format']],
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
