import { listed } from '../../../base/text/listed';
import type { ProofFailure } from '../../simulate/proof';
import type { FindingPlace, Report, Rule } from '../types';

export const unproven: Rule = {
  meta: {
    id: 'unproven',
    severity: 'error',
    title: 'Pin not proven',
    means:
      'Run on the register machine, an operation is lost, changes bits that are not the plan’s, or takes a pad through a state that it must not; or the pad does not end as planned.',
    fix: 'The message names the operation and what stands in its way. It is the part’s recipe that is at fault: its stages, or what it says of the registers. What the hardware cannot but do for a moment, `between` in the recipe allows.',
  },
  per: 'plan',
  check(context) {
    // Pads that want different bits in one place cannot all be proven; that they do is reported by itself.
    const clashing = new Set(context.lowered.clashes.flatMap((clash) => clash.pads));
    const byCause = new Map<string, ProofFailure[]>();
    for (const failure of context.proof.failures) {
      // Contention for one pad is reported by two-nets; a proof cannot succeed before that is settled.
      if ((context.byPad.get(failure.pad) ?? []).length > 1 || clashing.has(failure.pad)) continue;
      byCause.set(failure.message, [...(byCause.get(failure.message) ?? []), failure]);
    }
    return [...byCause.values()].map((alike): Report => {
      const [first] = alike as [ProofFailure];
      const nets = alike.flatMap(({ pad }) => (context.byPad.get(pad) ?? []).map((one) => one.net));
      const names = alike.map(({ pad }) => {
        const name = context.byPad.get(pad)?.[0]?.net.name;
        return name === undefined ? `unused pad \`${pad}\`` : `\`${name}\``;
      });
      return {
        message: `${listed(names)} ${names.length > 1 ? 'are' : 'is'} not proven: ${first.message}.`,
        pads: alike.map((one) => one.pad),
        nets: nets.map((net) => net.id),
        place: placeOf(first),
      };
    });
  },
};

const placeOf = ({ operation, register, mask }: ProofFailure): FindingPlace => ({
  ...(operation === undefined || operation < 0 ? {} : { operation }),
  ...(register ? { register: register.name } : {}),
  ...(mask === undefined ? {} : { mask }),
});
