import type { Accessor } from '../../accessors/accessors';
import type { Report, Rule } from '../types';

export const accessUnproven: Rule = {
  meta: {
    id: 'access-unproven',
    severity: 'error',
    title: 'Accessor not proven',
    means:
      'A function of the generated code that drives or reads pads does not do, in every state after initialisation, what its name says.',
    fix: 'The message says what stands in its way. It is the part’s recipe that is at fault: how its latch and its levels are reached.',
  },
  per: 'plan',
  check(context) {
    const found = new Map<string, Accessor[]>();
    for (const one of context.accessors.list) {
      if (one.fault === undefined) continue;
      const key = `${one.group?.id ?? one.nets[0]} ${one.fault}`;
      found.set(key, [...(found.get(key) ?? []), one]);
    }
    return [...found.values()].flatMap((alike): Report[] => {
      const [first] = alike;
      if (!first) return [];
      const { nets, group, fault } = first;
      const name = context.byNet.get(nets[0] ?? '')?.net.name ?? '';
      const who = group ? `the ${group.kind} \`${group.name}\`` : `\`${name}\``;
      const actions = alike.map((one) => one.action).join(', ');
      return [
        {
          message: `It is not proven that the code does with ${who} what its accessors (${actions}) say: ${fault}.`,
          pads: nets.flatMap((id) => context.byNet.get(id)?.pad?.id ?? []),
          nets: [...nets],
          about: alike[0]?.action ?? '',
        },
      ];
    });
  },
};
