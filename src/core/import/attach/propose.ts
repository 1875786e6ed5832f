import { largest } from '../../base/lists';
import type { FileField, FileRegister, RegisterFile, WriteEffect } from '../../description/register-file';
import type { FieldRoleChoice, GateChoice, Proposal } from './choices';
import { type FieldPlace, placesOf } from './places';
import { type RegisterFamily, registerFamilies } from './port-registers';
import { type FieldRoleKind, ROLE_KINDS, roleKind } from './roles';
import { valuesSaid } from './value-words';

/** Looks at a register description with a part's ports in mind, and says which register could be what, and why. */
export function propose(
  file: RegisterFile,
  ports: Readonly<Record<string, number>>,
  pads: readonly string[],
): Proposal {
  const names = Object.keys(ports);
  const width = Math.max(1, largest(Object.values(ports)));
  const families = registerFamilies(file, names, pads);
  const places = placesOf(families, width);
  const taken = new Set<string>();
  const choices = ROLE_KINDS.map((kind): FieldRoleChoice => {
    const ranked = places
      .filter((place) => !taken.has(familyKey(place)))
      .map((place) => ({ place, ...weigh(kind, place, width) }))
      .filter((one) => one.score >= 4)
      .sort((a, b) => b.score - a.score);
    const best = ranked[0];
    if (best) taken.add(familyKey(best.place));
    const found = best ? valuesAt(kind, best.place) : { values: kind.values, said: false };
    const reason = best ? `${best.reason}${found.said ? '; the file lists its values' : ''}` : '';
    return { role: kind.id, place: best?.place.id ?? null, reason, ...found };
  });
  const ranked = gatesOf(file, names, families);
  const clock = ranked.find((one) => one.gate.opensAt === 1) ?? ranked[0];
  // A register that holds ports in reset is another one beside the clock's.
  const hold = ranked.find((one) => one !== clock && one.gate.opensAt === 0 && one.named);
  const chosen = [clock, hold].flatMap((one) => (one ? [one.gate] : []));
  return {
    families,
    places,
    choices: untangle(choices),
    gates: chosen,
    otherGates: ranked
      .map((one) => one.gate)
      .filter((gate) => !chosen.includes(gate))
      .slice(0, 12),
  };
}

/** The values of a role at a place: as the file lists them, or as is usual. */
export function valuesAt(kind: FieldRoleKind, place: FieldPlace): Pick<FieldRoleChoice, 'values' | 'said'> {
  const said = place.values && valuesSaid(kind, place.values);
  return { values: said ?? valuesFor(kind, place.bits), said: said !== undefined };
}

