/**
 * The settings a pad can have, as a closed list of keys. Which values a part knows is the part's data; the values
 * of `use`, `buffer`, `pull`, `threshold`, `trigger` and `level` are words of the trade and the same for every part,
 * those of `drive` and `slew` are the part's own tokens ("8mA").
 */
export const SETTING_KEYS = [
  'use',
  'buffer',
  'pull',
  'drive',
  'slew',
  'threshold',
  'trigger',
  'level',
] as const;

export type SettingKey = (typeof SETTING_KEYS)[number];

export const USES = ['input', 'output', 'function', 'analog'] as const;
export type Use = (typeof USES)[number];

/** What a pad is to be, in the part's own words: one value for each setting the part has, plus the mux code. */
export interface PadSettings {
  values: Readonly<Partial<Record<SettingKey, string>>>;
  /** Mux code of the selected function; null unless `use` is "function". */
  mux: number | null;
  /** The selected signal, on parts whose registers tell signals apart beyond the mux code (crossbars, route groups). */
  signal?: string;
}

/** Names shown to people, one place for the whole application. */
export const SETTING_TITLES: Record<SettingKey, string> = {
  use: 'use',
  buffer: 'buffer',
  pull: 'pull',
  drive: 'drive',
  slew: 'slew rate',
  threshold: 'threshold',
  trigger: 'interrupt',
  level: 'initial level',
};
