import { roleText } from '../../plan/types';
import type { Report, Rule } from '../types';

export const unplaced: Rule = {
  meta: {
    id: 'unplaced',
    severity: 'warning',
    title: 'Net without a pad',
    means: 'The net is wanted but nothing carries it; the generated code does not know it.',
    fix: 'Place it. If no pad can take it, move what stands in its way or change what it needs.',
  },
  check(context) {
    return context.resolved.flatMap(({ net }): Report[] => {
      if (net.placement) return [];
      const candidates = context.candidatesFor(net);
      const free = candidates.filter((candidate) => candidate.takenBy.length === 0);
      const message =
        free.length > 0
          ? `\`${net.name}\` (${roleText(net.role)}) has no pad; ${free.length} free ${free.length > 1 ? 'pads' : 'pad'} can take it.`
          : candidates.length > 0
            ? `\`${net.name}\` (${roleText(net.role)}) has no pad, and all ${candidates.length} that could take it are in use: ${candidates
                .slice(0, 6)
                .map(
                  (one) => `\`${one.pad}\` by ${one.takenBy.map((other) => `\`${other.name}\``).join(', ')}`,
                )
                .join('; ')}.`
            : `\`${net.name}\` has no pad: nothing in ${context.pkg.name} offers ${roleText(net.role)} that is not placed already.`;
      return [
        {
          severity: free.length > 0 ? 'warning' : 'error',
          message,
          pads: [],
          nets: [net.id],
          remedies: context.movesFor(net, 3),
        },
      ];
    });
  },
};
