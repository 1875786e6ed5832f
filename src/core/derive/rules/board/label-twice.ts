import { labelsByPad, setLabelAt } from '../../../plan/labels';
import type { Report, Rule } from '../types';
import { listNames } from '../words';

export const labelTwice: Rule = {
  meta: {
    id: 'label-twice',
    severity: 'warning',
    title: 'One label on two pads',
    means:
      'The board prints the same label beside two pads; whoever plugs something in may take the wrong one.',
    fix: 'Correct one of the labels.',
  },
  per: 'plan',
  check({ plan }) {
    const byLabel = new Map<string, string[]>();
    for (const [pad, label] of labelsByPad(plan)) byLabel.set(label, [...(byLabel.get(label) ?? []), pad]);
    return [...byLabel].flatMap(([label, pads]): Report[] => {
      if (pads.length < 2) return [];
      return [
        {
          message: `The label \`${label.replaceAll('`', "'")}\` is given to ${listNames(pads)}.`,
          pads,
          nets: [],
          remedies: () =>
            pads.length > 2
              ? []
              : pads.map((pad) => ({
                  label: `no label on ${pad}`,
                  edit: setLabelAt(plan, pad, ''),
                })),
        },
      ];
    });
  },
};
