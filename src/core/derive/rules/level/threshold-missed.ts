import { setDemands } from '../../../plan/edits/make-edits';
import { classOf, voltsText } from '../../electrical/limits';
import { supplyOf } from '../../resolve/budget';
import type { Rule } from '../types';
import { padWords } from '../words';

export const thresholdMissed: Rule = {
  meta: {
    id: 'threshold-missed',
    severity: 'warning',
    title: 'High level too low to be read',
    means: 'The highest voltage of the far end lies below what the pad is sure to read as high.',
    fix: 'Move the net to a pad of a lower supply, or shift the level on the board and say so.',
  },
  per: 'placed net',
  check({ net, pad, fn, planned }, part) {
    const { device } = part;
    const volts = net.demands?.farVolts;
    if (volts === undefined) return undefined;
    const reads =
      planned?.settings.values.mode === 'input' ||
      (planned?.settings.values.mode === 'function' && fn && device.lineOf(fn.signal)?.direction === 'in');
    const supply = supplyOf(device, pad);
    const share = classOf(device, pad)?.readsHighAbove;
    if (!reads || !supply || share === undefined) return undefined;
    const needed = share * supply.nominalVolts;
    if (volts >= needed) return undefined;
    return {
      message: `\`${net.name}\` reaches ${voltsText(volts)}, but ${padWords(part, pad.id)} reads high only above ${voltsText(needed)} (${share} of ${supply.id}).`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [
        {
          label: `it is shifted to ${voltsText(supply.nominalVolts)} on the board`,
          edit: setDemands(net, { ...net.demands, farVolts: supply.nominalVolts }),
        },
      ],
    };
  },
};
