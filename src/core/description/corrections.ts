import { whyNoSuch } from './references';
import { type Correction, type DeviceDescription, PAD_KINDS, type Pad, type PadFunction } from './types';

/**
 * One kind of datum that can be corrected: how it is called, and how it is read, checked and written. The path of a correction is the
 * kind's name and the words that say which one is meant.
 */
interface Lens {
  /** Words of the path behind the kind's name, as they are asked for. */
  path: readonly string[];
  title: string;
  /** What is to be typed. */
  value: string;
  /** "pad B7, supply": which one, for people. */
  words(a: string, b: string): string;
  /** What the description says; null when nothing; undefined when there is no such place. */
  read(device: DeviceDescription, a: string, b: string): string | null | undefined;
  /** Why a value cannot stand there; undefined when it can. */
  check(device: DeviceDescription, a: string, b: string, value: string | null): string | undefined;
  /** The description with another value, which has been checked; it shares all that stays. */
  write(device: DeviceDescription, a: string, b: string, value: string | null): DeviceDescription;
}

export const PAD_FIELDS = ['kind', 'port', 'bit', 'supply', 'class', 'alias', 'notes'] as const;
export const REGISTER_FIELDS = ['offset', 'bits', 'reset', 'access', 'readOnly'] as const;
export const PLACE_FIELDS = ['in', 'at', 'bits'] as const;

const spaced = (name: string): string => name.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();

const textOf = (value: unknown): string | null =>
  value === undefined || value === null ? null : String(value);

const isOneOf = <T extends string>(list: readonly T[], word: string): word is T =>
  (list as readonly string[]).includes(word);

const numberOf = (value: string | null): number | undefined => (value === null ? undefined : Number(value));
const whyNoNumber = (value: string | null): string | undefined =>
  value === null || /^\d+(\.\d+)?$/.test(value) ? undefined : `"${value}" is no number`;

/** A list with the items of an id changed. */
const withItem = <T extends { id: string }>(list: readonly T[], id: string, change: (item: T) => T): T[] =>
  list.map((one) => (one.id === id ? change(one) : one));

/** A record with a key, or without it. */
function withKey<T extends object, K extends keyof T>(item: T, key: K, value: T[K] | undefined): T {
  const { [key]: _old, ...rest } = item;
  return (value === undefined ? rest : { ...rest, [key]: value }) as T;
}

/** How a field of a pad is written as a text, checked, and read out of one. */
const PAD_LENSES: Record<
  (typeof PAD_FIELDS)[number],
  {
    read(pad: Pad): string | null;
    check(device: DeviceDescription, value: string): string | undefined;
    write(pad: Pad, value: string | null): Pad;
  }
> = {
  kind: {
    read: (pad) => pad.kind,
    check: (_device, value) =>
      isOneOf(PAD_KINDS, value) ? undefined : `a pad's kind is one of ${PAD_KINDS.join(', ')}`,
    write: (pad, value) => ({ ...pad, kind: value as Pad['kind'] }),
  },
  port: {
    read: (pad) => textOf(pad.port),
    check: (device, value) => whyNoSuch(device, 'port', value),
    write: (pad, value) => withKey(pad, 'port', value ?? undefined),
  },
  bit: {
    read: (pad) => textOf(pad.bit),
    check: (_device, value) => (/^\d{1,2}$/.test(value) ? undefined : `"${value}" is no bit number`),
    write: (pad, value) => withKey(pad, 'bit', numberOf(value)),
  },
  supply: {
    read: (pad) => textOf(pad.supply),
    check: (device, value) => whyNoSuch(device, 'supply', value),
    write: (pad, value) => withKey(pad, 'supply', value ?? undefined),
  },
  class: {
    read: (pad) => textOf(pad.class),
    check: (device, value) => whyNoSuch(device, 'pad class', value),
    write: (pad, value) => withKey(pad, 'class', value ?? undefined),
  },
  alias: {
    read: (pad) => pad.aliases?.join(' ') ?? null,
    check: () => undefined,
    write: (pad, value) => withKey(pad, 'aliases', wordsOf(value)),
  },
  notes: {
    read: (pad) => pad.notes?.join(' ') ?? null,
    check: (device, value) =>
      value
        .split(/\s+/)
        .map((note) => whyNoSuch(device, 'note', note))
        .find((why) => why !== undefined),
    write: (pad, value) => withKey(pad, 'notes', wordsOf(value)),
  },
};

const wordsOf = (value: string | null): string[] | undefined => value?.split(/\s+/).filter(Boolean);

