import { LIMITS } from '../../base/limits';
import { ASKED_KEYS, OWN_KEY_PATTERN } from '../../description/settings';
import { ATTACHMENT_KINDS, type Attachment, type AttachmentKind, attachmentMeta } from './attachments';
import { FORMAT_PATTERN } from './format';
import { PLAN_SCHEMA_ID, type PlanDefinition, type Schema, TABLE_VALUES } from './schema-parts';
import {
  CIRCUIT_SETTING_KEYS,
  CIRCUIT_SETTINGS,
  type Circuit,
  CODE_STYLES,
  CONSTRAINT_KINDS,
  type Constraint,
  type Demands,
  type FarEnd,
  LOADS,
  type Net,
  PLAIN_ROLES,
  PLAN_FORMAT,
  PLAN_TABLES,
  type Placement,
  RULE_LEVELS,
  type Schematic,
  type SchematicPin,
  type Trial,
  UNUSED_POLICIES,
  type Waiver,
} from './types';

/**
 * The plan's JSON Schema (draft 7): what the published file in `docs/schema/` is printed from, what plans and edits from outside
 * are held to, and the order in which their keys are printed. What has a table (settings, roles, constraints, limits) follows
 * from it.
 */

const a = (name: string): Schema => ({ $ref: `#/definitions/${name}` });
const record = (
  properties: Record<string, Schema>,
  required: readonly string[] = [],
  more: Schema = {},
): Schema => ({
  ...more,
  type: 'object',
  additionalProperties: false,
  ...(required.length > 0 ? { required } : {}),
  properties,
});
/** The same for a type of the plan: a field that the schema forgets is an error of types. */
const of = <T>(properties: Record<keyof T, Schema>, required: readonly (keyof T & string)[] = []): Schema =>
  record(properties, required);
const list = (items: Schema, maxItems: number, more: Schema = {}): Schema => ({
  type: 'array',
  ...more,
  maxItems,
  items,
});
const oneOf = (values: readonly string[]): Schema => ({ enum: values });
const orNull = (schema: Schema): Schema => ({ oneOf: [{ type: 'null' }, schema] });

/** What is attached: as many nets as it has poles, and figures within their bounds. */
function attachmentSchema(kind: AttachmentKind): Schema {
  const { poles, least = poles.length, figures } = attachmentMeta(kind);
  return of<Attachment>(
    {
      id: a('id'),
      kind: { const: kind },
      nets: list(a('id'), poles.length, { minItems: least }),
      figures: record(
        Object.fromEntries(
          Object.entries(figures).map(([key, { title, unit, least: low, most }]) => [
            key,
            {
              type: 'number',
              minimum: low,
              maximum: most,
              description: unit ? `${title}, in ${unit}` : title,
            },
          ]),
        ),
      ),
    },
    ['id', 'kind', 'nets'],
  );
}

