import {
  type Expression,
  ExpressionError,
  evaluate,
  parseExpression,
  type Scope,
  variablesOf,
} from '../../description/language/expression';
import type { Context } from '../../description/language/scope';
import { defaultOf } from '../../description/meanings';
import { type EncodeKey, type EncodeSource, LINE_WORDS, type RecipeSource } from '../../description/recipe';
import { type Mode, type PadSettings, type SettingKey, settingKeysOf } from '../../description/settings';
import type { LineKind, Pad, PadFunction, SignalId } from '../../description/types';

/** One row of a value table: which words each setting may have, and what the field becomes. */
interface Row {
  /** One set of accepted words per setting of the rule; null accepts all. */
  accepts: (ReadonlySet<string> | null)[];
  result: 'keep' | Expression;
}

export interface EncodeRule {
  field: string;
  from: EncodeKey[];
  rows: Row[];
  /** Why what the table leaves out is not to be had; without it, that is a mistake. */
  leftOut?: string;
}

/** Parses one encode rule. Throws {@link ExpressionError}. */
export function compileRule(source: EncodeSource, recipe: RecipeSource): EncodeRule {
  const wordsOf = (key: EncodeKey | undefined): readonly string[] | undefined => {
    if (key === 'line') return [...LINE_WORDS, 'none'];
    return key ? recipe.settings[key] : undefined;
  };
  for (const key of source.from) {
    if (!wordsOf(key))
      throw new ExpressionError(
        `"${key}" is not a setting of this part; it has ${settingKeysOf(recipe.settings).join(', ')}, and line`,
        1,
      );
  }
  const rows = Object.entries(source.table).map(([pattern, result]): Row => {
    const words = pattern.trim() === '*' ? source.from.map(() => '*') : pattern.trim().split(/\s+/);
    if (words.length !== source.from.length) {
      throw new ExpressionError(
        `row "${pattern}" has ${words.length} words for ${source.from.length} settings`,
        1,
      );
    }
    const accepts = words.map((word, position) => {
      if (word === '*') return null;
      const values = word.split('|');
      const key = source.from[position];
      for (const value of values) {
        if (!wordsOf(key)?.includes(value))
          throw new ExpressionError(
            `row "${pattern}": "${value}" is no value of ${key}, which has ${wordsOf(key)?.join(', ')}`,
            1,
          );
      }
      return new Set(values);
    });
    return { accepts, result: result === 'keep' ? 'keep' : parseExpression(String(result)) };
  });
  const leftOut = source.leftOut;
  return { field: source.field, from: source.from, rows, ...(leftOut === undefined ? {} : { leftOut }) };
}

type LineDirection = LineKind['direction'];

/** The word of a tuple for one of a rule's keys. */
export const wordFor = (key: EncodeKey, values: PadSettings['values'], line: LineDirection | undefined) => {
  if (key !== 'line') return values[key];
  return values.mode === 'function' && line ? line : 'none';
};

/** The first row that accepts the settings; undefined when the table misses the tuple. */
export function matchRow(
  rule: EncodeRule,
  values: PadSettings['values'],
  line: LineDirection | undefined,
): Row | undefined {
  return rule.rows.find((row) =>
    row.accepts.every((accepted, position) => {
      if (!accepted) return true;
      const value = wordFor(rule.from[position] as EncodeKey, values, line);
      return value !== undefined && accepted.has(value);
    }),
  );
}

/** The settings that mean something under a use; for a function possibly depending on the direction of its line. */
export const appliedKeys = (
  recipe: RecipeSource,
  mode: Mode,
  line: LineDirection | undefined,
): SettingKey[] =>
  (mode === 'function' && line ? recipe.applies[`function ${line}`] : undefined) ??
  recipe.applies[mode] ??
  [];

/**
 * Fills in what does not matter: a setting that means nothing under the use gets the part's first value, so that
 * settings that give the same bits are the same value.
 */
export function canonical(
  recipe: RecipeSource,
  settings: PadSettings,
  line: LineDirection | undefined,
): PadSettings {
  const mode = (settings.values.mode ?? defaultOf(recipe, 'mode') ?? 'input') as Mode;
  const applies = appliedKeys(recipe, mode, line);
  const values: Partial<Record<SettingKey, string>> = {};
  for (const key of settingKeysOf(recipe.settings)) {
    const wanted = settings.values[key];
    if (key === 'mode') values.mode = mode;
    else values[key] = applies.includes(key) && wanted !== undefined ? wanted : defaultOf(recipe, key);
  }
  if (mode !== 'function') return { values, mux: null };
  return settings.signal === undefined
    ? { values, mux: settings.mux }
    : { values, mux: settings.mux, signal: settings.signal };
}

/** Whether a rule's values depend on more of the pad than its class and mux code. */
export const dependsOnPad = (rule: EncodeRule): boolean =>
  rule.rows.some((row) => row.result !== 'keep' && [...variablesOf(row.result)].some((name) => name !== 'm'));

/** What a field shall hold; fields that are kept as they are do not appear. */
export interface FieldValue {
  field: string;
  value: number;
}

/** What encoding needs of a part. */
export interface Coding {
  rules: readonly EncodeRule[];
  scopeOf(context: Context): Scope;
  lineOf(signal: SignalId): LineKind | undefined;
  /** Whether a pad does not have a field. */
  lacksField(field: string, pad: Pad): boolean;
}

/** Whether a rule's values depend on which signal is chosen beyond its mux code. */
export const dependsOnSignal = (rule: EncodeRule): boolean =>
  rule.from.includes('line') ||
  rule.rows.some(
    (row) =>
      row.result !== 'keep' &&
      [...variablesOf(row.result)].some((name) => /^(fn|signal|peripheral)\./.test(name)),
  );

/**
 * Settings → field values, by the recipe's tables. `settings` must be canonical.
 * Throws {@link ExpressionError} when a table misses the tuple (found when the description is loaded).
 */
export function encodeSettings(
  settings: PadSettings,
  pad: Pad,
  fn: PadFunction | undefined,
  coding: Coding,
): FieldValue[] {
  const { rules, scopeOf } = coding;
  const line = fn && coding.lineOf(fn.signal)?.direction;
  const values: FieldValue[] = [];
  for (const rule of rules) {
    if (coding.lacksField(rule.field, pad)) continue;
    const row = matchRow(rule, settings.values, line);
    if (!row) {
      const tuple = rule.from.map((key) => wordFor(key, settings.values, line)).join(' ');
      throw new ExpressionError(`the table of field ${rule.field} has no row for "${tuple}"`, 1);
    }
    if (row.result === 'keep') continue;
    const value =
      row.result.kind === 'number' ? row.result.value : evaluate(row.result, scopeOf({ pad, fn }));
    values.push({ field: rule.field, value });
  }
  return values;
}
