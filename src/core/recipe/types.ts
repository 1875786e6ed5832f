import type { SettingKey, Use } from '../settings';

/**
 * A recipe as written by a user: *registers* say what exists and how it behaves, *fields* say where, *encode* says what,
 * *stages* say when. All positions and values are expressions of the little language in `expression.ts`.
 */
export interface RecipeSource {
  endian: 'little' | 'big';
  /** The settings this part has and their values, the first being the one a pad has when nobody asks for another. */
  settings: Partial<Record<SettingKey, string[]>>;
  /** Which settings mean something under which use; the others are encoded with their first value. */
  applies: Record<Use, SettingKey[]>;
  /** Port name → its numeric columns, in port order (`p` is the index in this list). */
  ports: Record<string, Record<string, number>>;
  registers: {
    blocks: BlockSource[];
    guards?: GuardSource[];
  };
  fields: Record<string, FieldSource>;
  /** Fields through which the application drives and reads a pad. */
  access: { latch?: string; level?: string };
  encode: EncodeSource[];
  stages: StageSource[];
}

export interface BlockSource {
  id: string;
  /** One instance for each port, pad, peripheral or signal; a single one when absent. */
  each?: 'port' | 'pad' | 'peripheral' | 'signal';
  /** CPU address in bytes. */
  base: string;
  /** Prefix of register names; `{port}`, `{pad}`, `{peripheral}`, `{signal}` are filled in. Default: the block id. */
  name?: string;
  registers: RegisterSource[];
}

export interface RegisterSource {
  id: string;
  /** Bytes from the block's base; may use `i`, the index in an array of `count` registers. */
  offset: string;
  bits: 8 | 16 | 32;
  count?: number;
  /** Which of the `count` registers a field lands in. */
  index?: string;
  /** Value after reset: one for all, or by port/pad/… name with `*` for the rest. For arrays: a list, one each. */
  reset?: ResetSource;
  /**
   * How the register behaves, in words: `read-write` (default), `read`, `write`, `set of R`, `clear of R`, `toggle of R`,
   * `masked` (upper half of the word says which bits of the lower half are written),
   * `key K [then K2] opens R1, R2`.
   */
  access?: string;
  /** For read registers: `pads` (levels at the pads) or `R [after N cycles]`. */
  follows?: string;
  /** Bits that ignore writes. */
  readOnly?: string;
  title?: string;
}

export type ResetSource = string | Record<string, string | string[]>;

export interface GuardSource {
  /** Accesses to this block have no effect while the guard is closed. */
  block: string;
  /** A register bit, e.g. `GATE.READY bit port.gate`. */
  'open when': string;
}

export interface FieldPartSource {
  in: string;
  /** Index of the lowest bit. */
  at: string;
  /** Width in bits, 1–8 (up to 32 for whole words). */
  bits: number;
}

export interface FieldSource extends Partial<FieldPartSource> {
  /** A field split over several places, lowest bits first; used instead of in/at/bits. */
  parts?: FieldPartSource[];
  'set by'?: string;
  'cleared by'?: string;
  'toggled by'?: string;
  /** Several pads may write this field when they agree (a route group that moves an instance as a whole). */
  shared?: boolean;
}

export interface EncodeSource {
  field: string;
  from: SettingKey[];
  /**
   * Rows in order, first match wins. A key holds one word per setting of `from`, a word being a value, several joined
   * with `|`, or `*`; a single `*` matches all. A value is a number, an expression, or "keep": leave the field alone.
   */
  table: Record<string, number | string>;
}

export interface StageSource {
  id: string;
  title?: string;
  /** Why this stage stands where it does; printed as a comment in the generated code. */
  why?: string;
  /** Statements run once, for every port in use, or for every planned pad. */
  per?: 'device' | 'port' | 'pad';
  do?: string[];
  /** Fields that are written in this stage. */
  fields?: string[];
}
