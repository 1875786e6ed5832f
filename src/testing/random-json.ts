import type { Random } from './random';

/**
 * Values that a JSON Schema allows, by chance: every property and every form of it comes up. What a schema cannot say (the language of an
 * expression) is made by a maker for the definition of that name. Lists and maps are never empty, flags never false.
 */
export interface Schema {
  readonly [key: string]: unknown;
}

export type Makers = Readonly<Record<string, (random: Random) => unknown>>;

/** Characters that ask for care in a text: quotes, brackets, comments, breaks, what is no letter. */
const AWKWARD = [
  '"',
  "'",
  '`',
  '\\',
  '#',
  '\n',
  '\t',
  ',',
  ';',
  ':',
  '(',
  ')',
  '..',
  ' ',
  '  ',
  '|',
  '*',
  '-',
  'é',
  '\u2028',
  '\u0001',
  '{',
  '}',
  '=',
  '+1',
  '/',
];

function anyText(random: Random, schema: Schema): string {
  const least = Number(schema.minLength ?? 0);
  const length = least + random.int(5);
  let text = '';
  for (let at = 0; at < length; at++)
    text += random.int(3) === 0 ? random.pick(AWKWARD) : random.pick(['a', 'B7', 'up', 'rate', '0x1F', '12']);
  const bounded = text.slice(0, Number(schema.maxLength ?? 400));
  return bounded.length >= least ? bounded : 'x'.repeat(least);
}

/** Texts that fit a pattern, out of those that are likely to. */
const SAMPLES = [
  'A0',
  'UART1',
  'PORT',
  'q64',
  'own.filter',
  '4mA-limited',
  'push-pull',
  '0',
  '0x1F',
  '17',
  'unknown',
  '0x40 unknown in 0x0F',
  'board/pins.h',
  `${'0123456789abcdef'.repeat(4)}`,
  'x.y-z',
  'R1',
  'd0',
  'a.b+c',
];

const fitting = (random: Random, pattern: string): string => {
  const fits = SAMPLES.filter((sample) => new RegExp(pattern).test(sample));
  if (fits.length === 0) throw new Error(`no sample fits ${pattern}`);
  return random.pick(fits);
};

export function randomJson(
  random: Random,
  schema: Schema,
  definitions: Readonly<Record<string, Schema>>,
  makers: Makers = {},
): unknown {
  const make = (each: Schema, name?: string): unknown => {
    if (name !== undefined && Object.hasOwn(makers, name)) return makers[name]?.(random);
    if (typeof each.$ref === 'string') {
      const definition = each.$ref.split('/').at(-1) as string;
      return make(definitions[definition] as Schema, definition);
    }
    if ('const' in each) return each.const;
    if (Array.isArray(each.enum)) return random.pick(each.enum);
    // Alternatives that only say which properties are needed stand beside the properties.
    const forms = ((each.oneOf ?? each.anyOf) as Schema[] | undefined)?.filter(
      (form) => !('required' in form) || 'properties' in form,
    );
    if (forms && forms.length > 0) return make(random.pick(forms));
    switch (each.type) {
      case 'boolean':
        return true;
      case 'null':
        return null;
      case 'integer':
      case 'number': {
        const low = Number(each.minimum ?? each.exclusiveMinimum ?? 0);
        const high = Number(each.maximum ?? low + random.pick([3, 1000, 70_000_000]));
        if (each.type === 'number' && random.int(2) === 0)
          return Number((low + (high - low) * ((1 + random.int(998)) / 1000)).toFixed(6)) || 0.5;
        return low + ('exclusiveMinimum' in each ? 1 : 0) + random.int(Math.max(1, high - low));
      }
      case 'string':
        return typeof each.pattern === 'string' ? fitting(random, each.pattern) : anyText(random, each);
      case 'array': {
        const least = Math.max(1, Number(each.minItems ?? 0));
        const most = Math.max(least, Math.min(Number(each.maxItems ?? 9), least + 3));
        return Array.from({ length: least + random.int(most - least + 1) }, () => make(each.items as Schema));
      }
      default:
        return object(each);
    }
  };
  const object = (each: Schema): Record<string, unknown> => {
    const made: Record<string, unknown> = {};
    const properties = (each.properties ?? {}) as Record<string, Schema>;
    const required = new Set((each.required ?? []) as string[]);
    const apart = (each.oneOf ?? each.anyOf) as { required: string[] }[] | undefined;
    const chosen = apart ? random.pick(apart) : undefined;
    const excluded = new Set(
      each.oneOf ? (apart ?? []).filter((form) => form !== chosen).flatMap((form) => form.required) : [],
    );
    for (const [name, property] of Object.entries(properties)) {
      const isNeeded = required.has(name) || chosen?.required.includes(name);
      if (excluded.has(name) || (!isNeeded && random.int(2) === 0)) continue;
      const isMade = name in makers && !('properties' in property);
      made[name] = make(property, isMade ? name : undefined);
    }
    const more = each.additionalProperties;
    if (typeof more === 'object' && more !== null) {
      const count = 1 + random.int(3);
      for (let at = 0; at < count; at++) {
        const key = each.propertyNames
          ? make(each.propertyNames as Schema)
          : anyText(random, { minLength: 1 });
        made[String(key)] = make(more as Schema);
      }
    }
    return made;
  };
  return make(schema);
}
