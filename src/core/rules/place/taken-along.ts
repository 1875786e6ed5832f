import { takenAlong } from '../../device/offers';
import { carries } from '../../placing/candidates';
import { placeNet } from '../../plan/make-edits';
import type { Report, Rule } from '../types';
import { listNames, padWords } from '../words';

export const takenAlongRule: Rule = {
  meta: {
    id: 'taken-along',
    severity: 'error',
    title: 'Pad taken along by a function of another pad',
    means: 'A function in use on one pad occupies a second pad as well, whatever that one is set to.',
    fix: 'Move the net to another pad, or give up the function that takes the pad along.',
  },
  check(context) {
    return [...context.byPad].flatMap(([pad, here]): Report[] =>
      takenAlong(context.device, pad, (signal, on) => carries(context, signal, on)).map((one) => {
        const nets = here.map(({ net }) => net);
        const owner = context.bySignal.get(one.signal)?.[0]?.net;
        const moves = nets.flatMap((net) => context.movesFor(net, 2));
        const off = nets.map((net) => ({ label: `take ${net.name} off ${pad}`, edit: placeNet(net, null) }));
        return {
          message: `${listNames(nets.map((net) => net.name))} ${nets.length > 1 ? 'are' : 'is'} on ${padWords(context, pad)}, which \`${one.signal}\` on \`${one.pad}\` takes along: ${one.why}.`,
          pads: [pad, one.pad],
          nets: [...nets.map((net) => net.id), ...(owner ? [owner.id] : [])],
          remedies: moves.length > 0 ? moves : off,
        };
      }),
    );
  },
};
