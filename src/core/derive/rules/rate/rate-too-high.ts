import { hertzText } from '../../../device/offers';
import { setDemands, setSetting } from '../../../plan/edits/make-edits';
import { wantedRate } from '../../../plan/model/format';
import { rateLimit, speedFor } from '../../electrical/limits';
import type { Remedy, Rule } from '../types';

export const rateTooHigh: Rule = {
  meta: {
    id: 'rate-too-high',
    severity: 'error',
    title: 'Faster than it can be',
    means: 'The wanted rate is above what the peripheral, the package, the divider or the pad allows.',
    fix: 'Move the net to a faster pad or instance, choose a higher speed, or want less.',
  },
  per: 'placed net',
  check({ net, pad, fn, planned }, part) {
    const { device, pkg } = part;
    const wanted = wantedRate(net.demands);
    if (wanted === undefined) return undefined;
    const limit = rateLimit(device, pkg, pad, fn, planned?.settings.values.speed);
    // What a divider just misses is told by rate-off.
    if (!limit || wanted <= limit.hertz * 1.02) return undefined;
    const remedies: Remedy[] = [];
    const faster = speedFor(device, pad, wanted);
    const atBest = rateLimit(device, pkg, pad, fn, faster);
    if (faster !== undefined && net.settings.speed !== undefined && (atBest?.hertz ?? 0) * 1.02 >= wanted)
      remedies.push({ label: `speed ${faster}`, edit: setSetting(net, 'speed', faster) });
    return {
      message: `\`${net.name}\` wants ${hertzText(wanted)}, but ${limit.why}.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: (context) => [
        ...remedies,
        ...context.movesFor(net, 2),
        {
          label: `want ${hertzText(limit.hertz)}`,
          edit: setDemands(net, { ...net.demands, rateHertz: limit.hertz }),
        },
      ],
    };
  },
};
