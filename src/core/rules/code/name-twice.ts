import { renameNet } from '../../plan/make-edits';
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
  check(context) {
    const byName = new Map<string, typeof context.plan.nets>();
    for (const net of context.plan.nets) {
      const key = net.name.toLowerCase();
      byName.set(key, [...(byName.get(key) ?? []), net]);
    }
    return [...byName.values()].flatMap((nets): Report[] => {
      const last = nets.at(-1);
      if (nets.length < 2 || !last) return [];
      let n = 2;
      while (byName.has(`${last.name}_${n}`.toLowerCase())) n++;
      const name = `${last.name}_${n}`;
      return [
        {
          message: `${nets.length} nets are called \`${last.name.replaceAll('`', "'")}\`.`,
          pads: nets.flatMap((net) => (net.placement ? [net.placement.pad] : [])),
          nets: nets.map((net) => net.id),
          remedies:
            nets.length === 2 ? [{ label: `rename one to ${name}`, edit: renameNet(last, name) }] : [],
        },
      ];
    });
  },
};
