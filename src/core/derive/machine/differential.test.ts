import { fuzzBudget, randomFrom } from '@/testing/random';
import { hex, operationsByChance, partByChance } from '@/testing/random-registers';
import { SecondJudge } from '@/testing/second-judge';
import { loadSmall } from '@/testing/small-part';
import { TooManyFormulas } from '../../base/logic/formulas';
import { clausesOf } from '../../device/clauses/clauses';
import type { Device } from '../../device/device';
import { fullMask, heldBits, type Register } from '../../device/registers/types';
import { createClauseMachine, packedBits, performClauses, tickClauses } from './clause-machine';
import type { Operation } from './operations';
import { perform } from './perform';
import type { Mishap } from './state';
import { type Bits, bitsOf, createMachine, tick } from './state';

/**
 * Registers of all kinds by chance, and operations by chance, on the machine of the proof and on the second one, which was written
 * apart. What the first one claims of a bit (that it is 0 or 1, as it was, or the opposite) must be so in every run of the
 * second; and where the first one says that nothing is lost, nothing may be.
 */

/** Runs of a machine that knows nothing at its start, or only reset values. */
function claims(device: Device, operations: readonly Operation[], start: 'reset' | 'every') {
  const machine = createMachine(device.registers, start);
  const mishaps: Mishap[] = operations.flatMap((operation) => perform(machine, operation));
  tick(machine, 1000);
  return { of: (register: Register): Bits => bitsOf(machine, register), harmed: mishaps.length > 0 };
}

/** The same on the machine that executes clauses. */
function clauseClaims(device: Device, operations: readonly Operation[], start: 'reset' | 'every') {
  const machine = createClauseMachine(clausesOf(device.registers), start, 60_000);
  try {
    const losses = operations.flatMap((operation) => performClauses(machine, operation));
    tickClauses(machine, 1000);
    const bits = new Map(device.registers.all.map((register) => [register, packedBits(machine, register)]));
    return { of: (register: Register): Bits => bits.get(register) as Bits, harmed: losses.length > 0 };
  } catch (error) {
    // Sums of what is summed up of what is not known: nothing is claimed.
    if (!(error instanceof TooManyFormulas)) throw error;
    return undefined;
  }
}

test.each([
  ['the machine of the proof', claims],
  ['the machine that executes clauses', clauseClaims],
])('all that %s claims holds on the second machine', (_name, run) => {
  let [claimed, unharmed] = [0, 0];
  const wrong: string[] = [];
  for (let seed = 1; seed <= fuzzBudget(12); seed++) {
    const random = randomFrom(seed);
    const { device, description } = partByChance(random);
    const judge = new SecondJudge(description);
    for (let round = 0; round < 25; round++) {
      const operations = operationsByChance(device, random);
      const any = random.int(2) === 0;
      const claim = run(device, operations, any ? 'every' : 'reset');
      if (!claim) continue;
      const { of, harmed } = claim;
      const beginnings = Array.from({ length: 6 }, (_, chance) => ({ chance: 1 + chance + 7 * round, any }));
      for (const { lost, before, after } of judge.outcomes(operations, beginnings)) {
        if (!harmed) {
          unharmed++;
          if (lost) wrong.push(`seed ${seed}, round ${round}: something is lost`);
        }
        for (const register of device.registers.all) {
          if (!register.storage) continue;
          const { known, value, was } = of(register);
          const [from = 0, to = 0] = [before.get(register.name), after.get(register.name)];
          const held = fullMask(heldBits(register));
          const wrongValue = (known & (value ^ to) & held) >>> 0;
          const wrongKept = (was & ~known & (from ^ to ^ value) & held) >>> 0;
          if (wrongValue + wrongKept > 0)
            wrong.push(`seed ${seed}, round ${round}: ${register.name} ${hex(wrongValue)} ${hex(wrongKept)}`);
          claimed++;
        }
      }
    }
    judge.close();
  }
  expect(wrong).toEqual([]);
  expect(claimed).toBeGreaterThan(fuzzBudget(10_000));
  expect(unharmed).toBeGreaterThan(fuzzBudget(80));
});

test('what the machine of the proof knows, the machine that executes clauses knows, and more', () => {
  let [all, known, more] = [0, 0, 0];
  const less: string[] = [];
  for (let seed = 1; seed <= fuzzBudget(60); seed++) {
    const random = randomFrom(1000 + seed);
    const { device } = partByChance(random);
    for (let round = 0; round < 40; round++) {
      const operations = operationsByChance(device, random);
      const start = random.pick(['reset', 'every'] as const);
      const [coarse, exact] = [claims(device, operations, start), clauseClaims(device, operations, start)];
      if (!exact) continue;
      for (const register of device.registers.all) {
        if (!register.storage) continue;
        const [a, b] = [coarse.of(register), exact.of(register)];
        const held = fullMask(heldBits(register));
        const [said, proven] = [(a.known | a.was) & held, (b.known | b.was) & held];
        const differs =
          (a.known & (~b.known | (a.value ^ b.value)) & held) | (a.was & ~a.known & ~proven & held);
        if (differs !== 0) less.push(`seed ${seed}, round ${round}: ${register.name} ${hex(differs >>> 0)}`);
        all += bitCount(held);
        known += bitCount(said);
        more += bitCount(proven & ~said);
      }
    }
  }
  expect(less).toEqual([]);
  process.stderr.write(`${all} bits: ${known} known to the machine of the proof, ${more} more by clauses\n`);
  expect(more).toBeGreaterThan(0);
});

const bitCount = (mask: number): number => {
  let count = 0;
  for (let rest = mask >>> 0; rest !== 0; rest = (rest & (rest - 1)) >>> 0) count++;
  return count;
};

test('a key whose write may have been stopped by a guard may still be open', () => {
  const device = loadSmall({
    registers: {
      blocks: [
        {
          id: 'X',
          base: '0x1000',
          registers: [
            { id: 'GATE', offset: '0', bits: 8 },
            { id: 'KEY', offset: '1', bits: 8, access: 'key 0x5A opens SECRET, STATED once' },
            { id: 'SECRET', offset: '2', bits: 8 },
            {
              id: 'STATED',
              offset: '3',
              bits: 8,
              read: 'this',
              write: 'this := v',
              writeWhen: 'GATE < 0x80',
            },
          ],
        },
      ],
      guards: [{ block: 'X', registers: ['SECRET'], openWhen: 'X.GATE bit 0', stops: 'writes' }],
    },
  });
  const named = (id: string): Register => device.registers.byName.get(`X.${id}`) as Register;
  const write = (id: string, value: number): Operation => ({
    kind: 'write',
    register: named(id),
    value,
    stage: 's',
    pads: [],
  });
  for (const id of ['SECRET', 'STATED']) {
    const machine = createMachine(device.registers, 'every');
    for (const operation of [write('KEY', 0x5a), write(id, 1), write('GATE', 1)]) perform(machine, operation);
    // The first write may have used the key up, or have been stopped.
    expect(perform(machine, write(id, 2))).toMatchObject([{ reason: 'locked', perhaps: true }]);
    expect(bitsOf(machine, named(id)).known & 3).toBe(0);
    expect(bitsOf(machine, named(id)).was & 3).toBe(0);
  }
});
