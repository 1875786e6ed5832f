import { type Mode, type PadSettings, type SettingKey, sameSettings } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import { defaultOn, fitTogether, titleOn, valuesOn } from '../../device/available';
import { decodePad } from '../../device/decode';
import type { Device } from '../../device/device';
import { appliedKeys, canonical } from '../../device/fields/encode';
import { saidAlike } from '../../device/fields/excludes';
import { type Contribution, contributionsOf } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';

/** What somebody tries on a pad: a use, perhaps a function, and values of settings. */
export interface TrialWish {
  mode: Mode;
  signal?: string;
  values: Partial<Record<SettingKey, string>>;
}

/** The bits that settings give, register by register, and what is read back out of them. */
export interface SettingTrial {
  settings: PadSettings;
  /** Settings that mean something here, with the values the pad has. */
  keys: { key: SettingKey; values: string[]; value: string }[];
  /** What was wished for and does not go with the rest. */
  given: readonly { key: SettingKey; why: string }[];
  contributions: Contribution[];
  registers: { register: Register; mask: number; reset: number; value: number }[];
}

/** Functions of a pad that a mux code selects. */
export const muxFunctions = (device: Device, pad: Pad): PadFunction[] =>
  (device.functionsByPad.get(pad.id) ?? []).filter((fn) => fn.mux !== null);

/** Settings → bits, by the part's recipe alone. Values that the pad does not have fall back to its first. */
export function encodeTrial(device: Device, pad: Pad, wish: TrialWish): SettingTrial {
  const { recipe } = device.description;
  const functions = muxFunctions(device, pad);
  const fn =
    wish.mode === 'function'
      ? (functions.find((one) => one.signal === wish.signal) ?? functions[0])
      : undefined;
  const line = fn && device.lineOf(fn.signal)?.direction;
  const keys = appliedKeys(recipe, wish.mode, line).map((key) => {
    const values = valuesOn(device, pad, key, fn);
    const wanted = wish.values[key];
    return {
      key,
      values,
      value:
        wanted !== undefined && values.includes(wanted) ? wanted : (defaultOn(device, pad, key, fn) ?? ''),
    };
  });
  const chosen: Partial<Record<SettingKey, string>> = Object.fromEntries(
    keys.map(({ key, value }) => [key, value]),
  );
  const wanted = new Set(keys.filter(({ key, value }) => wish.values[key] === value).map(({ key }) => key));
  const fit = fitTogether(device, pad, { mode: wish.mode, ...(fn ? { fn } : {}) }, chosen, wanted);
  for (const one of keys) one.value = fit?.values[one.key] ?? one.value;
  const settings = canonical(
    recipe,
    { values: { ...chosen, ...fit?.values, mode: wish.mode }, ...device.selection(fn) },
    line,
  );
  const contributions = contributionsOf(device, { pad, fn, settings });
  const registers = new Map<Register, { register: Register; mask: number; reset: number; value: number }>();
  for (const one of contributions) {
    const entry = registers.get(one.register) ?? {
      register: one.register,
      mask: 0,
      reset: one.register.reset,
      value: one.register.reset,
    };
    entry.mask = (entry.mask | one.mask) >>> 0;
    entry.value = ((entry.value & ~one.mask) | one.value) >>> 0;
    registers.set(one.register, entry);
  }
  const given = fit?.given ?? [
    { key: 'mode' as const, why: 'no settings of the pad go together in this mode' },
  ];
  return { settings, keys, given, contributions, registers: [...registers.values()] };
}

/** Register values → settings, in words; registers not given are at reset. */
export function decodeTrial(
  device: Device,
  pad: Pad,
  values: ReadonlyMap<Register, number>,
): { settings: PadSettings[]; words: string } {
  const held = new Map(values);
  // What is written beside a register takes effect in it when it is taken over.
  for (const { access, from, target } of device.registers.all) {
    const taken = from && values.get(from);
    if (access.kind === 'act' && target && taken !== undefined && !values.has(target))
      held.set(target, taken);
  }
  const settings = decodePad(device, pad, (register) => held.get(register) ?? register.reset);
  return { settings, words: settings.map((one) => settingsText(device, pad, one)).join(', or ') };
}

/** Whether the bits of a trial read back as what was tried. */
export function readsBack(device: Device, pad: Pad, trial: SettingTrial): boolean {
  const values = new Map(trial.registers.map(({ register, value }) => [register, value]));
  const { settings } = decodeTrial(device, pad, values);
  return (
    settings.some((one) => sameSettings(one, trial.settings)) &&
    settings.every(
      (one) =>
        sameSettings(one, trial.settings) || saidAlike(device.alike, one, trial.settings) !== undefined,
    )
  );
}

/** "output, outputType push-pull, initial level high": only what means something under the use. */
export function settingsText(device: Device, pad: Pad, settings: PadSettings): string {
  const mode = settings.values.mode as Mode | undefined;
  if (mode === undefined) return 'nothing';
  const fn = muxFunctions(device, pad).find(
    (one) => one.mux === settings.mux && (settings.signal === undefined || one.signal === settings.signal),
  );
  const line = fn && device.lineOf(fn.signal)?.direction;
  const keys = appliedKeys(device.description.recipe, mode, line);
  const words = [mode === 'function' ? `function ${fn?.signal ?? ''} (code ${settings.mux})` : mode];
  for (const key of keys) words.push(`${titleOn(device, key)} ${settings.values[key]}`);
  return words.join(', ');
}
