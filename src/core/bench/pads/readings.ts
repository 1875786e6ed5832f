import { ExpressionError, evaluate } from '../../description/language/expression';
import type { LineWord } from '../../description/recipe';
import type { Mode, SettingKey } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import { padSort, product, type Variant, variantsOf } from '../../device/available';
import type { Device } from '../../device/device';
import { appliedKeys, type EncodeRule, matchRow } from '../../device/fields/encode';
import type { Slot } from '../../device/fields/fields';

/** Values of settings for which a field holds something; settings that the field does not depend on are absent. */
type Tuple = Partial<Record<SettingKey, string>>;

/** A field of a pad under one use: which settings give which value. */
export interface FieldReading {
  slots: readonly Slot[];
  keys: readonly SettingKey[];
  tuples: readonly { values: Tuple; holds: number | 'anything' }[];
  /** It says nothing but what the pad is used for. */
  ofUse: boolean;
  /** It says, among other things, what the pad is used for. */
  aboutUse: boolean;
}

/** A use that a pad can be put to, and how its fields tell. */
export interface UseReading {
  mode: Mode;
  /** Bits can say so, but the pad's class has no such use: it drives nothing then. */
  lacking: boolean;
  /** The functions that its code selects on the pad. */
  functions: readonly PadFunction[];
  line: LineWord | undefined;
  applies: ReadonlySet<SettingKey>;
  fields: readonly FieldReading[];
}

const remembered = new WeakMap<Device, Map<string, UseReading[]>>();
const shared = new WeakMap<Device, Map<string, SharedTuple[]>>();

interface SharedTuple {
  values: Tuple;
  result: NonNullable<ReturnType<typeof matchRow>>['result'];
}

/** All that registers can make of a pad, each use with the fields that say so. Worked out once for each pad. */
export function readingsOf(device: Device, pad: Pad): readonly UseReading[] {
  let known = remembered.get(device);
  if (!known) {
    known = new Map();
    remembered.set(device, known);
  }
  let found = known.get(pad.id);
  if (!found) {
    found = readings(device, pad);
    known.set(pad.id, found);
  }
  return found;
}

function readings(device: Device, pad: Pad): UseReading[] {
  const { recipe } = device.description;
  const functions = device.functionsByPad.get(pad.id) ?? [];
  const had = variantsOf(device, pad);
  const lacked = (recipe.settings.mode ?? []).filter(
    (mode) => mode !== 'function' && !had.some((one) => one.mode === mode),
  ) as Mode[];
  return [...had, ...lacked.map((mode): Variant => ({ mode }))].map((variant): UseReading => {
    const { mode, fn } = variant;
    const line = fn && device.lineOf(fn.signal)?.direction;
    const same =
      fn === undefined
        ? []
        : functions.filter(
            (one) =>
              one.mux === fn.mux && (!device.tellsSignals || one.signal === fn.signal) && one.mux !== null,
          );
    return {
      mode,
      lacking: !had.includes(variant),
      functions: same,
      line,
      applies: new Set(appliedKeys(recipe, mode, line)),
      fields: device.rules.flatMap((rule): FieldReading[] => {
        if (device.lacksField(rule.field, pad)) return [];
        const slots = slotsOf(device, rule.field, pad, fn);
        if (slots.length === 0) return [];
        const aboutUse = rule.from.some((key) => key === 'mode' || key === 'line');
        return [
          {
            slots,
            keys: rule.from.filter((key): key is SettingKey => key !== 'mode' && key !== 'line'),
            tuples: tuplesOf(device, pad, fn, mode, line, rule),
            ofUse: rule.from.every((key) => key === 'mode' || key === 'line'),
            aboutUse,
          },
        ];
      }),
    };
  });
}

function slotsOf(device: Device, field: string, pad: Pad, fn: PadFunction | undefined): readonly Slot[] {
  // Where a field stands elsewhere for each function, a pad without one has none.
  if (fn === undefined && device.fields.get(field)?.needsFunction) return [];
  return device.slotsOf(field, pad, fn);
}

function tuplesOf(
  device: Device,
  pad: Pad,
  fn: PadFunction | undefined,
  mode: Mode,
  line: LineWord | undefined,
  rule: EncodeRule,
): FieldReading['tuples'] {
  let known = shared.get(device);
  if (!known) {
    known = new Map();
    shared.set(device, known);
  }
  const key = `${padSort(device, pad)}#${mode}#${line}#${rule.field}`;
  let found = known.get(key);
  if (!found) {
    found = sharedTuples(device, mode, line, rule);
    known.set(key, found);
  }
  const scope = device.scopeOf({ pad, ...(fn ? { fn } : {}) });
  return found.flatMap(({ values, result }): FieldReading['tuples'][number][] => {
    if (result === 'keep') return [{ values, holds: 'anything' }];
    if (result.kind === 'number') return [{ values, holds: result.value }];
    try {
      return [{ values, holds: evaluate(result, scope) }];
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
      return [];
    }
  });
}

function sharedTuples(
  device: Device,
  mode: Mode,
  line: LineWord | undefined,
  rule: EncodeRule,
): SharedTuple[] {
  const { recipe } = device.description;
  const keys = rule.from.filter((key): key is SettingKey => key !== 'mode' && key !== 'line');
  return [...product(keys, (key) => recipe.settings[key] ?? [])].flatMap((values) => {
    const row = matchRow(rule, { ...values, mode }, line);
    return row ? [{ values, result: row.result }] : [];
  });
}
