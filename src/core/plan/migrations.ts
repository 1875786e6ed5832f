import {
  eachItem,
  isRecord,
  type Json,
  type Migration,
  migrate,
  type Names,
  renamed,
  within,
  withKeys,
} from '../base/migrations';

/** Format 2 uses the trade's words: locked, constraint, output type, speed, input buffer, LED, pin, level before init. */
const SETTINGS: Names = { buffer: 'outputType', slew: 'speed', threshold: 'inputBuffer' };
const RULES: Names = { 'tie-broken': 'constraint-broken' };

const placement = (value: Json): Json => withKeys(value, { held: 'locked' });
const demands = (value: Json): Json =>
  within(withKeys(value, { before: 'beforeInit' }), {
    load: (load) => within(load, { kind: (kind) => renamed(kind, { lamp: 'led' }) }),
  });
const net = (value: Json): Json =>
  within(value, { placement, demands, settings: (all) => withKeys(all, SETTINGS) });
const waiver = (value: Json): Json =>
  within(value, { rule: (rule) => renamed(rule, RULES), about: (about) => renamed(about, SETTINGS) });
const schematic = (value: Json): Json =>
  within(value, { pins: (pins) => eachItem(pins, (pin) => withKeys(pin, { terminal: 'pin' })) });

const PLAN_MIGRATIONS: readonly Migration[] = [
  {
    from: 'mavrek-plan/1',
    to: 'mavrek-plan/2',
    step: (plan) =>
      within(withKeys(plan, { ties: 'constraints' }), {
        nets: (nets) => eachItem(nets, net),
        waivers: (waivers) => eachItem(waivers, waiver),
        tables: (tables) => within(tables, { severity: (table) => withKeys(table, RULES) }),
        schematic,
      }) as Record<string, Json>,
  },
];

/** A plan of any format that was ever written, in today's. It is checked after that. */
export const migratePlan = (value: Json): Json => migrate(value, PLAN_MIGRATIONS);

/** The format of edits in the log, counted up with the plan's. */
export const EDIT_FORMAT = 2;

const changed = (edit: Json, change: (value: Json) => Json): Json =>
  within(edit, { from: change, to: change });

function secondEdit(edit: Json): Json {
  if (!isRecord(edit)) return edit;
  switch (edit.kind) {
    case 'batch':
      return within(edit, { edits: (edits) => eachItem(edits, secondEdit) });
    case 'tie.add':
    case 'tie.remove':
      return within(withKeys(edit, { tie: 'constraint' }), {
        kind: (kind) => String(kind).replace('tie', 'constraint'),
      });
    case 'net.add':
    case 'net.remove':
      return within(edit, { net });
    case 'net.set':
      if (edit.field === 'placement') return changed(edit, placement);
      return edit.field === 'demands' ? changed(edit, demands) : edit;
    case 'net.setting':
      return within(edit, { key: (key) => renamed(key, SETTINGS) });
    case 'waiver.add':
    case 'waiver.remove':
      return within(edit, { waiver });
    case 'table.set':
      return edit.table === 'severity' ? within(edit, { key: (key) => renamed(key, RULES) }) : edit;
    case 'schematic.set':
      return changed(edit, schematic);
    default:
      return edit;
  }
}

/** From each format of edits to the next, in order. */
const EDIT_MIGRATIONS: readonly ((edit: Json) => Json)[] = [secondEdit];

/** A stored edit of a format that was ever written, in today's. */
export const migrateEdit = (edit: Json, format: number): Json =>
  EDIT_MIGRATIONS.slice(format - 1).reduce((now, step) => step(now), edit);
