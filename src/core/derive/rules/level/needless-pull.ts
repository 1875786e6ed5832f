import { isSet } from '../../../device/available';
import { setSetting } from '../../../plan/edits/make-edits';
import { choiceOf } from '../remedies';
import type { Rule } from '../types';
import { padWords } from '../words';

export const needlessPull: Rule = {
  meta: {
    id: 'needless-pull',
    severity: 'note',
    title: 'Pull on a line that is always driven',
    means: 'The far end drives the line all the time; the pad’s pull only costs current.',
    fix: 'Turn the pull off, unless the far end can be unplugged.',
  },
  per: 'placed net',
  check({ net, pad, planned }, part) {
    const { device } = part;
    const own = isSet(device, planned?.settings, 'pull');
    if (net.demands?.farPull !== 'driven') return undefined;
    if (own !== 'up' && own !== 'down') return undefined;
    return {
      message: `\`${net.name}\` on ${padWords(part, pad.id)} is pulled ${own}, but the far end always drives it.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () =>
        choiceOf(
          device,
          { pad, planned },
          'pull',
          'none',
          'turn the pull off',
          setSetting(net, 'pull', 'none'),
        ),
    };
  },
};
