/** What a pad is to be: an ordinary input or output, one of its functions, or connected to an analog circuit. */
export const MODES = ['input', 'output', 'function', 'analog'] as const;
export type Mode = (typeof MODES)[number];

interface SettingKind {
  /** As shown: "output type". */
  title: string;
  /** Values that are the trade's and mean the same on every part; `part`: the part's own tokens ("8mA"). */
  values: Readonly<Record<string, string>> | 'part';
  /** What a part is taken to have until its registers are known, its default first; empty: no such setting. */
  usual: readonly string[];
  /** Modes under which it usually means something; a recipe's `applies` says so for its part. */
  appliesTo: readonly Mode[];
  /** The unit of its values, where they are figures. */
  unit?: string;
  /** A net of a plan may ask for a value. */
  asked: boolean;
  /** A line of a peripheral may say what it usually is (an I²C line is open-drain). */
  ofLine: boolean;
  /** Has a register field of its own in which each value is a number; the others take several. */
  oneField: boolean;
  /** Its default may be written before the stage of its field: whatever it is meanwhile does no harm. */
  early: boolean;
  /** Any value will do for a moment, unless the recipe's `between` lists those that will. */
  anyBetween: boolean;
}

/**
 * The settings a pad can have: the one table that lists, schemas, printing, placing, the inspector and the attaching of registers
 * follow from. Which values a part knows, and which registers realise them, is the part's data. The order is the one in which
 * they are shown and printed.
 */
export const SETTINGS = {
  mode: {
    title: 'mode',
    values: {
      input: 'an input',
      output: 'an output',
      function: 'one of its functions',
      analog: 'an analog pad',
    },
    usual: MODES,
    appliesTo: [],
    asked: false,
    ofLine: false,
    oneField: false,
    early: false,
    anyBetween: false,
  },
  outputType: {
    title: 'output type',
    values: {
      'push-pull': 'drives both levels',
      'open-drain': 'drives low only',
      'open-source': 'drives high only',
    },
    usual: ['push-pull', 'open-drain'],
    appliesTo: ['output', 'function'],
    asked: true,
    ofLine: true,
    oneField: true,
    early: false,
    anyBetween: false,
  },
  pull: {
    title: 'pull',
    values: { none: 'no resistor', up: 'a resistor to the supply', down: 'a resistor to ground' },
    usual: ['none', 'up', 'down'],
    appliesTo: ['input', 'function'],
    asked: true,
    ofLine: true,
    oneField: false,
    early: true,
    anyBetween: false,
  },
  drive: {
    title: 'drive',
    values: 'part',
    usual: [],
    appliesTo: ['output', 'function'],
    unit: 'mA',
    asked: true,
    ofLine: true,
    oneField: true,
    early: true,
    anyBetween: true,
  },
  speed: {
    title: 'speed',
    values: 'part',
    usual: [],
    appliesTo: ['output', 'function'],
    asked: true,
    ofLine: true,
    oneField: true,
    early: true,
    anyBetween: true,
  },
  inputBuffer: {
    title: 'input buffer',
    values: 'part',
    usual: [],
    appliesTo: ['input', 'function'],
    asked: true,
    ofLine: true,
    oneField: true,
    early: true,
    anyBetween: true,
  },
  trigger: {
    title: 'interrupt',
    values: {
      none: 'no interrupt',
      rising: 'when the level rises',
      falling: 'when the level falls',
      both: 'when the level changes',
      high: 'while the level is high',
      low: 'while the level is low',
    },
    usual: [],
    appliesTo: ['input'],
    asked: true,
    ofLine: false,
    oneField: false,
    early: true,
    anyBetween: false,
  },
  level: {
    title: 'initial level',
    values: { low: 'starts low', high: 'starts high' },
    usual: ['low', 'high'],
    appliesTo: ['output'],
    asked: false,
    ofLine: false,
    oneField: false,
    early: false,
    anyBetween: false,
  },
} as const satisfies Record<string, SettingKind>;

/** Settings that the trade knows. */
export type CommonKey = keyof typeof SETTINGS;
/** A setting that a part has of its own: `own.filter`. Its values, and what they mean, are the part's data. */
export type OwnKey = `own.${string}`;
export type SettingKey = CommonKey | OwnKey;

