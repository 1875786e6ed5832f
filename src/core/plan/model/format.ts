import type { Demands } from './types';

/** How a serial line is spoken: the frame of a UART, the mode of an SPI, the speed class of an I²C bus. */
export type LineFormat =
  | { kind: 'frame'; dataBits: number; parity: 'N' | 'E' | 'O'; stopBits: 1 | 1.5 | 2 }
  | { kind: 'mode'; mode: 0 | 1 | 2 | 3; bitOrder: 'msb' | 'lsb' }
  | { kind: 'class'; speedClass: SpeedClass };

/** Speed classes of I²C and their rates in hertz. Source: I²C-bus specification, UM10204. */
export const SPEED_CLASSES = {
  standard: 100_000,
  fast: 400_000,
  'fast-plus': 1_000_000,
  'high-speed': 3_400_000,
} as const;
export type SpeedClass = keyof typeof SPEED_CLASSES;

/** As plans hold it: `8N1`, `mode 0 msb`, `fast`. */
export const FORMAT_PATTERN =
  '^([5-9][NEO](1|1\\.5|2)|mode [0-3] (msb|lsb)|standard|fast|fast-plus|high-speed)$';

/** A format as a plan holds it; undefined for what is none. */
export function formatOf(text: string): LineFormat | undefined {
  const frame = /^([5-9])([NEO])(1|1\.5|2)$/.exec(text);
  if (frame)
    return {
      kind: 'frame',
      dataBits: Number(frame[1]),
      parity: frame[2] as 'N' | 'E' | 'O',
      stopBits: Number(frame[3]) as 1 | 1.5 | 2,
    };
  const mode = /^mode ([0-3]) (msb|lsb)$/.exec(text);
  if (mode) return { kind: 'mode', mode: Number(mode[1]) as 0, bitOrder: mode[2] as 'msb' };
  return Object.hasOwn(SPEED_CLASSES, text) ? { kind: 'class', speedClass: text as SpeedClass } : undefined;
}

/**
 * A format as people write it, and the rate that may stand with it: `8N1`, `115200 8E1`, `9600-7-O-2`, `mode 3`, `SPI mode 1, LSB first`, `fast+`, `400k`.
 * Undefined for what is none.
 */
export function readFormat(given: string): { format: string; rateHertz?: number } | undefined {
  const text = given
    .trim()
    .toLowerCase()
    .replace(/[,;/]+/g, ' ')
    .replace(/\s+/g, ' ');
  const frame = /^(?:(\d{2,8}) ?(?:baud|bd|bps)?[ -])?([5-9])[ -]?(n|e|o|none|even|odd)[ -]?(1\.5|1|2)$/.exec(
    text,
  );
  if (frame) {
    const [, rate, bits, parity = 'n', stop] = frame;
    const format = `${bits}${(parity[0] as string).toUpperCase()}${stop}`;
    return { format, ...(rate === undefined ? {} : { rateHertz: Number(rate) }) };
  }
  const mode = /^(?:spi )?mode ?([0-3])(?: (msb|lsb|highest bit|lowest bit)(?: first)?)?$/.exec(text);
  if (mode) return { format: `mode ${mode[1]} ${/^l/.test(mode[2] ?? '') ? 'lsb' : 'msb'}` };
  const speed = text
    .replace(/^i2c /, '')
    .replace(/ ?mode$/, '')
    .replace('fast mode plus', 'fast-plus')
    .replace(/^fast ?(\+|plus)$/, 'fast-plus')
    .replace(/^high ?speed$|^hs$/, 'high-speed')
    .replace(/^sm$/, 'standard')
    .replace(/^fm$/, 'fast')
    .replace(/^fm\+$/, 'fast-plus');
  const byRate: Record<string, SpeedClass> = {
    '100k': 'standard',
    '400k': 'fast',
    '1m': 'fast-plus',
    '3.4m': 'high-speed',
  };
  const named = Object.hasOwn(byRate, speed) ? byRate[speed] : speed;
  return named !== undefined && Object.hasOwn(SPEED_CLASSES, named) ? { format: named } : undefined;
}

/** The rate that is wanted: as demanded, or that of the speed class. */
export function wantedRate(demands: Demands | undefined): number | undefined {
  if (demands?.rateHertz !== undefined) return demands.rateHertz;
  const format = demands?.format === undefined ? undefined : formatOf(demands.format);
  return format?.kind === 'class' ? SPEED_CLASSES[format.speedClass] : undefined;
}

/** A format in words, for the code's reader. */
export function formatText(text: string): string {
  const format = formatOf(text);
  if (format?.kind === 'mode')
    return `mode ${format.mode}, ${format.bitOrder === 'msb' ? 'highest' : 'lowest'} bit first`;
  return text;
}
