import { splitSignal } from '../../../description/types';
import { hertzText } from '../../../device/offers';
import { setDemands } from '../../../plan/edits/make-edits';
import { rateSourceOf } from '../../electrical/rates';
import type { ResolvedNet } from '../../resolve/resolve';
import type { Report, Rule } from '../types';
import { listNames } from '../words';

export const ratesDiffer: Rule = {
  meta: {
    id: 'rates-differ',
    severity: 'error',
    title: 'One divider, several rates',
    means: 'Lines of one peripheral instance want different rates, but the instance has one divider.',
    fix: 'Want the same rate, or put the lines on different instances.',
  },
  per: 'plan',
  check({ device, resolved }) {
    const instances = new Map<string, ResolvedNet[]>();
    for (const one of resolved) {
      if (!one.fn || one.pins.length === 0 || one.net.demands?.rateHertz === undefined) continue;
      if (!rateSourceOf(device, one.fn.signal)) continue;
      const [instance] = splitSignal(one.fn.signal);
      instances.set(instance, [...(instances.get(instance) ?? []), one]);
    }
    return [...instances].flatMap(([instance, all]): Report[] => {
      const rates = [...new Set(all.map((one) => one.net.demands?.rateHertz ?? 0))].sort((a, b) => a - b);
      if (rates.length < 2) return [];
      return [
        {
          message: `\`${instance}\` has one divider, but ${listNames(all.map((one) => one.net.name))} want ${rates.map(hertzText).join(' and ')}.`,
          pads: all.map((one) => one.pad?.id ?? ''),
          nets: all.map((one) => one.net.id),
          remedies: () =>
            rates.slice(0, 3).map((rate) => ({
              label: `all ${hertzText(rate)}`,
              edit: {
                kind: 'batch' as const,
                label: `${instance} at ${hertzText(rate)}`,
                edits: all
                  .filter((one) => one.net.demands?.rateHertz !== rate)
                  .map((one) => setDemands(one.net, { ...one.net.demands, rateHertz: rate })),
              },
            })),
        },
      ];
    });
  },
};
