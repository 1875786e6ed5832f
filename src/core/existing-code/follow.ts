import { hexText } from '../base/text/hex';
import { readRegister, storeOf } from '../derive/machine/machine';
import { bitWords, mishapText } from '../derive/machine/mishap-text';
import type { Operation, PadShare } from '../derive/machine/operations';
import { perform } from '../derive/machine/perform';
import type { Mishap } from '../derive/machine/state';
import { createMachine, type Machine, tick } from '../derive/machine/state';
import type { Device } from '../device/device';
import { eachFieldPlace, fieldPlaces } from '../device/field-places';
import { slotMask } from '../device/fields/fields';
import { blockOf, ownName } from '../device/registers/register-names';
import { fullMask, type Register } from '../device/registers/types';
import { Addresses } from './addresses';
import type { FunctionDefinition, Unit } from './c/ast';
import type { Bus, BusAccess, BusWrite } from './c/bus';
import { Memory } from './c/memory';
import { parseUnit } from './c/parse';
import { type Preprocessed, placeText, preprocess, type SourceFile } from './c/preprocess';
import { Runner } from './c/run';
import type { Place } from './c/tokens';
import { addressIn, entriesOf } from './entries';
import type { Finding, ReviewRule } from './finding';

export interface FollowOptions {
  /** Functions to begin with, in order; else those that look like initialisation. */
  entries?: readonly string[];
  /** `NAME` or `NAME=VALUE`, as given to a compiler. */
  defines?: readonly string[];
  /** Further names of registers. */
  alsoCalled?: (register: Register) => readonly string[];
}

/** A write that the code does. */
export interface CodeStep {
  operation: Operation;
  place: Place;
  register: Register;
  /** Bits of {@link store} that it changes. */
  changed: number;
  /** Where the bits are kept. */
  store: Register;
  before: number;
  after: number;
  how: BusWrite['how'];
}

/** What code does with the registers of a part, from reset on. */
export interface Followed {
  steps: CodeStep[];
  operations: Operation[];
  machine: Machine;
  findings: Finding[];
  /** The functions that it begins with, and those that it could. */
  entries: readonly string[];
  possible: readonly string[];
  /** Headers that are not among the files. */
  missing: readonly string[];
}

/** Expressions and statements that are followed, at most. */
const STEPS = 400_000;
/** Writes that are kept, at most. */
const MOST_STEPS = 20_000;

/** Follows the code of files as a compiler and the part would, without executing anything of it. */
export function followCode(
  device: Device,
  files: readonly SourceFile[],
  options: FollowOptions = {},
): Followed {
  const work = new Follower(device, options);
  const bigEndian = device.description.recipe.endian === 'big';
  const units: Unit[] = [];
  const missing = new Set<string>();
  const isHeader = ({ name }: SourceFile): boolean => /\.(h|hh|hpp|inc)$/i.test(name);
  const main = files.some((one) => !isHeader(one)) ? files.filter((one) => !isHeader(one)) : files;
  for (const file of main) {
    const expanded = preprocess(file, files, options.defines ?? []);
    const parsed = parseUnit(file.name, expanded.tokens, bigEndian);
    for (const { place, message } of [...expanded.problems, ...parsed.problems])
      work.tell('not-understood', placeOf(place), message);
    for (const one of expanded.missing) missing.add(one);
    work.lookAtMacros(expanded);
    units.push(parsed.unit);
  }
  const runner = new Runner(units, new Memory(freeRegion(device)), work, work, { steps: STEPS }, bigEndian);
  const { possible, chosen, byName } = entriesOf(units, options.entries);
  runner.start();
  for (const unit of units) if (unit.loose.length > 0) runner.loose(unit);
  for (const name of chosen) runner.call(byName.get(name) as FunctionDefinition);
  return {
    ...work.result(),
    entries: chosen,
    possible,
    missing: [...missing].filter((one) => !STANDARD.test(one)),
  };
}

/** What the standard has; everybody knows what is in them. */
const STANDARD = /^(std[a-z]+|limits|string|inttypes|assert|errno|float|iso646|math)\.h$/;

const placeOf = (text: string): Place => {
  const [, file = text, line = '1'] = /^(.*):(\d+)$/.exec(text) ?? [];
  return { file, line: Number(line), column: 1 };
};

/** Where the part has no register, for the variables of the code. */
function freeRegion(device: Device): number {
  for (let start = 0x10000000; start < 0xff000000; start += 0x1000000) {
    const taken = device.registers.all.some(
      ({ address }) => address >= start - 0x1000 && address < start + 0x1001000,
    );
    if (!taken) return start;
  }
  return 0xe0000000;
}

