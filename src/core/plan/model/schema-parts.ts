import type { PlanTable } from './types';

/** A JSON Schema, or a part of one. */
export type Schema = Readonly<Record<string, unknown>>;

export const PLAN_SCHEMA_ID = 'urn:mavrek:plan:2';

/** The parts of the plan's schema that others speak of, by name. */
export type PlanDefinition =
  | 'id'
  | 'line'
  | 'tableKey'
  | 'level'
  | 'policy'
  | 'positive'
  | 'title'
  | 'shortText'
  | 'note'
  | 'prefix'
  | 'style'
  | 'fileStem'
  | 'registerPattern'
  | 'headerName'
  | 'word'
  | 'circuit'
  | 'role'
  | 'placement'
  | 'settings'
  | 'demands'
  | 'far'
  | 'net'
  | 'constraint'
  | 'waiver'
  | 'attachment'
  | 'trial'
  | 'schematicPin'
  | 'schematic';

/**
 * A part of the plan's schema, from elsewhere: for edits, which carry parts of plans. The schema itself is not needed for that,
 * and the page, which makes edits and checks none, does not load it.
 */
export const planRef = (name: PlanDefinition): Schema => ({ $ref: `${PLAN_SCHEMA_ID}#/definitions/${name}` });

/** What the values of the plan's tables may be. */
export const TABLE_VALUES: Record<PlanTable, { definition: PlanDefinition; description: string }> = {
  severity: { definition: 'level', description: 'rule → severity other than its own; off: not checked' },
  unused: {
    definition: 'policy',
    description: 'pad → what becomes of it when nobody plans it; * for all others',
  },
  label: { definition: 'shortText', description: 'pad → what the board prints beside it' },
};
