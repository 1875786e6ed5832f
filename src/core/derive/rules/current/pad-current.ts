import { setSetting } from '../../../plan/edits/make-edits';
import { currentLimit, currentText, driveFor } from '../../electrical/limits';
import type { Remedy, Report, Rule } from '../types';
import { padWords } from '../words';

export const padCurrent: Rule = {
  meta: {
    id: 'pad-current',
    severity: 'error',
    title: 'More current than the pad can drive',
    means:
      'The load draws more through the pad than its class allows at the chosen drive; levels sag, and the pad may be damaged.',
    fix: 'Choose a stronger drive, move the net to a stronger pad, or put a transistor in between.',
  },
  per: 'plan',
  check(context) {
    const { device } = context;
    return context.loads.flatMap(({ one, pad, side, milliamps, limit }): Report[] => {
      if (limit === undefined || milliamps <= limit) return [];
      const { net } = one;
      const stronger = driveFor(device, pad, side, milliamps);
      const remedies: Remedy[] =
        stronger !== undefined && net.settings.drive !== undefined
          ? [{ label: `drive ${stronger}`, edit: setSetting(net, 'drive', stronger) }]
          : [];
      const strongest = currentLimit(device, pad, side);
      return [
        {
          message: `\`${net.name}\` ${side === 'sink' ? 'sinks' : 'sources'} ${currentText(milliamps)} on ${padWords(context, pad.id)}, which allows ${currentText(limit)}${strongest !== undefined && strongest > limit ? ` at drive ${one.planned?.settings.values.drive}` : ''}.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: () => [...remedies, ...context.movesFor(net, 3)],
        },
      ];
    });
  },
};
