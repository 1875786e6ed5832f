import { ExpressionError, evaluate, variablesOf } from '../../description/language/expression';
import { defaultOf, meantBy } from '../../description/meanings';
import type { LineWord } from '../../description/recipe';
import { type Mode, type SettingKey, settingKeysOf } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import { padSort, product, unavailable, valuesOn } from '../../device/available';
import type { Device } from '../../device/device';
import { appliedKeys, canonical, matchRow } from '../../device/fields/encode';

/** What a field says under a meaning: a value, or any, where it only selects which of several things is meant. */
export interface FieldMeaning {
  value: number;
  /** The value says which function or which line, not what the pad is. */
  selects: boolean;
  any: boolean;
  /** Where it selects a function: the values that select one of the pad's; absent where that is said elsewhere. */
  values?: readonly number[];
  /** It only says where a peripheral listens; what drives the pad does not depend on it. */
  listens: boolean;
  /** On the side of a signal: all bits of the field, as a mask. */
  whole?: number;
}

/** Something that the registers can make of a pad: settings, with the function left open. */
export interface Meaning {
  mode: Mode;
  line?: LineWord;
  values: Readonly<Partial<Record<SettingKey, string>>>;
  applies: ReadonlySet<SettingKey>;
  fields: ReadonlyMap<string, FieldMeaning>;
  /** Of a function: apart from what selects, the fields say the same as for some other use. */
  alike: boolean;
  /** The very function, where a register of its signal alone selects the pad: that field stands under {@link fieldOf}. */
  signal?: string;
}

/** The name of a field that stands where a function says, for one function of the pad. */
export const fieldOf = (field: string, { signal, mux }: PadFunction): string =>
  `${field} of ${signal} ${mux}`;

/** A pad's output stage is on: it drives, by its latch or by a function. */
export const drives = (one: Pick<Meaning, 'mode' | 'line'>): boolean =>
  one.mode === 'output' || (one.mode === 'function' && (one.line === 'out' || one.line === 'both'));

interface Memory {
  perPad: boolean;
  /** What is not to be had is said of single signals. */
  perSignal: boolean;
  lists: Map<string, Meanings>;
  byPad: Map<string, Meanings>;
}

export interface Meanings {
  /** Names the list; equal for pads that mean the same. */
  key: string;
  list: Meaning[];
  /** For each edge or level that can interrupt the fields that alone decide whether it does. */
  noticing: ReadonlyMap<string, string[]>;
  /** Fields whose values under meanings that drive differ from all values under those that do not. */
  driving: { field: string; values: ReadonlySet<number> }[];
}

const memories = new WeakMap<Device, Memory>();

/** All that the registers can make of a pad. Pads of a class mean alike, unless values depend on more of the pad. */
export function meaningsOf(device: Device, pad: Pad): Meanings {
  let memory = memories.get(device);
  if (!memory) {
    const perPad = device.rules.some((rule) =>
      rule.rows.some(
        (row) =>
          row.result !== 'keep' &&
          [...variablesOf(row.result)].some((name) =>
            /^([bpn]|(pad|port|fn|signal|peripheral)\..*)$/.test(name),
          ),
      ),
    );
    memory = {
      // Fields that stand where a function says are other ones on every pad.
      perPad: perPad || [...device.fields.values()].some((field) => field.needsFunction),
      perSignal: device.excludes.some((one) => one.signals !== undefined),
      lists: new Map(),
      byPad: new Map(),
    };
    memories.set(device, memory);
  }
  const known = memory.byPad.get(pad.id);
  if (known) return known;
  const lines = linesOf(device, pad);
  const key = `${memory.perPad ? pad.id : padSort(device, pad)} ${linesKey(lines)} ${
    memory.perSignal
      ? [...lines.values()]
          .flat()
          .map((fn) => fn.signal)
          .sort()
          .join()
      : ''
  }`;
  let found = memory.lists.get(key);
  if (!found) {
    const list = listMeanings(device, pad, lines);
    found = {
      key,
      list,
      noticing: noticingFields(device, list),
      driving: drivingFields(device, list),
    };
    memory.lists.set(key, found);
  }
  memory.byPad.set(pad.id, found);
  return found;
}

