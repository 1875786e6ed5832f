import type { Candidate } from '../../placing/candidates';
import { type Net, roleText } from '../../plan/types';
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
  check(context) {
    return context.resolved.flatMap(({ net }): Report[] => {
      if (net.placement) return [];
      const candidates = context.candidatesFor(net);
      const fitting = candidates.filter((one) => one.takenBy.length === 0 && one.lacks.length === 0);
      return [
        {
          severity: fitting.length > 0 ? 'warning' : 'error',
          message: `\`${net.name}\` (${roleText(net.role)}) has no pad${whyNone(context, net, candidates, fitting.length)}`,
          pads: [],
          nets: [net.id],
          remedies: context.movesFor(net, 3),
        },
      ];
    });
  },
};

/** How many pads can take a net with all that it asks for; where none can, what each of the nearest lacks. */
function whyNone(context: RuleContext, net: Net, candidates: readonly Candidate[], fitting: number): string {
  if (fitting > 0) return `; ${fitting} free ${fitting > 1 ? 'pads' : 'pad'} can take it.`;
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
