import type { Rule } from '../types';

export const notConfirmed: Rule = {
  meta: {
    id: 'not-confirmed',
    severity: 'warning',
    title: 'Registers of the part are not confirmed',
    means:
      'What some registers or values of the part mean was proposed out of its register description, and nobody has compared it with the document. Code is proven against the description: where that is wrong, so is the code.',
    fix: 'Compare what is proposed with the document, and confirm it on the page of the part.',
  },
  per: 'plan',
  check: ({ device, resolved }) => {
    const { unconfirmed = [], name } = device.description;
    if (unconfirmed.length === 0 || resolved.length === 0) return [];
    const first = unconfirmed.slice(0, 3).map((one) => one.says);
    return [
      {
        message: `${unconfirmed.length} statements about the registers of ${name} are not confirmed (${first.join('; ')}${unconfirmed.length > 3 ? '; …' : ''}): what is proven holds only if they are right.`,
        pads: [],
        nets: [],
      },
    ];
  },
};
