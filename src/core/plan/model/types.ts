import { bare } from '../../base/bare';
import { ASKED_KEYS, type AskedKey, settingTitle } from '../../description/settings';
import type { PadId, SignalId } from '../../description/types';
import type { Attachment } from './attachments';

export const PLAN_FORMAT = 'mavrek-plan/2';

export type NetId = string & { readonly brand?: 'NetId' };
export type CircuitId = string & { readonly brand?: 'CircuitId' };

export const PLAIN_ROLES = [
  'input',
  'output',
  'bidirectional',
  'open-drain',
  'interrupt',
  'analog',
  'analog-output',
] as const;
export type PlainRole = (typeof PLAIN_ROLES)[number];

/**
 * What a net is to the firmware. A peripheral signal may leave the instance open ("any UART · TX"), and its channel too: a `*`
 * in the line stands for a number ("any PACE · Q*").
 */
export type Role =
  | { kind: PlainRole }
  | { kind: 'signal'; signal: SignalId }
  | { kind: 'open-signal'; peripheral: string; line: string };

export interface Placement {
  pad: PadId;
  /** The placer, and ranked moves, leave a locked net where it is. */
  locked: boolean;
  /** For roles that leave the signal open: which of the pad's signals is meant. */
  signal?: SignalId;
}

/** Settings in the terms of the circuit: what they are called, and their values. */
export const CIRCUIT_SETTINGS = {
  /** The level at which the far end is active. */
  active: { title: 'active level', values: ['high', 'low'] },
  /** How an output starts. */
  start: { title: 'start', values: ['inactive', 'asserted'] },
  /** What its pad is while the chip sleeps: as it is, an input without pull, off, or an output at a level. */
  sleep: { title: 'in low power', values: ['keep', 'release', 'analog', 'inactive', 'asserted'] },
} as const;
export type CircuitSettingKey = keyof typeof CIRCUIT_SETTINGS;

/**
 * What a net asks of its pad, in the terms of the circuit and in the part's own words; what is absent follows the role's and the
 * part's defaults.
 */
export type NetSettings = {
  [Key in CircuitSettingKey]?: (typeof CIRCUIT_SETTINGS)[Key]['values'][number];
} & { [Key in AskedKey]?: string };
export type NetSettingKey = keyof NetSettings;
export const CIRCUIT_SETTING_KEYS = Object.keys(CIRCUIT_SETTINGS) as CircuitSettingKey[];
export const NET_SETTING_KEYS: readonly NetSettingKey[] = [...CIRCUIT_SETTING_KEYS, ...ASKED_KEYS];

/** What the settings of a net are called. */
export const netSettingTitle = (key: NetSettingKey): string =>
  isCircuitSetting(key) ? CIRCUIT_SETTINGS[key].title : settingTitle(key);

export const isCircuitSetting = (key: NetSettingKey): key is CircuitSettingKey =>
  Object.hasOwn(CIRCUIT_SETTINGS, key);

/** What loads an output and draws current, and the figures that its current follows from. */
export const LOADS = {
  /** An LED behind a resistor. */
  led: { title: 'LED', figures: ['volts', 'dropVolts', 'ohms'] },
  coil: { title: 'coil', figures: ['volts', 'ohms'] },
} as const;
export type LoadKind = keyof typeof LOADS;
export type Load = {
  [Kind in LoadKind]: { kind: Kind } & Record<(typeof LOADS)[Kind]['figures'][number], number>;
}[LoadKind];

/** What the board asks of the pad beyond the role. The placer keeps to all of it; rules report what is not met. */
export interface Demands {
  /** Wanted rate of the line in hertz (bits or periods a second). */
  rateHertz?: number;
  /** How the line is spoken: `8N1`, `mode 0 msb`, `fast`; see format.ts. */
  format?: string;
  /** Current through the pad while the net is asserted, in milliamperes. */
  milliamps?: number;
  /** From which `milliamps` follows, when it is not given. */
  load?: Load;
  /** Highest voltage that the far end puts on the pad. */
  farVolts?: number;
  /** What holds the line at the far end: a resistor, or an output that always drives it. */
  farPull?: 'up' | 'down' | 'driven';
  farPullOhms?: number;
  /** Level the net must have between power-up and initialisation. */
  beforeInit?: 'high' | 'low';
  /** Side of the package, by its name. */
  side?: string;
  notPads?: PadId[];
}

