import { TIE_WORDS, whyBroken } from '../../placing/ties';
import { removeTie } from '../../plan/make-edits';
import type { Report, Rule } from '../types';
import { listNames } from '../words';

export const tieBroken: Rule = {
  meta: {
    id: 'tie-broken',
    severity: 'error',
    title: 'Nets that belong together are not',
    means:
      'A demand on several nets (bus, pair, same or other instance, together, apart) does not hold as they are placed.',
    fix: 'Let the placer find places for them, move them, or give the demand up.',
  },
  check(context) {
    return (context.plan.ties ?? []).flatMap((tie): Report[] => {
      const all = tie.nets.flatMap((id) => context.byNet.get(id) ?? []);
      const placed = all.filter((one) => one.pad && one.terminals.length > 0);
      const why = whyBroken(context, tie, all);
      if (why === undefined) return [];
      return [
        {
          message: `${listNames(all.map((one) => one.net.name))} shall be ${TIE_WORDS[tie.kind]}, but ${why}.`,
          pads: placed.map((one) => one.pad?.id ?? ''),
          nets: tie.nets,
          remedies: [{ label: 'give the demand up', edit: removeTie(context.plan, tie) }],
        },
      ];
    });
  },
};
