import { placeNet } from '../../../plan/edits/make-edits';
import type { Rule } from '../types';

export const padMissing: Rule = {
  meta: {
    id: 'pad-missing',
    severity: 'error',
    title: 'Pad not in this package',
    means: 'The pad exists on the die but no pin of the package is bonded to it; the net would lead nowhere.',
    fix: 'Move the net to a pad of this package, or choose a package that has it.',
  },
  per: 'net',
  check({ net, pad, pins }, part) {
    if (!net.placement || pins.length > 0) return undefined;
    const id = net.placement.pad;
    const others = part.device.description.packages.filter((pkg) => Object.values(pkg.pins).includes(id));
    const where = others.length > 0 ? ` It is in ${others.map((pkg) => pkg.name).join(' and ')}.` : '';
    return {
      message: pad
        ? `\`${net.name}\` is on pad \`${id}\`, which is not bonded in ${part.pkg.name}.${where}`
        : `\`${net.name}\` is on pad \`${id}\`, which the ${part.device.description.name} does not have.`,
      pads: pad ? [id] : [],
      nets: [net.id],
      remedies: (context) => [
        ...context.movesFor(net, 3),
        { label: `take ${net.name} off ${id}`, edit: placeNet(net, null) },
      ],
    };
  },
};
