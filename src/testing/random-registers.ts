import type { Operation } from '@/core/derive/machine/operations';
import type { HeldValue } from '@/core/description/language/held-value';
import type { RegisterSource } from '@/core/description/recipe';
import type { Device } from '@/core/device/device';
import { canRead, canWrite, fullMask, type Register } from '@/core/device/registers/types';
import type { Random } from './random';
import { loadSmall, smallPart } from './small-part';

/** Registers of all kinds by chance, and operations on them by chance. */

export const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;

/** A word and all that can act on it, flags, keys, locks, and what shows something. */
function registersByChance(random: Random): { registers: RegisterSource[]; guards: string[] } {
  const registers: RegisterSource[] = [];
  let offset = 0;
  const word = (random: Random): number => random.int(2 ** 16) * 2 ** 16 + random.int(2 ** 16);
  const add = (id: string, bits: number, more: Partial<RegisterSource> = {}): void => {
    registers.push({ id, offset: hex(offset), bits, ...more });
    offset += 4;
  };
  const maybe = <T>(value: T): T | undefined => (random.int(2) === 0 ? value : undefined);
  const given = (more: Partial<RegisterSource>): Partial<RegisterSource> =>
    Object.fromEntries(Object.entries(more).filter(([, value]) => value !== undefined));
  const mask = (bits: number): number => (word(random) & fullMask(bits)) >>> 0;
  // A word, and all that can act on it.
  const bits = random.pick([8, 16] as const);
  add(
    'OUT',
    bits,
    given({
      reset: `${hex(mask(bits))} unknown in ${hex(maybe(mask(bits)) ?? 0)}`,
      readOnly: maybe(hex(mask(bits) & mask(bits))),
      writableWhere: maybe(
        random.pick(['ALLOW', 'SHUT = 0', 'HALF by 2', 'WIDE from 16', 'WIDE from 8 = 0']),
      ),
    }),
  );
  add('ALLOW', bits);
  add('SHUT', bits, { reset: hex(mask(bits)) });
  add('HALF', bits);
  add('WIDE', 32);
  for (const kind of ['set', 'clear', 'toggle'] as const)
    add(kind.toUpperCase(), bits, { access: `${kind} of OUT` });
  add('BOTH', bits === 8 ? 16 : 32, {
    access: `${random.pick(['set and clear', 'clear and set'])} of OUT${random.pick(['', ', both set', ', both clear', ', both toggle', ', both keep'])}`,
  });
  add('MIRROR', bits, { access: 'alias of OUT' });
  const flags = mask(16);
  add(
    'FLAGS',
    16,
    given({
      clearedByOne: hex(flags),
      clearedByZero: maybe(hex((mask(16) & ~flags) >>> 0)),
      reset: hex(mask(16)),
    }),
  );
  add('PART', 32, { access: 'masked' });
  add('LOCKED', 16, { writableWhere: `LOCKED from 8${random.pick(['', ' = 0'])}`, reset: hex(mask(16)) });
  add('NEXT', 8);
  add('NOW', 8, { access: 'read' });
  add('TAKE', 8, { access: 'act copies NEXT to NOW' });
  // Keys, and what they open.
  const keys = Array.from({ length: 1 + random.int(3) }, () => hex(1 + random.int(3))).join(' then ');
  add('KEY', 8, {
    access: `key ${keys} opens SECRET${random.pick(['', ', DROP', ', NUDGE', ', BY0, BY1'])}${random.pick(['', ' once', ' for 2 writes', ' for 3 writes'])}${random.pick(['', ' unbroken'])}`,
  });
  add('SECRET', 16);
  // Two that act at one address, and one that acts on a half of a word that is held.
  const half = random.pick(['set', 'clear', 'toggle'] as const);
  add('UP', 8);
  add('DOWN', 8, { reset: hex(mask(8)) });
  add('PULL', 8, { access: `${half} of UP` });
  registers.push({
    id: 'DROP',
    offset: hex(offset - 4),
    bits: 8,
    access: `${random.pick(['set', 'clear', 'toggle'] as const)} of DOWN`,
    overlaps: 'PULL',
  });
  add('WORD', 16);
  registers.push({
    id: 'NUDGE',
    offset: hex(offset - 3),
    bits: 8,
    access: `${half} of DOWN`,
    overlaps: 'WORD',
  });
  addClauses(random, registers, add);
  // What shows something.
  const delay = random.pick(['', ' after 2 cycles', ' after 7 cycles', ' after unknown cycles']);
  add('ON', 16, {
    shows: [
      `bit 8 = bit 0${delay}`,
      `bit 9 = bit 1 inverted${random.pick(['', ' after 3 cycles'])}`,
      'bit 15 = NEXT bit 7',
    ],
  });
  add('READY', 16, {
    access: 'read',
    follows: `ON${random.pick(['', ' inverted'])}${random.pick(['', ' after 5 cycles'])}`,
  });
  return {
    registers,
    guards: random.pick([[], ['X.ON bit 8'], ['X.ON bit 9 = 0'], ['X.READY bit 2', 'X.ON bit 3']]),
  };
}

