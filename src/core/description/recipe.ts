import type { Mode, SettingKey } from './settings';
import type { Source } from './source';

/**
 * A recipe as written by a user: *registers* say what exists and how it behaves, *fields* say where, *encode* says what,
 * *stages* say when. All positions and values are expressions of the little language in `expression.ts`.
 */
export interface RecipeSource {
  endian: 'little' | 'big';
  /** What the two address views are called, when the document's addresses are not the CPU's. */
  addresses?: { document: string; cpu: string };
  /** The settings this part has and their values, the first being the one a pad has when nobody asks for another. */
  settings: Partial<Record<SettingKey, string[]>>;
  /** What settings and values mean, where the trade's words do not say it. */
  meanings?: Partial<Record<SettingKey, SettingMeaningSource>>;
  /** Combinations of settings that do not exist. */
  excludes?: ExcludeSource[];
  /** Settings that no register bit tells apart. */
  alike?: AlikeSource[];
  /** Which settings mean something under which use; the others are encoded with their first value. */
  applies: Partial<Record<Mode | FunctionMode, SettingKey[]>>;
  /** Port name → its numeric columns, in port order (`p` is the index in this list). */
  ports: Record<string, Record<string, number>>;
  registers: {
    blocks: BlockSource[];
    guards?: GuardSource[];
  };
  fields: Record<string, FieldSource>;
  /** Fields through which the application drives and reads a pad. */
  access: {
    latch?: string;
    level?: string;
    /** A bit that shows that the pad's interrupt has happened; cleared as its field says, or by writing 1 where it is a flag. */
    pending?: string;
    /** The field that lets a pad's interrupt through; what else decides what it notices may raise its flag. */
    enable?: string;
  };
  /** What the headers of the part's maker call a register, `{block}->{register}`, and which header has that. */
  names?: { registers: string; include?: string };
  encode: EncodeSource[];
  stages: StageSource[];
  /** What must never be, not for one operation. */
  invariants?: InvariantSource[];
  /** Values a setting may have for a moment, besides what it was and what it becomes; `*` for any. */
  between?: Partial<Record<SettingKey, string[]>> | BetweenSource[];
}

/** Values that a setting may have for a moment, `*` for any: of all pads and at any time, or of some, in some stages. */
export interface BetweenSource {
  setting: SettingKey;
  values: string[];
  /** Only of pads that are planned so: `{"mode": "analog|function"}`. */
  settings?: Partial<Record<SettingKey, string>>;
  classes?: string[];
  /** Only of pads for which this holds. */
  where?: string;
  /** Only after operations of these stages. */
  stages?: string[];
  why?: string;
}

/** What a setting of the part means: its title, its default, the order of its values, and what each value is. */
export interface SettingMeaningSource {
  /** What it is called on screen and in code. */
  title?: string;
  /** The value of a pad that nobody asks anything of; the first one when absent. */
  default?: string;
  /** Its values from the weakest or slowest to the strongest or fastest. */
  order?: string[];
  values?: Record<string, ValueMeaningSource>;
}

/** What a value of a setting is, in words that the rules understand. */
export interface ValueMeaningSource {
  /** The trade's value that it is one of: `up` for a pull `up22k`; `keeper`; `inverted` for an input that reads inverted. */
  is?: string;
  /** Resistance of a pull. */
  ohms?: number;
  /** Current of a drive. */
  milliamps?: number;
  /** Highest rate of a speed. */
  hertz?: number;
  /** In words, as the document says it. */
  says?: string;
}

/** Settings that are not to be had together. What is not named is not looked at; words are joined by `|`. */
export interface ExcludeSource {
  settings: Partial<Record<SettingKey, string>>;
  /** Only of these pad classes. */
  classes?: string[];
  /** Only of functions that bring one of these signals: `TWI1.SDA`, `TWI1.*`, `*.SDA`. */
  signals?: string[];
  /** Only of pads for which this holds: a condition of `b`, `p`, `n`, `pad.x`, `port.x`. */
  where?: string;
  /** Only in these packages. */
  packages?: string[];
  why: string;
}

/** Settings that give the same bits: `{"mode": "input|analog"}`. Only what is named may differ between them. */
export interface AlikeSource {
  settings: Partial<Record<SettingKey, string>>;
  why: string;
}

