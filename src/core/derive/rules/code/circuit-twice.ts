import { numberedName, takenBy } from '../../../base/text/free-name';
import type { Report, Rule } from '../types';

export const circuitTwice: Rule = {
  meta: {
    id: 'circuit-twice',
    severity: 'warning',
    title: 'Circuit named twice',
    means: 'Two circuits have the same name; lists and reports cannot tell them apart.',
    fix: 'Rename one, or move its nets into the other.',
  },
  per: 'plan',
  check({ plan }) {
    const taken = new Set<string>();
    return plan.circuits.flatMap((circuit): Report[] => {
      const name = circuit.name.toLowerCase();
      if (!taken.has(name)) {
        taken.add(name);
        return [];
      }
      const to = numberedName(circuit.name, takenBy(plan.circuits), ' ');
      const nets = plan.nets.filter((net) => net.circuit === circuit.id);
      return [
        {
          message: `Two circuits are called \`${circuit.name.replaceAll('`', "'")}\`.`,
          pads: [],
          nets: nets.map((net) => net.id),
          remedies: () => [
            {
              label: `rename one to ${to}`,
              edit: { kind: 'circuit.set', id: circuit.id, field: 'name', from: circuit.name, to },
            },
          ],
        },
      ];
    });
  },
};
