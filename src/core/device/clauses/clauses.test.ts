import { readFileSync } from 'node:fs';
import { FAMILIES, family } from '@/testing/families';
import { randomFrom } from '@/testing/random';
import { parseAssignments, parseTerm, printTerm, type Term } from '../../description/language/clause';
import { ExpressionError } from '../../description/language/expression';
import { clausesOf } from './clauses';
import { clausesPage } from './page';

test('the page of the docs is what the shorthands say; npm run docs:clauses prints it', () => {
  expect(readFileSync('docs/clauses.md', 'utf8')).toBe(clausesPage());
});

test.each(FAMILIES)('every register of %s has clauses that bind', (folder) => {
  const { registers } = family(folder);
  const clauses = clausesOf(registers);
  for (const register of registers.all) {
    const { read, write } = clauses.of(register);
    const { kind } = register.access;
    expect([register.name, read !== undefined]).toEqual([
      register.name,
      !['write', 'key', 'act', 'strobe', 'internal'].includes(kind),
    ]);
    expect([register.name, write !== undefined]).toEqual([
      register.name,
      kind !== 'read' && kind !== 'internal',
    ]);
  }
});

describe('the language', () => {
  test('binds comparisons looser than bits, and choices loosest', () => {
    const plain = (text: string): string => printTerm(parseTerm(text));
    expect(plain('A & 1 == 1')).toBe('A & 1 == 1');
    expect(plain('(A & 1) == 1')).toBe('A & 1 == 1');
    expect(plain('A & (B == 1)')).toBe('A & (B == 1)');
    expect(plain('A | B & C ^ D << 2 + 1')).toBe('A | B & C ^ D << 2 + 1');
    expect(plain('(A | B) & C')).toBe('(A | B) & C');
    expect(plain('a - (b - c) - d')).toBe('a - (b - c) - d');
    expect(plain('(a ? b : c) ? d : e ? f : g')).toBe('(a ? b : c) ? d : e ? f : g');
    expect(plain('~(A | ~B)')).toBe('~(A | ~B)');
  });

  test('printing and reading are inverse, for terms by chance', () => {
    const random = randomFrom(26);
    const term = (depth: number): Term => {
      const kind = depth === 0 ? random.int(2) : random.int(6);
      const inner = (): Term => term(depth - 1);
      if (kind === 0) return { kind: 'number', value: random.int(2 ** 32) };
      if (kind === 1) return { kind: 'name', name: random.pick(['v', 'PA.OUT', 'each2']), column: 0 };
      if (kind === 2) return { kind: 'not', of: inner() };
      if (kind === 3) return { kind: 'each', of: inner(), times: 1 + random.int(32) };
      if (kind === 4) return { kind: 'choice', condition: inner(), yes: inner(), no: inner() };
      const operator = random.pick(['|', '&', '^', '<<', '>>', '+', '-', '==', '!=', '<', '>='] as const);
      return { kind: 'binary', operator, left: inner(), right: inner() };
    };
    const bare = (of: Term): unknown => JSON.parse(JSON.stringify(of).replace(/,"column":\d+/g, ''));
    for (let turn = 0; turn < 1000; turn++) {
      const made = term(1 + random.int(4));
      expect(bare(parseTerm(printTerm(made)))).toEqual(bare(made));
    }
  });

  test.each([
    ['A +', 4, 'expected a value, found the end'],
    ['A $ B', 3, 'unexpected character "$"'],
    ['(A', 3, 'expected ")" before the end'],
    ['A B', 3, 'unexpected "B"'],
    ['each(A, 0)', 9, 'each bit can be repeated 1 to 32 times'],
    ['0x100000000', 1, 'words have 32 bits'],
    ['('.repeat(1000), 202, 'nested too deeply'],
  ])('%s is refused at column %i', (text, column, message) => {
    let caught: unknown;
    try {
      parseTerm(text);
    } catch (error) {
      caught = error;
    }
    expect(caught).toBeInstanceOf(ExpressionError);
    expect(caught).toMatchObject({ column, message });
  });

  test('assignments stand one after another; |= and its like are what they stand for', () => {
    expect(
      parseAssignments('A |= v; B := ~v').map(({ target, value }) => `${target} ${printTerm(value)}`),
    ).toEqual(['A A | v', 'B ~v']);
    expect(() => parseAssignments('A + v')).toThrow('expected ":=" before "+"');
    expect(() => parseAssignments('3 := v')).toThrow('expected what is written, found "3"');
  });
});
