import { setDemands } from '../../../plan/edits/make-edits';
import { classOf, levelBefore } from '../../electrical/limits';
import type { Rule } from '../types';
import { padWords } from '../words';

export const beforeInit: Rule = {
  meta: {
    id: 'before-init',
    severity: 'error',
    title: 'Wrong level before initialisation',
    means:
      'Between power-up and the first line of code the pad does not have the level that the net demands.',
    fix: 'Put a resistor on the board, move the net to a pad that rests at that level, or check whether it matters.',
  },
  per: 'placed net',
  check({ net, pad }, part) {
    const { device } = part;
    const wanted = net.demands?.beforeInit;
    if (wanted === undefined) return undefined;
    const level = levelBefore(classOf(device, pad), net.demands);
    if (level === wanted) return undefined;
    const pull = wanted === 'high' ? 'up' : 'down';
    const with4k7 = { ...net.demands, farPull: pull, farPullOhms: 4700 } as const;
    const helps = levelBefore(classOf(device, pad), with4k7) === wanted;
    return {
      message: `\`${net.name}\` must be ${wanted} before initialisation, but ${padWords(part, pad.id)} ${level === undefined ? 'floats' : `is ${level}`} then.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: (context) => [
        ...(helps
          ? [{ label: `the board pulls it ${pull} with 4.7 kΩ`, edit: setDemands(net, with4k7) }]
          : []),
        ...context.movesFor(net, 2),
      ],
    };
  },
};
