import { analog, type Case, input, one, onFamily, out } from '@/testing/rules';

export const LEVEL_CASES: Record<string, Case[]> = {
  'too-many-volts': [
    { name: '5 V on a tolerant pad', plan: one('B7', { demands: { farVolts: 5 } }), messages: [] },
    {
      name: '5 V on a standard pad',
      plan: one('A5', { role: input, settings: { pull: 'up' }, demands: { farVolts: 5 } }),
      messages: [/`X` puts 5 V on pad `A5` \(pin 8\), which tolerates 3\.6 V/],
      remedies: [['move X to B7', 'move X to E12', 'move X to D15', 'it is divided to 3.6 V on the board']],
    },
  ],
  'both-drive': [
    { name: 'an input', plan: one('B7', { role: input, demands: { farPull: 'driven' } }), messages: [] },
    {
      name: 'an output against an output',
      plan: one('B7', { demands: { farPull: 'driven' } }),
      messages: [/`X` on pad `B7` \(pin 27\) is an output, and the far end always drives it too/],
      remedies: [['make X an input', 'the far end does not drive it']],
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
      plan: one('B7', { demands: { beforeInit: 'high', farPull: 'up', farPullOhms: 4700 } }),
      messages: [],
    },
    {
      name: 'floating',
      plan: one('B7', { demands: { beforeInit: 'low' } }),
      messages: [/`X` must be low before initialisation, but pad `B7` \(pin 27\) floats then/],
      remedies: [['the board pulls it down with 4.7 kΩ']],
    },
    {
      name: 'pulled the other way by the pad',
      ...onFamily('ketter-k2', 'q64', [{ ...out('X', 'A3'), demands: { beforeInit: 'low' } }]),
      messages: [/`X` must be low before initialisation, but pad `A3` .* is high then/],
      remedies: [['the board pulls it down with 4.7 kΩ']],
    },
  ],
  'asserted-early': [
    { name: 'floating pads say nothing', plan: one('A5', { demands: { milliamps: 4 } }), messages: [] },
    {
      name: 'a lamp on a pad that rests high',
      ...onFamily('ketter-k2', 'q64', [{ ...out('X', 'A3'), demands: { milliamps: 4 } }]),
      messages: [/`X` on pad `A3` .* is high, its asserted level, from power-up/],
      remedies: [['the board pulls it down with 4.7 kΩ']],
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
      messages: [/`X` reaches 3\.5 V on pad `B0` \(pin \d+\), but VDA is 3\.3 V/],
      remedies: [['it is divided to 3.3 V on the board']],
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
      messages: [/`X` reaches 1\.8 V, but pad `B7` \(pin 27\) reads high only above 2\.31 V \(0\.7 of VDD\)/],
      remedies: [['it is shifted to 3.3 V on the board']],
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
      messages: [/`X` on pad `B7` \(pin 27\) is open-drain, and nothing pulls it up/],
      remedies: [['pull up in the pad', 'the board has a pull-up of 4.7 kΩ']],
    },
  ],
  'floating-input': [
    { name: 'pulled', plan: one('B7', { role: input, settings: { pull: 'up' } }), messages: [] },
    { name: 'driven', plan: one('B7', { role: input, demands: { farPull: 'driven' } }), messages: [] },
    {
      name: 'nothing holds it',
      plan: one('B7', { role: input }),
      messages: [/`X` on pad `B7` \(pin 27\) is an input without a pull/],
      remedies: [['pull down', 'the far end always drives it']],
    },
    {
      name: 'on a pad without pulls',
      plan: one('D11', { role: input }),
      messages: [/`X` on pad `D11`/],
      remedies: [['the far end always drives it']],
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
      remedies: [['turn the pull of B7 off', 'pull down as well']],
    },
  ],
  'needless-pull': [
    { name: 'no pull', plan: one('B7', { role: input, demands: { farPull: 'driven' } }), messages: [] },
    {
      name: 'a pull on a driven line',
      plan: one('B7', { role: input, settings: { pull: 'down' }, demands: { farPull: 'driven' } }),
      messages: [/is pulled down, but the far end always drives it/],
      remedies: [['turn the pull off']],
    },
  ],
};
