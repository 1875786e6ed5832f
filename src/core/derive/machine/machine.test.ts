import type { Register, RegisterMap } from '../../device/registers/types';
import * as machineOf from './machine';
import { perform } from './perform';
import { bitsOf, createMachine, type Machine, tick } from './state';

/** A handful of registers of every kind, linked by hand: the machine knows nothing but these. */
function build() {
  const all: Register[] = [];
  const add = (name: string, change: Partial<Register> = {}): Register => {
    const register: Register = {
      index: all.length,
      name,
      block: 'X',
      id: name,
      title: '',
      address: all.length * 4,
      bits: 16,
      reset: 0,
      unknownReset: 0,
      overlaps: [],
      levels: [],
      followers: [],
      flagMask: 0,
      zeroFlagMask: 0,
      locks: [],
      storage: { word: all.length, shift: 0 },
      access: { kind: 'read-write' },
      readOnlyMask: 0,
      guards: [],
      context: {},
      ...change,
    };
    all.push(register);
    return register;
  };
  const on = add('ON', { bits: 32 });
  const ready = add('READY', {
    bits: 32,
    access: { kind: 'read' },
    follows: { kind: 'register', register: 'ON', afterCycles: 3, inverted: false },
    target: on,
  });
  ready.followers = [
    { register: ready, mask: 0xffffffff, source: on, shift: 0, inverted: false, afterCycles: 3 },
  ];
  const out = add('OUT', { reset: 0x00f0 });
  const set = add('SET', { access: { kind: 'set', of: 'OUT' }, target: out });
  const clear = add('CLEAR', { access: { kind: 'clear', of: 'OUT' }, target: out });
  const toggle = add('TOGGLE', { access: { kind: 'toggle', of: 'OUT' }, target: out });
  const masked = add('MASKED', { bits: 32, access: { kind: 'masked' } });
  const fixed = add('FIXED', { reset: 0x8001, readOnlyMask: 0x8001 });
  const key = add('KEY', { access: { kind: 'key', keys: [0x55, 0xaa], opens: ['SECRET'], unbroken: false } });
  const secret = add('SECRET', { locks: [key] });
  const gated = add('GATED', { guards: [{ register: ready, bit: 2, openAt: 1, stops: 'all' }] });
  const map: RegisterMap = {
    all,
    words: all.length,
    byName: new Map(),
    find: () => undefined,
    endian: 'little',
    inClauses: false,
    needsFunction: () => false,
  };
  return {
    machine: createMachine(map),
    on,
    ready,
    out,
    set,
    clear,
    toggle,
    masked,
    fixed,
    key,
    secret,
    gated,
  };
}

const contentsOf = (machine: Machine, register: Register): number => bitsOf(machine, register).value;
const readRegister = (machine: Machine, register: Register): number =>
  (machineOf.readRegister(machine, register).bits.value & 0xffffffff) >>> 0;
const writeRegister = (machine: Machine, register: Register, value: number): string =>
  machineOf.writeRegister(machine, register, value)[0]?.reason ?? 'done';

const after = (machine: Machine, register: Register, value: number, look = register): number => {
  writeRegister(machine, register, value);
  return contentsOf(machine, look);
};

test('registers start with their reset values', () => {
  const { machine, out, fixed } = build();
  expect([contentsOf(machine, out), contentsOf(machine, fixed)]).toEqual([0x00f0, 0x8001]);
});

test('set, clear and toggle registers change only the bits written as 1, and read as the latch', () => {
  const { machine, out, set, clear, toggle } = build();
  expect(after(machine, set, 0x0001, out)).toBe(0x00f1);
  expect(after(machine, clear, 0x0010, out)).toBe(0x00e1);
  expect(after(machine, toggle, 0x8001, out)).toBe(0x80e0);
  expect(readRegister(machine, set)).toBe(0x80e0);
});

test('the upper half of a masked write says which lower bits are written', () => {
  const { machine, masked } = build();
  expect(after(machine, masked, 0x000f_000a)).toBe(0x000a);
  expect(after(machine, masked, 0x0003_0005)).toBe(0x0009);
});

test('bits out of range and read-only bits are not stored', () => {
  const { machine, out, fixed } = build();
  expect(after(machine, out, 0x1_ffff)).toBe(0xffff);
  expect(after(machine, fixed, 0x0ff0)).toBe(0x8ff1);
});