/** What sits at the other end of a net. */
export interface FarEnd {
  part?: string;
  connector?: string;
  /** What is printed beside it on the board. */
  label?: string;
}

/**
 * A demand on several nets. `bus`: consecutive bits of one port, in order; `pair`: the two lines of one channel, or neighbouring
 * pins; `same-instance` and `other-instances`: of a peripheral (PWM of one frequency, or of several); `together`: one side
 * of the package; `apart`: no two on neighbouring pins.
 */
export const CONSTRAINT_KINDS = [
  'bus',
  'pair',
  'same-instance',
  'other-instances',
  'together',
  'apart',
] as const;
export type ConstraintKind = (typeof CONSTRAINT_KINDS)[number];
export interface Constraint {
  id: string;
  kind: ConstraintKind;
  nets: NetId[];
}

/** A finding that somebody has looked at and lets stand. */
export interface Waiver {
  id: string;
  rule: string;
  /** Nets and pads of the finding; all of both must be the finding's. */
  nets: NetId[];
  pads: PadId[];
  /** What of them, where a rule can find several things wrong with the same: the setting's key. The finding's must be the same. */
  about?: string;
  reason: string;
  author: string;
  /** ISO 8601 date. */
  date: string;
}

/** A play on the bench and what is expected of it, a step a line; nets and buses are named by their ids: see `bench/script`. */
export interface Trial {
  id: string;
  name: string;
  lines: string[];
}

/** A row of the netlist that the schematic gave: which net is on a pin there. */
export interface SchematicPin {
  pin: string;
  net: string;
  /** Nothing else in the netlist is on the net. */
  alone?: true;
}
export interface Schematic {
  file: string;
  /** Designator of the part in the schematic: `U1`. */
  designator: string;
  pins: SchematicPin[];
}

/** What becomes of pads that nobody planned. */
export const UNUSED_POLICIES = ['reset', 'analog', 'input-pulled', 'output-low'] as const;
export type UnusedPolicy = (typeof UNUSED_POLICIES)[number];

export const RULE_LEVELS = ['error', 'warning', 'note', 'off'] as const;
export type RuleSeverity = (typeof RULE_LEVELS)[number];

/** Tables of the plan whose entries change one by one. */
export interface PlanTables {
  /** Rule → severity other than its own. */
  severity: Record<string, string>;
  /** Pad → policy for it when it is unused; `*` for all others. */
  unused: Record<string, string>;
  /** Pad → what the board prints beside it. */
  label: Record<string, string>;
}
export type PlanTable = keyof PlanTables;
export const PLAN_TABLES: readonly PlanTable[] = ['severity', 'unused', 'label'];

export interface Net {
  id: NetId;
  name: string;
  circuit: CircuitId;
  role: Role;
  placement: Placement | null;
  settings: NetSettings;
  demands?: Demands;
  far?: FarEnd;
  note?: string;
}

export interface Circuit {
  id: CircuitId;
  name: string;
}

