import { setDemands } from '../../../plan/edits/make-edits';
import { voltsText } from '../../electrical/limits';
import { supplyOf } from '../../resolve/budget';
import { isAnalog } from '../../resolve/resolve';
import type { Rule } from '../types';
import { padWords } from '../words';

export const analogOverSupply: Rule = {
  meta: {
    id: 'analog-over-supply',
    severity: 'warning',
    title: 'Analog input above its supply',
    means:
      'A converter measures up to its supply; a pad that tolerates more as a digital input does not while its analog switch is closed.',
    fix: 'Divide the voltage on the board, and say what arrives at the pad.',
  },
  per: 'placed net',
  check({ net, pad }, part) {
    const { device } = part;
    const volts = net.demands?.farVolts;
    if (!isAnalog(net.role) || volts === undefined) return undefined;
    const supply = supplyOf(device, pad);
    if (!supply || volts <= supply.nominalVolts) return undefined;
    return {
      message: `\`${net.name}\` reaches ${voltsText(volts)} on ${padWords(part, pad.id)}, but ${supply.id} is ${voltsText(supply.nominalVolts)}.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [
        {
          label: `it is divided to ${voltsText(supply.nominalVolts)} on the board`,
          edit: setDemands(net, { ...net.demands, farVolts: supply.nominalVolts }),
        },
      ],
    };
  },
};
