import { type Case, loads, one } from '@/testing/rules';

export const CURRENT_CASES: Record<string, Case[]> = {
  'pad-current': [
    { name: '8 mA of 8', plan: one('A5', { demands: { milliamps: 8 } }), messages: [] },
    {
      name: 'a lamp through 150 Ω',
      plan: one('A5', {
        settings: { active: 'low' },
        demands: { load: { kind: 'led', volts: 3.3, dropVolts: 1.8, ohms: 150 } },
      }),
      messages: [/`X` sinks 10 mA on pad `A5` \(pin 8\), which allows 8 mA/],
      remedies: [['move X to F11', 'move X to F10', 'move X to C11']],
    },
    {
      name: 'too weak a drive',
      plan: one('A5', { settings: { drive: '2mA' }, demands: { milliamps: 6 } }),
      messages: [/`X` sources 6 mA on pad `A5` \(pin 8\), which allows 2 mA at drive 2mA/],
      remedies: [['drive 8mA']],
    },
  ],
  'supply-current': [
    { name: 'within', plan: loads('corvane-c40', 10, 8), messages: [] },
    {
      name: 'twenty lamps',
      plan: loads('corvane-c40', 20, 8),
      messages: [/The pads of VDD give 160 mA in the worst case, and 120 mA are allowed: .* and 17 more/],
      remedies: [[]],
    },
  ],
  'package-current': [
    { name: 'within', plan: loads('corvane-c40', 15, 8), messages: [] },
    {
      name: 'more than quad 100 carries',
      plan: loads('corvane-c40', 20, 8),
      messages: [/All pads together give 160 mA in the worst case, and quad 100, 0\.5 mm allows 150 mA/],
      remedies: [[]],
    },
  ],
  'little-headroom': [
    { name: 'half', plan: loads('corvane-c40', 8, 8), messages: [] },
    {
      name: 'nine tenths',
      plan: loads('corvane-c40', 14, 8),
      messages: [/The pads of VDD give 112 mA of 120 mA/],
      remedies: [[]],
    },
  ],
  'never-off': [
    {
      name: 'fed from the pad’s supply',
      plan: one('A5', {
        settings: { active: 'low' },
        demands: { load: { kind: 'led', volts: 3.3, dropVolts: 1.8, ohms: 470 } },
      }),
      messages: [],
    },
    {
      name: 'a lamp on 12 V',
      plan: one('B7', {
        settings: { active: 'low' },
        demands: { load: { kind: 'led', volts: 12, dropVolts: 2, ohms: 4700 } },
      }),
      messages: [/`X` has its LED on 12 V, and pad `B7` \(pin 27\) goes to 3\.3 V only/],
      remedies: [[]],
    },
    {
      name: 'a coil on 5 V, held off by an open drain',
      plan: one('B7', {
        settings: { active: 'low', outputType: 'open-drain' },
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
      messages: [/has its coil on 5 V/],
      remedies: [['make it open-drain']],
    },
  ],
};