/** The bus of a part to the code that is followed. */
class Follower implements Bus {
  private readonly machine: Machine;
  private readonly addresses: Addresses;
  private readonly steps: CodeStep[] = [];
  private readonly operations: Operation[] = [];
  private readonly findings: Finding[] = [];
  private readonly told = new Set<string>();
  private readonly shares = new Map<Register, PadShare[]>();

  constructor(
    private readonly device: Device,
    options: FollowOptions,
  ) {
    this.machine = createMachine(device.registers, 'reset');
    this.addresses = new Addresses(device, options.alsoCalled);
    for (const { pad, slot } of eachFieldPlace(device)) {
      for (const register of new Set([slot.register, slot.through ?? slot.register])) {
        const list = this.shares.get(register) ?? [];
        list.push({ pad, mask: slotMask(slot), value: 0 });
        this.shares.set(register, list);
      }
    }
  }

  result(): Pick<Followed, 'steps' | 'operations' | 'machine' | 'findings'> {
    const { steps, operations, machine, findings } = this;
    return { steps, operations, machine, findings };
  }

  tell(
    rule: ReviewRule,
    place: Place,
    message: string,
    more: Partial<Pick<Finding, 'pads' | 'register' | 'mask'>> = {},
  ): void {
    const key = `${rule} ${placeText(place)} ${rule === 'not-understood' ? message : (more.register?.name ?? message)}`;
    if (this.told.has(key)) return;
    this.told.add(key);
    this.findings.push({ rule, place, message, pads: [], ...more });
  }

  notUnderstood(place: Place, message: string): void {
    this.tell('not-understood', place, message);
  }

  suspicious(rule: ReviewRule, place: Place, message: string): void {
    this.tell(rule, place, message);
  }

  wait(cycles: number): void {
    tick(this.machine, cycles);
    this.passed(cycles);
  }

  /** Notes that time has passed, for the proof. */
  private passed(cycles: number): void {
    const last = this.operations.at(-1);
    if (last?.kind === 'wait') last.cycles += cycles;
    else this.operations.push({ kind: 'wait', cycles, stage: '', pads: [] });
  }

  /** A macro that is called like a register and stands for an address must stand for that one. */
  lookAtMacros({ macros, expand }: Preprocessed): void {
    for (const { name, place, parameters, body } of macros.values()) {
      const register = parameters || body.length === 0 ? undefined : this.addresses.called(name);
      const address = register && addressIn(expand(name));
      if (
        !register ||
        address === undefined ||
        address === register.address ||
        address === register.documentAddress
      )
        continue;
      // Only how far into its block.
      if (address === register.address - this.addresses.baseOf(register)) continue;
      const other = this.addresses.at(address, register.bits, 'write');
      const offset = address < 0x1000 ? address : address - this.addresses.baseOf(register);
      const right = register.address - this.addresses.baseOf(register);
      if (address < 0x1000 && !sameDigits(offset, right)) continue;
      const how = sameDigits(offset, right)
        ? `: a ${offset > right ? 'decimal offset was written as hexadecimal' : 'hexadecimal offset was written as decimal'}`
        : '';
      this.tell(
        'wrong-address',
        place,
        `${name} is ${hex(address)}${other ? `, where ${other.name} is` : ''}; ${register.name} is at ${address < 0x1000 ? hex(right) : hex(register.address)} (offset ${right})${how}`,
        { register },
      );
    }
  }

  private resolve(access: BusAccess, direction: 'read' | 'write'): Register | undefined {
    const { at, bits, place, volatile } = access;
    if ('path' in at) return this.addresses.named(at.path);
    const register = this.addresses.at(at.address, bits, direction);
    if (!register) {
      const other = this.addresses.otherBase(at.address);
      if (other)
        this.tell(
          'wrong-address',
          place,
          `the part has no register at ${hex(at.address)}, offset ${hex(other.offset)} (${other.offset}); ${other.register.name} is at offset ${hex(other.meant)} (${other.meant}): one was written for the other`,
          { register: other.register },
        );
      else
        this.tell(
          'no-register',
          place,
          `the part has no register at ${hex(at.address)} that it is described with`,
        );
      return undefined;
    }
    if (!volatile)
      this.tell(
        'not-volatile',
        place,
        `${register.name} is accessed without volatile: a compiler may leave it out, or do it once instead of twice`,
        { register },
      );
    if (access.said !== undefined) this.lookAtName(access.said, place, register);
    return register;
  }

