import { isSet } from '../../../device/available';
import { setSetting } from '../../../plan/edits/make-edits';
import { LOADS } from '../../../plan/model/types';
import { voltsText } from '../../electrical/limits';
import { supplyOf } from '../../resolve/budget';
import { choiceOf } from '../remedies';
import type { Rule } from '../types';
import { padWords } from '../words';

export const neverOff: Rule = {
  meta: {
    id: 'never-off',
    severity: 'warning',
    title: 'Load that cannot be turned off',
    means:
      'The load is fed from a voltage above the pad’s supply and the pad; when the pad goes high, current still flows and the LED glows or the coil holds.',
    fix: 'Feed the load from the pad’s supply, use a pad that is open-drain and tolerates the voltage, or a transistor.',
  },
  per: 'placed net',
  check({ net, pad, planned }, part) {
    const { device } = part;
    const load = net.demands?.load;
    if (!load || net.settings.active !== 'low') return undefined;
    const supply = supplyOf(device, pad);
    const drop = load.kind === 'led' ? load.dropVolts : 0;
    if (!supply || load.volts - supply.nominalVolts <= drop) return undefined;
    const tolerated = device.description.padClasses[pad.class ?? '']?.toleratesVolts ?? 0;
    if (isSet(device, planned?.settings, 'outputType') === 'open-drain' && tolerated >= load.volts)
      return undefined;
    return {
      message: `\`${net.name}\` has its ${LOADS[load.kind].title} on ${voltsText(load.volts)}, and ${padWords(part, pad.id)} goes to ${voltsText(supply.nominalVolts)} only: it cannot be turned off.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () =>
        tolerated >= load.volts
          ? choiceOf(
              device,
              { pad, planned },
              'outputType',
              'open-drain',
              'make it open-drain',
              setSetting(net, 'outputType', 'open-drain'),
            )
          : [],
    };
  },
};
