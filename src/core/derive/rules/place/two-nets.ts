import type { Rule } from '../types';
import { listNames, padWords } from '../words';

export const twoNets: Rule = {
  meta: {
    id: 'two-nets',
    severity: 'error',
    title: 'Two nets on one pad',
    means: 'The nets would be shorted together on the board.',
    fix: 'Move all but one of them to another pad.',
  },
  per: 'pad',
  check(pad, sharing, context) {
    if (sharing.length < 2) return undefined;
    const nets = sharing.map((one) => one.net);
    return {
      message: `${listNames(nets.map((net) => net.name))} are ${nets.length > 2 ? 'all' : 'both'} on ${padWords(context, pad)}. Move ${nets.length > 2 ? 'all but one' : 'one'}.`,
      pads: [pad],
      nets: nets.map((net) => net.id),
      remedies(now) {
        // Moving the one that came last is most often what is wanted; with more than two, one move is not enough.
        if (nets.length > 2) return [];
        const movable = nets.filter((net) => !net.placement?.locked);
        return [...movable]
          .reverse()
          .flatMap((net) => now.movesFor(net, 2))
          .slice(0, 4);
      },
    };
  },
};
