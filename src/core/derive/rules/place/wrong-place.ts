import { sideOf } from '../../../device/geometry';
import { setDemands } from '../../../plan/edits/make-edits';
import type { Rule } from '../types';
import { padWords } from '../words';

export const wrongSide: Rule = {
  meta: {
    id: 'wrong-side',
    severity: 'error',
    title: 'On the wrong side of the package',
    means: 'The net shall be on one side of the package, where its connector is, and sits on another.',
    fix: 'Move it, or give the side up.',
  },
  per: 'placed net',
  check({ net, pad, pins }, part) {
    const { pkg } = part;
    const wanted = net.demands?.side;
    if (wanted === undefined) return undefined;
    const side = sideOf(pkg, pins[0] ?? '');
    if (side === wanted) return undefined;
    const { side: _gone, ...rest } = net.demands ?? {};
    return {
      message: `\`${net.name}\` shall be on the ${wanted} side, but ${padWords(part, pad.id)} is on the ${side ?? 'unknown'} side.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: (context) => [
        ...context.movesFor(net, 3),
        { label: 'any side will do', edit: setDemands(net, rest) },
      ],
    };
  },
};

export const ruledOutPad: Rule = {
  meta: {
    id: 'ruled-out-pad',
    severity: 'error',
    title: 'On a pad that was ruled out',
    means: 'The plan says that this net must not be on this pad.',
    fix: 'Move it, or allow the pad.',
  },
  per: 'placed net',
  check({ net, pad }, part) {
    const out = net.demands?.notPads ?? [];
    if (!out.includes(pad.id)) return undefined;
    const left = out.filter((one) => one !== pad.id);
    const { notPads: _gone, ...rest } = net.demands ?? {};
    return {
      message: `\`${net.name}\` is on ${padWords(part, pad.id)}, which the plan rules out for it.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: (context) => [
        ...context.movesFor(net, 3),
        {
          label: `allow ${pad.id}`,
          edit: setDemands(net, left.length > 0 ? { ...rest, notPads: left } : rest),
        },
      ],
    };
  },
};
