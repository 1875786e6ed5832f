import { freeName, takenBy } from '../../../base/text/free-name';
import { identifierFrom } from '../../../base/text/identifier';
import { renameNet } from '../../../plan/edits/make-edits';
import type { Rule } from '../types';

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
  per: 'net',
  check({ net }) {
    if (isIdentifier(net.name)) return undefined;
    return {
      message: `\`${net.name.replaceAll('`', "'")}\` cannot be an identifier${net.name.length > LONGEST ? `: it is longer than ${LONGEST} characters` : ''}.`,
      pads: net.placement ? [net.placement.pad] : [],
      nets: [net.id],
      remedies({ plan }) {
        const name = freeName(identifierFrom(net.name, LONGEST - 4) || 'NET', takenBy(plan.nets));
        return [{ label: `rename to ${name}`, edit: renameNet(net, name) }];
      },
    };
  },
};
