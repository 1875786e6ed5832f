import type { Rule } from '../types';

export const unproven: Rule = {
  meta: {
    id: 'unproven',
    severity: 'error',
    title: 'Pin not proven',
    means:
      'Run on the register machine, the generated operations do not end in the planned state, or an output is driven to a wrong level on the way.',
    fix: "Resolve the conflict on the pad; if there is none, the order of stages in the part's recipe is at fault.",
  },
  check(context) {
    return (
      context.proof.failures
        // Contention for one pad is reported by two-nets; a proof cannot succeed before that is settled.
        .filter((failure) => (context.byPad.get(failure.pad) ?? []).length === 1)
        .map((failure) => {
          const nets = (context.byPad.get(failure.pad) ?? []).map((one) => one.net);
          const name = nets[0]?.name ?? failure.pad;
          return {
            message: `\`${name}\` is not proven: ${failure.message}.`,
            pads: [failure.pad],
            nets: nets.map((net) => net.id),
            remedies: [],
          };
        })
    );
  },
};
