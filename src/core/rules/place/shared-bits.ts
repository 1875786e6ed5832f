import type { Rule } from '../types';

export const sharedBits: Rule = {
  meta: {
    id: 'shared-bits',
    severity: 'error',
    title: 'Two pads want different values in the same register bits',
    means: 'One register field decides for several pads at once, and their nets ask for different things.',
    fix: 'Move one of the nets, or make them agree.',
  },
  check(context) {
    // Nets that share a pad contend for all of its bits; rule two-nets already says so in better words.
    return context.lowered.clashes
      .filter((clash) => clash.pads[0] !== clash.pads[1])
      .map((clash) => {
        const nets = clash.pads.flatMap((pad) => (context.byPad.get(pad) ?? []).map((one) => one.net));
        return {
          message: `\`${clash.pads[0]}\` and \`${clash.pads[1]}\` want different values in ${clash.register.name}.`,
          pads: clash.pads,
          nets: nets.map((net) => net.id),
          remedies: nets.flatMap((net) => context.movesFor(net, 1)),
        };
      });
  },
};
