import { ExpressionError, evaluate } from '../description/language/expression';
import { defaultOf, meantBy, titleOf, valuesByDefault, valuesMeaning } from '../description/meanings';
import { MODES, type Mode, type PadSettings, type SettingKey, settingKeysOf } from '../description/settings';
import type { Lack, LineKind, Pad, PadFunction } from '../description/types';
import type { Device } from './device';
import { appliedKeys, canonical, type EncodeRule, matchRow } from './fields/encode';
import { accepts, matchesLine } from './fields/excludes';

/** What a pad can be: its class, the fields it has, what is said not to go together. The one place that knows. */

type Values = PadSettings['values'];
type Direction = LineKind['direction'];

/** The direction of a function's line, where a code selects it. */
const lineAs = (device: Device, fn: PadFunction | undefined): Direction | undefined =>
  fn && fn.mux !== null ? device.lineOf(fn.signal)?.direction : undefined;

/** Why a class of pads does not have a value; undefined when it has it. */
function lackOfClass(device: Device, pad: Pad, key: SettingKey, value: string): string | undefined {
  const lacks: Lack[] = device.description.padClasses[pad.class ?? '']?.lacks ?? [];
  return lacks.find((lack) => lack.setting === key && lack.values.includes(value))?.why;
}

/** Whether there is more to look at than the classes of pads. */
const isRestricted = (device: Device): boolean =>
  device.excludes.length > 0 ||
  device.rules.some((rule) => rule.leftOut !== undefined) ||
  [...device.fields.values()].some((field) => field.conditional);

const restricted = new WeakMap<Device, boolean>();
function restrictedOf(device: Device): boolean {
  let known = restricted.get(device);
  if (known === undefined) {
    known = isRestricted(device);
    restricted.set(device, known);
  }
  return known;
}

const sorts = new WeakMap<Device, Map<string, string>>();

/** Pads of one sort have the same settings: they are of one class, have the same fields, and are excluded from the same. */
export function padSort(device: Device, pad: Pad): string {
  if (!restrictedOf(device)) return pad.class ?? '';
  let known = sorts.get(device);
  if (!known) {
    known = new Map();
    sorts.set(device, known);
  }
  let sort = known.get(pad.id);
  if (sort === undefined) {
    const lacking = [...device.fields.keys()].filter((id) => device.lacksField(id, pad));
    const scope = device.scopeOf({ pad });
    const excluded = device.excludes.map(({ where }) => (where && !where.holds(scope) ? '-' : 'x'));
    sort = `${pad.class ?? ''} ${lacking.join()} ${excluded.join('')}`;
    known.set(pad.id, sort);
  }
  return sort;
}

/** Why a pad cannot be all of this at once; undefined when it can. Single values that its class lacks are not looked at. */
export function unavailable(
  device: Device,
  pad: Pad,
  fn: PadFunction | undefined,
  values: Values,
): string | undefined {
  if (!restrictedOf(device)) return undefined;
  const line = lineAs(device, fn);
  for (const { words, classes, signals, where, why } of device.excludes) {
    if (classes && !classes.has(pad.class ?? '')) continue;
    if (signals && !(fn && signals.some((pattern) => matchesLine(pattern, fn.signal)))) continue;
    if (where && !where.holds(device.scopeOf({ pad }))) continue;
    if (accepts(words, values)) return why;
  }
  for (const rule of device.rules) {
    if (device.lacksField(rule.field, pad)) {
      const why = withoutField(device, rule, pad, fn, values, line);
      if (why !== undefined) return why;
    } else if (rule.leftOut !== undefined && !matchRow(rule, values, line)) return rule.leftOut;
  }
  return undefined;
}

