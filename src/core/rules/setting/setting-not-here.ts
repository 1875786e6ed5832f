import { setSetting } from '../../plan/make-edits';
import type { NetSettingKey } from '../../plan/types';
import { valuesOn } from '../../recipe/device';
import { SETTING_TITLES } from '../../settings';
import type { Remedy, Rule } from '../types';
import { padWords } from '../words';

export const settingNotHere: Rule = {
  meta: {
    id: 'setting-not-here',
    severity: 'error',
    title: 'Setting the pad does not have',
    means: 'The net asks for a setting that its pad lacks; the generated code would silently give another.',
    fix: 'Choose a value the pad has, or move the net to a pad that has this one.',
  },
  check(context) {
    return context.resolved.flatMap(({ net, pad, unmet }) =>
      unmet.map((wish) => {
        const key = wish.key as NetSettingKey;
        const known = context.device.description.recipe.settings[wish.key] ?? [];
        // The values the pad has, those nearest to what was asked for first.
        const instead = pad ? valuesOn(context.device, pad, wish.key) : [];
        const distance = (value: string): number =>
          Math.abs(known.indexOf(value) - known.indexOf(wish.wanted));
        instead.sort((a, b) => distance(a) - distance(b));
        const asked = net.settings[key] !== undefined;
        const remedies: Remedy[] = [
          ...instead.slice(0, 2).map((value) => ({
            label: `${SETTING_TITLES[wish.key]} ${value}`,
            edit: setSetting(net, key, value),
          })),
          ...context.movesFor(net, 2),
        ];
        return {
          message: `\`${net.name}\` ${asked ? 'asks for' : 'should have'} ${SETTING_TITLES[wish.key]} ${wish.wanted}, which ${padWords(context, pad?.id ?? '')} does not have: ${wish.why}.`,
          pads: pad ? [pad.id] : [],
          nets: [net.id],
          about: wish.key,
          remedies,
        };
      }),
    );
  },
};
