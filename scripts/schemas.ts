import { readFileSync } from 'node:fs';
import { compactJson } from '@/core/base/json/compact';
import { LIMITS } from '@/core/base/limits';
import { LINE_KEYS, OWN_KEY_PATTERN, SETTING_KEYS } from '@/core/description/settings';
import { PAD_KINDS, SERVES } from '@/core/description/types';
import { PLAN_SCHEMA } from '@/core/plan/model/schema';

/** Longest line of a published schema. */
const WIDTH = 160;

const DEVICE_FILE = 'docs/schema/mavrek-device-3.schema.json';

/** The description's schema as it is written by hand, with what has a table in the code taken from there. */
function deviceSchema(): object {
  const schema = JSON.parse(readFileSync(DEVICE_FILE, 'utf8'));
  const { properties, definitions } = schema;
  properties.pads.maxItems = LIMITS.pads;
  properties.functions.maxItems = LIMITS.functions;
  properties.packages.maxItems = LIMITS.packages;
  definitions.written.maxLength = LIMITS.deviceBytes;
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
  { file: 'docs/schema/mavrek-plan-2.schema.json', text: `${compactJson(PLAN_SCHEMA, WIDTH)}\n` },
  { file: DEVICE_FILE, text: `${compactJson(deviceSchema(), WIDTH)}\n` },
];
