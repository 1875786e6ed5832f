import { isSet } from '../../../device/available';
import { setDemands, setSetting } from '../../../plan/edits/make-edits';
import { choiceOf } from '../remedies';
import type { Rule } from '../types';
import { padWords } from '../words';

export const floatingInput: Rule = {
  meta: {
    id: 'floating-input',
    severity: 'warning',
    title: 'Input that nothing holds',
    means:
      'Neither the pad nor, as far as the plan says, the far end holds the line: it reads noise when nothing drives it.',
    fix: 'Turn a pull on, or say what holds the line at the far end.',
  },
  per: 'placed net',
  check({ net, pad, planned }, part) {
    const { device } = part;
    if (planned?.settings.values.mode !== 'input') return undefined;
    const own = isSet(device, planned.settings, 'pull');
    // A keeper holds the last level that was driven.
    if (own === 'up' || own === 'down' || own === 'keeper' || net.demands?.farPull !== undefined)
      return undefined;
    const rest = net.settings.active === 'low' ? 'up' : 'down';
    return {
      message: `\`${net.name}\` on ${padWords(part, pad.id)} is an input without a pull, and nothing at the far end is said to hold it.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [
        ...choiceOf(device, { pad, planned }, 'pull', rest, `pull ${rest}`, setSetting(net, 'pull', rest)),
        {
          label: 'the far end always drives it',
          edit: setDemands(net, { ...net.demands, farPull: 'driven' }),
        },
      ],
    };
  },
};