  /** The member or macro by which a register is reached says which one is meant. */
  private lookAtName(said: string, place: Place, register: Register): void {
    const meant = this.addresses.own(blockOf(register), [said]);
    if (
      !meant ||
      meant === register ||
      meant.address === register.address ||
      storeOf(meant) === storeOf(register)
    )
      return;
    if (this.addresses.own(blockOf(register), [ownName(register)]) !== register) return;
    const base = this.addresses.baseOf(register);
    const [is, should] = [register.address - base, meant.address - base];
    const why = sameDigits(is, should) ? ': one was written for the other' : '';
    this.tell(
      'wrong-address',
      place,
      `${said} is at offset ${hex(is)} (${is}) here, where ${register.name} is; ${meant.name} is at ${hex(should)} (${should})${why}`,
      { register: meant },
    );
  }

  read(access: BusAccess): ReturnType<Bus['read']> {
    const { at, place } = access;
    const register = this.resolve(access, 'read');
    if (!register) {
      if ('path' in at) {
        if (!this.addresses.isBlock(at.path))
          this.tell('not-understood', place, `${pathText(at.path)} is not in the files`);
        return undefined;
      }
      return { value: 0, known: 0, bits: access.bits ?? 32 };
    }
    const { bits, mishaps } = readRegister(this.machine, register);
    this.passed(1);
    for (const mishap of mishaps)
      this.mishap(place, { kind: 'write', register, value: 0, stage: '', pads: [], at: '' }, mishap, 'read');
    const width = access.bits ?? register.bits;
    if ('address' in at && (at.address !== register.address || width !== register.bits))
      return this.readPart(access, register, width);
    const mask = fullMask(register.bits);
    return {
      value: (bits.value & bits.known & mask) >>> 0,
      known: (bits.known & mask) >>> 0,
      bits: register.bits,
    };
  }

  /** An access that is wider or narrower than the register that it meets. */
  private readPart(access: BusAccess, first: Register, bits: 8 | 16 | 32): ReturnType<Bus['read']> {
    this.lookAtWidth(access, first, bits);
    let [value, known] = [0, 0];
    for (const { register, from, to, count } of this.parts(access, bits, 'read')) {
      const held = readRegister(this.machine, register).bits;
      const mask = fullMask(count);
      value = (value | ((((held.value & held.known) >>> from) & mask) << to)) >>> 0;
      known = (known | (((held.known >>> from) & mask) << to)) >>> 0;
    }
    return { value, known, bits };
  }

  private lookAtWidth(access: BusAccess, register: Register, bits: number): void {
    this.tell(
      'access-width',
      access.place,
      `${register.name} has ${register.bits} bits and is accessed in ${bits}`,
      { register },
    );
  }

  /** The registers that an access meets: which of their bits are which of its own. */
  private parts(
    access: BusAccess,
    bits: number,
    direction: 'read' | 'write',
  ): { register: Register; from: number; to: number; count: number }[] {
    const list: { register: Register; from: number; to: number; count: number }[] = [];
    if (!('address' in access.at)) return list;
    const start = access.at.address;
    const big = this.device.description.recipe.endian === 'big';
    for (let byte = 0; byte < bits / 8; ) {
      const register = this.addresses.at(start + byte, bits, direction);
      if (!register) {
        byte++;
        continue;
      }
      const inside = start + byte - register.address;
      const bytes = Math.min(register.bits / 8 - inside, bits / 8 - byte);
      list.push({
        register,
        from: 8 * (big ? register.bits / 8 - inside - bytes : inside),
        to: 8 * (big ? bits / 8 - byte - bytes : byte),
        count: bytes * 8,
      });
      byte += bytes;
    }
    return list;
  }

  write(access: BusWrite): void {
    const { at, place } = access;
    const register = this.resolve(access, 'write');
    if (!register) {
      if ('path' in at)
        this.tell(
          'not-understood',
          place,
          `${pathText(at.path)} is no register that is known; what is written there is left out`,
        );
      return;
    }
    const width = access.bits ?? register.bits;
    if ('address' in at && (at.address !== register.address || width !== register.bits)) {
      this.lookAtWidth(access, register, width);
      for (const part of this.parts(access, width, 'write')) {
        const mask = fullMask(part.count);
        const value = (((access.value >>> part.to) & mask) << part.from) >>> 0;
        const known = (((access.known >>> part.to) & mask) << part.from) >>> 0;
        this.writeOne(access, part.register, value, known, (mask << part.from) >>> 0);
      }
      return;
    }
    this.writeOne(access, register, access.value, access.known, fullMask(register.bits));
  }