/** A function by the direction of its line, where that decides which settings mean something. */
export type FunctionMode = `function ${LineWord}`;
export const LINE_WORDS = ['in', 'out', 'both', 'analog'] as const;
export type LineWord = (typeof LINE_WORDS)[number];

/** What value tables can look at: the settings, and `line`, the direction of the chosen function (`none` without one). */
export type EncodeKey = SettingKey | 'line';

export interface BlockSource {
  id: string;
  /** One instance for each port, pad, peripheral or signal; a single one when absent. */
  each?: 'port' | 'pad' | 'peripheral' | 'signal';
  /** Only instances of which this holds: a column that is filled in (`signal.sel`), or a condition; without it, all. */
  has?: string;
  packages?: string[];
  /** CPU address in bytes. */
  base: string;
  /** The same address as the document prints it (I/O space, bus offset); absent when they agree. */
  document?: string;
  /** Prefix of register names; `{port}`, `{pad}`, `{peripheral}`, `{signal}` are filled in. Default: the block id. */
  name?: string;
  registers: RegisterSource[];
  source?: Source;
}

export interface RegisterSource {
  id: string;
  /** Bytes from the block's base; may use `i`, the index in an array of `count` registers. */
  offset: string;
  /** 8, 16 or 32; of state that no address reaches (access `internal`) any number from 1 to 32. */
  bits: number;
  /** Only in instances of the block of which this holds; see {@link BlockSource.has}. */
  has?: string;
  packages?: string[];
  count?: number;
  /** Which of the `count` registers a field lands in. */
  index?: string;
  /** Value after reset: one for all, or by port/pad/… name with `*` for the rest. For arrays: a list, one each. */
  reset?: ResetSource;
  /**
   * How the register behaves, in words: `read-write` (default), `read`, `write`, `set of R`, `clear of R`, `toggle of R`,
   * `set and clear of R` (ones in the lower half set bits of R, ones in the upper half clear them), `alias of R` (the same
   * register at a second address), `strobe` (writing 1 starts something; nothing is held, and it reads as 0),
   * `masked` (upper half of the word says which bits of the lower half are written),
   * `key K [then K2] opens R1, R2 [once]` (a register beside it, `BLOCK.R`, or `BLOCK.*`; `once` shuts after one write),
   * `act copies A to B` (each 1 written copies that bit of A to B), `internal` (state that the bus does not reach).
   */
  access?: string;
  /** For read registers: `pads [inverted [by R]]` (levels at the pads) or `R [inverted] [after N|unknown cycles]`. */
  follows?: string;
  /**
   * Bits that show something, in a register whose other bits hold what is written: `bit 9 = pad [inverted [by bit 3]]` (in a
   * block for each pad), `bit 8 = bit 0 [inverted] [after N|unknown cycles]`, `bit 8 = R bit 0 …`.
   */
  shows?: string[];
  /** Registers at the same addresses on purpose: parts of a word, or what is read and what is written at one address. */
  overlaps?: string;
  /** Flags beside plain bits: writing 1 to one of these bits clears it, writing 0 leaves it. */
  clearedByOne?: string;
  /** Flags beside plain bits: writing 0 to one of these bits clears it, writing 1 leaves it. */
  clearedByZero?: string;
  /** Bits that ignore writes. */
  readOnly?: string;
  /** Reserved bits that every write must give a value, `V in MASK`; a write that does not is ignored. */
  always?: string;
  /**
   * Commit bits: `R [from K] [by N] [= 0]`. Bits of this register take a write only where R holds a 1 (or a 0): bit for bit, or
   * N bits of this register for each bit of R, counted from its bit K. R may be the register itself, for lock bits in it.
   */
  writableWhere?: string;
  /**
   * Clauses, in the language of `clause.ts`, instead of `access`: what a read gives; what a write of `v` does (`LATCH |= v; MASK := 0`);
   * the condition without which it does nothing; what a read does.
   */
  read?: string;
  write?: string;
  writeWhen?: string;
  afterRead?: string;
  /** What every write (every access) on the bus does, whatever it is to; what its own clause assigns counts instead. */
  anyWrite?: string;
  anyAccess?: string;
  /** What its bits come back to by themselves after they were written, `0 after 40|unknown cycles`: at any time until then. */
  returnsTo?: string;
  /** The bus reaches the register in pieces of this width only; which half comes first is the part's endianness. */
  accessedBy?: 8 | 16;
  title?: string;
  source?: Source;
}

