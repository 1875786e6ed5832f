import { isSet } from '../../../device/available';
import { setDemands, setSetting } from '../../../plan/edits/make-edits';
import { choiceOf } from '../remedies';
import type { Rule } from '../types';
import { padWords } from '../words';

export const openDrainNoPull: Rule = {
  meta: {
    id: 'open-drain-no-pull',
    severity: 'warning',
    title: 'Open-drain line without a pull-up',
    means: 'An open-drain output only pulls low; without a pull-up the line never goes high.',
    fix: 'Turn the pad’s pull-up on, or say that the board has one.',
  },
  per: 'placed net',
  check({ net, pad, planned }, part) {
    const { device } = part;
    if (!planned || isSet(device, planned.settings, 'outputType') !== 'open-drain') return undefined;
    const { mode } = planned.settings.values;
    const pull = isSet(device, planned.settings, 'pull');
    if (mode !== 'output' && mode !== 'function') return undefined;
    if (pull === 'up' || net.demands?.farPull === 'up' || net.demands?.farPull === 'driven') return undefined;
    return {
      message: `\`${net.name}\` on ${padWords(part, pad.id)} is open-drain, and nothing pulls it up.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [
        ...choiceOf(
          device,
          { pad, planned },
          'pull',
          'up',
          `pull up in the pad`,
          setSetting(net, 'pull', 'up'),
        ),
        {
          label: 'the board has a pull-up of 4.7 kΩ',
          edit: setDemands(net, { ...net.demands, farPull: 'up', farPullOhms: 4700 }),
        },
      ],
    };
  },
};
