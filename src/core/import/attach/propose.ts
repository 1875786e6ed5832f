import type { FileRegister, RegisterFile } from '../svd/types';
import type { FieldRoleChoice, GateChoice, Proposal } from './choices';
import { type FieldPlace, placesOf } from './places';
import { type RegisterFamily, registerFamilies } from './port-registers';
import { type FieldRoleKind, ROLE_KINDS, roleKind } from './roles';

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
  const choices = ROLE_KINDS.map((kind): FieldRoleChoice => {
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
export function valuesFor(kind: FieldRoleKind, bits: number): Record<string, number> {
  return Object.fromEntries(Object.entries(kind.values).filter(([, value]) => value < 2 ** bits));
}

const familyKey = (place: FieldPlace): string =>
  // Fields of one word a pad are places of their own.
  place.index === 'b' || place.families[0]?.each === 'pad' ? place.id : (place.families[0]?.template ?? '');

/** Where one field does the work of several, these are not needed. */
function untangle(choices: FieldRoleChoice[]): FieldRoleChoice[] {
  const needless = new Set(
    choices.flatMap(({ role, place }) => (place === null ? [] : (roleKind(role).insteadOf ?? []))),
  );
  return choices.map((one) => (needless.has(one.role) ? { ...one, place: null, reason: '' } : one));
}

function weigh(kind: FieldRoleKind, place: FieldPlace): { score: number; reason: string } {
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
