import { type DeviceDescription, PAD_KINDS, type Package, type Pad, type PadFunction } from './types';

/**
 * A datum changed where the document is wrong. The original stays in the description; corrections are laid over it when the
 * description is loaded, in order, and each only where it finds what its author saw.
 */
export interface Correction {
  id: string;
  /** Which datum, as a path of words: see {@link WHAT}. */
  what: string[];
  /** What the document says; null when it says nothing there. */
  from: string | null;
  /** What is right; null when there should be nothing. */
  to: string | null;
  why: string;
  who: string;
  /** Date and time, ISO 8601. */
  when: string;
}

/** The data that can be corrected, with the words of their path. */
export const WHAT = [
  { path: ['terminal', 'package', 'terminal'], title: 'pad at a terminal', value: 'pad' },
  { path: ['function', 'pad', 'signal'], title: 'mux code of a signal on a pad', value: 'code, or "analog"' },
  { path: ['pad', 'pad', 'field'], title: 'field of a pad', value: 'text' },
  {
    path: ['peripheral', 'peripheral', 'highestHertz'],
    title: 'highest rate of a peripheral',
    value: 'hertz',
  },
  { path: ['class', 'class', 'toleratesVolts'], title: 'voltage a pad class tolerates', value: 'volts' },
  { path: ['supply', 'supply', 'nominalVolts'], title: 'voltage of a supply', value: 'volts' },
  { path: ['note', 'note'], title: 'text of a note', value: 'text' },
  { path: ['register', 'block.register', 'field'], title: 'field of a register', value: 'expression' },
  { path: ['field', 'field', 'field'], title: 'place of a recipe field', value: 'expression' },
] as const;

export const PAD_FIELDS = ['kind', 'port', 'bit', 'supply', 'class', 'alias', 'notes'] as const;
export const REGISTER_FIELDS = ['offset', 'bits', 'reset', 'access', 'readOnly'] as const;
export const PLACE_FIELDS = ['in', 'at', 'bits'] as const;

/** "pad B7, supply", "terminal 34 of q100": which datum, for people. */
export function whatText(what: readonly string[]): string {
  const [kind, a = '', b = ''] = what;
  switch (kind) {
    case 'terminal':
      return `terminal ${b} of ${a}`;
    case 'function':
      return `${b} on ${a}`;
    case 'note':
      return `note ${a}`;
    default:
      return `${kind} ${a}, ${words(b)}`;
  }
}

const words = (name: string): string => name.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();

const textOf = (value: unknown): string | null =>
  value === undefined || value === null ? null : String(value);

/** What a description says at a path; null when nothing; undefined when there is no such place. */
export function readDatum(device: DeviceDescription, what: readonly string[]): string | null | undefined {
  const [kind, a = '', b = ''] = what;
  switch (kind) {
    case 'terminal': {
      const pkg = device.packages.find((one) => one.id === a);
      return pkg ? (pkg.terminals[b] ?? null) : undefined;
    }
    case 'function': {
      if (!device.pads.some((pad) => pad.id === a)) return undefined;
      const codes = device.functions
        .filter((fn) => fn.pad === a && fn.signal === b)
        .map((fn) => (fn.mux === null ? 'analog' : String(fn.mux)));
      return codes.length === 0 ? null : codes.join(' ');
    }
    case 'pad': {
      const pad = device.pads.find((one) => one.id === a);
      return pad && readPadField(pad, b);
    }
    case 'peripheral': {
      const found = device.peripherals.find((one) => one.id === a);
      return found && b === 'highestHertz' ? textOf(found.highestHertz) : undefined;
    }
    case 'class': {
      const found = device.padClasses[a];
      return found && b === 'toleratesVolts' ? textOf(found.toleratesVolts) : undefined;
    }
    case 'supply': {
      const found = device.supplies.find((one) => one.id === a);
      return found && b === 'nominalVolts' ? textOf(found.nominalVolts) : undefined;
    }
    case 'note':
      return Object.hasOwn(device.notes, a) ? (device.notes[a] ?? null) : undefined;
    case 'register': {
      const found = registerAt(device, a);
      if (!found || !isOneOf(REGISTER_FIELDS, b)) return undefined;
      const value = found[b];
      return typeof value === 'object' ? JSON.stringify(value) : textOf(value);
    }
    case 'field': {
      const found = device.recipe.fields[a];
      return found && !found.parts && isOneOf(PLACE_FIELDS, b) ? textOf(found[b]) : undefined;
    }
    default:
      return undefined;
  }
}

const isOneOf = <T extends string>(list: readonly T[], word: string): word is T =>
  (list as readonly string[]).includes(word);

function registerAt(device: DeviceDescription, path: string) {
  const dot = path.indexOf('.');
  const block = device.recipe.registers.blocks.find((one) => one.id === path.slice(0, dot));
  return block?.registers.find((one) => one.id === path.slice(dot + 1));
}