/** Why a pad without a field cannot be this: the field would have to hold something else than what the pad behaves like. */
function withoutField(
  device: Device,
  rule: EncodeRule,
  pad: Pad,
  fn: PadFunction | undefined,
  values: Values,
  line: Direction | undefined,
): string | undefined {
  const field = device.fields.get(rule.field);
  const why = `${pad.id} has no ${rule.field}${field?.condition ? ` (only where ${field.condition})` : ''}`;
  const wanted = resultOf(device, rule, pad, fn, values, line);
  if (wanted === 'keep') return undefined;
  const absent = field?.absent;
  if (absent) {
    const behaves = evaluated(() => evaluate(absent, device.scopeOf({ pad, fn })));
    return wanted === behaves ? undefined : why;
  }
  const { recipe } = device.description;
  const plain: Partial<Record<SettingKey, string>> = {};
  for (const key of settingKeysOf(recipe.settings)) plain[key] = defaultOf(recipe, key);
  const ofMode = rule.from.every((key) => key === 'mode' || key === 'line');
  // A field that is about what the pad is for leaves it what it is by default; any other one leaves the default of its setting.
  const base = resultOf(
    device,
    rule,
    pad,
    ofMode ? undefined : fn,
    ofMode ? plain : { ...plain, mode: values.mode },
    ofMode ? undefined : line,
  );
  return base === 'keep' || base === wanted ? undefined : why;
}

const evaluated = (work: () => number): number | 'unknown' => {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    return 'unknown';
  }
};

function resultOf(
  device: Device,
  rule: EncodeRule,
  pad: Pad,
  fn: PadFunction | undefined,
  values: Values,
  line: Direction | undefined,
): number | 'keep' | 'unknown' {
  const row = matchRow(rule, values, line);
  if (!row || row.result === 'keep') return 'keep';
  const { result } = row;
  return evaluated(() => evaluate(result, device.scopeOf({ pad, fn })));
}

/** A use a pad can be put to: for functions, one entry per mux code. */
export interface Variant {
  mode: Mode;
  fn?: PadFunction;
}

/** The functions of a pad that registers tell apart: one for each mux code, or each signal where they tell signals. */
function distinctFunctions(device: Device, pad: Pad): PadFunction[] {
  const distinct = new Map<string, PadFunction>();
  for (const fn of device.functionsByPad.get(pad.id) ?? []) {
    // What is said not to be had may be said of a signal.
    const own = device.excludes.some((one) => one.signals) ? fn.signal : '';
    const key = `${fn.mux} ${device.selection(fn).signal ?? ''} ${own}`;
    if (fn.mux !== null && !distinct.has(key)) distinct.set(key, fn);
  }
  return [...distinct.values()];
}

/** What a pad can be used as. */
export function variantsOf(device: Device, pad: Pad): Variant[] {
  const { recipe } = device.description;
  const modes = (recipe.settings.mode as Mode[] | undefined) ?? MODES;
  return modes
    .filter((mode) => lackOfClass(device, pad, 'mode', mode) === undefined)
    .flatMap((mode): Variant[] =>
      mode === 'function' ? distinctFunctions(device, pad).map((fn) => ({ mode, fn })) : [{ mode }],
    );
}

interface Tuple {
  settings: PadSettings;
  /** Why it is not to be had. */
  why: string | undefined;
}

/** Of all pads alike; and of the pad that was asked for last, what depends on it. */
const tuples = new WeakMap<
  Device,
  { alike: Map<string, readonly Tuple[]>; pad: Pad | undefined; ofPad: Map<string, readonly Tuple[]> }
>();

