import { fullMask, type Register, type RegisterMap } from './registers';

/**
 * A register machine: it knows registers, their access kinds, guards, keys and delays, and nothing about settings. It
 * can therefore contradict the encoder, which is the point of the proof.
 */
export interface Machine {
  /** Current value by {@link Register.index}. */
  values: Float64Array;
  cycle: number;
  /** How many keys of its sequence each key register has seen; open when all. */
  keysSeen: Map<Register, number>;
  /** Values that appear in a following register at a later cycle. */
  pending: { at: number; register: Register; value: number }[];
  followers: Map<Register, { register: Register; delay: number }[]>;
}

/** Why a write had no effect, or that it had one. */
export type WriteEffect = 'done' | 'guarded' | 'locked' | 'read-only' | 'reserved';

/** A machine just out of reset. */
export function createMachine(map: RegisterMap): Machine {
  const followers: Machine['followers'] = new Map();
  for (const register of map.all) {
    if (register.follows?.kind !== 'register' || !register.target) continue;
    const list = followers.get(register.target) ?? [];
    list.push({ register, delay: register.follows.afterCycles });
    followers.set(register.target, list);
  }
  return {
    values: Float64Array.from(map.all, (register) => register.reset),
    cycle: 0,
    keysSeen: new Map(),
    pending: [],
    followers,
  };
}

const guardsOpen = (machine: Machine, register: Register, access: 'read' | 'write'): boolean =>
  register.guards.every((guard) => {
    if (access === 'read' && guard.stops === 'writes') return true;
    return Math.floor((machine.values[guard.register.index] ?? 0) / 2 ** guard.bit) % 2 === guard.openAt;
  });

/** Bits of a register that its commit bits let through; all when it has none. */
function committedMask(machine: Machine, register: Register): number {
  if (!register.commit) return fullMask(register.bits);
  const { register: commit, bitsEach } = register.commit;
  const open = machine.values[commit.index] ?? 0;
  let mask = 0;
  for (let bit = 0; bit < register.bits; bit++) {
    if (Math.floor(open / 2 ** Math.floor(bit / bitsEach)) % 2 === 1) mask += 2 ** bit;
  }
  return mask;
}

const unlocked = (machine: Machine, register: Register): boolean => {
  const key = register.lockedBy;
  if (key?.access.kind !== 'key') return true;
  return machine.keysSeen.get(key) === key.access.keys.length;
};

/** Lets time pass: what follows with a delay catches up. */
export function tick(machine: Machine, cycles: number): void {
  machine.cycle += cycles;
  if (machine.pending.length === 0) return;
  const due = machine.pending.filter((change) => change.at <= machine.cycle);
  machine.pending = machine.pending.filter((change) => change.at > machine.cycle);
  for (const change of due) store(machine, change.register, change.value);
}

function store(machine: Machine, register: Register, value: number): void {
  const old = machine.values[register.index] ?? 0;
  const kept = (register.readOnlyMask | ~committedMask(machine, register)) >>> 0;
  const next = ((old & kept) | (value & ~kept & fullMask(register.bits))) >>> 0;
  machine.values[register.index] = next;
  for (const follower of machine.followers.get(register) ?? []) {
    if (follower.delay === 0) store(machine, follower.register, next);
    else
      machine.pending.push({ at: machine.cycle + follower.delay, register: follower.register, value: next });
  }
}

/** Reads a register: 0 while its block is shut off or when it can only be written. */
export function readRegister(machine: Machine, register: Register): number {
  tick(machine, 1);
  if (!guardsOpen(machine, register, 'read')) return 0;
  switch (register.access.kind) {
    case 'write':
    case 'key':
    case 'act':
    case 'internal':
      return 0;
    case 'set':
    case 'clear':
    case 'toggle':
      return register.target ? (machine.values[register.target.index] ?? 0) : 0;
    default:
      return machine.values[register.index] ?? 0;
  }
}

/** Writes a whole register and says whether the hardware took it. */
export function writeRegister(machine: Machine, register: Register, value: number): WriteEffect {
  tick(machine, 1);
  if (!guardsOpen(machine, register, 'write')) return 'guarded';
  const { access } = register;
  if (access.kind === 'read' || access.kind === 'internal') return 'read-only';
  if (access.kind === 'key') {
    const seen = machine.keysSeen.get(register) ?? 0;
    const inOrder = seen < access.keys.length && access.keys[seen] === value;
    // A wrong value closes what was open; the first key of the sequence may start it anew.
    machine.keysSeen.set(register, inOrder ? seen + 1 : access.keys[0] === value ? 1 : 0);
    return 'done';
  }
  const target = register.target ?? register;
  if (!unlocked(machine, register) || !unlocked(machine, target)) return 'locked';
  if (register.always && (value & register.always.mask) >>> 0 !== register.always.value) return 'reserved';
  const old = machine.values[target.index] ?? 0;
  switch (access.kind) {
    case 'set':
      store(machine, target, (old | value) >>> 0);
      break;
    case 'clear':
      store(machine, target, (old & ~value) >>> 0);
      break;
    case 'toggle':
      store(machine, target, (old ^ value) >>> 0);
      break;
    case 'masked': {
      const half = register.bits / 2;
      const mask = Math.floor(value / 2 ** half) & fullMask(half);
      store(machine, target, ((old & ~mask) | (value & mask)) >>> 0);
      break;
    }
    case 'act': {
      const source = register.from ? (machine.values[register.from.index] ?? 0) : 0;
      store(machine, target, ((old & ~value) | (source & value)) >>> 0);
      break;
    }
    default:
      store(machine, register, value);
  }
  shutAfterOneWrite(machine, register.lockedBy ?? target.lockedBy);
  return 'done';
}

/** A key that is good for one write is used up. */
function shutAfterOneWrite(machine: Machine, key: Register | undefined): void {
  if (key?.access.kind === 'key' && key.access.once) machine.keysSeen.set(key, 0);
}

/** A register's contents without a bus access, for looking on. */
export const contentsOf = (machine: Machine, register: Register): number =>
  machine.values[register.index] ?? 0;
