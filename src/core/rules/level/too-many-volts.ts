import { classOf, voltsText } from '../../electrical/limits';
import { setDemands } from '../../plan/make-edits';
import type { Report, Rule } from '../types';
import { padWords } from '../words';

export const tooManyVolts: Rule = {
  meta: {
    id: 'too-many-volts',
    severity: 'error',
    title: 'More volts than the pad tolerates',
    means: 'The far end puts more on the pad than its class tolerates; the pad, or the part, is damaged.',
    fix: 'Move the net to a pad that tolerates it, or divide the voltage on the board and say so.',
  },
  check({ device, resolved, movesFor, ...context }) {
    return resolved.flatMap(({ net, pad, terminals }): Report[] => {
      const volts = net.demands?.farVolts;
      const tolerated = pad && classOf(device, pad)?.toleratesVolts;
      if (!pad || terminals.length === 0 || volts === undefined || tolerated === undefined) return [];
      if (volts <= tolerated) return [];
      return [
        {
          message: `\`${net.name}\` puts ${voltsText(volts)} on ${padWords(context, pad.id)}, which tolerates ${voltsText(tolerated)}.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: [
            ...movesFor(net, 3),
            {
              label: `it is divided to ${voltsText(tolerated)} on the board`,
              edit: setDemands(net, { ...net.demands, farVolts: tolerated }),
            },
          ],
        },
      ];
    });
  },
};
