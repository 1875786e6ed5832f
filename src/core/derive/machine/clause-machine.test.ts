import { loadSmall } from '@/testing/small-part';
import type { RegisterSource } from '../../description/recipe';
import { clausesOf } from '../../device/clauses/clauses';
import { createClauseMachine, packedBits, performClauses } from './clause-machine';
import type { Operation } from './operations';

const base = { stage: 's', pads: [] };

/** A machine in any state, on registers at consecutive words. */
function machineOf(registers: Omit<RegisterSource, 'offset' | 'bits'>[]) {
  const device = loadSmall({
    registers: {
      blocks: [
        {
          id: 'X',
          base: '0x1000',
          registers: registers.map((register, at) => ({ ...register, offset: String(4 * at), bits: 8 })),
        },
      ],
    },
  });
  const register = (id: string) => {
    const known = device.registers.byName.get(`X.${id}`);
    if (!known) throw new Error(id);
    return known;
  };
  const machine = createClauseMachine(clausesOf(device.registers), 'every');
  return {
    held: (id: string) => packedBits(machine, register(id)),
    write: (id: string, value: number) =>
      performClauses(machine, { kind: 'write', register: register(id), value, ...base }),
    wait: (id: string, mask: number, value: number, cycles: number) =>
      performClauses(machine, {
        kind: 'await',
        register: register(id),
        mask,
        value,
        cycles,
        ...base,
      } as Operation),
  };
}

describe('waiting', () => {
  const shown = (delay: string) =>
    machineOf([{ id: 'ON' }, { id: 'READY', access: 'read', follows: `ON${delay}` }]);

  test('ends when what is on its way has arrived, and then it is known', () => {
    const { write, wait, held } = shown(' after 5 cycles');
    expect(write('ON', 4)).toEqual([]);
    expect(held('READY').known).toBe(0);
    expect(wait('READY', 4, 4, 16)).toEqual([]);
    expect(held('READY')).toMatchObject({ known: 4, value: 4 });
  });
  test('too short may end without result', () => {
    const { write, wait } = shown(' after 5 cycles');
    write('ON', 4);
    expect(wait('READY', 4, 4, 2)).toMatchObject([{ mask: 4, perhaps: true }]);
  });
  test('for what comes after a time that nobody states is taken to end', () => {
    const { write, wait, held } = shown(' after unknown cycles');
    write('ON', 4);
    expect(wait('READY', 4, 4, 2)).toEqual([]);
    expect(held('READY').known & 4).toBe(4);
  });
  test('for what never comes is lost', () => {
    const { write, wait } = shown('');
    write('ON', 0);
    expect(wait('READY', 4, 4, 8)).toMatchObject([{ mask: 4, perhaps: false }]);
  });
});

test('bits that depend on each other are known where bits by themselves are not', () => {
  const { write, held } = machineOf([
    { id: 'OUT' },
    { id: 'FLIP', access: 'toggle of OUT' },
    { id: 'ALLOW' },
    { id: 'GUARDED', writableWhere: 'ALLOW' },
  ]);
  // What is turned twice is as it was.
  write('FLIP', 0xff);
  expect(held('OUT')).toMatchObject({ known: 0, was: 0xff, value: 0xff });
  write('FLIP', 0xff);
  expect(held('OUT')).toMatchObject({ known: 0, was: 0xff, value: 0 });
  expect(write('GUARDED', 0xff)).toMatchObject([{ perhaps: true }]);
  expect(held('GUARDED').known).toBe(0);
  write('ALLOW', 0xff);
  expect(write('GUARDED', 0x0f)).toEqual([]);
  expect(held('GUARDED')).toMatchObject({ known: 0xff, value: 0x0f });
});