function readPadField(pad: Pad, field: string): string | null | undefined {
  switch (field) {
    case 'kind':
    case 'port':
    case 'bit':
    case 'supply':
    case 'class':
      return textOf(pad[field]);
    case 'alias':
      return pad.aliases?.join(' ') ?? null;
    case 'notes':
      return pad.notes?.join(' ') ?? null;
    default:
      return undefined;
  }
}

/** Why a value cannot stand at a path; undefined when it can. Names of other things must exist. */
export function whyNotValue(
  device: DeviceDescription,
  what: readonly string[],
  value: string | null,
): string | undefined {
  const [kind, a = '', b = ''] = what;
  if (readDatum(device, what) === undefined) return `there is no ${whatText(what)}`;
  const isNumber = value !== null && /^\d+(\.\d+)?$/.test(value);
  switch (kind) {
    case 'terminal':
      return value === null || device.pads.some((pad) => pad.id === value)
        ? undefined
        : `there is no pad ${value}`;
    case 'function':
      return value === null || /^(analog|\d{1,4})( (analog|\d{1,4}))*$/.test(value)
        ? device.functions.some((fn) => fn.signal === b)
          ? undefined
          : `the part has no signal ${b}`
        : `"${value}" is no mux code`;
    case 'pad':
      return whyNotPadValue(device, b, value);
    case 'peripheral':
    case 'class':
    case 'supply':
      if (value === null) return kind === 'supply' ? 'a supply needs a voltage' : undefined;
      return isNumber ? undefined : `"${value}" is no number`;
    case 'note':
      return value === null ? 'a note needs a text' : undefined;
    case 'register':
      if (b === 'bits') return ['8', '16', '32'].includes(value ?? '') ? undefined : 'bits are 8, 16 or 32';
      if (b === 'reset' && value?.startsWith('{') && !isJson(value))
        return 'the reset values are not valid JSON';
      return b === 'offset' && value === null ? 'a register needs an offset' : undefined;
    case 'field':
      if (value === null) return `a field of the recipe needs ${b}`;
      if (b === 'bits' && !/^([1-9]|[12]\d|3[0-2])$/.test(value)) return 'bits are between 1 and 32';
      return b === 'in' && !registerAt(device, value) ? `there is no register ${value}` : undefined;
    default:
      return `there is nothing to correct at "${what.join(' ')}" (${a})`;
  }
}

function isJson(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}

function whyNotPadValue(device: DeviceDescription, field: string, value: string | null): string | undefined {
  if (field === 'kind')
    return value !== null && /^[a-z-]+$/.test(value) && KINDS.includes(value)
      ? undefined
      : `a pad's kind is one of ${KINDS.join(', ')}`;
  if (value === null) return undefined;
  if (field === 'port' && !device.recipe.ports[value]) return `there is no port ${value}`;
  if (field === 'bit' && !/^\d{1,2}$/.test(value)) return `"${value}" is no bit number`;
  if (field === 'supply' && !device.supplies.some((one) => one.id === value))
    return `there is no supply ${value}`;
  if (field === 'class' && !device.padClasses[value]) return `there is no pad class ${value}`;
  const missing = field === 'notes' && value.split(/\s+/).find((note) => device.notes[note] === undefined);
  return missing ? `there is no note ${missing}` : undefined;
}

const KINDS: readonly string[] = PAD_KINDS;

/** The description with another value at a path, sharing all that stays. The value must be right ({@link whyNotValue}). */
export function writeDatum(
  device: DeviceDescription,
  what: readonly string[],
  value: string | null,
): DeviceDescription {
  const [kind, a = '', b = ''] = what;
  switch (kind) {
    case 'terminal':
      return {
        ...device,
        packages: device.packages.map((one) => (one.id === a ? withTerminal(one, b, value) : one)),
      };
    case 'function':
      return { ...device, functions: withCodes(device, a, b, value) };
    case 'pad':
      return {
        ...device,
        pads: device.pads.map((one) => (one.id === a ? withPadField(one, b, value) : one)),
      };
    case 'peripheral':
      return {
        ...device,
        peripherals: device.peripherals.map((one) =>
          one.id === a ? withKey(one, 'highestHertz', value === null ? undefined : Number(value)) : one,
        ),
      };
    case 'class': {
      const old = device.padClasses[a];
      if (!old) return device;
      const next = withKey(old, 'toleratesVolts', value === null ? undefined : Number(value));
      return { ...device, padClasses: { ...device.padClasses, [a]: next } };
    }
    case 'supply':
      return {
        ...device,
        supplies: device.supplies.map((one) =>
          one.id === a ? { ...one, nominalVolts: Number(value) } : one,
        ),
      };
    case 'note':
      return { ...device, notes: { ...device.notes, [a]: value ?? '' } };
    case 'register':
      return withRegisterField(device, a, b, value);
    case 'field': {
      const old = device.recipe.fields[a];
      const next = { ...old, [b]: b === 'bits' ? Number(value) : (value ?? '') };
      return { ...device, recipe: { ...device.recipe, fields: { ...device.recipe.fields, [a]: next } } };
    }
    default:
      return device;
  }
}

