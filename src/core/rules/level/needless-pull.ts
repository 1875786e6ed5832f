import { setSetting } from '../../plan/make-edits';
import { choiceOf } from '../remedies';
import type { Report, Rule } from '../types';
import { padWords } from '../words';

export const needlessPull: Rule = {
  meta: {
    id: 'needless-pull',
    severity: 'note',
    title: 'Pull on a line that is always driven',
    means: 'The far end drives the line all the time; the pad’s pull only costs current.',
    fix: 'Turn the pull off, unless the far end can be unplugged.',
  },
  check({ device, resolved, ...context }) {
    return resolved.flatMap(({ net, pad, terminals, planned }): Report[] => {
      const own = planned?.settings.values.pull;
      if (!pad || terminals.length === 0 || net.demands?.farPull !== 'driven') return [];
      if (own !== 'up' && own !== 'down') return [];
      return [
        {
          message: `\`${net.name}\` on ${padWords(context, pad.id)} is pulled ${own}, but the far end always drives it.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: choiceOf(
            device,
            { pad, planned },
            'pull',
            'none',
            'turn the pull off',
            setSetting(net, 'pull', 'none'),
          ),
        },
      ];
    });
  },
};