/** Only as many values as the field can hold. */
function valuesFor(kind: FieldRoleKind, bits: number): Record<string, number> {
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

const EFFECT_WORDS: Partial<Record<WriteEffect, string>> = {
  oneToSet: 'writing 1 sets',
  oneToClear: 'writing 1 clears',
  oneToToggle: 'writing 1 toggles',
};

const LATCH_WORDS = roleKind('latch').words;

/** Why a place cannot be a role's, whatever it is called; undefined when it can. */
function rulesOut(kind: FieldRoleKind, place: FieldPlace, width: number): boolean {
  const first = place.families[0];
  if (!first || !kind.bits.includes(place.bits)) return true;
  const readable = first.access !== 'write-only';
  const writable = first.access !== 'read-only' || place.setBy !== undefined;
  if (kind.access === 'read' ? first.access !== 'read-only' || place.setBy !== undefined : !writable)
    return true;
  if (kind.access === 'write' && !readable) return true;
  // Bits of a code in registers of their own; nothing else is cut up like that.
  if (place.sliced && kind.id !== 'code' && kind.id !== 'pull') return true;
  // What acts when it is written holds nothing, and what changes when it is read cannot be read to be written back.
  if (kind.access === 'write' && (first.writes !== undefined || first.readActs)) return true;
  if (kind.access === 'read' && first.readActs) return true;
  if (kind.access === 'act' && first.writes !== undefined && first.writes !== kind.effect) return true;
  // Halves are two for each pad.
  return kind.id === 'halves' && first.bits < 2 * width;
}

function weigh(kind: FieldRoleKind, place: FieldPlace, width: number): { score: number; reason: string } {
  const first = place.families[0];
  if (!first || rulesOut(kind, place, width)) return { score: 0, reason: '' };
  const readable = first.access !== 'write-only';
  const name = place.words.name.replace(/_/g, ' ').toLowerCase();
  const description = place.words.text.toLowerCase();
  const inName = kind.words.exec(name)?.[0];
  const inWords = kind.words.exec(description)?.[0];
  if (kind.not?.test(name) || kind.not?.test(description)) return { score: 0, reason: '' };
  const said = place.values && valuesSaid(kind, place.values);
  const acts =
    first.writes !== undefined && first.writes === kind.effect && LATCH_WORDS.test(`${name} ${description}`);
  let score =
    (inName ? 3 : 0) +
    (inWords ? 3 : 0) +
    (place.told ? 1 : 0) +
    (said && !kind.free ? 4 : 0) +
    (acts ? 4 : 0) -
    (place.sliceOf ? 4 : 0);
  if (place.setBy && (inName || inWords)) score += 1;
  if (inName === undefined && inWords === undefined && !acts && !(said && !kind.free)) {
    // A register of levels can only be read and says little of itself; all else needs a word.
    if (kind.access !== 'read') return { score: 0, reason: '' };
    score += 3;
  }
  if (kind.access === 'act' && !readable) score += 1;
  const word = inWords ?? inName;
  const effect = acts ? EFFECT_WORDS[first.writes as WriteEffect] : undefined;
  const rests = [
    place.shape,
    ...(word ? [`it speaks of "${word.trim()}"`] : kind.access === 'read' ? ['it can only be read'] : []),
    ...(effect ? [`the file says that ${effect}`] : []),
    ...(place.missing?.length ? [`${place.missing.length} pads have no such bit`] : []),
  ];
  return { score, reason: rests.join('; ') };
}

const GATE_WORDS = /clock|\bck\b|gate|power|\brun\b|enable/i;
const HOLD_WORDS = /held in reset|reset|\brst\b/i;
const CLOCK_WORDS = /clock|\bck\b|gate|power|\brun\b/i;

interface RankedGate {
  gate: GateChoice;
  score: number;
  /** Its bits are told by the names of their fields. */
  named: boolean;
}

/** Registers outside the ports with a bit for each port, by the names of their fields or simply by number. */
function gatesOf(
  file: RegisterFile,
  ports: readonly string[],
  families: readonly RegisterFamily[],
): RankedGate[] {
  const inFamilies = new Set<FileRegister>(
    families.flatMap((one) => [...one.members.values()].map((m) => m.register)),
  );
  const found: RankedGate[] = [];
  for (const peripheral of file.peripherals) {
    for (const register of peripheral.registers) {
      if (inFamilies.has(register) || register.access === 'read-only' || register.writes) continue;
      const bits = portBits(register, ports);
      if (!bits) continue;
      const own = `${register.name} ${register.description} ${bits.words}`.replace(/_/g, ' ');
      const spoken = GATE_WORDS.test(
        `${peripheral.name} ${peripheral.description} ${own}`.replace(/_/g, ' '),
      );
      if (!spoken && bits.score < 2) continue;
      // What a register holds in reset says so itself; a clock gate may stand in a block called "reset and clock".
      const holds = HOLD_WORDS.test(own) && !CLOCK_WORDS.test(own);
      found.push({
        gate: {
          register: `${peripheral.name}.${register.name}`,
          address: peripheral.base + register.offset,
          bits: register.bits === 8 || register.bits === 16 ? register.bits : 32,
          reset: register.reset,
          ports: bits.ports,
          opensAt: holds ? 0 : 1,
        },
        score: bits.score + (spoken ? 2 : 0),
        named: bits.score > 1,
      });
    }
  }
  return found.sort((a, b) => b.score - a.score);
}

/** A field's name that is a port's, with words for what it does around it: `A`, `PA`, `PORTA_EN`, `CKPA`. */
const namesPort = (port: string): RegExp =>
  new RegExp(
    `^(?:(?:CLK|CK|CLOCK|EN|ENABLE|GATE|RST|RESET|PWR|RUN)_?)?(?:PORT|IO|P)?_?${escapeText(port)}_?(?:CLK|CK|CLOCK|EN|ENA|ENABLE|ON|GATE|RST|RESET|PWR|RUN|_)*$`,
    'i',
  );

/** Which bit is which port's: by the field's name, else one after the other where the register has bits there. */
function portBits(
  register: FileRegister,
  ports: readonly string[],
): { ports: Record<string, number>; score: number; words: string } | undefined {
  const single = register.fields.filter((one) => one.bits === 1 && one.access !== 'read-only');
  const named = new Map<string, FileField>();
  for (const port of ports) {
    const pattern = namesPort(port);
    const field =
      single.find((one) => pattern.test(one.name)) ??
      single.find((one) =>
        new RegExp(`(^|[^A-Za-z0-9])PORT[ _]?${escapeText(port)}($|[^A-Za-z0-9])`, 'i').test(one.description),
      );
    if (field && ![...named.values()].includes(field)) named.set(port, field);
  }
  const words = [...named.values()].map((one) => `${one.name} ${one.description}`).join(' ');
  if (named.size === ports.length)
    return { ports: Object.fromEntries([...named].map(([port, { low }]) => [port, low])), score: 3, words };
  // Never a bit that the register lacks: where it has fields, those that count up are taken in order.
  if (register.fields.length > 0) {
    const counted = single.filter((one) => /\d$/.test(one.name)).sort((a, b) => a.low - b.low);
    if (counted.length !== ports.length || register.fields.length !== counted.length) return undefined;
    return {
      ports: Object.fromEntries(ports.map((port, index) => [port, (counted[index] as FileField).low])),
      score: 0,
      words: '',
    };
  }
  if (register.bits < ports.length) return undefined;
  return { ports: Object.fromEntries(ports.map((port, index) => [port, index])), score: 0, words: '' };
}

const escapeText = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
