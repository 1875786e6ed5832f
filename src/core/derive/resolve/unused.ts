import { meantBy } from '../../description/meanings';
import { isAsked, type SettingKey, settingKeysOf } from '../../description/settings';
import type { Package, Pad } from '../../description/types';
import { defaultOn, fitTogether, lackOf, valueFor, valuesOn } from '../../device/available';
import type { Device } from '../../device/device';
import { canonical } from '../../device/fields/encode';
import type { PlannedPad } from '../../device/planned-pad';
import { type Plan, tableOf, UNUSED_POLICIES, type UnusedPolicy } from '../../plan/model/types';

/** Names of the policies, as shown. */
export const POLICY_TITLES: Record<UnusedPolicy, string> = {
  reset: 'leave as at reset',
  analog: 'analog, digital stages off',
  'input-pulled': 'input with a pull',
  'output-low': 'output, low',
};

/** The policy for a pad that nobody planned. */
export function policyOf(plan: Plan, pad: string): UnusedPolicy {
  const table = tableOf(plan, 'unused');
  const value = (Object.hasOwn(table, pad) ? table[pad] : table['*']) ?? 'reset';
  return UNUSED_POLICIES.find((one) => one === value) ?? 'reset';
}

/** What a policy makes of a pad; the reason when the pad cannot be that, nothing when it stays as it is. */
export function unusedPad(
  device: Device,
  pad: Pad,
  policy: UnusedPolicy,
): { planned: PlannedPad } | { lack: string } | undefined {
  if (policy === 'reset') return undefined;
  const mode = policy === 'analog' ? 'analog' : policy === 'output-low' ? 'output' : 'input';
  const lack = lackOf(device, pad, 'mode', mode);
  if (lack !== undefined) return { lack };
  const values: Partial<Record<SettingKey, string>> = { mode };
  for (const key of settingKeysOf(device.description.recipe.settings).filter(isAsked)) {
    const first = defaultOn(device, pad, key);
    if (first !== undefined) values[key] = first;
  }
  if (device.description.recipe.settings.level) values.level = 'low';
  if (policy === 'input-pulled') {
    const { recipe } = device.description;
    const pull = valuesOn(device, pad, 'pull').find((one) =>
      ['up', 'down'].includes(meantBy(recipe, 'pull', one) ?? ''),
    );
    if (pull === undefined) return { lack: 'the pad has no pull' };
    values.pull = pull;
  } else {
    const none = valueFor(device, pad, 'pull', 'none');
    if (none !== undefined) values.pull = none;
  }
  const fit = fitTogether(device, pad, { mode }, values, new Set(['pull']));
  if (!fit) return { lack: `the pad cannot be ${mode}` };
  const [refused] = fit.given;
  if (refused && policy === 'input-pulled') return { lack: refused.why };
  return {
    planned: {
      pad,
      settings: canonical(device.description.recipe, { values: fit.values, mux: null }, undefined),
    },
  };
}

const outcomes = new WeakMap<Device, Map<string, ReturnType<typeof unusedPad>>>();

/** What a policy makes of a pad is the same for every plan, and the same object. */
function remembered(device: Device, pad: Pad, policy: UnusedPolicy): ReturnType<typeof unusedPad> {
  let known = outcomes.get(device);
  if (!known) {
    known = new Map();
    outcomes.set(device, known);
  }
  const key = `${policy} ${pad.id}`;
  if (!known.has(key)) known.set(key, unusedPad(device, pad, policy));
  return known.get(key);
}

/** A pad that nobody planned, and what its policy makes of it. */
export interface UnusedPad {
  pad: Pad;
  policy: UnusedPolicy;
  result: NonNullable<ReturnType<typeof unusedPad>>;
}

/** Bonded pads that nobody planned and that have no duty at boot, each with what the policy makes of it. */
export function unusedPads(
  device: Device,
  pkg: Package,
  plan: Plan,
  taken: (pad: string) => boolean,
): UnusedPad[] {
  if (Object.keys(tableOf(plan, 'unused')).length === 0) return [];
  const bonded = device.pinsOf.get(pkg.id);
  return device.description.pads.flatMap((pad) => {
    if (pad.kind !== 'io' || pad.boot || pad.port === undefined || !bonded?.has(pad.id) || taken(pad.id))
      return [];
    const policy = policyOf(plan, pad.id);
    const result = remembered(device, pad, policy);
    return result ? [{ pad, policy, result }] : [];
  });
}
