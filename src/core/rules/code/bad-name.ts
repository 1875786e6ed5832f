import { renameNet } from '../../plan/make-edits';
import { identifierFrom } from '../../text/identifier';
import type { Report, Rule } from '../types';

const IDENTIFIER = /^[A-Za-z_][A-Za-z0-9_]*$/;
/** C guarantees 31 significant characters for external names (C11 5.2.4.1); prefix and verb come on top. */
const LONGEST = 48;

const isIdentifier = (name: string): boolean => IDENTIFIER.test(name) && name.length <= LONGEST;

export const badName: Rule = {
  meta: {
    id: 'bad-name',
    severity: 'error',
    title: 'Name not usable as an identifier',
    means: 'Names of nets become names in the generated code; this one cannot.',
    fix: 'Use letters, digits and underscores, starting with a letter.',
  },
  check(context) {
    const taken = new Set(context.plan.nets.map((net) => net.name.toLowerCase()));
    return context.plan.nets.flatMap((net): Report[] => {
      if (isIdentifier(net.name)) return [];
      const stem = identifierFrom(net.name, LONGEST - 4) || 'NET';
      let name = stem;
      for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${stem}_${n}`;
      return [
        {
          message: `\`${net.name.replaceAll('`', "'")}\` cannot be an identifier${net.name.length > LONGEST ? `: it is longer than ${LONGEST} characters` : ''}.`,
          pads: net.placement ? [net.placement.pad] : [],
          nets: [net.id],
          remedies: [{ label: `rename to ${name}`, edit: renameNet(net, name) }],
        },
      ];
    });
  },
};
