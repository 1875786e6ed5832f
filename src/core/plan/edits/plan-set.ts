import { ok } from '../../base/result';
import { planRef, type Schema } from '../model/schema-parts';
import type { CodeOptions, CodeStyle, Plan } from '../model/types';
import { change, changedMeanwhile, type EditKind, eachOf, shape, unsigned } from './kind';

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

/** An option of the code that is absent where it has its first value; `true` where it is either on or off. */
const option = <Key extends Exclude<keyof CodeOptions, 'prefix' | 'style'>>(
  key: Key,
  values: readonly [string, ...string[]] | 'on or off',
): PlanFieldKind => ({
  read: ({ code }) =>
    values === 'on or off' ? (code[key] ? 'on' : 'off') : ((code[key] as string) ?? values[0]),
  write(plan, to) {
    const { [key]: _old, ...rest } = plan.code;
    const absent = values === 'on or off' ? to === 'off' : to === values[0];
    const value = values === 'on or off' ? true : to;
    return { ...plan, code: (absent ? rest : { ...rest, [key]: value }) as CodeOptions };
  },
  value: { enum: values === 'on or off' ? ['off', 'on'] : values },
});

/** One that is a text, and absent where that is empty. */
const textOption = (key: 'file' | 'registers' | 'include', value: Schema): PlanFieldKind => ({
  ...option(key, ['']),
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
  'code.incomplete': option('incomplete', ['allow', 'refuse']),
  'code.functions': option('functions', ['one', 'circuits']),
  'code.deinit': option('deinit', 'on or off'),
  'code.comments': option('comments', ['all', 'stages', 'none']),
  'code.hooks': option('hooks', 'on or off'),
  'code.layout': option('layout', ['two files', 'header']),
  'code.file': textOption('file', planRef('fileStem')),
  'code.registers': textOption('registers', planRef('registerPattern')),
  'code.include': textOption('include', planRef('headerName')),
  'code.peripheralClocks': option('peripheralClocks', 'on or off'),
} as const satisfies Record<string, PlanFieldKind>;

export type PlanField = keyof typeof FIELDS;
export const PLAN_FIELDS = Object.keys(FIELDS) as PlanField[];

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
  signs: unsigned,
  apply(plan, { field, from, to }) {
    const now = planField(plan, field);
    return now === from ? ok(FIELDS[field].write(plan, to)) : changedMeanwhile('the plan', field, now);
  },
  again: (plan, edit) => ({ ...edit, from: FIELDS[edit.field].read(plan) }),
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: ({ field, to }) =>
    field === 'deviceFingerprint' ? 'take over the changed part' : `set ${field} to ${to || 'the default'}`,
  schemas: eachOf(
    'field',
    Object.fromEntries(Object.entries(FIELDS).map(([field, { value }]) => [field, value])),
    (field, value) => shape('plan.set', { field: { const: field }, ...change(value) }),
  ),
};
