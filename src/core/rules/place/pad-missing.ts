import { placeNet } from '../../plan/make-edits';
import type { Report, Rule } from '../types';

export const padMissing: Rule = {
  meta: {
    id: 'pad-missing',
    severity: 'error',
    title: 'Pad not in this package',
    means:
      'The pad exists on the die but no terminal of the package is bonded to it; the net would lead nowhere.',
    fix: 'Move the net to a pad of this package, or choose a package that has it.',
  },
  check(context) {
    return context.resolved.flatMap(({ net, pad, terminals }): Report[] => {
      if (!net.placement || terminals.length > 0) return [];
      const id = net.placement.pad;
      const others = context.device.description.packages.filter((pkg) =>
        Object.values(pkg.terminals).includes(id),
      );
      const where = others.length > 0 ? ` It is in ${others.map((pkg) => pkg.name).join(' and ')}.` : '';
      return [
        {
          message: pad
            ? `\`${net.name}\` is on pad \`${id}\`, which is not bonded in ${context.pkg.name}.${where}`
            : `\`${net.name}\` is on pad \`${id}\`, which the ${context.device.description.name} does not have.`,
          pads: pad ? [id] : [],
          nets: [net.id],
          remedies: [
            ...context.movesFor(net, 3),
            { label: `take ${net.name} off ${id}`, edit: placeNet(net, null) },
          ],
        },
      ];
    });
  },
};
