import { setSetting } from '../../plan/make-edits';
import { SETTING_TITLES } from '../../settings';
import type { NetSettingKey } from '../../plan/types';
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
    return context.resolved.flatMap(({ net, pad, planned, unmet }) =>
      unmet.map((wish) => {
        const key = wish.key as NetSettingKey;
        const instead = planned?.settings.values[wish.key];
        const asked = net.settings[key] !== undefined;
        const remedies: Remedy[] = [];
        if (instead !== undefined) {
          remedies.push({ label: `${SETTING_TITLES[wish.key]} ${instead}`, edit: setSetting(net, key, instead) });
        }
        return {
          message: `\`${net.name}\` ${asked ? 'asks for' : 'should have'} ${SETTING_TITLES[wish.key]} ${wish.wanted}, which ${padWords(context, pad?.id ?? '')} does not have: ${wish.why}.`,
          pads: pad ? [pad.id] : [],
          nets: [net.id],
          remedies,
        };
      }),
    );
  },
};
