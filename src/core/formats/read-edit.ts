import type { ValidateFunction } from 'ajv';
import { LIMITS, overLimit } from '../limits';
import type { Edit } from '../plan/edit';
import { fail, ok, type Problem, type Result } from '../result';
import { ajv, planProblems } from './schemas';

const plan = (name: string) => ({ $ref: `urn:mavrek:plan:1#/definitions/${name}` });
const position = { type: 'integer', minimum: 0, maximum: 100_000 };
/** The kinds of edits, each with what tells it from others of its kind. */
const step = (kind: string, properties: Record<string, object>) => ({
  type: 'object',
  additionalProperties: false,
  required: ['kind', ...Object.keys(properties)],
  properties: { kind: { const: kind }, ...properties },
});
const change = (kind: string, key: 'field' | 'key', name: object, value: object, withId: boolean) =>
  step(kind, { ...(withId ? { id: plan('id') } : {}), [key]: name, from: value, to: value });

const netFields: Record<string, object> = {
  name: plan('title'),
  circuit: plan('id'),
  role: plan('role'),
  placement: plan('placement'),
  note: plan('note'),
  demands: plan('demands'),
  far: plan('far'),
};
const planFields: Record<string, object> = {
  name: plan('title'),
  revision: plan('shortText'),
  device: plan('id'),
  package: plan('id'),
  deviceFingerprint: { type: 'string', pattern: '^[0-9a-f]{0,64}$' },
  'code.prefix': plan('prefix'),
  'code.style': plan('style'),
  'code.incomplete': { enum: ['allow', 'refuse'] },
};
const orNull = (value: object): object => ({ anyOf: [value, { type: 'null' }] });
const tableValues: Record<string, object> = {
  severity: plan('level'),
  unused: plan('policy'),
  label: plan('shortText'),
};
const settingValues = {
  active: { enum: ['high', 'low', null] },
  start: { enum: ['inactive', 'asserted', null] },
};

/** Edits as they come over HTTP: parts of a plan, held to the plan's own definitions. By kind, and field, key or table. */
const STEPS = new Map<string, object>([
  ...Object.entries(planFields).map(([field, value]): [string, object] => [
    `plan.set ${field}`,
    change('plan.set', 'field', { const: field }, value, false),
  ]),
  ['circuit.add', step('circuit.add', { circuit: plan('circuit'), at: position })],
  ['circuit.remove', step('circuit.remove', { circuit: plan('circuit'), at: position })],
  ['circuit.set name', change('circuit.set', 'field', { const: 'name' }, plan('title'), true)],
  ['net.add', step('net.add', { net: plan('net'), at: position })],
  ['net.remove', step('net.remove', { net: plan('net'), at: position })],
  ...Object.entries(netFields).map(([field, value]): [string, object] => [
    `net.set ${field}`,
    change('net.set', 'field', { const: field }, value, true),
  ]),
  ...Object.entries(settingValues).map(([key, value]): [string, object] => [
    `net.setting ${key}`,
    change('net.setting', 'key', { const: key }, value, true),
  ]),
  ...['buffer', 'pull', 'drive', 'slew', 'threshold', 'trigger'].map((key): [string, object] => [
    `net.setting ${key}`,
    change('net.setting', 'key', { const: key }, orNull(plan('word')), true),
  ]),
  ['tie.add', step('tie.add', { tie: plan('tie'), at: position })],
  ['tie.remove', step('tie.remove', { tie: plan('tie'), at: position })],
  ['waiver.add', step('waiver.add', { waiver: plan('waiver'), at: position })],
  ['waiver.remove', step('waiver.remove', { waiver: plan('waiver'), at: position })],
  ...Object.entries(tableValues).map(([table, value]): [string, object] => [
    `table.set ${table}`,
    step('table.set', {
      table: { const: table },
      key: plan('tableKey'),
      from: orNull(value),
      to: orNull(value),
    }),
  ]),
  ['schematic.set', step('schematic.set', { from: plan('schematic'), to: plan('schematic') })],
]);

const compiled = new Map<string, ValidateFunction>();

function validatorOf(key: string): ValidateFunction | undefined {
  const known = compiled.get(key);
  const schema = known ? undefined : STEPS.get(key);
  if (!schema) return known;
  // Makes sure that the plan's definitions are known.
  planProblems();
  const validate = ajv.compile(schema);
  compiled.set(key, validate);
  return validate;
}

/** Batches in batches have no use; one level is what undo of a batch needs, and some more for what is yet to come. */
const DEEPEST_BATCH = 4;

/**
 * Anything from outside → an edit, or what is wrong with it, with the place in it. Each step is looked at once, by the validator
 * of its own kind, and the first wrong one ends it: work is in proportion to the edit's size.
 */
export function readEdit(value: unknown): Result<Edit> {
  const counter = { steps: 0 };
  const wrong = faultOf(value, 'edit', 0, counter);
  return wrong ? fail(wrong) : ok(value as Edit);
}

function faultOf(
  value: unknown,
  place: string,
  depth: number,
  counter: { steps: number },
): Problem | undefined {
  // The batch around all of them is no step.
  if (++counter.steps > LIMITS.editSteps + 1)
    return { place: 'edit', message: overLimit('editSteps', counter.steps) };
  if (typeof value !== 'object' || value === null) return { place, message: 'is not a known edit' };
  const { kind, field, key, table, edits, label } = value as Record<string, unknown>;
  if (kind === 'batch') {
    if (depth >= DEEPEST_BATCH) return { place, message: 'batches are nested too deep' };
    if (
      !Array.isArray(edits) ||
      typeof label !== 'string' ||
      label.length > 2000 ||
      Object.keys(value).length !== 3
    )
      return { place, message: 'a batch has a label and edits' };
    if (edits.length > LIMITS.editSteps) return { place, message: overLimit('editSteps', edits.length) };
    for (const [at, one] of edits.entries()) {
      const fault = faultOf(one, `${place}/edits/${at}`, depth + 1, counter);
      if (fault) return fault;
    }
    return undefined;
  }
  const told =
    kind === 'net.setting'
      ? key
      : kind === 'table.set'
        ? table
        : /\.set$/.test(String(kind)) && kind !== 'schematic.set'
          ? field
          : undefined;
  const name = told === undefined ? String(kind) : `${kind} ${told}`;
  const validate = validatorOf(name);
  if (!validate) return { place, message: 'is not a known edit' };
  if (validate(value)) return undefined;
  const first = validate.errors?.find((error) => !['oneOf', 'anyOf', 'const'].includes(error.keyword));
  return { place: `${place}${first?.instancePath ?? ''}`, message: first?.message ?? 'is not a known edit' };
}