const LENSES = {
  pin: {
    path: ['package', 'pin'],
    title: 'pad at a pin',
    value: 'pad',
    words: (pkg, pin) => `pin ${pin} of ${pkg}`,
    read(device, id, pin) {
      const pkg = device.packages.find((one) => one.id === id);
      return pkg && (pkg.pins[pin] ?? null);
    },
    check: (device, _pkg, _pin, pad) => (pad === null ? undefined : whyNoSuch(device, 'pad', pad)),
    write: (device, pkg, pin, pad) => ({
      ...device,
      packages: withItem(device.packages, pkg, (one) => ({
        ...one,
        pins: withKey(one.pins, pin, pad ?? undefined),
      })),
    }),
  },
  function: {
    path: ['pad', 'signal'],
    title: 'mux code of a signal on a pad',
    value: 'code, or "analog"',
    words: (pad, signal) => `${signal} on ${pad}`,
    read(device, pad, signal) {
      if (whyNoSuch(device, 'pad', pad)) return undefined;
      const codes = device.functions
        .filter((fn) => fn.pad === pad && fn.signal === signal)
        .map((fn) => (fn.mux === null ? 'analog' : String(fn.mux)));
      return codes.length === 0 ? null : codes.join(' ');
    },
    check: (device, _pad, signal, value) =>
      value === null || /^(analog|\d{1,4})( (analog|\d{1,4}))*$/.test(value)
        ? whyNoSuch(device, 'signal', signal)
        : `"${value}" is no mux code`,
    write: (device, pad, signal, value) => ({ ...device, functions: withCodes(device, pad, signal, value) }),
  },
  pad: {
    path: ['pad', 'field'],
    title: 'field of a pad',
    value: 'text',
    words: (pad, field) => `pad ${pad}, ${spaced(field)}`,
    read(device, id, field) {
      const pad = device.pads.find((one) => one.id === id);
      return pad && isOneOf(PAD_FIELDS, field) ? PAD_LENSES[field].read(pad) : undefined;
    },
    check(device, _pad, field, value) {
      if (!isOneOf(PAD_FIELDS, field)) return undefined;
      // A pad always is something; everything else may be left open.
      if (value === null) return field === 'kind' ? PAD_LENSES.kind.check(device, '') : undefined;
      return PAD_LENSES[field].check(device, value);
    },
    write: (device, id, field, value) => ({
      ...device,
      pads: withItem(device.pads, id, (pad) =>
        isOneOf(PAD_FIELDS, field) ? PAD_LENSES[field].write(pad, value) : pad,
      ),
    }),
  },
  peripheral: {
    path: ['peripheral', 'highestHertz'],
    title: 'highest rate of a peripheral',
    value: 'hertz',
    words: (id, field) => `peripheral ${id}, ${spaced(field)}`,
    read(device, id, field) {
      const found = device.peripherals.find((one) => one.id === id);
      return found && field === 'highestHertz' ? textOf(found.highestHertz) : undefined;
    },
    check: (_device, _id, _field, value) => whyNoNumber(value),
    write: (device, id, _field, value) => ({
      ...device,
      peripherals: withItem(device.peripherals, id, (one) => withKey(one, 'highestHertz', numberOf(value))),
    }),
  },
  class: {
    path: ['class', 'toleratesVolts'],
    title: 'voltage a pad class tolerates',
    value: 'volts',
    words: (id, field) => `class ${id}, ${spaced(field)}`,
    read(device, id, field) {
      const found = Object.hasOwn(device.padClasses, id) ? device.padClasses[id] : undefined;
      return found && field === 'toleratesVolts' ? textOf(found.toleratesVolts) : undefined;
    },
    check: (_device, _id, _field, value) => whyNoNumber(value),
    write(device, id, _field, value) {
      const old = device.padClasses[id];
      if (!old) return device;
      const next = withKey(old, 'toleratesVolts', numberOf(value));
      return { ...device, padClasses: { ...device.padClasses, [id]: next } };
    },
  },
  supply: {
    path: ['supply', 'nominalVolts'],
    title: 'voltage of a supply',
    value: 'volts',
    words: (id, field) => `supply ${id}, ${spaced(field)}`,
    read(device, id, field) {
      const found = device.supplies.find((one) => one.id === id);
      return found && field === 'nominalVolts' ? textOf(found.nominalVolts) : undefined;
    },
    check: (_device, _id, _field, value) =>
      value === null ? 'a supply needs a voltage' : whyNoNumber(value),
    write: (device, id, _field, value) => ({
      ...device,
      supplies: withItem(device.supplies, id, (one) => ({ ...one, nominalVolts: Number(value) })),
    }),
  },
  note: {
    path: ['note'],
    title: 'text of a note',
    value: 'text',
    words: (id) => `note ${id}`,
    read: (device, id) => (Object.hasOwn(device.notes, id) ? (device.notes[id] ?? null) : undefined),
    check: (_device, _id, _none, value) => (value === null ? 'a note needs a text' : undefined),
    write: (device, id, _none, value) => ({ ...device, notes: { ...device.notes, [id]: value ?? '' } }),
  },
  register: {
    path: ['block.register', 'field'],
    title: 'field of a register',
    value: 'expression',
    words: (id, field) => `register ${id}, ${spaced(field)}`,
    read(device, id, field) {
      const found = registerAt(device, id);
      if (!found || !isOneOf(REGISTER_FIELDS, field)) return undefined;
      const value = found[field];
      return typeof value === 'object' ? JSON.stringify(value) : textOf(value);
    },
    check(_device, _id, field, value) {
      if (field === 'bits')
        return ['8', '16', '32'].includes(value ?? '') ? undefined : 'bits are 8, 16 or 32';
      if (field === 'reset' && value?.startsWith('{') && !isJson(value))
        return 'the reset values are not valid JSON';
      return field === 'offset' && value === null ? 'a register needs an offset' : undefined;
    },
    write: withRegisterField,
  },
  field: {
    path: ['field', 'field'],
    title: 'place of a recipe field',
    value: 'expression',
    words: (id, field) => `field ${id}, ${spaced(field)}`,
    read(device, id, field) {
      const found = Object.hasOwn(device.recipe.fields, id) ? device.recipe.fields[id] : undefined;
      return found && !found.parts && isOneOf(PLACE_FIELDS, field) ? textOf(found[field]) : undefined;
    },
    check(device, _id, field, value) {
      if (value === null) return `a field of the recipe needs ${field}`;
      if (field === 'bits' && !/^([1-9]|[12]\d|3[0-2])$/.test(value)) return 'bits are between 1 and 32';
      return field === 'in' ? whyNoSuch(device, 'register', value) : undefined;
    },
    write(device, id, field, value) {
      const next = { ...device.recipe.fields[id], [field]: field === 'bits' ? Number(value) : (value ?? '') };
      return { ...device, recipe: { ...device.recipe, fields: { ...device.recipe.fields, [id]: next } } };
    },
  },
} as const satisfies Record<string, Lens>;