/** All settings of a pad in a use, each once, canonical; those that are not to be had with the reason. The same lists for pads alike. */
function tuplesOf(device: Device, pad: Pad, variant: Variant): readonly Tuple[] {
  const { mode, fn } = variant;
  // What is not to be had of a function may depend on its columns.
  const signal = fn && (device.tellsSignals || restrictedOf(device)) ? fn.signal : '';
  const key = `${padSort(device, pad)} ${mode} ${fn?.mux} ${lineAs(device, fn)} ${signal}`;
  let memory = tuples.get(device);
  if (!memory) {
    memory = { alike: new Map(), pad: undefined, ofPad: new Map() };
    tuples.set(device, memory);
  }
  if (signal !== '' && memory.pad !== pad) {
    memory.pad = pad;
    memory.ofPad = new Map();
  }
  const lists = signal === '' ? memory.alike : memory.ofPad;
  let list = lists.get(key);
  if (!list) {
    list = listTuples(device, pad, variant);
    lists.set(key, list);
  }
  return list;
}

function listTuples(device: Device, pad: Pad, { mode, fn }: Variant): Tuple[] {
  const { recipe } = device.description;
  const line = lineAs(device, fn);
  const applied = appliedKeys(recipe, mode, line);
  const keys = settingKeysOf(recipe.settings).filter((key) => key !== 'mode' && applied.includes(key));
  const valuesFor = (key: SettingKey): string[] =>
    (recipe.settings[key] ?? []).filter((value) => lackOfClass(device, pad, key, value) === undefined);
  return product(keys, valuesFor).map((chosen): Tuple => {
    const settings = canonical(recipe, { values: { ...chosen, mode }, ...device.selection(fn) }, line);
    return { settings, why: unavailable(device, pad, fn, settings.values) };
  });
}

/** Every setting that a pad can have in a use. */
export function* settingsOfVariant(device: Device, pad: Pad, variant: Variant): Generator<PadSettings> {
  for (const { settings, why } of tuplesOf(device, pad, variant)) if (why === undefined) yield settings;
}

/** Every combination of the values that settings can have, the last setting changing first. */
export const product = (
  keys: readonly SettingKey[],
  valuesOf: (key: SettingKey) => string[],
): Partial<Record<SettingKey, string>>[] =>
  keys.reduce<Partial<Record<SettingKey, string>>[]>(
    (all, key) => {
      const values = valuesOf(key);
      return all.flatMap((chosen) => values.map((value) => ({ ...chosen, [key]: value })));
    },
    [{}],
  );

/** For each value of each setting why no combination with it is to be had, or null where one is. */
type Offered = Map<string, string | null>;
const offers = new WeakMap<Device, Map<string, Offered>>();

function offeredOn(device: Device, pad: Pad, fn: PadFunction | undefined): Offered {
  let known = offers.get(device);
  if (!known) {
    known = new Map();
    offers.set(device, known);
  }
  const functions = fn ? [] : (device.functionsByPad.get(pad.id) ?? []).map((one) => one.signal);
  const key = `${padSort(device, pad)} ${fn ? `${fn.signal} ${fn.mux}` : functions.join()}`;
  let found = known.get(key);
  if (!found) {
    found = new Map();
    const variants: Variant[] = fn
      ? [{ mode: fn.mux !== null ? 'function' : fn.itself ? 'input' : 'analog', fn }]
      : variantsOf(device, pad);
    for (const variant of variants) {
      for (const { settings, why } of tuplesOf(device, pad, variant)) {
        for (const [one, value] of Object.entries(settings.values)) {
          const name = `${one} ${value}`;
          if (why === undefined) found.set(name, null);
          else if (!found.has(name)) found.set(name, why);
        }
      }
    }
    known.set(key, found);
  }
  return found;
}

/**
 * Why a pad does not have a value of a setting, or of the values that a word of the trade stands for, with any others; undefined
 * when it has it. With a function: as that function.
 */
export function lackOf(
  device: Device,
  pad: Pad,
  key: SettingKey,
  word: string,
  fn?: PadFunction,
): string | undefined {
  const { recipe } = device.description;
  const known = recipe.settings[key];
  if (!known) return `the ${device.description.name} has no such setting`;
  const values = valuesMeaning(recipe, key, word);
  if (values.length === 0) return `the ${device.description.name} offers ${known.join(', ')}`;
  let first: string | undefined;
  for (const value of values) {
    const why =
      lackOfClass(device, pad, key, value) ??
      (restrictedOf(device) ? (offeredOn(device, pad, fn).get(`${key} ${value}`) ?? undefined) : undefined);
    if (why === undefined) return undefined;
    first ??= why;
  }
  return first;
}

