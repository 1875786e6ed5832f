import { smallest } from '../../base/lists';
import { PlacesByTitle } from '../../base/text/places-by-title';
import { type BitEffect, bitEffects } from '../../derive/machine/bit-effects';
import {
  type FileField,
  type FileRegister,
  maskOfBits,
  type PeripheralRegisters,
  type RegisterFile,
  type SvdAccess,
} from '../../description/register-file';
import type { Device } from '../../device/device';
import { type FieldPlace, fieldPlaces } from '../../device/field-places';
import { behaviourText } from '../../device/registers/register-text';
import { canRead, canWrite, type Register, shownMask } from '../../device/registers/types';

/**
 * A part's registers in the terms of the open register standards: one peripheral for each block instance, fields named after the pad they
 * belong to, and what each bit does when it is written or read as its clauses have it. What no standard has a word for is listed.
 */
export function registerFileOf(device: Device): RegisterFile {
  const { description } = device;
  const notes = new PlacesByTitle();
  const parts = partsOf(device);
  const blocks = new Map<string, Register[]>();
  for (const register of parts.keys()) {
    const [name] = namesOf(register);
    blocks.set(name, [...(blocks.get(name) ?? []), register]);
  }
  const peripherals = [...blocks].map(([name, registers]): PeripheralRegisters => {
    const base = smallest(registers.map(({ address }) => address));
    return {
      name,
      description: '',
      group: registers[0]?.block ?? name,
      base,
      registers: registers.map((register) => fileRegister(register, base, parts, notes)),
    };
  });
  const file: RegisterFile = {
    name: description.id,
    description: description.summary || description.name,
    width: 32,
    endian: description.recipe.endian,
    peripherals,
  };
  const notCarried = notes.lines();
  return notCarried.length > 0 ? { ...file, notCarried } : file;
}

/** Peripheral and name within it: `PA.FN0` → `PA`, `FN0`. */
const namesOf = ({ name }: Register): [peripheral: string, name: string] => {
  const [peripheral = '', ...rest] = name.split('.');
  return [peripheral, rest.join('_')];
};

const WRITE_ONLY: ReadonlySet<string> = new Set([
  'write',
  'set',
  'clear',
  'toggle',
  'set-clear',
  'strobe',
  'act',
  'key',
]);

function accessOf(register: Register): SvdAccess {
  const { kind } = register.access;
  if (kind === 'read') return 'read-only';
  if (WRITE_ONLY.has(kind)) return 'write-only';
  if (!canWrite(register)) return 'read-only';
  return canRead(register) ? 'read-write' : 'write-only';
}

/** What a register is made of: its bits joined to fields, and what is done to each bit. */
interface Parts {
  fields: Bits[];
  effects: readonly (BitEffect | undefined)[];
}

/** The parts of every register that the bus reaches. */
function partsOf(device: Device): ReadonlyMap<Register, Parts> {
  const places = fieldPlaces(device);
  const guarding = new Map<Register, number>();
  for (const { guards } of device.registers.all)
    for (const { register, bit } of guards)
      guarding.set(register, ((guarding.get(register) ?? 0) | (1 << bit)) >>> 0);
  const parts = new Map<Register, Parts>();
  for (const register of device.registers.all) {
    if (register.access.kind === 'internal') continue;
    const effects = bitEffects(device.registers, register);
    const named = namedFields(places.get(register) ?? []);
    const fields = [...named, ...unnamed(register, effects, named, guarding.get(register) ?? 0)];
    parts.set(register, { effects, fields: fields.sort((a, b) => a.low - b.low) });
  }
  return parts;
}

function namedFields(places: readonly FieldPlace[]): Bits[] {
  const taken = new Set<string>();
  return places.map(({ field, fn, pad, slot: { low, bits } }) => {
    const title = identifier(`${field}_${fn?.signal ?? pad}`);
    // Two functions of one name on one pad have a field each.
    const name = taken.has(title) ? `${title}_${low}` : title;
    taken.add(name);
    return { name, low, bits };
  });
}

function fileRegister(
  register: Register,
  base: number,
  parts: ReadonlyMap<Register, Parts>,
  notes: PlacesByTitle,
): FileRegister {
  const [, name] = namesOf(register);
  const { effects, fields } = parts.get(register) as Parts;
  const access = accessOf(register);
  const known = maskOfBits(0, register.bits) & ~register.unknownReset;
  noteConditions(register, notes);
  const guard = enabledBy(register, parts, notes);
  return {
    name,
    description: behaviourText(register) || name,
    offset: register.address - base,
    bits: register.bits,
    access,
    reset: register.reset,
    ...(register.unknownReset === 0 ? {} : { resetMask: known >>> 0 }),
    ...aliasOf(register, effects),
    fields: fields.map((bits) => ({ ...fieldOf(register, bits, effects, access, notes), ...guard })),
    line: 0,
  };
}

interface Bits {
  name: string;
  low: number;
  bits: number;
}

const identifier = (text: string): string => text.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(?=\d|$)/, '_');

