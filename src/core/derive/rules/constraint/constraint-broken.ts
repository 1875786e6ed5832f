import { removeConstraint } from '../../../plan/edits/make-edits';
import { CONSTRAINT_WORDS, whyBroken } from '../../candidates/constraints';
import type { Report, Rule } from '../types';
import { listNames } from '../words';

export const constraintBroken: Rule = {
  meta: {
    id: 'constraint-broken',
    severity: 'error',
    title: 'Nets that belong together are not',
    means:
      'A demand on several nets (bus, pair, same or other instance, together, apart) does not hold as they are placed.',
    fix: 'Let the placer find places for them, move them, or give the demand up.',
  },
  per: 'plan',
  check(context) {
    return (context.plan.constraints ?? []).flatMap((constraint): Report[] => {
      const all = constraint.nets.flatMap((id) => context.byNet.get(id) ?? []);
      const placed = all.filter((one) => one.pad && one.pins.length > 0);
      const why = whyBroken(context, constraint, all);
      if (why === undefined) return [];
      return [
        {
          message: `${listNames(all.map((one) => one.net.name))} shall be ${CONSTRAINT_WORDS[constraint.kind]}, but ${why}.`,
          pads: placed.map((one) => one.pad?.id ?? ''),
          nets: constraint.nets,
          remedies: () => [{ label: 'give the demand up', edit: removeConstraint(context.plan, constraint) }],
        },
      ];
    });
  },
};
