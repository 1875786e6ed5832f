import { loadSmall, problemsOfSmall } from '@/testing/small-part';
import type { BlockSource, RegisterSource } from '../../description/recipe';
import { clauseLines } from '../clauses/clause-lines';
import { clausesOf } from '../clauses/clauses';

/** Clauses in a description: what their names mean from where they stand, and what is wrong with those that mean nothing. */

const LATCH: RegisterSource = { id: 'LATCH', offset: '0', bits: 8, access: 'internal' };
const blocks = (registers: RegisterSource[], more: BlockSource[] = []): BlockSource[] => [
  { id: 'PORT', each: 'port', base: '0x1000 + 0x400*p', name: 'P{port}', registers: [LATCH, ...registers] },
  ...more,
];
const at = (more: Partial<RegisterSource>): RegisterSource => ({ id: 'AT', offset: '4', bits: 8, ...more });
const problemWith = (more: Partial<RegisterSource>, others: BlockSource[] = []): string =>
  problemsOfSmall({ registers: { blocks: blocks([at(more)], others) } });
const linesOf = (name: string, registers: RegisterSource[], others: BlockSource[] = []): string[] => {
  const { registers: map } = loadSmall({ registers: { blocks: blocks(registers, others) } });
  const register = map.byName.get(name);
  if (!register) throw new Error(name);
  return clauseLines(map, register);
};

test.each<[string, Partial<RegisterSource>, string]>([
  [
    'a register that is not there',
    { write: 'LACTH := v' },
    'there is no register LACTH in PORT; did you mean LATCH?',
  ],
  ['a block that is not there', { read: 'PROT.LATCH' }, 'nothing is called PROT.LATCH; did you mean PORT?'],
  ['an instance that is not there', { read: 'PORT[C].LATCH' }, 'PORT.LATCH is not there for C'],
  ['an element that is not there', { read: 'LATCH[3]' }, 'LATCH[3]: there is no element 3'],
  [
    'a loop over what is not assigned',
    { write: 'LATCH := PORT[*].LATCH' },
    'what is assigned must name [*], too',
  ],
  ['what is written where nothing is', { read: 'v' }, '"v" is what is written, and here nothing is'],
  [
    'a shift by a value',
    { write: 'LATCH := v << LATCH' },
    'takes a number of bits, not a value of the hardware',
  ],
  ['a register that holds nothing', { write: 'LATCH := AT' }, 'PA.AT holds no bits'],
  ['a kind beside clauses', { write: 'LATCH := v', access: 'read-write' }, '"access" stands beside clauses'],
  ['a condition of no write', { read: 'LATCH', writeWhen: 'v == 1' }, '"write when" needs "write" beside it'],
  [
    'an effect of no read',
    { write: 'LATCH := v', afterRead: 'LATCH := 0' },
    '"after read" needs "read" beside it',
  ],
  ['a name that is cut', { write: 'LATCH := v +' }, 'expected a value, found the end'],
  ['a value without a time', { access: 'internal', returnsTo: '0' }, '"0" is not a value and a time'],
  [
    'a value that does not fit',
    { access: 'internal', bits: 2, returnsTo: '4 after 3 cycles' },
    'does not fit',
  ],
  ['a return of what is no state', { returnsTo: '0 after 3 cycles' }, 'is said of internal state'],
  [
    'a width that the bus has not',
    { bits: 12 },
    'the bus has 8, 16 or 32, and only internal state has others',
  ],
])('%s is refused with its place, once', (_name, more, message) => {
  const problems = problemWith(more);
  expect(problems).toContain(message);
  expect(problems).toContain('recipe, block PORT, register AT');
  expect(problems.split('\n')).toHaveLength(1);
});

test('names mean what they mean from where they stand', () => {
  const pad: BlockSource = {
    id: 'PAD',
    each: 'pad',
    base: '0x4000 + 4*n',
    name: 'W{pad}',
    registers: [
      { id: 'BIT', offset: '0', bits: 8, read: 'PORT.LATCH >> b & 1', write: 'PORT.LATCH |= (v & 1) << b' },
    ],
  };
  const all: BlockSource = {
    id: 'ALL',
    base: '0x5000',
    registers: [
      { id: 'SAME', offset: '0', bits: 8, write: 'PORT[*].LATCH := PORT[*].LATCH & PORT[A].LATCH | v' },
    ],
  };
  expect(linesOf('WB3.BIT', [], [pad])).toEqual([
    'read: PB.LATCH >> 3 & 1',
    'write v: PB.LATCH := PB.LATCH | (v & 1) << 3',
  ]);
  expect(linesOf('ALL.SAME', [], [all])).toEqual([
    'read: nothing',
    'write v: PA.LATCH := PA.LATCH & PA.LATCH | v; PB.LATCH := PB.LATCH & PA.LATCH | v',
  ]);
  const array = {
    id: 'AT',
    offset: '0x100 + i',
    bits: 8,
    count: 4,
    write: 'LATCH := i > 1 ? v : LATCH & ~i',
  } as const;
  expect(linesOf('PB.AT1', [array])).toEqual(['read: nothing', 'write v: PB.LATCH := PB.LATCH & 0xFFFFFFFE']);
  expect(linesOf('PB.AT2', [array])).toEqual(['read: nothing', 'write v: PB.LATCH := v']);
});

test('what happens at a read, at any access and by itself stands with a register', () => {
  expect(
    linesOf('PA.LOOK', [
      {
        id: 'LOOK',
        offset: '4',
        bits: 8,
        read: 'LATCH',
        afterRead: 'LATCH := 0',
        write: 'LATCH := v',
        writeWhen: 'LATCH < 3',
      },
    ]),
  ).toEqual(['read: PA.LATCH', 'a read does: PA.LATCH := 0', 'write v: PA.LATCH := v where PA.LATCH < 3']);
  expect(
    linesOf('PA.LEFT', [
      {
        id: 'LEFT',
        offset: '0',
        bits: 3,
        access: 'internal',
        anyAccess: 'this := this >> 1',
        returnsTo: '0 after unknown cycles',
      },
    ]),
  ).toEqual([
    'no access: state that the bus does not reach',
    'any access on the bus: PA.LEFT := PA.LEFT >> 1',
    'by itself: returns to 0 at some time',
  ]);
});

test('names that reach too much are refused before anything is made of them', () => {
  const many = Array.from({ length: 40 }, (_, k) => `PORT[*].LATCH |= ${k}`).join('; ');
  expect(problemWith({ count: 60_000, bits: 8, offset: '0x10000 + i', write: many })).toMatch(
    /clauses name too much|registers/,
  );
});

test('clauses are bound once, and later ones decide', () => {
  const { registers } = loadSmall({
    registers: { blocks: blocks([at({ write: 'LATCH := 1; LATCH := v' })]) },
  });
  const register = registers.byName.get('PA.AT');
  if (!register) throw new Error('no PA.AT');
  expect(clausesOf(registers).of(register)).toBe(clausesOf(registers).of(register));
  expect(clausesOf(registers).of(register).write?.effects).toHaveLength(2);
});
