import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Ajv2020 from 'ajv/dist/2020';
import type { AnyObjectSchema } from 'yup';
import type { Edit } from '@/core/plan/edits/edits';
import {
  addAttachment,
  addConstraint,
  addTrial,
  placeNet,
  renameNet,
  setEntry,
  setSetting,
} from '@/core/plan/edits/make-edits';
import { readEdit } from '@/core/plan/file/read-edit';
import { PLAN_SCHEMA } from '@/core/plan/model/schema';
import type { Schema } from '@/core/plan/model/schema-parts';
import type { Net } from '@/core/plan/model/types';
import * as forms from '@/server/forms/forms';
import { frostGuard, withNets } from '@/testing/frost-guard';
import { fuzzBudget, type Random, randomFrom } from '@/testing/random';
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

describe('edits', () => {
  const ajv = new Ajv2020({ strict: false });
  ajv.addSchema({ $id: 'edits', ...api });
  const described = ajv.compile({ $ref: 'edits#/components/schemas/Edit' });
  const plan = frostGuard();
  const [net, other] = plan.nets as [Net, Net];
  const waiver = {
    id: 'w1',
    rule: 'r',
    nets: [net.id],
    pads: [],
    reason: 'so',
    author: 'mk',
    date: '2026-01-01',
  };
  const samples: Edit[] = [
    { kind: 'plan.set', field: 'name', from: 'a', to: 'b' },
    { kind: 'circuit.add', circuit: { id: 'c9', name: 'More' }, at: 0 },
    { kind: 'circuit.set', id: 'fans', field: 'name', from: 'Fans', to: 'Blowers' },
    { kind: 'circuit.move', id: 'fans', from: 0, to: 2 },
    { kind: 'net.add', net, at: 3 },
    { kind: 'net.remove', net: other, at: 3 },
    placeNet(net, { pad: 'B9', locked: true }),
    renameNet(net, 'X'),
    setSetting(net, 'drive', '4mA'),
    setSetting(net, 'own.filter', 'on'),
    setEntry(plan, 'label', 'B7', 'J3'),
    addConstraint(plan, { id: 't', kind: 'bus', nets: [net.id, other.id] }),
    { kind: 'waiver.add', waiver, at: 0 },
    addAttachment(plan, { id: 'a1', kind: 'led', nets: [net.id] }),
    addTrial(plan, { id: 't1', name: 'one', lines: ['wait 1 ms'] }),
    {
      kind: 'batch',
      label: 'two',
      edits: [placeNet(net, null), { kind: 'batch', label: 'inner', edits: [renameNet(other, 'Y')] }],
    },
  ];
  test('are described as they are read', () => {
    for (const edit of samples)
      expect([edit, described(edit), readEdit(edit).ok]).toEqual([edit, true, true]);
    expect(described({ kind: 'net.unknown' })).toBe(false);
  });
  test('whatever is done to them', () => {
    const random = randomFrom(11);
    const verdicts = { yes: 0, no: 0 };
    for (let run = 0; run < fuzzBudget(4000); run++) {
      const edit = disturbed(JSON.parse(JSON.stringify(random.pick(samples))), random);
      const read = readEdit(edit).ok;
      verdicts[read ? 'yes' : 'no']++;
      expect([edit, described(edit)]).toEqual([edit, read]);
    }
    expect(Math.min(verdicts.yes, verdicts.no)).toBeGreaterThan(fuzzBudget(100));
  });

  /** One value somewhere in it replaced, dropped, or put beside others. */
  function disturbed(value: unknown, random: Random): unknown {
    if (typeof value !== 'object' || value === null || random.int(6) === 0)
      return random.pick([null, 0, -1, 3, 1.5, '', 'x', 'low', true, [], {}, net.id, 'x'.repeat(2001)]);
    const keys = Object.keys(value);
    if (keys.length === 0 || random.int(12) === 0) return { ...value, more: 1 };
    const key = random.pick(keys) as keyof typeof value;
    if (random.int(6) === 0 && !Array.isArray(value)) {
      const { [key]: _gone, ...rest } = value;
      return rest;
    }
    const changed = disturbed(value[key], random);
    return Array.isArray(value)
      ? value.map((one, at) => (String(at) === key ? changed : one))
      : { ...value, [key]: changed };
  }
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