const DEFINITIONS = {
  id: { type: 'string', minLength: 1, maxLength: 80, pattern: '^[A-Za-z0-9][A-Za-z0-9._-]*$' },
  line: {
    type: 'string',
    minLength: 1,
    maxLength: 80,
    pattern: '^[A-Za-z0-9][A-Za-z0-9._-]*[*]?[A-Za-z0-9._-]*$',
    description: 'with a * for any number: any channel',
  },
  tableKey: { type: 'string', maxLength: 80, pattern: '^([*]|[A-Za-z0-9][A-Za-z0-9._+-]*)$' },
  level: oneOf(RULE_LEVELS),
  policy: oneOf(UNUSED_POLICIES),
  positive: { type: 'number', exclusiveMinimum: 0, maximum: 1000000000000 },
  title: { type: 'string', minLength: 1, maxLength: 120, pattern: '^[^\\u0000-\\u001f\\ud800-\\udfff]*$' },
  shortText: { type: 'string', maxLength: 40, pattern: '^[^\\u0000-\\u001f\\ud800-\\udfff]*$' },
  note: { type: 'string', maxLength: 2000, pattern: '^[^\\u0000\\ud800-\\udfff]*$' },
  prefix: {
    type: 'string',
    maxLength: 40,
    pattern: '^([A-Za-z][A-Za-z0-9_]*)?$',
    description: "prefix of generated names; empty for the plan's name",
  },
  style: oneOf(CODE_STYLES),
  fileStem: {
    type: 'string',
    maxLength: 60,
    pattern: '^([A-Za-z0-9_][A-Za-z0-9_-]*)?$',
    description: "stem of generated files' names; empty for the prefix",
  },
  registerPattern: {
    type: 'string',
    maxLength: 80,
    pattern: '^([A-Za-z0-9_.\\[\\]()*&]|->|[{](block|port|register)(:lower|:upper)?[}])*$',
    description:
      "how the project's own headers call a register, e.g. {block}->{register}; empty for addresses",
  },
  headerName: {
    type: 'string',
    maxLength: 80,
    pattern: '^([A-Za-z0-9_-]+[./])*[A-Za-z0-9_-]*$',
    description: 'header that has those names',
  },
  word: { type: 'string', minLength: 1, maxLength: 40, pattern: '^[A-Za-z0-9][A-Za-z0-9.-]*$' },
  circuit: of<Circuit>({ id: a('id'), name: a('title') }, ['id', 'name']),
  role: {
    type: 'object',
    required: ['kind'],
    oneOf: [
      { additionalProperties: false, properties: { kind: oneOf(PLAIN_ROLES) } },
      {
        additionalProperties: false,
        required: ['signal'],
        properties: { kind: { const: 'signal' }, signal: a('id') },
      },
      {
        additionalProperties: false,
        required: ['peripheral', 'line'],
        properties: { kind: { const: 'open-signal' }, peripheral: a('id'), line: a('line') },
      },
    ],
  },
  placement: orNull(
    of<Placement>(
      {
        pad: a('id'),
        locked: { type: 'boolean', description: 'the placer must not move it' },
        signal: {
          ...a('id'),
          description: "which of the pad's signals is meant, for roles that leave it open",
        },
      },
      ['pad', 'locked'],
    ),
  ),
  settings: record(
    {
      ...Object.fromEntries(CIRCUIT_SETTING_KEYS.map((key) => [key, oneOf(CIRCUIT_SETTINGS[key].values)])),
      ...Object.fromEntries(ASKED_KEYS.map((key) => [key, a('word')])),
    },
    [],
    { patternProperties: { [OWN_KEY_PATTERN]: a('word') } },
  ),
  demands: of<Demands>({
    rateHertz: a('positive'),
    format: { type: 'string', maxLength: 40, pattern: FORMAT_PATTERN },
    milliamps: a('positive'),
    load: {
      oneOf: Object.entries(LOADS).map(([kind, { figures }]) =>
        record({ kind: { const: kind }, ...Object.fromEntries(figures.map((key) => [key, a('positive')])) }, [
          'kind',
          ...figures,
        ]),
      ),
    },
    farVolts: a('positive'),
    farPull: oneOf(['up', 'down', 'driven']),
    farPullOhms: a('positive'),
    beforeInit: oneOf(['high', 'low']),
    side: a('shortText'),
    notPads: list(a('id'), 500),
  }),
  far: of<FarEnd>({ part: a('title'), connector: a('title'), label: a('title') }),
  net: of<Net>(
    {
      id: a('id'),
      name: a('title'),
      circuit: a('id'),
      role: a('role'),
      placement: a('placement'),
      settings: a('settings'),
      demands: a('demands'),
      far: a('far'),
      note: a('note'),
    },
    ['id', 'name', 'circuit', 'role', 'placement', 'settings'],
  ),
  constraint: of<Constraint>(
    {
      id: a('id'),
      kind: oneOf(CONSTRAINT_KINDS),
      nets: list(a('id'), LIMITS.constraintNets, { minItems: 2 }),
    },
    ['id', 'kind', 'nets'],
  ),
  waiver: of<Waiver>(
    {
      id: a('id'),
      rule: a('id'),
      nets: list(a('id'), 500),
      pads: list(a('id'), 500),
      about: a('shortText'),
      reason: { type: 'string', minLength: 1, maxLength: 1000, pattern: '^[^\\u0000\\ud800-\\udfff]*$' },
      author: a('shortText'),
      date: { type: 'string', pattern: '^\\d{4}-\\d{2}-\\d{2}$' },
    },
    ['id', 'rule', 'nets', 'pads', 'reason', 'author', 'date'],
  ),
  attachment: {
    type: 'object',
    required: ['kind'],
    oneOf: ATTACHMENT_KINDS.map((kind) => attachmentSchema(kind)),
  },
  trial: of<Trial>(
    {
      id: a('id'),
      name: a('title'),
      lines: list(
        { type: 'string', maxLength: 8000, pattern: '^[^\\u0000-\\u001f\\ud800-\\udfff]*$' },
        LIMITS.trialLines,
        { description: 'steps of a play, one a line; nets and buses stand as {id}' },
      ),
    },
    ['id', 'name', 'lines'],
  ),
  schematicPin: of<SchematicPin>({ pin: a('id'), net: a('title'), alone: { const: true } }, ['pin', 'net']),
  schematic: orNull(
    of<Schematic>(
      { file: a('title'), designator: a('shortText'), pins: list(a('schematicPin'), LIMITS.schematicPins) },
      ['file', 'designator', 'pins'],
    ),
  ),
} as const satisfies Record<PlanDefinition, Schema>;