/** A value, `unknown`, or `V unknown in MASK` where the document gives no reset value for some bits. */
export type ResetSource = string | Record<string, string | string[]>;

/**
 * What must be so after every operation, of every pad: a condition over the pad's fields. `never` must not come true;
 * `steady` names fields that must not change while the condition `while` holds.
 */
export interface InvariantSource {
  never?: string;
  steady?: string[];
  while?: string;
  why?: string;
}

export interface GuardSource {
  /** Accesses to this block have no effect while the guard is closed. */
  block: string;
  /** Only these registers of the block; all when absent. */
  registers?: string[];
  /** A register bit that must be 1, e.g. `GATE.READY bit port.gate`, or one that must be 0: `HOLD.ON bit 3 = 0`. */
  openWhen: string;
  /** `writes`: reading works while the guard is closed. */
  stops?: 'writes';
  /** Only for instances of the block of which this holds; see {@link BlockSource.has}. */
  has?: string;
}

export interface FieldPartSource {
  in: string;
  /** Index of the lowest bit. */
  at: string;
  /** Width in bits, 1–32, or an expression where it differs: `peripheral.width`. */
  bits: number | string;
  /** Registers by which bits of this part alone are changed. */
  setBy?: string;
  clearedBy?: string;
  toggledBy?: string;
}

export interface FieldSource extends Partial<FieldPartSource> {
  /** A field split over several places, lowest bits first; used instead of in/at/bits. */
  parts?: FieldPartSource[];
  setBy?: string;
  clearedBy?: string;
  toggledBy?: string;
  /** Written in this register and taken over from there into the one it is read in (see `act`). */
  through?: string;
  /** Several pads may write this field when they agree (a route group that moves an instance as a whole). */
  shared?: boolean;
  /** Only on pads (or for functions) of which this holds: a column that is filled in, or a condition. Without it, on all. */
  has?: string;
  /** What pads without the field behave like, where that is not what the part's defaults give. */
  absent?: number | string;
  /** Only in these packages; the same may be said of blocks and registers. */
  packages?: string[];
}

export interface EncodeSource {
  field: string;
  from: EncodeKey[];
  /**
   * Rows in order, first match wins. A key holds one word per setting of `from`, a word being a value, several joined
   * with `|`, or `*`; a single `*` matches all. A value is a number, an expression, or "keep": leave the field alone.
   */
  table: Record<string, number | string>;
  /** Why combinations that the table leaves out are not to be had. Without it, they are mistakes. */
  leftOut?: string;
}

/** Whether the recipe says which bits realise the settings. Without that, nets can be placed, but no code generated. */
export const hasRecipe = (recipe: RecipeSource): boolean => recipe.encode.length > 0;

export interface StageSource {
  id: string;
  title?: string;
  /** Why this stage stands where it does; printed as a comment in the generated code. */
  why?: string;
  /**
   * Statements run once, for every port in use, or for every planned pad; for every peripheral whose functions are planned, where the
   * plan asks for their clocks; for every signal that could be on a planned pad and that the plan leads nowhere.
   */
  per?: 'device' | 'port' | 'pad' | 'peripheral' | 'signal';
  /** With `per: pad` or `per: peripheral`: only for pads where this is not 0; a column that a pad lacks counts as 0. */
  where?: string;
  /** Statements before this stage's fields are written, and after them. */
  do?: string[];
  after?: string[];
  /** Statements before every single write of this stage's fields (a key that is good for one write), and after it. */
  beforeEach?: string[];
  afterEach?: string[];
  /** Fields that are written in this stage. */
  fields?: string[];
  /** All of the stage is done for one pad, port or peripheral after the other: where a register selects which is meant. */
  inTurn?: boolean;
  /**
   * Only pads with these settings: `{"pull": "none"}`. A field may so stand in two stages: a pull is released in an early one,
   * and switched on in a late one.
   */
  for?: Partial<Record<SettingKey, string>>;
}
