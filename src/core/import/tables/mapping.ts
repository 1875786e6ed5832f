/**
 * What each column of a user's table is. Roles are words so that a mapping can be kept, sent and put into a file:
 * `pin:q100`, `mux:7` and `number:sel` carry a name behind the colon.
 */
export type ColumnRole = string;

export interface Mapping {
  /** Index of the last row of the headings; -1 when there is none. */
  headerRow: number;
  /** How many rows the headings take; 1 when absent. */
  headerRows?: number;
  /** One role a column, in the grid's order. */
  roles: ColumnRole[];
  /** Where no column names the pads: how their names are made of port and bit. */
  padName?: PadName;
}

export const PAD_NAMES = ['{port}{bit}', 'P{port}{bit}', 'P{port}_{bit}'] as const;
export type PadName = (typeof PAD_NAMES)[number];

/** A role as mappings of older versions spell it, in today's word. */
export const migrateRole = (role: ColumnRole): ColumnRole => role.replace(/^terminal(?=:|$)/, 'pin');

export type TableKind = 'pinout' | 'functions';

export interface ColumnRoleChoice {
  role: ColumnRole;
  title: string;
  /** The role is followed by a name: a package, a code, a column name. */
  named?: string;
  /** May stand over several columns. */
  many?: boolean;
}

export const PINOUT_ROLES: readonly ColumnRoleChoice[] = [
  { role: 'pad', title: 'pad' },
  { role: 'pin', title: 'pin in', named: 'package', many: true },
  { role: 'kind', title: 'kind' },
  { role: 'port', title: 'port' },
  { role: 'bit', title: 'bit' },
  { role: 'supply', title: 'supply' },
  { role: 'class', title: 'class' },
  { role: 'alias', title: 'aliases', many: true },
  { role: 'boot', title: 'boot use' },
  { role: 'boot note', title: 'boot note' },
  { role: 'boot signals', title: 'boot signals' },
  { role: 'notes', title: 'notes' },
  { role: 'page', title: 'page' },
  { role: 'number', title: 'number', named: 'name', many: true },
  { role: 'ignore', title: 'leave out', many: true },
];

export const FUNCTION_ROLES: readonly ColumnRoleChoice[] = [
  { role: 'pad', title: 'pad' },
  { role: 'port', title: 'port' },
  { role: 'bit', title: 'bit' },
  { role: 'mux', title: 'mux code', named: 'code', many: true },
  { role: 'analog', title: 'no code', many: true },
  { role: 'signal', title: 'signal' },
  { role: 'code', title: 'code of the signal' },
  { role: 'notes', title: 'notes' },
  { role: 'page', title: 'page' },
  { role: 'number', title: 'number', named: 'name', many: true },
  { role: 'ignore', title: 'leave out', many: true },
];

export const rolesFor = (kind: TableKind): readonly ColumnRoleChoice[] =>
  kind === 'pinout' ? PINOUT_ROLES : FUNCTION_ROLES;

/** `pin:q100` → `pin`, `q100`. */
export function splitRole(role: ColumnRole): [base: string, name: string] {
  const colon = role.indexOf(':');
  return colon < 0 ? [role, ''] : [role.slice(0, colon), role.slice(colon + 1)];
}

/** What can be wrong with a mapping as such; empty when it can be used. */
export function mappingProblems(kind: TableKind, mapping: Mapping): string[] {
  const choices = rolesFor(kind);
  const problems: string[] = [];
  const count = (base: string): number => mapping.roles.filter((role) => splitRole(role)[0] === base).length;
  const seen = new Set<string>();
  for (const role of mapping.roles) {
    const [base, name] = splitRole(role);
    const choice = choices.find((one) => one.role === base);
    if (!choice) problems.push(`"${role}" is no role of a column`);
    else if (choice.named && name === '') problems.push(`"${choice.title}" needs a ${choice.named}`);
    else if (base === 'mux' && !/^\d{1,4}$/.test(name)) problems.push(`"${name}" is no mux code`);
    else if (base !== 'ignore' && base !== 'alias' && base !== 'analog' && seen.has(role))
      problems.push(`two columns are "${choice.title}${name ? ` ${name}` : ''}"`);
    seen.add(role);
  }
  if (count('pad') === 0 && (count('port') === 0 || count('bit') === 0))
    problems.push('no column says which pad a row is about, nor do two say its port and bit');
  if (kind === 'pinout' && count('pin') === 0) problems.push('no column has the pins of a package');
  if (kind === 'functions' && count('mux') + count('analog') + count('signal') === 0)
    problems.push('no column has signals');
  return problems;
}

/** Equal for tables with the same headings: under this key a mapping is remembered. */
export const signatureOf = (kind: TableKind, headings: readonly string[]): string =>
  `${kind}:${headings.map((one) => one.trim().toLowerCase()).join('|')}`.slice(0, 2000);