export const PLAN_SCHEMA = {
  $schema: 'http://json-schema.org/draft-07/schema#',
  $id: PLAN_SCHEMA_ID,
  title: 'Mavrek plan',
  description:
    'What every net of a board needs and which pad carries it. One item a line, keys in the order given here.',
  type: 'object',
  additionalProperties: false,
  required: [
    'format',
    'name',
    'revision',
    'device',
    'package',
    'deviceFingerprint',
    'circuits',
    'nets',
    'code',
  ],
  properties: {
    format: { const: PLAN_FORMAT },
    name: a('title'),
    revision: a('shortText'),
    device: { ...a('id'), description: 'id of a device description' },
    package: { ...a('id'), description: "id of one of the device's packages" },
    deviceFingerprint: {
      type: 'string',
      maxLength: 64,
      description: 'fingerprint of the description the plan was made against; empty when unknown',
    },
    circuits: list(a('circuit'), LIMITS.circuits),
    nets: list(a('net'), LIMITS.nets),
    constraints: list(a('constraint'), LIMITS.constraints),
    waivers: list(a('waiver'), LIMITS.waivers),
    attachments: list(a('attachment'), LIMITS.attachments),
    trials: list(a('trial'), LIMITS.trials),
    tables: record(
      Object.fromEntries(
        PLAN_TABLES.map((table) => [
          table,
          {
            type: 'object',
            maxProperties: LIMITS.tableEntries,
            propertyNames: a('tableKey'),
            additionalProperties: { $ref: `#/definitions/${TABLE_VALUES[table].definition}` },
            description: TABLE_VALUES[table].description,
          },
        ]),
      ),
    ),
    schematic: a('schematic'),
    code: record(
      {
        prefix: a('prefix'),
        style: a('style'),
        incomplete: {
          const: 'refuse',
          description: 'code of a plan with nets that it does not know does not compile',
        },
        functions: {
          const: 'circuits',
          description: 'a function for each circuit, beside the one that calls them all',
        },
        deinit: { const: true, description: 'a function that releases the pads' },
        comments: { ...oneOf(['stages', 'none']), description: 'less than everything' },
        hooks: { const: true, description: 'calls before and after each stage' },
        layout: { const: 'header', description: 'in C everything in the header' },
        file: a('fileStem'),
        registers: a('registerPattern'),
        include: a('headerName'),
        peripheralClocks: { const: true, description: 'clock gates of peripherals are opened' },
      },
      ['prefix', 'style'],
    ),
  },
  definitions: DEFINITIONS,
} as const satisfies Schema;
