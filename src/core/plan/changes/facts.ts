import { PLAN_TABLES, type Plan } from '../model/types';

/**
 * A plan as facts: things with an id, and for each thing its fields with their values. Two plans differ in facts, whatever the
 * order of keys, and three are merged fact by fact.
 */

/** What a plan has lists of, in the order in which one needs the other. */
export const LISTS = ['circuits', 'nets', 'constraints', 'attachments', 'trials', 'waivers'] as const;
export type ListKey = (typeof LISTS)[number];

/** A circuit, net, constraint …: its fields by name; those of settings, demands and far end one by one (`settings.pull`). */
export interface Thing {
  id: string;
  fields: Map<string, unknown>;
}

export interface PlanFacts {
  /** The plan's own: `name`, `code.prefix`, `tables.label.B7`. */
  own: Map<string, unknown>;
  lists: Record<ListKey, Thing[]>;
}

/** Objects whose entries are facts of their own: they are changed one by one. */
const OPENED: Readonly<Partial<Record<ListKey, readonly string[]>>> = {
  nets: ['settings', 'demands', 'far'],
};

/** Separates names of an opened object and of its entry; no name has it. */
const DOT = '.';

export function factsOf(plan: Plan): PlanFacts {
  const own = new Map<string, unknown>();
  for (const [key, value] of Object.entries(plan)) {
    if (LISTS.includes(key as ListKey) || key === 'code' || key === 'tables') continue;
    if (value !== undefined && value !== null) own.set(key, value);
  }
  for (const [key, value] of Object.entries(plan.code)) own.set(`code${DOT}${key}`, value);
  for (const table of PLAN_TABLES)
    for (const [key, value] of Object.entries(plan.tables?.[table] ?? {}))
      own.set(`tables${DOT}${table}${DOT}${key}`, value);
  const lists = Object.fromEntries(
    LISTS.map((key) => [key, ((plan[key] ?? []) as { id: string }[]).map((one) => thingOf(key, one))]),
  ) as PlanFacts['lists'];
  return { own, lists };
}

function thingOf(list: ListKey, item: { id: string }): Thing {
  const fields = new Map<string, unknown>();
  for (const [key, value] of Object.entries(item)) {
    if (key === 'id' || value === undefined) continue;
    if (!OPENED[list]?.includes(key)) fields.set(key, value);
    else
      for (const [entry, one] of Object.entries(value as unknown as Record<string, unknown>))
        if (one !== undefined) fields.set(`${key}${DOT}${entry}`, one);
  }
  return { id: item.id, fields };
}

/** The plan that facts are of: `planFrom(factsOf(plan))` is the plan. */
export function planFrom({ own, lists }: PlanFacts): Plan {
  const plan: Record<string, unknown> = {};
  const tables: Record<string, Record<string, unknown>> = {};
  const code: Record<string, unknown> = {};
  for (const [key, value] of own) {
    const [head = '', second = ''] = key.split(DOT);
    if (head === 'code') code[second] = value;
    else if (head === 'tables') {
      tables[second] ??= Object.create(null) as Record<string, unknown>;
      (tables[second] as Record<string, unknown>)[key.slice(head.length + second.length + 2)] = value;
    } else plan[key] = value;
  }
  for (const list of LISTS) {
    const items = lists[list].map((one) => itemFrom(list, one));
    if (items.length > 0 || list === 'circuits' || list === 'nets') plan[list] = items;
  }
  if (Object.keys(tables).length > 0) plan.tables = tables;
  return { ...plan, code } as unknown as Plan;
}

function itemFrom(list: ListKey, { id, fields }: Thing): object {
  const item: Record<string, unknown> = { id };
  // A net always has settings; what else is opened is there when it says something.
  if (list === 'nets') item.settings = {};
  for (const [key, value] of fields) {
    const at = key.indexOf(DOT);
    const head = key.slice(0, at);
    if (at < 0 || !OPENED[list]?.includes(head)) {
      item[key] = value;
      continue;
    }
    item[head] ??= {};
    (item[head] as Record<string, unknown>)[key.slice(at + 1)] = value;
  }
  return item;
}

/** What a thing is called. */
export const nameOf = (list: ListKey, thing: Thing): string => {
  const name = thing.fields.get(
    list === 'waivers' ? 'rule' : list === 'constraints' || list === 'attachments' ? 'kind' : 'name',
  );
  return typeof name === 'string' ? name : thing.id;
};

export const LIST_WORDS: Record<ListKey, string> = {
  circuits: 'circuit',
  nets: 'net',
  constraints: 'constraint',
  attachments: 'attached part',
  trials: 'trial',
  waivers: 'waiver',
};
