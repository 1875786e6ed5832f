import { defaultOf } from '../../../description/meanings';
import { type AskedKey, isAsked, meaningOf, settingKeysOf } from '../../../description/settings';
import { titleOn } from '../../../device/available';
import { setSetting } from '../../../plan/edits/make-edits';
import { appliesTo } from '../remedies';
import type { Rule } from '../types';
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
  per: 'placed net',
  check({ net, pad, planned }, part) {
    const { device } = part;
    const { settings: known } = device.description.recipe;
    if (!planned) return undefined;
    const idle = settingKeysOf(net.settings).filter((key): key is AskedKey => {
      if (!isAsked(key)) return false;
      const asked = net.settings[key];
      // What the part has nothing of but the first value of is what it gets anyway.
      return (
        asked !== undefined &&
        asked !== defaultOf(device.description.recipe, key) &&
        !appliesTo(device, planned, key)
      );
    });
    return idle.map((key) => {
      const asked = net.settings[key];
      const mode = planned.settings.values.mode ?? '';
      const why =
        known[key] === undefined
          ? `the ${device.description.name} has no such setting`
          : `on this part it means nothing for ${mode === 'function' ? 'this function' : (meaningOf('mode', mode) ?? mode)}`;
      return {
        message: `\`${net.name}\` asks for ${titleOn(device, key)} ${asked}, which has no effect on ${padWords(part, pad.id)}: ${why}.`,
        pads: [pad.id],
        nets: [net.id],
        about: key,
        remedies: () => [
          {
            label: `take ${titleOn(device, key)} away`,
            edit: setSetting(net, key, null),
          },
        ],
      };
    });
  },
};
