import { type Net, roleText } from '../../../plan/model/types';
import type { Report, Rule, RuleContext } from '../types';
import { takenAway } from '../words';

export const unplaced: Rule = {
  meta: {
    id: 'unplaced',
    severity: 'warning',
    title: 'Net without a pad',
    means: 'The net is wanted but nothing carries it; the generated code does not know it.',
    fix: 'Place it. If no pad can take it, move what stands in its way or change what it needs.',
  },
  per: 'plan',
  check(context) {
    return context.resolved.flatMap(({ net }): Report[] => {
      if (net.placement) return [];
      const fitting = context.fittingPads(net);
      const why =
        fitting > 0
          ? `; ${fitting} free ${fitting > 1 ? 'pads' : 'pad'} can take it.`
          : whyNone(context, net);
      return [
        {
          severity: fitting > 0 ? 'warning' : 'error',
          message: `\`${net.name}\` (${roleText(net.role)}) has no pad${why}`,
          pads: [],
          nets: [net.id],
          remedies: (now) => now.movesFor(net, 3),
        },
      ];
    });
  },
};

/** What each of the nearest pads lacks that a net asks for, where none can take it. */
function whyNone(context: RuleContext, net: Net): string {
  const candidates = context.candidatesFor(net);
  const free = candidates.filter((one) => one.takenBy.length === 0);
  const taken = candidates.filter((one) => one.takenBy.length > 0 && one.lacks.length === 0);
  const some = <T>(list: readonly T[], word: (one: T) => string): string =>
    list.slice(0, 4).map(word).join('; ') + (list.length > 4 ? `; and ${list.length - 4} more` : '');
  if (free.length > 0) {
    const which =
      free.length > 1
        ? `none of the ${free.length} free pads that offer it gives`
        : 'the free pad that offers it does not give';
    return `: ${which} all it asks for: ${some(free, (one) => `\`${one.pad}\`: ${one.lacks[0]}`)}.`;
  }
  if (taken.length > 0)
    return `, and all ${taken.length} that could take it are in use: ${some(taken, (one) => `\`${one.pad}\` by ${one.takenBy.map((other) => `\`${other.name}\``).join(', ')}`)}.`;
  return `: nothing in ${context.pkg.name} offers it that is not placed already.${takenAway(context, net.role)}`;
}