function withKey<T extends object, K extends keyof T>(item: T, key: K, value: T[K] | undefined): T {
  const { [key]: _old, ...rest } = item;
  return (value === undefined ? rest : { ...rest, [key]: value }) as T;
}

function withTerminal(pkg: Package, terminal: string, pad: string | null): Package {
  if (pad !== null) return { ...pkg, terminals: { ...pkg.terminals, [terminal]: pad } };
  const { [terminal]: _gone, ...terminals } = pkg.terminals;
  return { ...pkg, terminals };
}

function withCodes(device: DeviceDescription, pad: string, signal: string, value: string | null) {
  const isIt = (fn: PadFunction): boolean => fn.pad === pad && fn.signal === signal;
  // What the recipe knows of the signal elsewhere (its input number, say) goes along with it to a new pad.
  const model = device.functions.find(isIt) ?? device.functions.find((fn) => fn.signal === signal);
  const made = (value === null ? [] : value.split(' ')).map(
    (code): PadFunction => ({
      ...(model ?? {}),
      pad,
      signal,
      mux: code === 'analog' ? null : Number(code),
    }),
  );
  const rest = device.functions.filter((fn) => !isIt(fn));
  // Within the pad in the order of the codes, as a table has them.
  const code = (fn: PadFunction | undefined): number => fn?.mux ?? Number.POSITIVE_INFINITY;
  const after = rest.findIndex((fn) => fn.pad === pad && code(fn) > code(made[0]));
  const lastOfPad = rest.findLastIndex((fn) => fn.pad === pad);
  const position = after >= 0 ? after : lastOfPad >= 0 ? lastOfPad + 1 : rest.length;
  return [...rest.slice(0, position), ...made, ...rest.slice(position)];
}

function withPadField(pad: Pad, field: string, value: string | null): Pad {
  const list = value === null ? undefined : value.split(/\s+/).filter(Boolean);
  switch (field) {
    case 'alias':
      return withKey(pad, 'aliases', list);
    case 'notes':
      return withKey(pad, 'notes', list);
    case 'bit':
      return withKey(pad, 'bit', value === null ? undefined : Number(value));
    case 'kind':
      return { ...pad, kind: value as Pad['kind'] };
    default:
      return withKey(pad, field as 'port' | 'supply' | 'class', value ?? undefined);
  }
}

function withRegisterField(device: DeviceDescription, path: string, field: string, value: string | null) {
  const found = registerAt(device, path);
  const parsed = field === 'bits' ? Number(value) : value?.startsWith('{') ? JSON.parse(value) : value;
  const { registers } = device.recipe;
  const blocks = registers.blocks.map((block) => ({
    ...block,
    registers: block.registers.map((one) =>
      one === found
        ? withKey(one, field as (typeof REGISTER_FIELDS)[number], parsed === null ? undefined : parsed)
        : one,
    ),
  }));
  return { ...device, recipe: { ...device.recipe, registers: { ...registers, blocks } } };
}

/** A correction that could not be laid over, and why. */
export interface Unapplied {
  correction: Correction;
  /** `settled`: the description says by itself what the correction wanted. */
  kind: 'settled' | 'changed' | 'gone' | 'refused';
  why: string;
}

/** Lays corrections over a description. Those that do not find what they correct are reported and change nothing. */
export function applyCorrections(
  device: DeviceDescription,
  corrections: readonly Correction[],
): { description: DeviceDescription; unapplied: Unapplied[] } {
  let description = device;
  const unapplied: Unapplied[] = [];
  for (const correction of corrections) {
    const problem = whyUnapplied(description, correction);
    if (problem) unapplied.push({ correction, ...problem });
    else description = writeDatum(description, correction.what, correction.to);
  }
  return { description, unapplied };
}

function whyUnapplied(
  device: DeviceDescription,
  { what, from, to }: Correction,
): Pick<Unapplied, 'kind' | 'why'> | undefined {
  const now = readDatum(device, what);
  if (now === undefined) return { kind: 'gone', why: `the description has no ${whatText(what)} any more` };
  const say = (value: string | null): string => (value === null ? 'nothing' : `"${value}"`);
  if (now === to)
    return { kind: 'settled', why: `the description itself says ${say(to)} now; the correction can go` };
  if (now !== from)
    return { kind: 'changed', why: `the description says ${say(now)} now, no longer ${say(from)}` };
  const refused = whyNotValue(device, what, to);
  return refused === undefined ? undefined : { kind: 'refused', why: refused };
}
