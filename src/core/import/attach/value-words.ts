import type { FileValue } from '../../description/register-file';
import type { FieldRole, FieldRoleKind } from './roles';

const OFF = /\b(off|disabled?|no|none|0)\b/;
const ON = /\b(on|enabled?|yes|1)\b/;

/** How documents word the values of a role; only roles whose values rules understand are here. */
const WORDS: Partial<Record<FieldRole, Readonly<Record<string, RegExp>>>> = {
  mode: {
    input: /\binput|\bin\b/,
    output: /\boutput|\bout\b/,
    function: /alternate|\balt\b|function|peripheral/,
    analog: /analog/,
  },
  direction: { input: /\binput|\bin\b/, output: /\boutput|\bout\b/ },
  function: {
    plain: /\b(gpio|port|plain|general)\b|\bi\/?o\b/,
    function: /alternate|\balt\b|function|peripheral/,
  },
  analog: { off: /digital/, on: /analog/ },
  digital: { off: OFF, on: ON },
  pull: {
    none: /\b(none|no|off|disabled?|float(ing)?|hi-?z)\b/,
    up: /\bup\b|pullup/,
    down: /\bdown\b|pulldown/,
    keeper: /keeper|\bkeep|bus.?hold|repeater/,
  },
  'pull-up': { off: OFF, on: ON },
  'pull-down': { off: OFF, on: ON },
  outputType: { 'push-pull': /push.?pull/, 'open-drain': /open.?drain/, 'open-source': /open.?source/ },
};

const plain = (text: string): string => text.toLowerCase().replace(/[_-]+/g, ' ');

/** A word of the file as a value of the part's own: `8 mA` → `8mA`. */
const token = (text: string): string =>
  text
    .replace(/\s+/g, '')
    .replace(/[^A-Za-z0-9.-]+/g, '-')
    .replace(/^[^A-Za-z0-9]+|[^A-Za-z0-9]+$/g, '')
    .slice(0, 40);

/**
 * The numbers of a role's values as the file words them: by its names first, then by what it says of them. Values that it
 * does not have are left out; undefined where it says nothing that can be understood, or the same of two values.
 */
export function valuesSaid(
  kind: Pick<FieldRoleKind, 'id' | 'free'>,
  values: readonly FileValue[],
): Record<string, number> | undefined {
  const words = WORDS[kind.id];
  if (kind.free) {
    const own = values.map((one) => [token(one.name), one.value] as const).filter(([name]) => name !== '');
    const distinct = new Set(own.map(([name]) => name)).size === own.length;
    return own.length > 1 && distinct ? Object.fromEntries(own) : undefined;
  }
  if (!words) return undefined;
  const found: Record<string, number> = {};
  for (const texts of [(one: FileValue) => one.name, (one: FileValue) => one.description]) {
    for (const [value, pattern] of Object.entries(words)) {
      if (found[value] !== undefined) continue;
      const fitting = values.filter(
        (one) => pattern.test(plain(texts(one))) && !Object.values(found).includes(one.value),
      );
      if (fitting.length === 1 && fitting[0]) found[value] = fitting[0].value;
    }
  }
  return Object.keys(found).length > 1 ? found : undefined;
}