/** A value by chance over some registers, what is written where `v` is given, and numbers. */
function termByChance(random: Random, names: readonly string[], depth = 3): string {
  if (depth === 0 || random.int(5) === 0)
    return random.int(3) === 0 ? hex(random.int(256)) : random.pick(names);
  const inner = (): string => termByChance(random, names, depth - 1);
  switch (random.int(8)) {
    case 0:
      return `~(${inner()})`;
    case 1:
      return `(${inner()}) ${random.pick(['<<', '>>'])} ${random.int(9)}`;
    case 2:
      return `((${inner()}) ${random.pick(['==', '!=', '<', '>=', '>', '<='])} (${inner()}) ? ${inner()} : ${inner()})`;
    case 3:
      return `(${inner()}) ${random.pick(['+', '-'])} (${inner()})`;
    default:
      return `(${inner()}) ${random.pick(['&', '|', '^'])} (${inner()})`;
  }
}

/** Registers whose clauses are made by chance, over hidden and visible state, and a count of accesses. */
function addClauses(
  random: Random,
  registers: RegisterSource[],
  add: (id: string, bits: number, more?: Partial<RegisterSource>) => void,
): void {
  const held = ['HID', 'SIDE', 'COUNT', 'NEXT', 'UP', 'BUSY'];
  add('HID', 8, { access: 'internal', reset: hex(random.int(256)) });
  add('SIDE', 8, { access: 'internal', reset: random.pick(['unknown', '0x5A']) });
  add('BUSY', random.pick([1, 3, 8]), {
    access: 'internal',
    returnsTo: random.pick(['0 after 5 cycles', '1 after 2 cycles', '0 after unknown cycles']),
  });
  add('COUNT', 8, {
    access: 'internal',
    [random.pick(['anyAccess', 'anyWrite'])]: random.pick([
      'this := this == 0 ? 0 : this - 1',
      'this := this & 3',
      'this := 0',
    ]),
  });
  const assignment = (names: readonly string[]): string =>
    `${random.pick(['HID', 'SIDE', 'COUNT', 'UP', 'BUSY'])} ${random.pick([':=', ':=', '|=', '&=', '^='])} ${termByChance(random, names)}`;
  const simple = [
    'HID |= v',
    'HID &= ~v',
    'HID ^= v',
    'HID |= v; SIDE &= ~v',
    'COUNT := v & 3',
    'HID := v; BUSY := 1',
    'HID := HID & ~(v >> 4) | v & (v >> 4)',
  ];
  for (let k = 0; k < 4; k++) {
    const writes = random.int(2) === 0 ? random.pick(simple) : assignment([...held, 'v']);
    const second = random.int(3) === 0 ? `; SIDE := ${termByChance(random, [...held, 'v'], 2)}` : '';
    add(`BY${k}`, 8, {
      write: writes.includes('SIDE') ? writes : `${writes}${second}`,
      ...(random.int(2) === 0 ? { read: random.pick(['HID', '~HID', termByChance(random, held)]) } : {}),
      ...(random.int(3) === 0
        ? { writeWhen: random.pick(['COUNT > 0', 'SIDE & 1 == 1', 'v < 0x80', 'BUSY == 0']) }
        : {}),
    });
  }
  add('LOOK', 8, { read: termByChance(random, held), afterRead: assignment(held) });
  add('OWN', 16, {
    read: 'this',
    write: random.pick(['this := v', 'this |= v; HID := 1', 'this := v & 0xFF | this & 0xFF00']),
  });
  // One that holds a word and one whose clauses act on its upper half.
  add('BASE', 16);
  const at = Number(registers.at(-1)?.offset);
  registers.push({
    id: 'ALSO',
    offset: hex(at + 1),
    bits: 8,
    write: random.pick(simple),
    overlaps: 'BASE',
  });
}

