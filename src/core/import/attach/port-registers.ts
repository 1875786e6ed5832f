import { smallest } from '../../base/lists';
import type { FileRegister, RegisterFile } from '../../description/register-file';

/** Where the same register is for each port, or for each pad, under one name with a hole in it. */
export interface RegisterFamily {
  /** `PORT{}.MODE`: the hole is where the port's or pad's name stands. */
  template: string;
  /** Name as an identifier, without the peripheral's prefix. */
  id: string;
  each: 'port' | 'pad';
  description: string;
  bits: 8 | 16 | 32;
  access: FileRegister['access'];
  /** What writing it does beside storing, where the file says so of it or of all its fields. */
  writes?: FileRegister['writes'];
  /** Reading it changes something. */
  readActs: boolean;
  members: Map<string, Member>;
}

export interface Member {
  address: number;
  reset: number;
  register: FileRegister;
}

interface Found {
  peripheral: string;
  base: number;
  register: FileRegister;
}

const HOLE = '{}';

/**
 * Registers that a file repeats for each port (or each pad), whether the port's name or its number stands in the peripheral's
 * name, a cluster's or the register's own. Families that reach most of the ports come first.
 */
export function registerFamilies(
  file: RegisterFile,
  ports: readonly string[],
  pads: readonly string[],
): RegisterFamily[] {
  const all: Found[] = file.peripherals.flatMap(({ name, base, registers }) =>
    registers.map((register) => ({ peripheral: name, base, register })),
  );
  const byPort = familiesBy(all, ports, 'port', (port, index) => [port, String(index)]);
  const byPad = familiesBy(all, pads, 'pad', (pad) => [pad]);
  const reach = (one: RegisterFamily): number =>
    one.members.size / (one.each === 'port' ? ports.length : pads.length);
  return [...byPort, ...byPad]
    .filter((one) => reach(one) > 0.6)
    .sort((a, b) => reach(b) - reach(a) || firstAddress(a) - firstAddress(b));
}

export const firstAddress = (family: RegisterFamily): number =>
  smallest([...family.members.values()].map((one) => one.address));

function familiesBy(
  all: readonly Found[],
  keys: readonly string[],
  each: RegisterFamily['each'],
  wordsOf: (key: string, index: number) => string[],
): RegisterFamily[] {
  if (keys.length === 0) return [];
  const groups = new Map<string, Map<string, Found>>();
  const words = keys.map((key, index) => ({ key, words: wordsOf(key, index) }));
  for (const found of all) {
    const full = `${found.peripheral}.${found.register.name}`;
    for (const { key, words: own } of words) {
      own.forEach((word, kind) => {
        for (let at = full.indexOf(word); at >= 0; at = full.indexOf(word, at + 1)) {
          // A port called "1" is not meant by the 1 in "12", nor a pad "A1" by "A12".
          const after = full[at + word.length] ?? '';
          const before = full[at - 1] ?? '';
          if (/\d$/.test(word) && /\d/.test(after)) continue;
          if (/^\d/.test(word) && /\d/.test(before)) continue;
          const template = `${full.slice(0, at)}${HOLE}${full.slice(at + word.length)}`;
          const group = groups.get(`${kind} ${template}`) ?? new Map<string, Found>();
          group.set(key, found);
          groups.set(`${kind} ${template}`, group);
        }
      });
    }
  }
  const families = [...groups].flatMap(([key, members]): RegisterFamily[] => {
    const enough = keys.length === 1 ? 1 : 2;
    const distinct = new Set([...members.values()].map((one) => one.base + one.register.offset));
    // The same register under two keys is no family.
    if (members.size < enough || distinct.size !== members.size) return [];
    const template = key.slice(key.indexOf(' ') + 1);
    const [first] = members.values();
    if (!first) return [];
    const { register } = first;
    const bits = register.bits === 8 || register.bits === 16 ? register.bits : 32;
    return [
      {
        template,
        id: idOf(template),
        each,
        description: register.description,
        bits,
        access: register.access,
        ...(effectOf(register) ? { writes: effectOf(register) } : {}),
        readActs: register.reads !== undefined || register.fields.some(({ reads }) => reads !== undefined),
        members: new Map(
          [...members].map(([name, one]) => [
            name,
            { address: one.base + one.register.offset, reset: one.register.reset, register: one.register },
          ]),
        ),
      },
    ];
  });
  return withoutDoubles(families);
}

/** What writing a register does: as said of it, or of all its fields alike. */
function effectOf(register: FileRegister): FileRegister['writes'] {
  const [first] = register.fields;
  return (
    register.writes ??
    (register.fields.every((one) => one.writes === first?.writes) ? first?.writes : undefined)
  );
}

/** One register belongs to one family: the one that reaches more, the rest (a 0 in a name by chance) falls away. */
function withoutDoubles(families: RegisterFamily[]): RegisterFamily[] {
  const taken = new Set<FileRegister>();
  const sorted = [...families].sort((a, b) => b.members.size - a.members.size);
  return sorted.filter((family) => {
    const registers = [...family.members.values()].map((one) => one.register);
    // Registers of derived peripherals are shared objects, so a family holds the same one several times.
    const own = new Set(registers);
    if ([...own].every((one) => taken.has(one)) && own.size > 1) return false;
    for (const one of own) if (own.size > 1) taken.add(one);
    return true;
  });
}

/** `PORT{}.MODE` → `MODE`, `DIR_{}` → `DIR`. */
export function idOf(template: string): string {
  const dot = template.indexOf('.');
  const own = template.slice(dot + 1);
  const name = own
    .replace(HOLE, '')
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '');
  const usable = name || template.slice(0, dot).replace(HOLE, '').replace(/\W+/g, '_');
  return /^[A-Za-z_]/.test(usable) ? usable : `R${usable}`;
}