/** The data that can be corrected, with the words of their path. */
export const WHAT = (Object.keys(LENSES) as (keyof typeof LENSES)[]).map((kind) => {
  const { path, title, value }: Lens = LENSES[kind];
  return { path: [kind, ...path], title, value };
});

const lensOf = ([kind = '']: readonly string[]): Lens | undefined =>
  Object.hasOwn(LENSES, kind) ? LENSES[kind as keyof typeof LENSES] : undefined;

/** "pad B7, supply", "pin 34 of q100": which datum, for people. */
export const whatText = (what: readonly string[]): string =>
  lensOf(what)?.words(what[1] ?? '', what[2] ?? '') ?? what.join(' ');

/** What a description says at a path; null when nothing; undefined when there is no such place. */
export const readDatum = (device: DeviceDescription, what: readonly string[]): string | null | undefined =>
  lensOf(what)?.read(device, what[1] ?? '', what[2] ?? '');

/** Why a value cannot stand at a path; undefined when it can. Names of other things must exist. */
export function whyNotValue(
  device: DeviceDescription,
  what: readonly string[],
  value: string | null,
): string | undefined {
  if (readDatum(device, what) === undefined) return `there is no ${whatText(what)}`;
  return lensOf(what)?.check(device, what[1] ?? '', what[2] ?? '', value);
}

/** The description with another value at a path, sharing all that stays. The value must be right ({@link whyNotValue}). */
export const writeDatum = (
  device: DeviceDescription,
  what: readonly string[],
  value: string | null,
): DeviceDescription => lensOf(what)?.write(device, what[1] ?? '', what[2] ?? '', value) ?? device;

function registerAt(device: DeviceDescription, path: string) {
  const dot = path.indexOf('.');
  const block = device.recipe.registers.blocks.find((one) => one.id === path.slice(0, dot));
  return block?.registers.find((one) => one.id === path.slice(dot + 1));
}

function isJson(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
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

/** The value of a datum as people read it. */
export const saysText = (value: string | null): string =>
  value === null || value === '' ? 'nothing' : value;