  /** Bits that the access does not reach, or that are as they were read, stay. */
  private writeOne(
    { place, how }: BusWrite,
    register: Register,
    value: number,
    known: number,
    reached: number,
  ): void {
    const full = fullMask(register.bits);
    const own = (known & full & reached) >>> 0;
    const kept = how.sign === '|' || how.sign === '&' || how.sign === '^' || how.sign === 'field';
    const unknown = (full & reached & ~known) >>> 0;
    if (unknown !== 0 && !(kept && (how.known & unknown) >>> 0 === unknown))
      this.tell(
        'not-understood',
        place,
        `what is written to ${unknown === full ? register.name : `${bitWords(unknown, register.bits)} of ${register.name}`} is only known at run time`,
        { register },
      );
    if (own === 0) return;
    const store = storeOf(register);
    const before = held(this.machine, store);
    const base = { stage: '', pads: this.sharesOf(register, store), at: placeText(place) };
    const operation: Operation =
      own === full
        ? { kind: 'write', register, value: value >>> 0, ...base }
        : { kind: 'update', register, clear: (own & ~value) >>> 0, set: (own & value) >>> 0, ...base };
    for (const mishap of perform(this.machine, operation)) this.mishap(place, operation, mishap, 'access');
    this.operations.push(operation);
    const after = held(this.machine, store);
    if (this.steps.length < MOST_STEPS)
      this.steps.push({
        operation,
        place,
        register,
        store,
        before,
        after,
        changed: (before ^ after) >>> 0,
        how,
      });
    this.lookAtOr(place, register, before, how);
  }

  private sharesOf(register: Register, store: Register): PadShare[] {
    return this.shares.get(store) ?? this.shares.get(register) ?? [];
  }

  private mishap(place: Place, operation: Operation, mishap: Mishap, of: 'access' | 'read'): void {
    const { reason, register, mask } = mishap;
    const rule: ReviewRule =
      reason === 'guarded'
        ? 'not-clocked'
        : reason === 'locked'
          ? 'locked'
          : reason === 'unreadable'
            ? 'not-readable'
            : 'lost-write';
    const text = mishapText(operation, 0, mishap, 'access');
    const message = of === 'read' ? text.replace('the write to', 'the read of') : text;
    const pads = operation.pads.filter((one) => (one.mask & mask) !== 0).map((one) => one.pad);
    this.tell(rule, place, message, { register, mask, pads: [...new Set(pads)] });
  }

  /** `|=` into a field of several bits that holds something already. */
  private lookAtOr(
    place: Place,
    register: Register,
    before: number,
    { sign, value, known }: BusWrite['how'],
  ): void {
    if (sign !== '|' || register.access.kind !== 'read-write') return;
    for (const { slot, pad, field } of fieldPlaces(this.device).get(register) ?? []) {
      const mask = slotMask(slot);
      const added = (value & known & mask) >>> 0;
      if (slot.bits < 2 || added === 0 || (before & mask & ~added) === 0) continue;
      const [old, now] = [(before & mask) >>> slot.low, ((before | added) & mask) >>> slot.low];
      this.tell(
        'ored-over',
        place,
        `field ${field} of ${pad} in ${register.name} holds ${old}; with ${added >>> slot.low} added to it it is ${now}: it has to be cleared first`,
        { register, mask, pads: [pad] },
      );
    }
  }
}

function held(machine: Machine, register: Register): number {
  const { storage } = register;
  if (!storage) return 0;
  return (((machine.value[storage.word] ?? 0) >>> storage.shift) & fullMask(register.bits)) >>> 0;
}

const hex = (value: number): string => hexText(value, 0);
const pathText = (path: readonly string[]): string => {
  const [first = '', ...rest] = path;
  if (first.endsWith('()')) return `${first.slice(0, -1)}${rest.join(', ')})`;
  return [first.startsWith('@') ? hex(Number(first.slice(1))) : first, ...rest]
    .join('.')
    .replaceAll('.[', '[');
};

/** `0x20` and 20: the same digits in another base. */
const sameDigits = (a: number, b: number): boolean =>
  a !== b && (a.toString(16) === String(b) || String(a) === b.toString(16));
