import type { FileRegister, RegisterFile } from '../formats/svd/types';
import { type Place, placesOf } from './places';
import { type RegisterFamily, registerFamilies } from './port-registers';

/** What a field of the port hardware can be for. */
export interface RoleKind {
  id: RoleId;
  title: string;
  /** Names of the values, with what they most often are. Empty for roles whose values are fixed. */
  values: Record<string, number>;
  /** Values may be named by the user (a part's own drive strengths). */
  free?: true;
  bits: readonly number[];
  access: 'write' | 'read' | 'act';
  words: RegExp;
  /** Words that speak against it. */
  not?: RegExp;
}

export const ROLE_IDS = [
  'mode',
  'direction',
  'function',
  'code',
  'analog',
  'digital',
  'pull',
  'pull-up',
  'pull-down',
  'latch',
  'set',
  'clear',
  'level',
  'buffer',
  'drive',
  'slew',
  'threshold',
] as const;
export type RoleId = (typeof ROLE_IDS)[number];

export const ROLE_KINDS: readonly RoleKind[] = [
  {
    id: 'mode',
    title: 'what the pad is used as',
    values: { input: 0, output: 1, function: 2, analog: 3 },
    bits: [2, 3, 4],
    access: 'write',
    words: /\bmode|\buse\b|used as/,
    not: /function code|mux/,
  },
  {
    id: 'direction',
    title: 'direction',
    values: { input: 0, output: 1 },
    bits: [1],
    access: 'write',
    words: /direction|output enable|\bdir|\boe\b|driver on/,
  },
  {
    id: 'code',
    title: 'function code',
    values: {},
    bits: [2, 3, 4, 5, 6, 7, 8],
    access: 'write',
    words: /function|mux|code|route|\bfn\d*\b|alternate|select/,
  },
  {
    id: 'function',
    title: 'function instead of plain port',
    values: { plain: 0, function: 1 },
    bits: [1],
    access: 'write',
    words: /function|alternate|\balt\b/,
    not: /code/,
  },
  {
    id: 'analog',
    title: 'analog switch',
    values: { off: 0, on: 1 },
    bits: [1],
    access: 'write',
    words: /analog/,
    not: /digital/,
  },
  {
    id: 'digital',
    title: 'digital input stage',
    values: { off: 0, on: 1 },
    bits: [1],
    access: 'write',
    words: /digital/,
  },
  {
    id: 'pull',
    title: 'pull',
    values: { none: 0, up: 1, down: 2 },
    bits: [2, 3],
    access: 'write',
    words: /pull/,
  },
  {
    id: 'pull-up',
    title: 'pull-up',
    values: { off: 0, on: 1 },
    bits: [1],
    access: 'write',
    words: /pull.?up|\bup\b/,
  },
  {
    id: 'pull-down',
    title: 'pull-down',
    values: { off: 0, on: 1 },
    bits: [1],
    access: 'write',
    words: /pull.?down|\bdown\b/,
  },
  {
    id: 'latch',
    title: 'output latch',
    values: {},
    bits: [1],
    access: 'write',
    words: /latch|output level|output data|output value|\bout\b|level driven/,
    not: /enable|direction|open/,
  },
  {
    id: 'set',
    title: 'sets latch bits',
    values: {},
    bits: [1],
    access: 'act',
    words: /\bsets?\b|outs\b|writing 1 sets/,
    not: /clears/,
  },
  {
    id: 'clear',
    title: 'clears latch bits',
    values: {},
    bits: [1],
    access: 'act',
    words: /clear|outc\b|writing 1 clears/,
  },
  {
    id: 'level',
    title: 'level at the pad',
    values: {},
    bits: [1],
    access: 'read',
    words: /level|input|\bin\b|pads/,
  },
  {
    id: 'buffer',
    title: 'push-pull or open-drain',
    values: { 'push-pull': 0, 'open-drain': 1 },
    bits: [1],
    access: 'write',
    words: /open.?drain|buffer|output type|\bopen\b/,
  },
  {
    id: 'drive',
    title: 'drive strength',
    values: { 'drive-0': 0, 'drive-1': 1, 'drive-2': 2, 'drive-3': 3 },
    free: true,
    bits: [1, 2, 3],
    access: 'write',
    words: /drive|strength|force|current/,
    not: /level driven/,
  },
  {
    id: 'slew',
    title: 'slew rate',
    values: { slow: 0, fast: 1 },
    free: true,
    bits: [1, 2],
    access: 'write',
    words: /slew|speed|edge rate/,
  },
  {
    id: 'threshold',
    title: 'input threshold',
    values: { Schmitt: 0, plain: 1 },
    free: true,
    bits: [1],
    access: 'write',
    words: /threshold|schmitt|hysteresis|\bplain\b/,
  },
];