const WRITABLE = /^(read-write|write|set|clear|toggle|set-clear|alias|masked|act|key|clauses)$/;

/** Something that is worked out of what was read. */
function heldByChance(random: Random, ids: readonly number[], mask: number): HeldValue {
  const held: HeldValue = { kind: 'held', id: random.pick(ids) };
  const number = (): HeldValue => ({ kind: 'number', value: (random.int(2 ** 16) & mask) >>> 0 });
  const bits = (operator: '&' | '|' | '^', left: HeldValue, right: HeldValue): HeldValue => ({
    kind: 'bits',
    operator,
    left,
    right,
  });
  switch (random.int(6)) {
    case 0:
      return held;
    case 1:
      return bits('^', held, number());
    case 2:
      return bits('|', bits('&', held, number()), number());
    case 3:
      return { kind: 'not', of: held };
    case 4:
      return { kind: 'shift', of: held, by: random.pick([1, 4, -1, -4]) };
    default:
      return bits(random.pick(['&', '|', '^']), held, { kind: 'held', id: random.pick(ids) });
  }
}

/** Up to 14 writes, updates, flips and waits; reads that are held, and writes of what is worked out of them. */
export function operationsByChance(device: Device, random: Random): Operation[] {
  const all = device.registers.all.filter((one) => WRITABLE.test(one.access.kind) && canWrite(one));
  const looks = device.registers.all.filter((one) => one.clauses?.afterRead);
  const value = (register: Register): number => {
    if (register.access.kind === 'key') return 1 + random.int(3);
    const any = (random.int(2 ** 16) * 2 ** 16 + random.int(2 ** 16)) >>> 0;
    return (random.pick([any, any & 0x0f0f0f0f, 0xffffffff, 1]) & fullMask(register.bits)) >>> 0;
  };
  // Of two that act at one address nobody says which of them a read shows.
  const readable = device.registers.all.filter((one) => canRead(one) && one.overlaps.length === 0);
  const ids: number[] = [];
  return Array.from({ length: 1 + random.int(14) }, (): Operation => {
    const base = { stage: 's', pads: [] };
    if (random.int(6) === 0) {
      const holds = 1 + random.int(3);
      ids.push(holds);
      return { kind: 'read', register: random.pick(readable), holds, ...base };
    }
    if (ids.length > 0 && random.int(5) === 0) {
      const register = random.pick(all);
      return {
        kind: 'write held',
        register,
        value: heldByChance(random, ids, fullMask(register.bits)),
        ...base,
      };
    }
    if (random.int(6) === 0) return { kind: 'wait', cycles: random.int(9), ...base };
    const look = looks[0];
    if (look && random.int(12) === 0)
      return { kind: 'await', register: look, mask: 0, value: 0, cycles: 1, ...base };
    // Keys and what they open come often enough to matter.
    const register =
      random.int(3) === 0
        ? random.pick(all.filter((one) => /KEY|SECRET|ON$|OUT|PULL|DROP|WORD|BY|OWN|ALSO/.test(one.name)))
        : random.pick(all);
    const isChanged =
      /^(read-write|alias)$/.test(register.access.kind) ||
      (register.access.kind === 'clauses' && register.clauses?.gives !== undefined);
    if (!isChanged || random.int(2) === 0)
      return { kind: 'write', register, value: value(register), ...base };
    // Flags beside other bits are turned by nobody: what a flip puts back would clear them.
    if (register.flagMask + register.zeroFlagMask === 0 && random.int(4) === 0)
      return { kind: 'flip', register, mask: value(register), ...base };
    const [clear, set] = [value(register), value(register)];
    return { kind: 'update', register, clear: (clear & ~set) >>> 0, set, ...base };
  });
}

/** A part of such registers, ready for work, and its description. */
export function partByChance(random: Random): { device: Device; description: ReturnType<typeof smallPart> } {
  const { registers, guards } = registersByChance(random);
  const recipe = {
    registers: {
      blocks: [{ id: 'X', base: '0x1000', registers }],
      guards: guards.map((text) => ({
        block: 'X',
        registers: ['OUT', 'FLAGS', 'PART', 'SECRET', 'BY1'],
        openWhen: text,
      })),
    },
  };
  return { device: loadSmall(recipe), description: smallPart(recipe) };
}
