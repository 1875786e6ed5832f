import { canonicalJson } from '../../base/fingerprint';
import { ok, type Result } from '../../base/result';
import { changeText, DEMAND_TITLES, FAR_TITLES } from '../model/field-titles';
import { planRef, type Schema } from '../model/schema-parts';
import { type Net, type NetId, type Plan, roleText } from '../model/types';
import { change, changedMeanwhile, type EditKind, eachOf, refuse, replace, shape, unsigned } from './kind';

/** All of a net but what it is known by, and its settings, which are changed one by one. */
export type NetField = Exclude<keyof Net, 'id' | 'settings'>;
type NetValue<Field extends NetField> = Field extends 'note'
  ? string
  : NonNullable<Net[Field]> | (Field extends 'placement' ? null : never);

/** Changes one field of a net. */
export type NetSetEdit = {
  [Field in NetField]: {
    kind: 'net.set';
    id: NetId;
    field: Field;
    from: NetValue<Field>;
    to: NetValue<Field>;
  };
}[NetField];

/** What each field may be, the value of a net that says nothing, and what a change of it does, in words. */
const FIELDS: {
  [Field in NetField]: {
    value: Schema;
    /** A field that a net need not have, and what it then is for edits. */
    empty?: NetValue<Field>;
    describe(name: string, from: NetValue<Field>, to: NetValue<Field>): string;
  };
} = {
  name: { value: planRef('title'), describe: (_name, from, to) => `rename ${from} to ${to}` },
  circuit: { value: planRef('id'), describe: (name) => `move ${name} to another circuit` },
  role: { value: planRef('role'), describe: (name, _from, to) => `make ${name} ${roleText(to)}` },
  placement: {
    value: planRef('placement'),
    describe(name, from, to) {
      if (!to) return `take ${name} off ${from?.pad}`;
      if (from?.pad === to.pad) return `${to.locked ? 'lock' : 'unlock'} ${name}`;
      return `place ${name} on ${to.pad}`;
    },
  },
  note: { value: planRef('note'), empty: '', describe: (name) => `note on ${name}` },
  demands: {
    value: planRef('demands'),
    empty: {},
    describe: (name, from, to) => changeText(DEMAND_TITLES, name, from, to),
  },
  far: {
    value: planRef('far'),
    empty: {},
    describe: (name, from, to) => changeText(FAR_TITLES, name, from, to),
  },
};

export const NET_FIELDS = Object.keys(FIELDS) as NetField[];

/** The value of a net's field as edits speak of it. */
export const netField = <Field extends NetField>(net: Net, field: Field): NetValue<Field> =>
  (net[field] ?? FIELDS[field].empty ?? null) as NetValue<Field>;

const isEmpty = (value: unknown): boolean =>
  value === '' || (typeof value === 'object' && value !== null && Object.keys(value).length === 0);

function describeValue(value: object | null): string {
  if (value === null) return 'not placed';
  if ('pad' in value) return `on ${value.pad}${'locked' in value && value.locked ? ', locked' : ''}`;
  return 'kind' in value ? String(value.kind) : 'other than it was';
}

/** The net with the change made. */
export function withField(plan: Pick<Plan, 'circuits'>, net: Net, edit: NetSetEdit): Result<Net> {
  const { field, from, to } = edit;
  const now = netField(net, field);
  if (canonicalJson(now) !== canonicalJson(from))
    return changedMeanwhile(net.name, field, typeof now === 'string' ? now : describeValue(now));
  if (field === 'circuit' && !plan.circuits.some((circuit) => circuit.id === to))
    return refuse(`the circuit that ${net.name} should move to is gone`);
  const next: Net = { ...net, [field]: to };
  // What says nothing leaves no trace in the plan.
  if (FIELDS[field].empty !== undefined && isEmpty(to)) delete next[field as 'note'];
  return ok(next);
}

export const netSet: EditKind<NetSetEdit> = {
  signs: unsigned,
  apply(plan, edit) {
    const net = plan.nets.find((one) => one.id === edit.id);
    if (!net) return refuse('that net is gone');
    const next = withField(plan, net, edit);
    return next.ok ? ok({ ...plan, nets: replace(plan.nets, net, next.value) }) : next;
  },
  again(plan, edit) {
    const net = plan.nets.find((one) => one.id === edit.id);
    return net && ({ ...edit, from: netField(net, edit.field) } as NetSetEdit);
  },
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: (edit, nameOf) =>
    (FIELDS[edit.field].describe as (name: string, from: unknown, to: unknown) => string)(
      nameOf(edit.id),
      edit.from,
      edit.to,
    ),
  schemas: eachOf(
    'field',
    Object.fromEntries(Object.entries(FIELDS).map(([field, { value }]) => [field, value])),
    (field, value) => shape('net.set', { id: planRef('id'), field: { const: field }, ...change(value) }),
  ),
};
