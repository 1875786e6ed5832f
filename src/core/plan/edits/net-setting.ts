import { ok, type Result } from '../../base/result';
import { OWN_KEY_PATTERN } from '../../description/settings';
import { planRef, type Schema } from '../model/schema-parts';
import {
  CIRCUIT_SETTINGS,
  isCircuitSetting,
  NET_SETTING_KEYS,
  type Net,
  type NetId,
  type NetSettingKey,
  netSettingTitle,
} from '../model/types';
import {
  change,
  changedMeanwhile,
  type EditKind,
  eachOf,
  orNull,
  refuse,
  replace,
  shape,
  unsigned,
} from './kind';

/** Changes one setting of a net; null: the default. */
export interface NetSettingEdit {
  kind: 'net.setting';
  id: NetId;
  key: NetSettingKey;
  from: string | null;
  to: string | null;
}

/** The net with the change made. */
export function withSetting(net: Net, { key, from, to }: NetSettingEdit): Result<Net> {
  const now = net.settings[key] ?? null;
  if (now !== from) return changedMeanwhile(net.name, netSettingTitle(key), now ?? 'the default');
  const { [key]: _old, ...others } = net.settings;
  return ok({ ...net, settings: to === null ? others : { ...others, [key]: to } });
}

const valuesOf = (key: NetSettingKey): Schema =>
  isCircuitSetting(key) ? { enum: CIRCUIT_SETTINGS[key].values } : planRef('word');

export const netSetting: EditKind<NetSettingEdit> = {
  signs: unsigned,
  apply(plan, edit) {
    const net = plan.nets.find((one) => one.id === edit.id);
    if (!net) return refuse('that net is gone');
    const next = withSetting(net, edit);
    return next.ok ? ok({ ...plan, nets: replace(plan.nets, net, next.value) }) : next;
  },
  again(plan, edit) {
    const net = plan.nets.find((one) => one.id === edit.id);
    return net && { ...edit, from: net.settings[edit.key] ?? null };
  },
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: ({ id, key, to }, nameOf) =>
    `set ${netSettingTitle(key)} of ${nameOf(id)} to ${to ?? 'the default'}`,
  schemas: eachOf(
    'key',
    Object.fromEntries(NET_SETTING_KEYS.map((key) => [key, orNull(valuesOf(key))])),
    (key, value) => shape('net.setting', { id: planRef('id'), key: { const: key }, ...change(value) }),
    {
      pattern: OWN_KEY_PATTERN,
      schema: shape('net.setting', {
        id: planRef('id'),
        key: { type: 'string', pattern: OWN_KEY_PATTERN },
        ...change(orNull(planRef('word'))),
      }),
    },
  ),
};
