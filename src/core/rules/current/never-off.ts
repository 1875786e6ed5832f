import { supplyOf } from '../../electrical/budget';
import { voltsText } from '../../electrical/limits';
import { setSetting } from '../../plan/make-edits';
import { choiceOf } from '../remedies';
import type { Report, Rule } from '../types';
import { padWords } from '../words';

export const neverOff: Rule = {
  meta: {
    id: 'never-off',
    severity: 'warning',
    title: 'Load that cannot be turned off',
    means:
      'The load hangs between a voltage above the pad’s supply and the pad; when the pad goes high, current still flows and the lamp glows or the coil holds.',
    fix: 'Feed the load from the pad’s supply, use a pad that is open-drain and tolerates the voltage, or a transistor.',
  },
  check({ device, resolved, ...context }) {
    return resolved.flatMap(({ net, pad, terminals, planned }): Report[] => {
      const load = net.demands?.load;
      if (!pad || terminals.length === 0 || !load || net.settings.active !== 'low') return [];
      const supply = supplyOf(device, pad);
      const drop = load.kind === 'lamp' ? load.dropVolts : 0;
      if (!supply || load.volts - supply.nominalVolts <= drop) return [];
      const tolerated = device.description.padClasses[pad.class ?? '']?.toleratesVolts ?? 0;
      if (planned?.settings.values.buffer === 'open-drain' && tolerated >= load.volts) return [];
      return [
        {
          message: `\`${net.name}\` hangs its ${load.kind} on ${voltsText(load.volts)}, and ${padWords(context, pad.id)} goes to ${voltsText(supply.nominalVolts)} only: it cannot be turned off.`,
          pads: [pad.id],
          nets: [net.id],
          remedies:
            tolerated >= load.volts
              ? choiceOf(
                  device,
                  { pad, planned },
                  'buffer',
                  'open-drain',
                  'make it open-drain',
                  setSetting(net, 'buffer', 'open-drain'),
                )
              : [],
        },
      ];
    });
  },
};
