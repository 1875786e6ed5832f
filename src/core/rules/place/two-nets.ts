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
  check(context) {
    return [...context.byPad]
      .filter(([, sharing]) => sharing.length > 1)
      .map(([pad, sharing]) => {
        const nets = sharing.map((one) => one.net);
        const movable = nets.filter((net) => !net.placement?.held);
        // Moving the one that came last is most often what is wanted; with more than two, one move is not enough.
        const remedies =
          nets.length === 2 ? [...movable].reverse().flatMap((net) => context.movesFor(net, 2)) : [];
        return {
          message: `${listNames(nets.map((net) => net.name))} are ${nets.length > 2 ? 'all' : 'both'} on ${padWords(context, pad)}. Move ${nets.length > 2 ? 'all but one' : 'one'}.`,
          pads: [pad],
          nets: nets.map((net) => net.id),
          remedies: remedies.slice(0, 4),
        };
      });
  },
};