/** A register whose bits are all those of another one in its block. */
function aliasOf(register: Register, effects: readonly (BitEffect | undefined)[]): { aliasOf?: string } {
  const [of, ...others] = new Set(effects.flatMap((effect) => (effect ? [effect.of] : [])));
  if (!of || others.length > 0 || namesOf(of)[0] !== namesOf(register)[0] || of.bits !== register.bits)
    return {};
  return { aliasOf: namesOf(of)[1] };
}

/** Bits that no field names, joined where they are alike: what is said of a register is said of fields, in the standards. */
function unnamed(
  register: Register,
  effects: readonly (BitEffect | undefined)[],
  named: readonly Bits[],
  guarding: number,
): Bits[] {
  const covered = named.reduce((mask, { low, bits }) => (mask | maskOfBits(low, bits)) >>> 0, 0);
  const isPulse = register.access.kind === 'strobe' || register.access.kind === 'key';
  const kindOf = (bit: number): string | undefined => {
    if ((covered >>> bit) & 1) return undefined;
    const effect = effects[bit];
    if (!effect) return isPulse || register.access.kind === 'masked' ? 'written' : undefined;
    const marks = [register.unknownReset, register.flagMask | register.zeroFlagMask, shownMask(register)];
    // A guard is a field by itself.
    const alone = (guarding >>> bit) & 1 ? bit : -1;
    return [effect.write, effect.read, alone, ...marks.map((mask) => (mask >>> bit) & 1)].join(' ');
  };
  const all: Bits[] = [];
  for (let low = 0; low < register.bits; ) {
    const kind = kindOf(low);
    let end = low + 1;
    while (end < register.bits && kindOf(end) === kind) end++;
    const isWhole = kind !== undefined && end - low > 1;
    if (kind !== undefined)
      all.push({ name: isWhole ? `bits_${end - 1}_${low}` : `bit_${low}`, low, bits: end - low });
    low = end;
  }
  return all;
}

function fieldOf(
  register: Register,
  { name, low, bits }: Bits,
  effects: readonly (BitEffect | undefined)[],
  access: SvdAccess,
  notes: PlacesByTitle,
): FileField {
  const mask = maskOfBits(low, bits);
  const of = effects.slice(low, low + bits);
  const [write, ...otherWrites] = new Set(of.map((effect) => effect?.write ?? 'nothing'));
  const [read, ...otherReads] = new Set(of.map((effect) => effect?.read ?? 'nothing'));
  if (write === 'beyond' || otherWrites.length > 0 || otherReads.length > 0)
    notes.add('bits that a write or read changes in a way without a word', register.name);
  const isRead = otherReads.length === 0 && read !== undefined && read !== 'nothing';
  const isWrite =
    otherWrites.length === 0 && write !== undefined && !['nothing', 'stores', 'beyond'].includes(write);
  const fixed = access === 'read-write' && of.every((effect) => effect?.write === 'nothing');
  const set = register.flagMask | register.zeroFlagMask;
  return {
    name,
    description: '',
    low,
    bits,
    access: fixed ? 'read-only' : access,
    ...(isWrite ? { writes: write as FileField['writes'] } : {}),
    ...(isRead ? { reads: read as FileField['reads'] } : {}),
    ...(register.access.kind === 'strobe' ? { pulse: true as const } : {}),
    ...((set & mask) >>> 0 === mask
      ? { hardware: 'sets' as const }
      : (shownMask(register) & mask) >>> 0 === mask
        ? { hardware: 'writes' as const }
        : {}),
  };
}

/** The first guard, as the field that it is; a bit within a larger field has no name. */
function enabledBy(
  register: Register,
  parts: ReadonlyMap<Register, Parts>,
  notes: PlacesByTitle,
): Pick<FileField, 'enabledBy'> {
  const [guard] = register.guards;
  if (!guard) return {};
  const field = parts.get(guard.register)?.fields.find(({ low, bits }) => low === guard.bit && bits === 1);
  if (field)
    return {
      enabledBy: { field: [...namesOf(guard.register), field.name].join('.'), openAt: guard.openAt },
    };
  notes.add('writes that a bit of a larger field lets through', register.name);
  return {};
}

/** What stands before accesses to a register, and no standard can say. */
function noteConditions(register: Register, notes: PlacesByTitle): void {
  const { guards, locks, commit, always, returns, access, clauses, name } = register;
  const [, ...more] = guards;
  if (more.length > 0) notes.add('guards beyond the first', name);
  if (guards.some(({ stops }) => stops === 'all')) notes.add('reads that a guard stops', name);
  if (access.kind === 'key') notes.add('keys', name);
  if (locks.length > 0) notes.add('writes that a key lets through', name);
  if (commit) notes.add('writes that commit bits let through', name);
  if (always) notes.add('values that every write must hold', name);
  if (returns) notes.add('bits that come back by themselves', name);
  if (access.kind === 'act') notes.add('writes that copy bits of another register', name);
  if (access.kind === 'masked') notes.add('writes of which one half says which bits are taken', name);
  if (clauses?.when) notes.add('conditions of writes', name);
  if (clauses?.anyWrite || clauses?.anyAccess) notes.add('what every access does', name);
}
