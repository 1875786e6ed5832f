import type { Rule, RuleContext } from '../types';

export const sharedBits: Rule = {
  meta: {
    id: 'shared-bits',
    severity: 'error',
    title: 'Two pads want different values in the same register bits',
    means: 'One register field decides for several pads at once, and their nets ask for different things.',
    fix: 'Move one of the nets, or make them agree.',
  },
  per: 'plan',
  check(context) {
    // Nets that share a pad contend for all of its bits; rule two-nets already says so in better words.
    return (
      context.lowered.clashes
        .filter((clash) => clash.pads[0] !== clash.pads[1])
        // One signal on two pads is reported as such; that both want to be what feeds it only follows.
        .filter(({ pads }) => !sameSignal(context, pads))
        .map((clash) => {
          const nets = clash.pads.flatMap((pad) => (context.byPad.get(pad) ?? []).map((one) => one.net));
          return {
            message: `\`${clash.pads[0]}\` and \`${clash.pads[1]}\` want different values in ${clash.register.name}.`,
            pads: clash.pads,
            nets: nets.map((net) => net.id),
            remedies: (now: RuleContext) => nets.flatMap((net) => now.movesFor(net, 1)),
          };
        })
    );
  },
};

function sameSignal(context: RuleContext, pads: readonly [string, string]): boolean {
  const [a, b] = pads.map((pad) => context.byPad.get(pad)?.[0]?.fn?.signal);
  return a !== undefined && a === b && (context.bySignal.get(a)?.length ?? 0) > 1;
}
