import { placeNet } from '../../plan/make-edits';
import type { Report, Rule } from '../types';
import { padWords } from '../words';

const KIND_WORDS: Record<string, string> = {
  supply: 'a supply',
  ground: 'a ground',
  reset: 'the reset input',
  clock: 'a crystal connection',
  strap: 'a boot strap',
  'debug-only': 'a debug connection',
  'analog-only': 'an analog-only pad',
  'no-connect': 'not connected inside',
};

export const reservedPad: Rule = {
  meta: {
    id: 'reserved-pad',
    severity: 'error',
    title: 'Reserved pad used',
    means:
      'The pad is a supply, ground, reset, crystal, boot strap or debug pad: it cannot carry the net, or it is busy when the part starts.',
    fix: 'Move the net to an ordinary pad. Debug and strap pads can be used on purpose; then make sure of what happens at boot.',
  },
  check(context) {
    return context.resolved.flatMap(({ net, pad, fn, terminals }): Report[] => {
      if (!pad || terminals.length === 0) return [];
      const off = { label: `take ${net.name} off ${pad.id}`, edit: placeNet(net, null) };
      if (pad.kind !== 'io') {
        return [
          {
            message: `\`${net.name}\` is on ${padWords(context, pad.id)}, which is ${KIND_WORDS[pad.kind] ?? pad.kind}.`,
            pads: [pad.id],
            nets: [net.id],
            remedies: [...context.movesFor(net, 3), off],
          },
        ];
      }
      if (!pad.boot || (fn && pad.boot.signals?.includes(fn.signal))) return [];
      const moves = context.movesFor(net, 3);
      return [
        {
          severity: 'warning',
          message: `\`${net.name}\` is on ${padWords(context, pad.id)}, a ${pad.boot.kind} pad: ${pad.boot.note}.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: moves.length > 0 ? moves : [off],
        },
      ];
    });
  },
};
