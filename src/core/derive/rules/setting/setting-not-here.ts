import { orderOf } from '../../../description/meanings';
import { titleOn, valuesOn } from '../../../device/available';
import { setSetting } from '../../../plan/edits/make-edits';
import type { NetSettingKey } from '../../../plan/model/types';
import type { Remedy, Rule, RuleContext } from '../types';
import { padWords } from '../words';

export const settingNotHere: Rule = {
  meta: {
    id: 'setting-not-here',
    severity: 'error',
    title: 'Setting the pad does not have',
    means: 'The net asks for a setting that its pad lacks; the generated code would silently give another.',
    fix: 'Choose a value the pad has, or move the net to a pad that has this one.',
  },
  per: 'net',
  check({ net, pad, fn, unmet }, part) {
    return unmet.map((wish) => {
      const key = wish.key as NetSettingKey;
      const known = orderOf(part.device.description.recipe, wish.key);
      // The values the pad has, those nearest to what was asked for first.
      const instead = pad ? valuesOn(part.device, pad, wish.key, fn) : [];
      const distance = (value: string): number => Math.abs(known.indexOf(value) - known.indexOf(wish.wanted));
      instead.sort((a, b) => distance(a) - distance(b));
      const asked = net.settings[key] !== undefined;
      const remedies = (context: RuleContext): Remedy[] => [
        ...instead.slice(0, 2).map((value) => ({
          label: `${titleOn(part.device, wish.key)} ${value}`,
          edit: setSetting(net, key, value),
        })),
        ...context.movesFor(net, 2),
      ];
      return {
        message: `\`${net.name}\` ${asked ? 'asks for' : 'should have'} ${titleOn(part.device, wish.key)} ${wish.wanted}, which ${padWords(part, pad?.id ?? '')} does not have: ${wish.why}.`,
        pads: pad ? [pad.id] : [],
        nets: [net.id],
        about: wish.key,
        remedies,
      };
    });
  },
};
