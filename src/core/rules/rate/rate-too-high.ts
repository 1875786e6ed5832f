import { hertzText } from '../../device/offers';
import { rateLimit, slewFor } from '../../electrical/limits';
import { setDemands, setSetting } from '../../plan/make-edits';
import type { Remedy, Report, Rule } from '../types';

export const rateTooHigh: Rule = {
  meta: {
    id: 'rate-too-high',
    severity: 'error',
    title: 'Faster than it can be',
    means: 'The wanted rate is above what the peripheral, the package, the divider or the pad allows.',
    fix: 'Move the net to a faster pad or instance, choose a faster slew, or want less.',
  },
  check({ device, pkg, resolved, movesFor }) {
    return resolved.flatMap(({ net, pad, fn, terminals, planned }): Report[] => {
      const wanted = net.demands?.rateHertz;
      if (!pad || terminals.length === 0 || wanted === undefined) return [];
      const limit = rateLimit(device, pkg, pad, fn, planned?.settings.values.slew);
      // What a divider just misses is told by rate-off.
      if (!limit || wanted <= limit.hertz * 1.02) return [];
      const remedies: Remedy[] = [];
      const faster = slewFor(device, pad, wanted);
      const atBest = rateLimit(device, pkg, pad, fn, faster);
      if (faster !== undefined && net.settings.slew !== undefined && (atBest?.hertz ?? 0) * 1.02 >= wanted)
        remedies.push({ label: `slew ${faster}`, edit: setSetting(net, 'slew', faster) });
      return [
        {
          message: `\`${net.name}\` wants ${hertzText(wanted)}, but ${limit.why}.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: [
            ...remedies,
            ...movesFor(net, 2),
            {
              label: `want ${hertzText(limit.hertz)}`,
              edit: setDemands(net, { ...net.demands, rateHertz: limit.hertz }),
            },
          ],
        },
      ];
    });
  },
};
