import { isSet } from '../../../device/available';
import { setDemands, setRole } from '../../../plan/edits/make-edits';
import type { Rule } from '../types';
import { padWords } from '../words';

export const bothDrive: Rule = {
  meta: {
    id: 'both-drive',
    severity: 'error',
    title: 'Both ends drive the line',
    means:
      'The pad is an output that always drives, and so is the far end: when they disagree, one of them breaks.',
    fix: 'Make it an input, or correct what is said about the far end.',
  },
  per: 'placed net',
  check({ net, pad, planned }, part) {
    if (net.demands?.farPull !== 'driven') return undefined;
    const mode = planned?.settings.values.mode;
    const outputType = isSet(part.device, planned?.settings, 'outputType');
    if (mode !== 'output' || outputType === 'open-drain' || outputType === 'open-source') return undefined;
    const { farPull: _gone, ...rest } = net.demands;
    return {
      message: `\`${net.name}\` on ${padWords(part, pad.id)} is an output, and the far end always drives it too.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [
        { label: `make ${net.name} an input`, edit: setRole(net, { kind: 'input' }) },
        { label: 'the far end does not drive it', edit: setDemands(net, rest) },
      ],
    };
  },
};
