import { supplyOf } from '../../electrical/budget';
import { classOf, voltsText } from '../../electrical/limits';
import { setDemands } from '../../plan/make-edits';
import type { Report, Rule } from '../types';
import { padWords } from '../words';

export const thresholdMissed: Rule = {
  meta: {
    id: 'threshold-missed',
    severity: 'warning',
    title: 'High level too low to be read',
    means: 'The highest voltage of the far end lies below what the pad is sure to read as high.',
    fix: 'Move the net to a pad of a lower supply, or shift the level on the board and say so.',
  },
  check({ device, resolved, ...context }) {
    return resolved.flatMap(({ net, pad, fn, terminals, planned }): Report[] => {
      const volts = net.demands?.farVolts;
      if (!pad || terminals.length === 0 || volts === undefined) return [];
      const reads =
        planned?.settings.values.use === 'input' ||
        (planned?.settings.values.use === 'function' && fn && device.lineOf(fn.signal)?.direction === 'in');
      const supply = supplyOf(device, pad);
      const part = classOf(device, pad)?.readsHighAbove;
      if (!reads || !supply || part === undefined) return [];
      const needed = part * supply.nominalVolts;
      if (volts >= needed) return [];
      return [
        {
          message: `\`${net.name}\` reaches ${voltsText(volts)}, but ${padWords(context, pad.id)} reads high only above ${voltsText(needed)} (${part} of ${supply.id}).`,
          pads: [pad.id],
          nets: [net.id],
          remedies: [
            {
              label: `it is shifted to ${voltsText(supply.nominalVolts)} on the board`,
              edit: setDemands(net, { ...net.demands, farVolts: supply.nominalVolts }),
            },
          ],
        },
      ];
    });
  },
};