export interface CodeOptions {
  /** Prefix of all generated names; empty means: the plan's name as an identifier. */
  prefix: string;
  style: CodeStyle;
  /** What is made of a plan with nets that the code does not know: code that says so (the default), or code that does not compile. */
  incomplete?: 'refuse';
  /** One function for each circuit, in the order of circuits, beside the one that calls them all. */
  functions?: 'circuits';
  /** A function that puts outputs at their inactive level and releases everything else. */
  deinit?: true;
  /** How much is said in comments; everything unless said otherwise. */
  comments?: 'stages' | 'none';
  /** Calls of the application's own code before and after each stage. */
  hooks?: true;
  /** In C everything in the header. */
  layout?: 'header';
  /** Stem of the files' names; the prefix unless said otherwise. */
  file?: string;
  /** How the project's own headers call a register, `{block}->{register}`; then its addresses are not printed. */
  registers?: string;
  /** The header of the project that has those names. */
  include?: string;
  /** Clock gates of peripherals are opened, where the part describes them. */
  peripheralClocks?: true;
}

/** `mavrek-plan/2`. Immutable; changed only by edits (see `edit.ts`). */
export interface Plan {
  format: typeof PLAN_FORMAT;
  name: string;
  revision: string;
  device: string;
  package: string;
  /** Fingerprint of the device description the plan was made against. */
  deviceFingerprint: string;
  circuits: Circuit[];
  nets: Net[];
  constraints?: Constraint[];
  /** What sits at the far end of nets, where more is known than their demands say. */
  attachments?: Attachment[];
  /** Plays on the bench with what is expected of them. */
  trials?: Trial[];
  waivers?: Waiver[];
  tables?: Partial<PlanTables>;
  schematic?: Schematic | null;
  code: CodeOptions;
}

export const emptyPlan = (name: string, device: string, pkg: string, deviceFingerprint: string): Plan => ({
  format: PLAN_FORMAT,
  name,
  revision: 'A',
  device,
  package: pkg,
  deviceFingerprint,
  circuits: [],
  nets: [],
  code: { prefix: '', style: 'preserving' },
});

/** "any UART · TX", "UART2.TX", "input": a role in a few words. */
export function roleText(role: Role): string {
  switch (role.kind) {
    case 'signal':
      return role.signal;
    case 'open-signal':
      return `any ${role.peripheral} · ${role.line.includes('*') ? `any ${role.line.replace('*', '')}` : role.line}`;
    default:
      return ROLE_TITLES[role.kind];
  }
}

/** Names of the plain roles, as shown. */
export const ROLE_TITLES: Record<PlainRole, string> = {
  input: 'input',
  output: 'output',
  bidirectional: 'input and output',
  'open-drain': 'open-drain line',
  interrupt: 'interrupt input',
  analog: 'analog input',
  'analog-output': 'analog output',
};

/** Whether a line is the one a role names, or one of those it leaves open: `Q*` is Q1 and Q12, not Q1B. */
export const lineMatches = (wanted: string, line: string): boolean => openPart(wanted, line) !== undefined;

/** What stands for the `*` of a role's line: "3" for Q3B and `Q*B`; empty when nothing is open, undefined when it does not match. */
export function openPart(wanted: string, line: string): string | undefined {
  const star = wanted.indexOf('*');
  if (star < 0) return wanted === line ? '' : undefined;
  const tail = wanted.slice(star + 1);
  const digits = line.slice(star, line.length - tail.length);
  return line.startsWith(wanted.slice(0, star)) && line.endsWith(tail) && /^\d+$/.test(digits)
    ? digits
    : undefined;
}

/** The entries of one of the plan's tables. */
export function tableOf(plan: Plan, table: PlanTable): Record<string, string> {
  const entries = plan.tables?.[table];
  if (!entries) return NOTHING;
  let found = bareTables.get(entries);
  if (!found) {
    found = bare(entries);
    bareTables.set(entries, found);
  }
  return found;
}
const NOTHING = bare<string>();
/** Keys are names of pads and rules, whatever those are called. */
const bareTables = new WeakMap<Record<string, string>, Record<string, string>>();

/** One entry; undefined when there is none, whatever the key is called. */
export const entryOf = (plan: Plan, table: PlanTable, key: string): string | undefined =>
  tableOf(plan, table)[key];

export const CODE_STYLES = ['preserving', 'from-reset'] as const;
export type CodeStyle = (typeof CODE_STYLES)[number];