export const roleKind = (id: RoleId): RoleKind => ROLE_KINDS.find((one) => one.id === id) as RoleKind;

/** What the user has settled on for a role: a place (null: the part has none), and which value means what. */
export interface RoleChoice {
  role: RoleId;
  place: string | null;
  values: Record<string, number>;
  /** Why it was proposed; empty for a choice by hand. */
  reason: string;
}

/** A register with a bit for each port that opens its clock. */
export interface GateChoice {
  register: string;
  address: number;
  bits: 8 | 16 | 32;
  reset: number;
  /** Bit by port. */
  ports: Record<string, number>;
  /** 1 opens; 0 opens for registers that hold ports in reset. */
  opensAt: 0 | 1;
}

export interface Proposal {
  families: RegisterFamily[];
  places: Place[];
  choices: RoleChoice[];
  gates: GateChoice[];
  /** Gates that the file offers besides. */
  otherGates: GateChoice[];
}

/** Looks at a register description with a part's ports in mind, and says which register could be what, and why. */
export function propose(
  file: RegisterFile,
  ports: Readonly<Record<string, number>>,
  pads: readonly string[],
): Proposal {
  const names = Object.keys(ports);
  const width = Math.max(1, ...Object.values(ports));
  const families = registerFamilies(file, names, pads);
  const places = placesOf(families, width);
  const taken = new Set<string>();
  const choices = ROLE_KINDS.map((kind): RoleChoice => {
    const ranked = places
      .filter((place) => !taken.has(familyKey(place)))
      .map((place) => ({ place, ...weigh(kind, place) }))
      .filter((one) => one.score >= 4)
      .sort((a, b) => b.score - a.score);
    const best = ranked[0];
    if (best) taken.add(familyKey(best.place));
    const values = best ? valuesFor(kind, best.place.bits) : kind.values;
    return { role: kind.id, place: best?.place.id ?? null, values, reason: best?.reason ?? '' };
  });
  const gates = gatesOf(file, names, families);
  return {
    families,
    places,
    choices: untangle(choices),
    gates: gates.slice(0, 1),
    otherGates: gates.slice(1, 12),
  };
}

/** Only as many values as the field can hold. */
export function valuesFor(kind: RoleKind, bits: number): Record<string, number> {
  return Object.fromEntries(Object.entries(kind.values).filter(([, value]) => value < 2 ** bits));
}

const familyKey = (place: Place): string =>
  // Fields of one word a pad are places of their own.
  place.index === 'b' || place.families[0]?.each === 'pad' ? place.id : (place.families[0]?.template ?? '');

/** A mode field makes direction and function bits needless; a two-bit pull, those of one bit. */
function untangle(choices: RoleChoice[]): RoleChoice[] {
  const has = (role: RoleId): boolean => choices.some((one) => one.role === role && one.place !== null);
  const needless = new Set<RoleId>([
    ...(has('mode') ? (['direction', 'function'] as const) : []),
    ...(has('pull') ? (['pull-up', 'pull-down'] as const) : []),
  ]);
  return choices.map((one) => (needless.has(one.role) ? { ...one, place: null, reason: '' } : one));
}