/** A pad's functions that a code selects, by the direction of their lines. */
function linesOf(device: Device, pad: Pad): Map<LineWord, PadFunction[]> {
  const lines = new Map<LineWord, PadFunction[]>();
  for (const fn of device.functionsByPad.get(pad.id) ?? []) {
    const line = device.lineOf(fn.signal)?.direction;
    if (fn.mux !== null && line !== undefined) lines.set(line, [...(lines.get(line) ?? []), fn]);
  }
  return lines;
}

/** Functions by direction and code: pads for which this is the same mean alike. */
const linesKey = (lines: ReadonlyMap<LineWord, PadFunction[]>): string =>
  [...lines]
    .map(([line, functions]) => `${line} ${[...new Set(functions.map((fn) => fn.mux))].sort().join(',')}`)
    .sort()
    .join(';');

function listMeanings(device: Device, pad: Pad, lines: Map<LineWord, PadFunction[]>): Meaning[] {
  const { recipe } = device.description;
  const modes = (recipe.settings.mode ? valuesOn(device, pad, 'mode') : []) as Mode[];
  const list: Meaning[] = [];
  for (const mode of modes) {
    const variants: (readonly [LineWord, PadFunction[]] | undefined)[] =
      mode === 'function' ? [...lines] : [undefined];
    for (const variant of variants) {
      const line = variant?.[0];
      const applies = new Set(appliedKeys(recipe, mode, line));
      const keys = settingKeysOf(recipe.settings).filter((key) => key !== 'mode' && applies.has(key));
      for (const chosen of product(keys, (key) => valuesOn(device, pad, key))) {
        const { values } = canonical(recipe, { values: { ...chosen, mode }, mux: null }, line);
        const functions = variant?.[1] ?? [undefined];
        if (functions.every((fn) => unavailable(device, pad, fn, values) !== undefined)) continue;
        const fields = fieldsOf(device, pad, variant?.[1] ?? [], values, line);
        if (fields) list.push({ mode, ...(line ? { line } : {}), values, applies, fields, alike: false });
      }
    }
  }
  const ofMode = new Set(
    device.rules
      .filter((rule) => rule.from.includes('mode') || rule.from.includes('line'))
      .map((rule) => rule.field),
  );
  const others = list.filter((one) => one.mode !== 'function');
  for (const one of list) {
    if (one.mode === 'function') one.alike = others.some((other) => saysTheSame(one, other, ofMode));
  }
  return list.flatMap((one) => chosenBySignals(device, pad, one, lines));
}

/**
 * A function that drives, and that no bit of the pad tells from another use: it is on where a register on the side of its signal selects
 * the pad. One meaning for each function of the pad, with the value of that register.
 */
function chosenBySignals(
  device: Device,
  pad: Pad,
  meaning: Meaning,
  lines: ReadonlyMap<LineWord, PadFunction[]>,
): Meaning[] {
  const moving = [...meaning.fields].filter(
    ([id, { any, listens }]) => any && !listens && device.fields.get(id)?.needsFunction,
  );
  if (!meaning.alike || !drives(meaning) || moving.length === 0 || meaning.line === undefined)
    return [meaning];
  return (lines.get(meaning.line) ?? []).map((fn): Meaning => {
    const fields = new Map(meaning.fields);
    for (const rule of device.rules) {
      if (!meaning.fields.get(rule.field)?.any) continue;
      const row = matchRow(rule, meaning.values, meaning.line);
      if (!row || row.result === 'keep') continue;
      const value = evaluate(row.result, device.scopeOf({ pad, fn }));
      if (!moving.some(([id]) => id === rule.field)) {
        fields.set(rule.field, { value, selects: true, any: false, listens: false });
        continue;
      }
      fields.delete(rule.field);
      const width = device.fields.get(rule.field)?.width ?? 32;
      const whole = width >= 32 ? -1 : (1 << width) - 1;
      fields.set(fieldOf(rule.field, fn), { value, selects: true, any: false, listens: false, whole });
    }
    return { ...meaning, fields, signal: fn.signal };
  });
}

