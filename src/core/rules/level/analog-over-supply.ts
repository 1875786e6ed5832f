import { supplyOf } from '../../electrical/budget';
import { voltsText } from '../../electrical/limits';
import { setDemands } from '../../plan/make-edits';
import { isAnalog } from '../../plan/resolve';
import type { Report, Rule } from '../types';
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
  check({ device, resolved, ...context }) {
    return resolved.flatMap(({ net, pad, terminals }): Report[] => {
      const volts = net.demands?.farVolts;
      if (!pad || terminals.length === 0 || !isAnalog(net.role) || volts === undefined) return [];
      const supply = supplyOf(device, pad);
      if (!supply || volts <= supply.nominalVolts) return [];
      return [
        {
          message: `\`${net.name}\` reaches ${voltsText(volts)} on ${padWords(context, pad.id)}, but ${supply.id} is ${voltsText(supply.nominalVolts)}.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: [
            {
              label: `it is divided to ${voltsText(supply.nominalVolts)} on the board`,
              edit: setDemands(net, { ...net.demands, farVolts: supply.nominalVolts }),
            },
          ],
        },
      ];
    });
  },
};