/** What `own.` may be followed by. */
export const OWN_KEY_PATTERN = '^own[.][a-z][A-Za-z0-9]{0,31}$';
const OWN_KEY = new RegExp(OWN_KEY_PATTERN);
export const isOwnKey = (key: string): key is OwnKey => OWN_KEY.test(key);

/** How a setting of a part's own is treated: any value will do for a moment, unless the recipe says otherwise. */
const OWN_SETTING: Omit<SettingKind, 'title'> = {
  values: 'part',
  usual: [],
  appliesTo: [],
  asked: true,
  ofLine: true,
  oneField: false,
  early: false,
  anyBetween: true,
};

/** What is known of a setting. The title of one that a part has of its own is its name, until the part says another. */
export const settingKind = (key: SettingKey): SettingKind =>
  Object.hasOwn(SETTINGS, key)
    ? SETTINGS[key as CommonKey]
    : { ...OWN_SETTING, title: key.replace(/^own[.]/, '') };

/** Settings of which something is true. */
type KeysWhere<Property extends keyof SettingKind> = {
  [Key in CommonKey]: (typeof SETTINGS)[Key] extends Record<Property, true> ? Key : never;
}[CommonKey];

/** Settings that a net of a plan may ask for. */
export type CommonAskedKey = KeysWhere<'asked'>;
export type AskedKey = CommonAskedKey | OwnKey;
/** Settings that a peripheral's line may have a value for. */
export type LineKey = KeysWhere<'ofLine'> | OwnKey;
/** Settings realised by one field whose numbers are its values. */
export type OneFieldKey = KeysWhere<'oneField'>;

/** The settings that the trade knows; a part's own come on top of them ({@link settingKeysOf}). */
export const SETTING_KEYS = Object.keys(SETTINGS) as CommonKey[];

/** The settings that something is said of: the trade's in their order, then a part's own. */
export const settingKeysOf = (of: Partial<Record<SettingKey, unknown>>): SettingKey[] => [
  ...SETTING_KEYS.filter((key) => of[key] !== undefined),
  ...Object.keys(of).filter(isOwnKey),
];

const keysWhere = (property: 'asked' | 'ofLine' | 'oneField' | 'early' | 'anyBetween'): CommonKey[] =>
  SETTING_KEYS.filter((key) => SETTINGS[key][property]);

export const ASKED_KEYS = keysWhere('asked') as CommonAskedKey[];
export const LINE_KEYS = keysWhere('ofLine') as LineKey[];
export const ONE_FIELD_KEYS = keysWhere('oneField') as OneFieldKey[];
export const EARLY_KEYS: ReadonlySet<SettingKey> = new Set(keysWhere('early'));
export const ANY_BETWEEN_KEYS: readonly SettingKey[] = keysWhere('anyBetween');

export const isAsked = (key: SettingKey): key is AskedKey => settingKind(key).asked;
export const isOfLine = (key: SettingKey): key is LineKey => settingKind(key).ofLine;

/** What a setting is called, where no part says otherwise. */
export const settingTitle = (key: SettingKey): string => settingKind(key).title;

/** "a resistor to ground": what a value means, where that is the same on every part. */
export function meaningOf(key: SettingKey, value: string): string | undefined {
  const { values } = settingKind(key);
  return values !== 'part' && Object.hasOwn(values, value) ? values[value] : undefined;
}

/** What usually means something under each mode, of the settings that a part has. */
export function usualApplies(has: (key: SettingKey) => boolean): Record<Mode, SettingKey[]> {
  const keysOf = (mode: Mode): SettingKey[] =>
    SETTING_KEYS.filter((key) => has(key) && (SETTINGS[key] as SettingKind).appliesTo.includes(mode));
  return {
    input: keysOf('input'),
    output: keysOf('output'),
    function: keysOf('function'),
    analog: keysOf('analog'),
  };
}

/** What a pad is to be, in the part's own words: one value for each setting the part has, plus the mux code. */
export interface PadSettings {
  values: Readonly<Partial<Record<SettingKey, string>>>;
  /** Mux code of the selected function; null unless `mode` is "function". */
  mux: number | null;
  /** The selected signal, on parts whose registers tell signals apart beyond the mux code (crossbars, route groups). */
  signal?: string;
}

/** Whether two settings are the same for every register. */
export function sameSettings(a: PadSettings, b: PadSettings): boolean {
  return (
    a.mux === b.mux &&
    a.signal === b.signal &&
    settingKeysOf({ ...a.values, ...b.values }).every((key) => a.values[key] === b.values[key])
  );
}
