import type { Device } from '../../device/device';
import { heldBits, type Register } from '../../device/registers/types';
import { writeRegister } from './machine';
import { mishapText } from './mishap-text';
import type { Operation } from './operations';
import { assume, type Bits, bitsOf, createMachine, type Machine, setKey } from './state';

/** The state before a write: after reset; the same with guards and keys of the register open; whatever it is. */
export type StateBefore = 'reset' | 'open' | 'every';

/** What a write does to the bits that the part holds, carried out on the machine of the proof. */
export interface WriteEffect {
  /** Registers of which a bit is another one after the write, or may be; the one that was written first. */
  changes: { register: string; cells: BitChange[] }[];
  /** What of the write is lost, and why. */
  lost: string[];
}

/** `=`: as it was, whatever that is; `?`: nobody knows. */
export type BitState = '0' | '1' | '=' | '?';

export interface BitChange {
  bit: number;
  before: BitState;
  after: BitState;
}

const stateOf = ({ known, value, was }: Bits, bit: number): BitState => {
  if (((known >>> bit) & 1) === 1) return ((value >>> bit) & 1) === 1 ? '1' : '0';
  return ((was >>> bit) & 1) === 1 ? '=' : '?';
};

function cellsOf(register: Register, before: Bits, after: Bits): BitChange[] {
  return Array.from({ length: heldBits(register) }, (_, at) => {
    const bit = heldBits(register) - 1 - at;
    return { bit, before: stateOf(before, bit), after: stateOf(after, bit) };
  });
}

const known = new WeakMap<Device, Register[]>();

/** Registers that hold bits, each place in memory once. */
function holders(device: Device): Register[] {
  const holding = known.get(device) ?? findHolders(device);
  known.set(device, holding);
  return holding;
}

const isSame = (a: Bits, b: Bits): boolean => a.known === b.known && a.value === b.value && a.was === b.was;

function findHolders(device: Device): Register[] {
  const places = new Set<string>();
  return device.registers.all.filter(({ storage, target }) => {
    if (!storage || target) return false;
    const place = `${storage.word} ${storage.shift}`;
    if (places.has(place)) return false;
    places.add(place);
    return true;
  });
}

/** Guards and keys that stand before a register, and before what it acts on, let everything through. */
function open(machine: Machine, register: Register): void {
  const concerned = register.target ? [register, register.target] : [register];
  for (const { guards, locks, commit } of concerned) {
    for (const guard of guards) assume(machine, guard.register, 1 << guard.bit, guard.openAt === 1 ? -1 : 0);
    for (const key of locks) if (key.access.kind === 'key') setKey(machine, key, 2 ** key.access.keys.length);
    if (commit) assume(machine, commit.register, -1, commit.openAt === 1 ? -1 : 0);
  }
}

export function writeEffect(
  device: Device,
  register: Register,
  value: number,
  state: StateBefore,
): WriteEffect {
  const machine: Machine = createMachine(device.registers, state === 'every' ? 'every' : 'reset');
  if (state === 'open') open(machine, register);
  const all = holders(device);
  const before = new Map(all.map((each) => [each, bitsOf(machine, each)]));
  const mishaps = writeRegister(machine, register, value >>> 0);
  const changes = all.flatMap((each) => {
    const [was, is] = [before.get(each) as Bits, bitsOf(machine, each)];
    const isWritten = each === register || each === register.target;
    return isWritten || !isSame(was, is)
      ? [{ register: each.name, cells: cellsOf(each, was, is), isWritten }]
      : [];
  });
  changes.sort((a, b) => Number(b.isWritten) - Number(a.isWritten));
  const operation: Operation = { kind: 'write', stage: '', pads: [], register, value };
  return {
    changes: changes.map(({ register: name, cells }) => ({ register: name, cells })),
    lost: mishaps.map((mishap) => mishapText(operation, 0, mishap, 'access')),
  };
}
