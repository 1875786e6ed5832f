import { takenAlong } from '../../../device/offers';
import { placeNet } from '../../../plan/edits/make-edits';
import { carries } from '../../candidates/occupancy';
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
  per: 'pad',
  check(pad, here, context) {
    const along = takenAlong(context.device, pad, (signal, on) => carries(context, signal, on));
    return along.map((one): Report => {
      const nets = here.map(({ net }) => net);
      const owner = context.bySignal.get(one.signal)?.[0]?.net;
      return {
        message: `${listNames(nets.map((net) => net.name))} ${nets.length > 1 ? 'are' : 'is'} on ${padWords(context, pad)}, which \`${one.signal}\` on \`${one.pad}\` takes along: ${one.why}.`,
        pads: [pad, one.pad],
        nets: [...nets.map((net) => net.id), ...(owner ? [owner.id] : [])],
        remedies(now) {
          const moves = nets.flatMap((net) => now.movesFor(net, 2));
          const off = nets.map((net) => ({
            label: `take ${net.name} off ${pad}`,
            edit: placeNet(net, null),
          }));
          return moves.length > 0 ? moves : off;
        },
      };
    });
  },
};