test('read registers ignore writes and say so; key registers read as 0', () => {
  const { machine, ready, key } = build();
  expect(writeRegister(machine, ready, 0xff)).toBe('read-only');
  expect(contentsOf(machine, ready)).toBe(0);
  writeRegister(machine, key, 0x55);
  expect(readRegister(machine, key)).toBe(0);
});

describe('a lock with two keys', () => {
  test.each<[string, number[], 'done' | 'locked']>([
    ['no key', [], 'locked'],
    ['the first only', [0x55], 'locked'],
    ['both in order', [0x55, 0xaa], 'done'],
    ['both in the wrong order', [0xaa, 0x55], 'locked'],
    ['a wrong value between', [0x55, 0x00, 0xaa], 'locked'],
    ['begun anew', [0x55, 0x55, 0xaa], 'done'],
    ['closed again', [0x55, 0xaa, 0x00], 'locked'],
  ])('%s: a write is %3$s', (_name, keys, effect) => {
    const { machine, key, secret } = build();
    for (const value of keys) writeRegister(machine, key, value);
    expect(writeRegister(machine, secret, 0x1234)).toBe(effect);
    expect(contentsOf(machine, secret)).toBe(effect === 'done' ? 0x1234 : 0);
  });
});

describe('a gate', () => {
  test('that is closed keeps reads and writes out', () => {
    const { machine, gated } = build();
    expect(writeRegister(machine, gated, 7)).toBe('guarded');
    expect(readRegister(machine, gated)).toBe(0);
    expect(contentsOf(machine, gated)).toBe(0);
  });
  test('opens some cycles after it was switched on, and only for its own bit', () => {
    const { machine, on, ready, gated } = build();
    writeRegister(machine, on, 0b1011);
    tick(machine, 50);
    expect(writeRegister(machine, gated, 7)).toBe('guarded');
    writeRegister(machine, on, 0b0100);
    tick(machine, 1);
    // Cycles are counted as the fewest that can have passed: it may be there already, and is not relied on.
    expect(bitsOf(machine, ready).known).toBe(0xffff_fff0);
    tick(machine, 2);
    expect(contentsOf(machine, ready)).toBe(0b0100);
    expect(writeRegister(machine, gated, 7)).toBe('done');
  });
  test('is awaited with a bound', () => {
    const { machine, on, ready } = build();
    const wait = (cycles: number) =>
      perform(machine, { kind: 'await', stage: 's', pads: [], register: ready, mask: 4, value: 4, cycles })[0]
        ?.reason;
    expect(wait(16)).toBe('times-out');
    perform(machine, { kind: 'update', stage: 's', register: on, clear: 4, set: 4, pads: [] });
    expect(wait(1)).toBe('times-out');
    expect(wait(16)).toBeUndefined();
  });
});

test('an update keeps the bits it does not name', () => {
  const { machine, out } = build();
  expect(
    perform(machine, { kind: 'update', stage: 's', register: out, clear: 0x00ff, set: 0x0005, pads: [] }),
  ).toEqual([]);
  expect(contentsOf(machine, out)).toBe(0x0005);
  perform(machine, { kind: 'update', stage: 's', register: out, clear: 0xff00, set: 0x1200, pads: [] });
  expect(contentsOf(machine, out)).toBe(0x1205);
});

test('reserved bits, commit bits and keys for one write are held to', () => {
  const { machine, out, fixed, key, secret } = build();
  const always = { ...fixed, readOnlyMask: 0, always: { value: 0x8000, mask: 0xc000 } };
  expect(writeRegister(machine, always, 0x4000)).toBe('reserved');
  expect(writeRegister(machine, always, 0x8001)).toBe('done');
  // Two bits for each commit bit: only the pair whose commit bit is 1 takes the write.
  const committed = {
    ...fixed,
    readOnlyMask: 0,
    commit: { register: out, from: 0, bitsEach: 2, openAt: 1 as const },
  };
  writeRegister(machine, out, 0b10);
  expect(after(machine, committed, 0xffff)).toBe(0b1000_0000_0000_1101);
  const once = { ...key, access: { ...key.access, writes: 1 } } as Register;
  const shut = { ...secret, locks: [once] };
  for (const value of [0x55, 0xaa]) writeRegister(machine, once, value);
  expect(writeRegister(machine, shut, 7)).toBe('done');
  expect(writeRegister(machine, shut, 8)).toBe('locked');
});