/** The values of a setting that a pad has, in the part's order. */
export const valuesOn = (device: Device, pad: Pad, key: SettingKey, fn?: PadFunction): string[] =>
  (device.description.recipe.settings[key] ?? []).filter(
    (value) => lackOf(device, pad, key, value, fn) === undefined,
  );

/** The value of a setting that a pad has and a word stands for: the value itself, or the weakest that is it. */
export const valueFor = (
  device: Device,
  pad: Pad,
  key: SettingKey,
  word: string,
  fn?: PadFunction,
): string | undefined =>
  valuesMeaning(device.description.recipe, key, word).find(
    (value) => lackOf(device, pad, key, value, fn) === undefined,
  );

/** The value of a setting that a pad has when nobody asks: the part's default, or the next that it has. */
export const defaultOn = (device: Device, pad: Pad, key: SettingKey, fn?: PadFunction): string | undefined =>
  valuesByDefault(device.description.recipe, key).find(
    (value) => lackOf(device, pad, key, value, fn) === undefined,
  );

/** Settings that a pad has, as near to those that are wanted as can be, and what had to give way. */
export interface Fit {
  values: Partial<Record<SettingKey, string>>;
  /** Wanted settings that do not go with the others, and why. */
  given: { key: SettingKey; why: string }[];
}

/**
 * Chooses among combinations that are to be had: as few wanted settings as possible give way, and of the rest the part's defaults
 * are kept where they can be. Undefined when nothing is to be had in this mode.
 */
export function fitTogether(
  device: Device,
  pad: Pad,
  variant: Variant,
  values: Readonly<Partial<Record<SettingKey, string>>>,
  wanted: ReadonlySet<SettingKey>,
): Fit | undefined {
  const why = unavailable(device, pad, variant.fn, canonicalFor(device, variant, values));
  if (why === undefined) return { values: { ...values }, given: [] };
  let best: { settings: PadSettings; cost: number } | undefined;
  for (const settings of settingsOfVariant(device, pad, variant)) {
    let cost = 0;
    for (const key of settingKeysOf(settings.values)) {
      if (settings.values[key] === values[key] || values[key] === undefined) continue;
      cost += wanted.has(key) ? 100 : 1;
    }
    if (!best || cost < best.cost) best = { settings, cost };
  }
  if (!best) return undefined;
  const { settings } = best;
  const given = [...wanted]
    .filter((key) => values[key] !== undefined && settings.values[key] !== values[key])
    .map((key) => ({ key, why }));
  return { values: { ...settings.values }, given };
}

const canonicalFor = (device: Device, { fn }: Variant, values: Values): Values => {
  const line = lineAs(device, fn);
  return canonical(device.description.recipe, { values, ...device.selection(fn) }, line).values;
};

/** The word of the trade that a pad's setting is: `up` for a pull `up22k`. */
export const isSet = (
  device: Device,
  settings: PadSettings | undefined,
  key: SettingKey,
): string | undefined => meantBy(device.description.recipe, key, settings?.values[key]);

/** What a setting of the part is called. */
export const titleOn = (device: Device, key: SettingKey): string => titleOf(device.description.recipe, key);

/** The function that settings choose on a pad; undefined where they choose none. */
export const offeredFunction = (device: Device, pad: Pad, settings: PadSettings): PadFunction | undefined =>
  settings.mux === null
    ? undefined
    : (device.functionsByPad.get(pad.id) ?? []).find((fn) => {
        const chosen = device.selection(fn);
        return (
          chosen.mux === settings.mux && (settings.signal === undefined || chosen.signal === settings.signal)
        );
      });
