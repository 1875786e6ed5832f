import { hasRecipe } from '../../../description/recipe';
import type { Rule } from '../types';

export const noRecipe: Rule = {
  meta: {
    id: 'no-recipe',
    severity: 'warning',
    title: 'The part has no recipe',
    means:
      'The description of the part does not say which registers realise the settings. Nets are placed and checked; register values, code and proof are not to be had.',
    fix: 'Attach a recipe to the part: from its register description on the page of the part, or as text.',
  },
  per: 'plan',
  check: ({ device, resolved }) =>
    hasRecipe(device.description.recipe) || resolved.length === 0
      ? []
      : [
          {
            message: `${device.description.name} has no recipe yet, so no code can be made. Attach one on the page of the part.`,
            pads: [],
            nets: [],
          },
        ],
};
