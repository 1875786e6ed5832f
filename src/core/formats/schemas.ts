import Ajv, { type ValidateFunction } from 'ajv';
import deviceSchema from '../../../docs/schema/mavrek-device-1.schema.json';
import planSchema from '../../../docs/schema/mavrek-plan-1.schema.json';
import recipeSchema from '../../../docs/schema/mavrek-recipe-1.schema.json';

/** The published schemas are the validators: there is no second description of the formats. */
const ajv = new Ajv({ allErrors: true, strict: true, strictRequired: false, strictTypes: false });
ajv.addSchema(deviceSchema).addSchema(planSchema).addSchema(recipeSchema);

/** Validators are compiled when first asked for: a command that reads a plan does not pay for the edits' schema. */
function once(compile: () => ValidateFunction | undefined): () => ValidateFunction {
  let validate: ValidateFunction | undefined;
  return () => {
    validate ??= compile();
    if (!validate) throw new Error('a published schema is missing');
    return validate;
  };
}

export const planValidator = once(() => ajv.getSchema('urn:mavrek:plan:1'));
export const deviceValidator = once(() => ajv.getSchema('urn:mavrek:device:1'));
export const recipeValidator = once(() => ajv.getSchema('urn:mavrek:recipe:1'));

const plan = (name: string) => ({ $ref: `urn:mavrek:plan:1#/definitions/${name}` });
const position = { type: 'integer', minimum: 0, maximum: 100_000 };
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

/** Edits as they come over HTTP: parts of a plan, held to the plan's own definitions. */
const editSchema = {
  $id: 'urn:mavrek:edit',
  definitions: {
    edit: {
      oneOf: [
        ...Object.entries(planFields).map(([field, value]) =>
          change('plan.set', 'field', { const: field }, value, false),
        ),
        step('circuit.add', { circuit: plan('circuit'), at: position }),
        step('circuit.remove', { circuit: plan('circuit'), at: position }),
        change('circuit.set', 'field', { const: 'name' }, plan('title'), true),
        step('net.add', { net: plan('net'), at: position }),
        step('net.remove', { net: plan('net'), at: position }),
        ...Object.entries(netFields).map(([field, value]) =>
          change('net.set', 'field', { const: field }, value, true),
        ),
        ...Object.entries(settingValues).map(([key, value]) =>
          change('net.setting', 'key', { const: key }, value, true),
        ),
        change(
          'net.setting',
          'key',
          { enum: ['buffer', 'pull', 'drive', 'slew', 'threshold', 'trigger'] },
          { anyOf: [plan('word'), { type: 'null' }] },
          true,
        ),
        step('tie.add', { tie: plan('tie'), at: position }),
        step('tie.remove', { tie: plan('tie'), at: position }),
        step('waiver.add', { waiver: plan('waiver'), at: position }),
        step('waiver.remove', { waiver: plan('waiver'), at: position }),
        ...Object.entries(tableValues).map(([table, value]) =>
          step('table.set', {
            table: { const: table },
            key: plan('tableKey'),
            from: orNull(value),
            to: orNull(value),
          }),
        ),
        step('schematic.set', { from: plan('schematic'), to: plan('schematic') }),
        step('batch', {
          label: { type: 'string', maxLength: 2000 },
          edits: { type: 'array', maxItems: 20_000, items: { $ref: '#/definitions/edit' } },
        }),
      ],
    },
  },
  $ref: '#/definitions/edit',
};

export const editValidator = once(() => ajv.compile(editSchema));
