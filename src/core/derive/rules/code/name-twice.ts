import { numberedName, takenBy } from '../../../base/text/free-name';
import { renameNet } from '../../../plan/edits/make-edits';
import type { Report, Rule } from '../types';

export const nameTwice: Rule = {
  meta: {
    id: 'name-twice',
    severity: 'error',
    title: 'Name used twice',
    means:
      'Two nets have the same name (upper and lower case count as the same), so generated code could not tell them apart.',
    fix: 'Rename one of them.',
  },
  per: 'plan',
  check(context) {
    const byName = new Map<string, typeof context.plan.nets>();
    for (const net of context.plan.nets) {
      const key = net.name.toLowerCase();
      byName.set(key, [...(byName.get(key) ?? []), net]);
    }
    return [...byName.values()].flatMap((nets): Report[] => {
      const last = nets.at(-1);
      if (nets.length < 2 || !last) return [];
      return [
        {
          message: `${nets.length} nets are called \`${last.name.replaceAll('`', "'")}\`.`,
          pads: nets.flatMap((net) => (net.placement ? [net.placement.pad] : [])),
          nets: nets.map((net) => net.id),
          remedies(context) {
            if (nets.length > 2) return [];
            const name = numberedName(last.name, takenBy(context.plan.nets));
            return [{ label: `rename one to ${name}`, edit: renameNet(last, name) }];
          },
        },
      ];
    });
  },
};
