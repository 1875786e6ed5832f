import { readFileSync } from 'node:fs';
import { LIMITS } from '@/core/base/limits';
import { LINE_KEYS, OWN_KEY_PATTERN, SETTING_KEYS } from '@/core/description/settings';
import { PAD_KINDS, SERVES } from '@/core/description/types';
import { PLAN_SCHEMA } from '@/core/plan/model/schema';

/** Longest line of a published schema; what fits on one stands on one. */
const WIDTH = 160;

/** JSON in which every value that fits stands on one line. */
function printed(value: unknown, indent = ''): string {
  const flat = (one: unknown): string => {
    if (Array.isArray(one)) return `[${one.map(flat).join(', ')}]`;
    if (typeof one !== 'object' || one === null) return JSON.stringify(one);
    const entries = Object.entries(one).map(([key, item]) => `${JSON.stringify(key)}: ${flat(item)}`);
    return entries.length === 0 ? '{}' : `{ ${entries.join(', ')} }`;
  };
  const line = flat(value);
  if (indent !== '' && indent.length + line.length <= WIDTH) return line;
  const deeper = `${indent}  `;
  if (Array.isArray(value))
    return `[\n${value.map((one) => `${deeper}${printed(one, deeper)}`).join(',\n')}\n${indent}]`;
  if (typeof value !== 'object' || value === null) return line;
  const entries = Object.entries(value).map(
    ([key, item]) => `${deeper}${JSON.stringify(key)}: ${printed(item, deeper)}`,
  );
  return `{\n${entries.join(',\n')}\n${indent}}`;
}

const DEVICE_FILE = 'docs/schema/mavrek-device-2.schema.json';

/** The description's schema as it is written by hand, with what has a table in the code taken from there. */
function deviceSchema(): object {
  const schema = JSON.parse(readFileSync(DEVICE_FILE, 'utf8'));
  const { properties, definitions } = schema;
  properties.pads.maxItems = LIMITS.pads;
  properties.functions.maxItems = LIMITS.functions;
  properties.packages.maxItems = LIMITS.packages;
  definitions.settingKey.anyOf[0].enum = SETTING_KEYS;
  definitions.settingKey.anyOf[1].pattern = OWN_KEY_PATTERN;
  properties.pads.items.properties.kind.enum = PAD_KINDS;
  const kind = definitions.peripheralKinds.additionalProperties.properties;
  kind.serves.enum = SERVES;
  kind.lines.additionalProperties.properties.defaults.propertyNames = {
    anyOf: [{ enum: LINE_KEYS }, { type: 'string', pattern: OWN_KEY_PATTERN }],
  };
  return schema;
}

/** Every published schema that follows from the code, or in part, as its file should be. */
export const publishedSchemas = (): { file: string; text: string }[] => [
  { file: 'docs/schema/mavrek-plan-2.schema.json', text: `${printed(PLAN_SCHEMA)}\n` },
  { file: DEVICE_FILE, text: `${printed(deviceSchema())}\n` },
];
