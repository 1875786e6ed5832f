import { splitSignal } from '../../../description/types';
import { belongTogether, kindOfRole } from '../../candidates/groups';
import { isAnalog, type ResolvedNet } from '../../resolve/resolve';
import type { Report, Rule } from '../types';
import { listNames } from '../words';

export const instanceShared: Rule = {
  meta: {
    id: 'instance-shared',
    severity: 'warning',
    title: 'One instance, two circuits',
    means:
      'Lines of one peripheral instance serve different circuits, which then share its rate and its settings.',
    fix: 'Put one circuit on another instance, or put the nets into one circuit when they are one bus.',
  },
  per: 'plan',
  check({ device, plan, resolved }) {
    const instances = new Map<string, ResolvedNet[]>();
    for (const one of resolved) {
      const kind = kindOfRole(device, one.net.role);
      if (!one.fn || one.pins.length === 0 || isAnalog(one.net.role)) continue;
      if (kind === undefined || !belongTogether(device, kind)) continue;
      const [instance] = splitSignal(one.fn.signal);
      instances.set(instance, [...(instances.get(instance) ?? []), one]);
    }
    return [...instances].flatMap(([instance, all]): Report[] => {
      const circuits = [...new Set(all.map((one) => one.net.circuit))];
      if (circuits.length < 2) return [];
      const name = (id: string): string => plan.circuits.find((one) => one.id === id)?.name ?? id;
      const [first = ''] = circuits;
      return [
        {
          message: `\`${instance}\` serves ${listNames(circuits.map(name))}: ${listNames(all.map((one) => one.net.name))}.`,
          pads: all.map((one) => one.pad?.id ?? ''),
          nets: all.map((one) => one.net.id),
          remedies: () => [
            {
              label: `put them all into ${name(first)}`,
              edit: {
                kind: 'batch',
                label: `one circuit for ${instance}`,
                edits: all
                  .filter((one) => one.net.circuit !== first)
                  .map(({ net }) => ({
                    kind: 'net.set' as const,
                    id: net.id,
                    field: 'circuit' as const,
                    from: net.circuit,
                    to: first,
                  })),
              },
            },
          ],
        },
      ];
    });
  },
};
