import { isSet } from '../../../device/available';
import { setSetting } from '../../../plan/edits/make-edits';
import { ohmsText, pullOhmsOf } from '../../electrical/limits';
import { choiceOf } from '../remedies';
import type { Rule } from '../types';
import { padWords } from '../words';

export const pullsFight: Rule = {
  meta: {
    id: 'pulls-fight',
    severity: 'warning',
    title: 'Pulls fight',
    means:
      'The pad pulls one way and the far end the other; the line rests at a level in between, and current flows.',
    fix: 'Turn the pad’s pull off, or round.',
  },
  per: 'placed net',
  check({ net, pad, planned }, part) {
    const { device } = part;
    const own = isSet(device, planned?.settings, 'pull');
    const far = net.demands?.farPull;
    if (planned?.settings.values.mode === 'analog') return undefined;
    if ((own !== 'up' && own !== 'down') || (far !== 'up' && far !== 'down') || own === far) return undefined;
    const ohms = pullOhmsOf(device, pad, planned?.settings.values.pull);
    const farOhms = net.demands?.farPullOhms;
    return {
      message: `\`${net.name}\` on ${padWords(part, pad.id)} is pulled ${own} by the pad${ohms ? ` (${ohmsText(ohms)})` : ''} and ${far} at the far end${farOhms ? ` (${ohmsText(farOhms)})` : ''}.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [
        ...choiceOf(
          device,
          { pad, planned },
          'pull',
          'none',
          `turn the pull of ${pad.id} off`,
          setSetting(net, 'pull', 'none'),
        ),
        ...choiceOf(
          device,
          { pad, planned },
          'pull',
          far,
          `pull ${far} as well`,
          setSetting(net, 'pull', far),
        ),
      ],
    };
  },
};
