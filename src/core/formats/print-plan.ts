import {
  type Demands,
  type Net,
  PLAN_TABLES,
  type Plan,
  type Role,
  type Schematic,
  tableOf,
  type Waiver,
} from '../plan/types';
import { fileName } from '../text/file-name';

/** Plan → text: stable key order, one circuit or net a line, so that it diffs and merges well. */
export function printPlan(plan: Plan): string {
  const line = (value: unknown): string => JSON.stringify(value);
  const list = (items: readonly unknown[]): string =>
    items.length === 0 ? '[]' : `[\n${items.map((item) => `    ${line(item)}`).join(',\n')}\n  ]`;
  return `${[
    '{',
    `  "format": ${line(plan.format)},`,
    `  "name": ${line(plan.name)},`,
    `  "revision": ${line(plan.revision)},`,
    `  "device": ${line(plan.device)},`,
    `  "package": ${line(plan.package)},`,
    `  "deviceFingerprint": ${line(plan.deviceFingerprint)},`,
    `  "circuits": ${list(plan.circuits.map(({ id, name }) => ({ id, name })))},`,
    `  "nets": ${list(plan.nets.map(orderedNet))},`,
    ...(plan.ties?.length
      ? [`  "ties": ${list(plan.ties.map(({ id, kind, nets }) => ({ id, kind, nets })))},`]
      : []),
    ...(plan.waivers?.length ? [`  "waivers": ${list(plan.waivers.map(orderedWaiver))},`] : []),
    ...tableLines(plan),
    ...(plan.schematic ? [`  "schematic": ${schematicText(plan.schematic, list)},`] : []),
    `  "code": ${line({ prefix: plan.code.prefix, style: plan.code.style, incomplete: plan.code.incomplete })}`,
    '}',
  ].join('\n')}\n`;
}

/** Databases and other programs give keys in any order; files have one. */
function orderedRole(role: Role): object {
  switch (role.kind) {
    case 'signal':
      return { kind: role.kind, signal: role.signal };
    case 'open-signal':
      return { kind: role.kind, peripheral: role.peripheral, line: role.line };
    default:
      return { kind: role.kind };
  }
}

function orderedNet(net: Net): object {
  const { role, placement, settings } = net;
  return {
    id: net.id,
    name: net.name,
    circuit: net.circuit,
    role: orderedRole(role),
    placement: placement && { pad: placement.pad, held: placement.held, signal: placement.signal },
    settings: {
      active: settings.active,
      start: settings.start,
      buffer: settings.buffer,
      pull: settings.pull,
      drive: settings.drive,
      slew: settings.slew,
      threshold: settings.threshold,
      trigger: settings.trigger,
    },
    demands: net.demands && orderedDemands(net.demands),
    far: net.far && inOrder(net.far, ['part', 'connector', 'label']),
    note: net.note,
  };
}

const DEMAND_KEYS: readonly (keyof Demands)[] = [
  'rateHertz',
  'milliamps',
  'load',
  'farVolts',
  'farPull',
  'farPullOhms',
  'before',
  'side',
  'notPads',
];

function orderedDemands(demands: Demands): object {
  const { load } = demands;
  return {
    ...inOrder(demands, DEMAND_KEYS),
    ...(load ? { load: inOrder(load, ['kind', 'volts', 'dropVolts', 'ohms'] as never[]) } : {}),
  };
}

function inOrder<T extends object>(value: T, keys: readonly (keyof T)[]): object {
  return Object.fromEntries(keys.map((key) => [key, value[key]]));
}

const orderedWaiver = ({ id, rule, nets, pads, about, reason, author, date }: Waiver): Waiver => ({
  id,
  rule,
  nets,
  pads,
  ...(about === undefined ? {} : { about }),
  reason,
  author,
  date,
});

/** Each entry on a line of its own, sorted. */
function tableLines(plan: Plan): string[] {
  const tables = PLAN_TABLES.flatMap((name) => {
    const entries = Object.entries(tableOf(plan, name)).sort(([a], [b]) => (a < b ? -1 : 1));
    if (entries.length === 0) return [];
    const lines = entries.map(([key, value]) => `      ${JSON.stringify(key)}: ${JSON.stringify(value)}`);
    return [`    "${name}": {\n${lines.join(',\n')}\n    }`];
  });
  return tables.length === 0 ? [] : [`  "tables": {\n${tables.join(',\n')}\n  },`];
}

const schematicText = (
  { file, designator, pins }: Schematic,
  list: (items: readonly unknown[]) => string,
): string =>
  `{"file":${JSON.stringify(file)},"designator":${JSON.stringify(designator)},"pins":${list(
    pins.map(({ terminal, net }) => ({ terminal, net })),
  )}}`;

/** A file name for a plan: never a path, never empty, whatever the plan is called. A tag tells it from others of its name. */
export const planFileName = (
  { name, revision }: Pick<Plan, 'name' | 'revision'>,
  { ending = '.plan.json', tag }: { ending?: string; tag?: string } = {},
): string => fileName([name, revision, ...(tag === undefined ? [] : [tag])], ending, 'plan');
