import { placeNet } from '../../../plan/edits/make-edits';
import type { Rule } from '../types';
import { padWords } from '../words';

const KIND_WORDS: Record<string, string> = {
  supply: 'a supply',
  ground: 'a ground',
  reset: 'the reset input',
  clock: 'a crystal connection',
  strap: 'a boot strap',
  'debug-only': 'a debug connection',
  'analog-only': 'an analog-only pad',
  usb: 'a line of the USB transceiver',
  flash: 'a line of the flash memory',
  reference: 'a reference',
  'no-bond': 'not bonded',
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
  per: 'placed net',
  check({ net, pad, fn }, part) {
    const off = { label: `take ${net.name} off ${pad.id}`, edit: placeNet(net, null) };
    if (pad.kind !== 'io') {
      return {
        message: `\`${net.name}\` is on ${padWords(part, pad.id)}, which is ${KIND_WORDS[pad.kind] ?? pad.kind}.`,
        pads: [pad.id],
        nets: [net.id],
        remedies: (context) => [...context.movesFor(net, 3), off],
      };
    }
    if (!pad.boot || (fn && pad.boot.signals?.includes(fn.signal))) return undefined;
    return {
      severity: 'warning',
      message: `\`${net.name}\` is on ${padWords(part, pad.id)}, a ${pad.boot.kind} pad: ${pad.boot.note}.`,
      pads: [pad.id],
      nets: [net.id],
      remedies(context) {
        const moves = context.movesFor(net, 3);
        return moves.length > 0 ? moves : [off];
      },
    };
  },
};
