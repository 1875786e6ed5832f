import { type Limit, limitText } from '../../base/limits';
import { fail, type Result } from '../../base/result';
import type { Schema } from '../model/schema-parts';
import type { NetId, Plan, Waiver } from '../model/types';

/**
 * All about one kind of edit, in one module. The registry in `edits.ts` has one of them for each kind, so that a kind that is
 * missing somewhere is an error of types.
 */
export interface EditKind<E extends { kind: string }> {
  /** Makes the change, or says for a person why it cannot be made. The given plan stays as it is. */
  apply(plan: Plan, edit: E): Result<Plan>;
  /** The edit that takes it back: `apply(apply(p, e), invert(e)) = p`. */
  invert(edit: E): { kind: string };
  /**
   * The same wish on a plan in which something else stands there by now; undefined where there is nothing any more that it could be
   * wished of. Kinds that add or remove have none.
   */
  again?(plan: Plan, edit: E): E | undefined;
  /**
   * What it puts into the plan under somebody's name. Whoever makes the edit must be them, so every kind has to say it; most kinds put
   * in nothing of the sort ({@link unsigned}).
   */
  signs(edit: E): readonly Waiver[];
  /** What it does, for the undo button and the history: "place FAN_1 on F6". */
  describe(edit: E, nameOf: (id: NetId) => string): string;
  /**
   * What an edit from outside must look like. Kinds that change one of several things have a schema for each, by what tells
   * them apart.
   */
  schemas:
    | {
        tell: 'field' | 'key' | 'table';
        each: Readonly<Record<string, Schema>>;
        other?: { pattern: string; schema: Schema };
      }
    | Schema;
}

/** Of kinds that put in nothing that anybody signs. */
export const unsigned = (): readonly Waiver[] => [];

export const refuse = (message: string): Result<never> => fail({ place: 'edit', message });

export const full = (limit: Limit): Result<never> => refuse(`a plan takes at most ${limitText(limit)}`);

export const changedMeanwhile = (what: string, field: string, now: string): Result<never> =>
  refuse(`${what}: ${field} was changed meanwhile (now ${now === '' ? 'empty' : now})`);

/** A copy of a list with an item at a place; beyond the end means at the end. */
export const insertAt = <T>(items: readonly T[], item: T, at: number): T[] => {
  const position = Math.max(0, Math.min(at, items.length));
  return [...items.slice(0, position), item, ...items.slice(position)];
};

/** A copy of a list with one item replaced by another. */
export const replace = <T>(items: readonly T[], old: T, next: T): T[] =>
  items.map((item) => (item === old ? next : item));

/** Edits of a kind have these keys and no others. */
export const shape = (kind: string, properties: Readonly<Record<string, Schema>>): Schema => ({
  type: 'object',
  additionalProperties: false,
  required: ['kind', ...Object.keys(properties)],
  properties: { kind: { const: kind }, ...properties },
});

export const POSITION: Schema = { type: 'integer', minimum: 0, maximum: 100_000 };

/** From one value to another of the same kind. */
export const change = (value: Schema): { from: Schema; to: Schema } => ({ from: value, to: value });

export const orNull = (value: Schema): Schema => ({ anyOf: [value, { type: 'null' }] });

/** One schema for each of several things that a kind can change. */
export const eachOf = <Key extends string>(
  tell: 'field' | 'key' | 'table',
  values: Readonly<Record<Key, Schema>>,
  shapeOf: (key: Key, value: Schema) => Schema,
  /** What else can be changed, by a pattern of its name. */
  other?: { pattern: string; schema: Schema },
): EditKind<never>['schemas'] => ({
  tell,
  each: Object.fromEntries(
    Object.entries<Schema>(values).map(([key, value]) => [key, shapeOf(key as Key, value)]),
  ),
  ...(other ? { other } : {}),
});
