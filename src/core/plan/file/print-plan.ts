import { fileName } from '../../base/text/file-name';
import { PLAN_SCHEMA } from '../model/schema';
import type { Schema } from '../model/schema-parts';
import { PLAN_TABLES, type Plan, type Schematic, type Trial, tableOf } from '../model/types';

/** Plan → text: keys in the schema's order, one circuit or net a line, so that it diffs and merges well. */
export function printPlan(plan: Plan): string {
  const entries = (Object.keys(inOrder(plan, PLAN_SCHEMA) as Plan) as (keyof Plan)[]).flatMap(
    (key): [string, string][] => {
      const value = plan[key];
      if (value === undefined || value === null) return [];
      if (key === 'tables') return tablesText(plan);
      const schema = propertyOf(PLAN_SCHEMA, key);
      if (key === 'schematic') return [[key, schematicText(value as Schematic, schema)]];
      if (!Array.isArray(value)) return [[key, JSON.stringify(inOrder(value, schema))]];
      // Circuits and nets stand there even when there are none; other lists say nothing then.
      if (key === 'trials') return value.length > 0 ? [[key, trialsText(value as Trial[])]] : [];
      const always = PLAN_SCHEMA.required.some((one) => one === key);
      return value.length > 0 || always ? [[key, listText(value, schema)]] : [];
    },
  );
  return `{\n${entries.map(([key, text]) => `  ${JSON.stringify(key)}: ${text}`).join(',\n')}\n}\n`;
}

const listText = (items: readonly unknown[], schema: Schema | undefined): string =>
  items.length === 0
    ? '[]'
    : `[\n${items.map((item) => `    ${JSON.stringify(inOrder(item, schema?.items as Schema))}`).join(',\n')}\n  ]`;

/** Trials with a step a line. */
function trialsText(trials: readonly Trial[]): string {
  const texts = trials.map(({ id, name, lines, ...rest }) => {
    const head = JSON.stringify({ id, name, ...rest }).slice(0, -1);
    const steps = lines.map((line) => `      ${JSON.stringify(line)}`).join(',\n');
    return `    ${head},"lines":[${lines.length > 0 ? `\n${steps}\n    ` : ''}]}`;
  });
  return `[\n${texts.join(',\n')}\n  ]`;
}

/** The schema behind a reference. */
function resolved(schema: Schema | undefined): Schema | undefined {
  const name = typeof schema?.$ref === 'string' ? schema.$ref.split('/').at(-1) : undefined;
  return name === undefined ? schema : resolved(PLAN_SCHEMA.definitions[name as 'id'] as Schema);
}

const propertyOf = (schema: Schema, key: string): Schema | undefined =>
  (schema.properties as Record<string, Schema> | undefined)?.[key];

/** Of alternatives the one that an object is: the one that knows its `kind`, or else the one with properties. */
function alternativeFor(value: object, schema: Schema | undefined): Schema | undefined {
  const list = (schema?.oneOf ?? schema?.anyOf) as readonly Schema[] | undefined;
  if (!list) return schema;
  const { kind } = value as { kind?: unknown };
  const options = list.map(resolved).filter((one) => one?.properties !== undefined);
  return options.find((one) => {
    const { const: only, enum: some } = (propertyOf(one as Schema, 'kind') ?? {}) as {
      const?: unknown;
      enum?: unknown[];
    };
    return kind === undefined || only === kind || some?.includes(kind);
  });
}

/**
 * A copy with its keys in the order of the schema. Databases and other programs give keys in any order; files have one. What the
 * schema does not know comes last: nothing is ever left out.
 */
function inOrder(value: unknown, schema: Schema | undefined): unknown {
  if (typeof value !== 'object' || value === null) return value;
  const own = resolved(schema);
  if (Array.isArray(value)) return value.map((item) => inOrder(item, own?.items as Schema | undefined));
  const known = alternativeFor(value, own);
  const order = Object.keys((known?.properties as object | undefined) ?? {});
  const entries = Object.entries(value);
  const keys = [
    ...order.filter((key) => Object.hasOwn(value, key)),
    ...Object.keys(value).filter((key) => !order.includes(key)),
  ];
  const found = new Map(entries);
  return Object.fromEntries(
    keys.map((key) => [key, inOrder(found.get(key), known && propertyOf(known, key))]),
  );
}

/** Each entry on a line of its own, sorted. */
function tablesText(plan: Plan): [string, string][] {
  const tables = PLAN_TABLES.flatMap((name) => {
    const entries = Object.entries(tableOf(plan, name)).sort(([a], [b]) => (a < b ? -1 : 1));
    if (entries.length === 0) return [];
    const lines = entries.map(([key, value]) => `      ${JSON.stringify(key)}: ${JSON.stringify(value)}`);
    return [`    "${name}": {\n${lines.join(',\n')}\n    }`];
  });
  return tables.length === 0 ? [] : [['tables', `{\n${tables.join(',\n')}\n  }`]];
}

function schematicText({ pins, ...rest }: Schematic, schema: Schema | undefined): string {
  const known = alternativeFor({}, resolved(schema));
  const head = JSON.stringify(inOrder(rest, known)).slice(0, -1);
  return `${head},"pins":${listText(pins, known && propertyOf(known, 'pins'))}}`;
}

/** A file name for a plan: never a path, never empty, whatever the plan is called. A tag tells it from others of its name. */
export const planFileName = (
  { name, revision }: Pick<Plan, 'name' | 'revision'>,
  { ending = '.plan.json', tag }: { ending?: string; tag?: string } = {},
): string => fileName([name, revision, ...(tag === undefined ? [] : [tag])], ending, 'plan');
