import type { ProofFailure } from '../../recipe/proof';
import type { Place, Report, Rule } from '../types';

export const unproven: Rule = {
  meta: {
    id: 'unproven',
    severity: 'error',
    title: 'Pin not proven',
    means:
      'Run on the register machine, an operation is lost, changes bits that are not the plan’s, or takes a pad through a state that it must not; or the pad does not end as planned.',
    fix: 'The message names the operation and what stands in its way. It is the part’s recipe that is at fault: its stages, or what it says of the registers.',
  },
  check(context) {
    // Pads that want different bits in one place cannot all be proven; that they do is reported by itself.
    const clashing = new Set(context.lowered.clashes.flatMap((clash) => clash.pads));
    return context.proof.failures.flatMap((failure): Report[] => {
      const nets = (context.byPad.get(failure.pad) ?? []).map((one) => one.net);
      // Contention for one pad is reported by two-nets; a proof cannot succeed before that is settled.
      if (nets.length > 1 || clashing.has(failure.pad)) return [];
      const name = nets[0] ? `\`${nets[0].name}\`` : `unused pad \`${failure.pad}\``;
      return [
        {
          message: `${name} is not proven: ${failure.message}.`,
          pads: [failure.pad],
          nets: nets.map((net) => net.id),
          remedies: [],
          place: placeOf(failure),
        },
      ];
    });
  },
};

const placeOf = ({ operation, register, mask }: ProofFailure): Place => ({
  ...(operation === undefined || operation < 0 ? {} : { operation }),
  ...(register ? { register: register.name } : {}),
  ...(mask === undefined ? {} : { mask }),
});
