import { ok } from '../../base/result';
import { planRef, type Schema } from '../model/schema-parts';
import type { CodeStyle, Plan } from '../model/types';
import { change, changedMeanwhile, type EditKind, eachOf, shape } from './kind';

interface PlanFieldKind {
  read(plan: Plan): string;
  write(plan: Plan, value: string): Plan;
  value: Schema;
}

const own = (
  field: 'name' | 'revision' | 'device' | 'package' | 'deviceFingerprint',
  value: Schema,
): PlanFieldKind => ({
  read: (plan) => plan[field],
  write: (plan, to) => ({ ...plan, [field]: to }),
  value,
});

/** The plan's own fields: how each is read and written, and what its values may be. */
const FIELDS = {
  name: own('name', planRef('title')),
  revision: own('revision', planRef('shortText')),
  device: own('device', planRef('id')),
  package: own('package', planRef('id')),
  deviceFingerprint: own('deviceFingerprint', { type: 'string', pattern: '^[0-9a-f]{0,64}$' }),
  'code.prefix': {
    read: (plan) => plan.code.prefix,
    write: (plan, prefix) => ({ ...plan, code: { ...plan.code, prefix } }),
    value: planRef('prefix'),
  },
  'code.style': {
    read: (plan) => plan.code.style,
    write: (plan, style) => ({ ...plan, code: { ...plan.code, style: style as CodeStyle } }),
    value: planRef('style'),
  },
  'code.incomplete': {
    read: (plan) => plan.code.incomplete ?? 'allow',
    write(plan, to) {
      const { incomplete: _old, ...rest } = plan.code;
      return { ...plan, code: to === 'refuse' ? { ...rest, incomplete: to } : rest };
    },
    value: { enum: ['allow', 'refuse'] },
  },
} as const satisfies Record<string, PlanFieldKind>;

export type PlanField = keyof typeof FIELDS;

/** Changes one of the plan's own fields. */
export interface PlanSetEdit {
  kind: 'plan.set';
  field: PlanField;
  from: string;
  to: string;
}

/** A field as edits speak of it. */
export const planField = (plan: Plan, field: PlanField): string => FIELDS[field].read(plan);

export const planSet: EditKind<PlanSetEdit> = {
  apply(plan, { field, from, to }) {
    const now = planField(plan, field);
    return now === from ? ok(FIELDS[field].write(plan, to)) : changedMeanwhile('the plan', field, now);
  },
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: ({ field, to }) =>
    field === 'deviceFingerprint' ? 'take over the changed part' : `set ${field} to ${to || 'the default'}`,
  schemas: eachOf(
    'field',
    Object.fromEntries(Object.entries(FIELDS).map(([field, { value }]) => [field, value])),
    (field, value) => shape('plan.set', { field: { const: field }, ...change(value) }),
  ),
};