/** Whether what a function's fields say about the use, but for what selects it, is what another meaning's fields say. */
const saysTheSame = (one: Meaning, other: Meaning, ofMode: ReadonlySet<string>): boolean =>
  [...one.fields].every(
    ([id, said]) => said.any || !ofMode.has(id) || other.fields.get(id)?.value === said.value,
  );

function fieldsOf(
  device: Device,
  pad: Pad,
  functions: readonly PadFunction[],
  values: Meaning['values'],
  line: LineWord | undefined,
): Map<string, FieldMeaning> | undefined {
  const fields = new Map<string, FieldMeaning>();
  for (const rule of device.rules) {
    if (device.lacksField(rule.field, pad)) continue;
    const row = matchRow(rule, values, line);
    if (!row) return undefined;
    if (row.result === 'keep') continue;
    const names = [...variablesOf(row.result)];
    const away = device.fields.get(rule.field)?.needsFunction === true;
    const ofFunction = away || names.some((name) => /^(m|fn\.|signal\.|peripheral\.)/.test(name));
    try {
      const expression = row.result;
      const valueFor = (fn: PadFunction | undefined): number =>
        evaluate(expression, device.scopeOf({ pad, ...(fn ? { fn } : {}) }));
      fields.set(rule.field, {
        value: ofFunction ? 0 : valueFor(functions[0]),
        selects: names.length > 0 || ofFunction,
        any: ofFunction,
        ...(ofFunction && !away ? { values: [...new Set(functions.map(valueFor))] } : {}),
        listens: away && matchRow(rule, values, 'out')?.result === 'keep',
      });
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
      return undefined;
    }
  }
  return fields;
}

const EDGES: Record<string, readonly string[]> = {
  rising: ['rising'],
  falling: ['falling'],
  both: ['rising', 'falling'],
  change: ['rising', 'falling'],
};

/** The edges and levels that a value of the interrupt setting stands for. */
export const edgesOf = (value: string | undefined): readonly string[] =>
  value === undefined ? [] : (EDGES[value] ?? [value]);

function noticingFields(device: Device, list: readonly Meaning[]): Map<string, string[]> {
  const found = new Map<string, string[]>();
  const { recipe } = device.description;
  const values = recipe.settings.trigger ?? [];
  const none = defaultOf(recipe, 'trigger');
  const edges = (value: string | undefined): readonly string[] => edgesOf(meantBy(recipe, 'trigger', value));
  const fields = device.rules.filter((rule) => rule.from.includes('trigger')).map((rule) => rule.field);
  for (const edge of new Set(values.filter((value) => value !== none).flatMap(edges))) {
    const deciding = fields.filter((field) => {
      const [on, off] = [new Set<number>(), new Set<number>()];
      for (const one of list) {
        const said = one.applies.has('trigger') ? one.fields.get(field) : undefined;
        if (!said || said.selects) continue;
        const notices = one.values.trigger !== none && edges(one.values.trigger).includes(edge);
        (notices ? on : off).add(said.value);
      }
      return on.size > 0 && ![...on].some((value) => off.has(value));
    });
    found.set(edge, deciding);
  }
  return found;
}

function drivingFields(device: Device, list: readonly Meaning[]): Meanings['driving'] {
  const found: Meanings['driving'] = [];
  for (const { field } of device.rules) {
    const driven = new Set<number>();
    const idle = new Set<number>();
    let clear = true;
    for (const one of list) {
      const said = one.fields.get(field);
      if (!said || said.any) clear = false;
      else (drives(one) ? driven : idle).add(said.value);
    }
    if (clear && driven.size > 0 && idle.size > 0 && ![...driven].some((value) => idle.has(value)))
      found.push({ field, values: driven });
  }
  return found;
}