function weigh(kind: RoleKind, place: Place): { score: number; reason: string } {
  const first = place.families[0];
  if (!first || !kind.bits.includes(place.bits)) return { score: 0, reason: '' };
  const readable = first.access !== 'write-only';
  const writable = first.access !== 'read-only';
  if (kind.access === 'read' && writable) return { score: 0, reason: '' };
  if (kind.access !== 'read' && !writable) return { score: 0, reason: '' };
  if (kind.access === 'write' && !readable) return { score: 0, reason: '' };
  const name = place.words.name.replace(/_/g, ' ').toLowerCase();
  const description = place.words.text.toLowerCase();
  const inName = kind.words.exec(name)?.[0];
  const inWords = kind.words.exec(description)?.[0];
  if (kind.not?.test(name) || kind.not?.test(description)) return { score: 0, reason: '' };
  let score = (inName ? 3 : 0) + (inWords ? 3 : 0) + (place.told ? 1 : 0);
  if (inName === undefined && inWords === undefined) {
    // A register of levels can only be read and says little of itself; all else needs a word.
    if (kind.access !== 'read') return { score: 0, reason: '' };
    score += 3;
  }
  if (kind.access === 'act' && !readable) score += 1;
  const word = inWords ?? inName;
  const reason = `${place.shape}${word ? `; it speaks of "${word.trim()}"` : '; it can only be read'}`;
  return { score, reason };
}

const GATE_WORDS = /clock|gate|power|\brun\b|enable/i;
const HOLD_WORDS = /held in reset|reset/i;

/** Registers outside the ports with a bit for each port, by the names of their fields or simply by number. */
function gatesOf(
  file: RegisterFile,
  ports: readonly string[],
  families: readonly RegisterFamily[],
): GateChoice[] {
  const inFamilies = new Set<FileRegister>(
    families.flatMap((one) => [...one.members.values()].map((m) => m.register)),
  );
  const found: { gate: GateChoice; score: number }[] = [];
  for (const peripheral of file.peripherals) {
    for (const register of peripheral.registers) {
      if (inFamilies.has(register) || register.access === 'read-only') continue;
      const words = `${peripheral.name} ${peripheral.description} ${register.name} ${register.description}`;
      const spoken = GATE_WORDS.test(words.replace(/_/g, ' '));
      const bits = portBits(register, ports);
      if (!bits || (!spoken && bits.score < 2)) continue;
      found.push({
        gate: {
          register: `${peripheral.name}.${register.name}`,
          address: peripheral.base + register.offset,
          bits: register.bits === 8 || register.bits === 16 ? register.bits : 32,
          reset: register.reset,
          ports: bits.ports,
          opensAt: HOLD_WORDS.test(register.description) && !GATE_WORDS.test(register.description) ? 0 : 1,
        },
        score: bits.score + (spoken ? 2 : 0),
      });
    }
  }
  return found.sort((a, b) => b.score - a.score).map((one) => one.gate);
}

/** Which bit is which port's: by the field's name, else one after the other. */
function portBits(
  register: FileRegister,
  ports: readonly string[],
): { ports: Record<string, number>; score: number } | undefined {
  const named: Record<string, number> = {};
  for (const port of ports) {
    const field = register.fields.find(
      (one) =>
        one.bits === 1 &&
        new RegExp(`(^|[^A-Za-z0-9]|P|PORT)${escapeText(port)}($|[^A-Za-z0-9])`, 'i').test(one.name),
    );
    if (field) named[port] = field.low;
  }
  if (Object.keys(named).length === ports.length) return { ports: named, score: 3 };
  if (register.bits < ports.length) return undefined;
  if (register.fields.length > 0 && register.fields.filter((one) => one.bits === 1).length < ports.length)
    return undefined;
  return { ports: Object.fromEntries(ports.map((port, index) => [port, index])), score: 0 };
}

const escapeText = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
