import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Ajv2020 from 'ajv/dist/2020';
import type { AnyObjectSchema } from 'yup';
import { PLAN_SCHEMA } from '@/core/plan/model/schema';
import type { Schema } from '@/core/plan/model/schema-parts';
import { frostGuard, withNets } from '@/testing/frost-guard';
import { fuzzBudget, type Random, randomFrom } from '@/testing/random';
import * as forms from '../forms';
import { openApiDocument } from './document';
import { formSchema } from './form-schema';
import { OPERATIONS } from './operations';

/** Files of routes, each with its path as the table writes it. */
const routes = readdirSync('src/app/api', { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('route.ts'))
  .map((file) => ({
    text: readFileSync(join('src/app/api', file), 'utf8'),
    path: `/api/${file.replace(/\/route\.ts$/, '').replaceAll(/\[(\w+)\]/g, '{$1}')}`,
  }));
const byName = new Map<string, unknown>(Object.entries(forms));

const api = openApiDocument() as {
  info: object;
  paths: Record<string, Record<string, { operationId: string }>>;
  components: { schemas: Record<string, Schema> };
};

test('the table holds every route, with every method, and no other', () => {
  const there = routes.flatMap(({ text, path }) =>
    [...text.matchAll(/^export const (GET|POST|PUT|PATCH|DELETE) =/gm)].map(
      ([, method]) => `${method} ${path}`,
    ),
  );
  expect(Object.keys(OPERATIONS).sort()).toEqual(there.sort());
});

test('each form that a route reads is the one that the table names for it', () => {
  for (const { text, path } of routes) {
    const named = Object.entries(OPERATIONS).flatMap(([name, { body }]) =>
      name.endsWith(` ${path}`) && body ? [body] : [],
    );
    for (const [, name = ''] of text.matchAll(/readForm\(request, (\w+)/g))
      expect(named).toContain(byName.get(name));
  }
});

test('an independent validator takes the document', () => {
  const file = join(mkdtempSync(join(tmpdir(), 'mavrek-openapi-')), 'openapi.json');
  writeFileSync(file, JSON.stringify(api));
  const said = execFileSync(
    'node',
    ['node_modules/@seriousme/openapi-schema-validator/bin/validate-api-cli.js', file],
    {
      encoding: 'utf8',
    },
  );
  expect(said).toMatch(/"valid": true|valid: true/);
  // It is one that can say no.
  const { paths: _paths, ...without } = api;
  writeFileSync(file, JSON.stringify({ ...without, info: {} }));
  expect(() =>
    execFileSync('node', ['node_modules/@seriousme/openapi-schema-validator/bin/validate-api-cli.js', file], {
      stdio: 'pipe',
    }),
  ).toThrow();
});

test('names of operations are told apart, and every reference leads somewhere', () => {
  const ids = Object.values(api.paths).flatMap((path) =>
    Object.values(path).map(({ operationId }) => operationId),
  );
  expect(new Set(ids).size).toBe(ids.length);
  for (const [, name] of JSON.stringify(api).matchAll(/"#\/components\/schemas\/([^"]+)"/g))
    expect(Object.keys(api.components.schemas)).toContain(name);
});

test('a plan is described as it is checked', () => {
  const ajv = new Ajv2020({ strict: false });
  ajv.addSchema({ $id: 'doc', ...api });
  const described = ajv.compile({ $ref: 'doc#/components/schemas/Plan' });
  const checked = new Ajv2020({ strict: false }).compile({
    ...PLAN_SCHEMA,
    $schema: undefined,
    $id: undefined,
  });
  const plan = frostGuard();
  for (const [one, good] of [
    [plan, true],
    [withNets(plan, { FAN_1: { role: { kind: 'nothing' } as never } }), false],
    [{ ...plan, more: 1 }, false],
  ] as const)
    expect([described(one), checked(one)]).toEqual([good, good]);
});

/** A value that a schema takes, or now and then one that it does not. */
function valueFor(schema: Schema, random: Random, depth = 0): unknown {
  if (random.int(12) === 0) return random.pick([null, 1, -1, 'x', '', true, [], {}, 1.5, ' ']);
  const options = schema.anyOf as Schema[] | undefined;
  if (options) return valueFor(random.pick(options), random, depth);
  if (Array.isArray(schema.enum)) return random.pick(schema.enum);
  switch (schema.type) {
    case 'object': {
      const properties = (schema.properties ?? {}) as Record<string, Schema>;
      const required = (schema.required ?? []) as string[];
      const entries = Object.entries(properties).flatMap(([key, one]) =>
        required.includes(key)
          ? random.int(25) === 0
            ? []
            : [[key, one] as const]
          : random.int(2)
            ? [[key, one] as const]
            : [],
      );
      const value = Object.fromEntries(entries.map(([key, one]) => [key, valueFor(one, random, depth + 1)]));
      return random.int(25) === 0 ? { ...value, more: 1 } : value;
    }
    case 'array':
      return Array.from({ length: random.int(4) }, () =>
        valueFor((schema.items ?? {}) as Schema, random, depth + 1),
      );
    case 'integer':
      return random.int(50);
    case 'number':
      return random.int(50) / 2;
    case 'boolean':
      return random.int(2) === 1;
    default: {
      const length = schema.maxLength as number | undefined;
      return length !== undefined && random.int(20) === 0
        ? 'x'.repeat(length + 1)
        : random.pick(['a', 'Fans', 'mk', 'x y', 'ada@guard.example']);
    }
  }
}

describe('what is described is what requests are held to', () => {
  const all = Object.entries(forms).filter(([name]) => name.endsWith('Form')) as [string, AnyObjectSchema][];
  test.each(all)('%s', (name, form) => {
    const described = new Ajv2020({ strict: false }).compile(formSchema(form));
    const random = randomFrom(name.length * 7919);
    const verdicts = { yes: 0, no: 0 };
    for (let run = 0; run < fuzzBudget(400); run++) {
      const value = valueFor(formSchema(form), random);
      let held = true;
      try {
        form.strict().noUnknown().validateSync(value);
      } catch {
        held = false;
      }
      verdicts[held ? 'yes' : 'no']++;
      // Some forms ask for more than a schema can say: the described one is never the stricter.
      if (name === 'commentForm') {
        if (held) expect([value, described(value)]).toEqual([value, true]);
      } else expect([value, described(value)]).toEqual([value, held]);
    }
    expect(verdicts.no).toBeGreaterThan(0);
    if (name !== 'commentForm') expect(verdicts.yes).toBeGreaterThan(0);
  });
});
