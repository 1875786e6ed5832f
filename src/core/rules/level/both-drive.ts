import { setDemands, setRole } from '../../plan/make-edits';
import type { Report, Rule } from '../types';
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
  check({ resolved, ...context }) {
    return resolved.flatMap(({ net, pad, terminals, planned }): Report[] => {
      if (!pad || terminals.length === 0 || net.demands?.farPull !== 'driven') return [];
      const { use, buffer } = planned?.settings.values ?? {};
      if (use !== 'output' || buffer === 'open-drain' || buffer === 'open-source') return [];
      const { farPull: _gone, ...rest } = net.demands;
      return [
        {
          message: `\`${net.name}\` on ${padWords(context, pad.id)} is an output, and the far end always drives it too.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: [
            { label: `make ${net.name} an input`, edit: setRole(net, { kind: 'input' }) },
            { label: 'the far end does not drive it', edit: setDemands(net, rest) },
          ],
        },
      ];
    });
  },
};
