import { setSetting } from '../../plan/make-edits';
import type { NetSettingKey } from '../../plan/types';
import { SETTING_KEYS, SETTING_TITLES } from '../../settings';
import { appliesTo } from '../remedies';
import type { Report, Rule } from '../types';
import { padWords } from '../words';

export const settingIdle: Rule = {
  meta: {
    id: 'setting-idle',
    severity: 'warning',
    title: 'Setting without effect',
    means:
      'The net asks for a setting that means nothing for what its pad is used as; the generated code does not do what was asked.',
    fix: 'Take the setting away, or let something else do what it was for.',
  },
  check(context) {
    const { device } = context;
    const { settings: known } = device.description.recipe;
    return context.resolved.flatMap(({ net, pad, terminals, planned }): Report[] => {
      if (!pad || !planned || terminals.length === 0) return [];
      const idle = SETTING_KEYS.filter((key): key is Exclude<typeof key, 'use' | 'level'> => {
        if (key === 'use' || key === 'level') return false;
        const asked = net.settings[key];
        // What the part has nothing of but the first value of is what it gets anyway.
        return asked !== undefined && asked !== known[key]?.[0] && !appliesTo(device, planned, key);
      });
      return idle.map((key) => {
        const asked = net.settings[key];
        const use = planned.settings.values.use ?? '';
        const why =
          known[key] === undefined
            ? `the ${device.description.name} has no such setting`
            : `on this part it means nothing for ${USE_WORDS[use] ?? use}`;
        return {
          message: `\`${net.name}\` asks for ${SETTING_TITLES[key]} ${asked}, which has no effect on ${padWords(context, pad.id)}: ${why}.`,
          pads: [pad.id],
          nets: [net.id],
          about: key,
          remedies: [
            {
              label: `take ${SETTING_TITLES[key]} away`,
              edit: setSetting(net, key as NetSettingKey, null),
            },
          ],
        };
      });
    });
  },
};

const USE_WORDS: Record<string, string> = {
  input: 'an input',
  output: 'an output',
  function: 'this function',
  analog: 'an analog pad',
};
