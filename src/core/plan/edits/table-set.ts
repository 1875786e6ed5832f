import { LIMITS } from '../../base/limits';
import { ok } from '../../base/result';
import { planRef, TABLE_VALUES } from '../model/schema-parts';
import { entryOf, PLAN_TABLES, type PlanTable, tableOf } from '../model/types';
import { change, changedMeanwhile, type EditKind, eachOf, full, orNull, shape, unsigned } from './kind';

/** Changes one entry of one of the plan's tables; null: none. */
export interface TableSetEdit {
  kind: 'table.set';
  table: PlanTable;
  key: string;
  from: string | null;
  to: string | null;
}

export const tableSet: EditKind<TableSetEdit> = {
  signs: unsigned,
  apply(plan, { table, key, from, to }) {
    const now = entryOf(plan, table, key) ?? null;
    if (now !== from) return changedMeanwhile(`${table} of ${key}`, 'it', now ?? 'not set');
    const { [key]: _old, ...others } = tableOf(plan, table);
    const next = to === null ? others : { ...others, [key]: to };
    if (Object.keys(next).length > LIMITS.tableEntries) return full('tableEntries');
    const { [table]: _table, ...rest } = plan.tables ?? {};
    const tables = Object.keys(next).length === 0 ? rest : { ...rest, [table]: next };
    const { tables: _tables, ...bare } = plan;
    return ok(Object.keys(tables).length === 0 ? bare : { ...bare, tables });
  },
  again: (plan, edit) => ({ ...edit, from: entryOf(plan, edit.table, edit.key) ?? null }),
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: ({ table, key, to }) => `set ${table} of ${key === '*' ? 'all' : key} to ${to ?? 'the default'}`,
  schemas: eachOf(
    'table',
    Object.fromEntries(PLAN_TABLES.map((table) => [table, orNull(planRef(TABLE_VALUES[table].definition))])),
    (table, value) =>
      shape('table.set', { table: { const: table }, key: planRef('tableKey'), ...change(value) }),
  ),
};
