import { setDemands } from '../../../plan/edits/make-edits';
import { classOf, voltsText } from '../../electrical/limits';
import type { Rule } from '../types';
import { padWords } from '../words';

export const tooManyVolts: Rule = {
  meta: {
    id: 'too-many-volts',
    severity: 'error',
    title: 'More volts than the pad tolerates',
    means: 'The far end puts more on the pad than its class tolerates; the pad, or the part, is damaged.',
    fix: 'Move the net to a pad that tolerates it, or divide the voltage on the board and say so.',
  },
  per: 'placed net',
  check({ net, pad }, part) {
    const { device } = part;
    const volts = net.demands?.farVolts;
    const tolerated = pad && classOf(device, pad)?.toleratesVolts;
    if (volts === undefined || tolerated === undefined) return undefined;
    if (volts <= tolerated) return undefined;
    return {
      message: `\`${net.name}\` puts ${voltsText(volts)} on ${padWords(part, pad.id)}, which tolerates ${voltsText(tolerated)}.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: (context) => [
        ...context.movesFor(net, 3),
        {
          label: `it is divided to ${voltsText(tolerated)} on the board`,
          edit: setDemands(net, { ...net.demands, farVolts: tolerated }),
        },
      ],
    };
  },
};
