import fc from 'fast-check';
import { ExpressionError, evaluate, parseExpression, variablesOf } from './expression';

const value = (text: string, variables: Record<string, number> = {}): number =>
  evaluate(parseExpression(text), (name) => variables[name]);

describe('the position language', () => {
  test.each([
    ['8*(b%4)', { b: 6 }, 16],
    ['2 + 3*4', {}, 14],
    ['(2 + 3)*4', {}, 20],
    ['7 - 2 - 1', {}, 4],
    ['b/4', { b: 15 }, 3],
    ['1 << b', { b: 31 }, 0x80000000],
    ['0xFF00 >> 8 & 0x0F', {}, 0x0f],
    ['0x10 | 0b11', {}, 0x13],
    ['1 << 2 + 1', {}, 8],
    ['0x50020000 + 0x800*p', { p: 4 }, 0x50022000],
    ['port.gate', { 'port.gate': 9 }, 9],
  ])('%s with %j is %i', (text, variables, expected) => {
    expect(value(text, variables as Record<string, number>)).toBe(expected);
  });

  test.each([
    ['2 * * b', 5],
    ['(b', 3],
    ['b)', 2],
    ['', 1],
    ['b ? 1', 3],
    ['alert`1`', 6],
    ['0x', 2],
    ['99999999999999999999', 1],
  ])('%j is refused at column %i', (text, column) => {
    expect(() => parseExpression(text)).toThrow(expect.objectContaining({ column }));
  });

  test.each(['1/0', '5%(3-3)', '1 << 60', '9007199254740991 * 2', '0-1 & 1', 'q + 1', '1 >> (0-1)'])(
    '%s has no value and says so',
    (text) => {
      expect(() => value(text)).toThrow(ExpressionError);
    },
  );

  test('refuses what is nested or written to exhaust it', () => {
    expect(() => parseExpression('('.repeat(400))).toThrow(ExpressionError);
    expect(() => parseExpression('1+'.repeat(10_000))).toThrow(/longer/);
  });

  test('agrees with the machine on sums and products', () => {
    const small = fc.integer({ min: 0, max: 1000 });
    fc.assert(
      fc.property(small, small, small, (a, b, c) => {
        expect(value('a + b * c - a % (c + 1)', { a, b, c })).toBe(a + b * c - (a % (c + 1)));
      }),
    );
  });

  test('is total: any text either parses or is refused with a column', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'b4+*(%)<>&| .px0') }), (text) => {
        try {
          variablesOf(parseExpression(text));
        } catch (error) {
          expect(error).toBeInstanceOf(ExpressionError);
          expect((error as ExpressionError).column).toBeGreaterThan(0);
        }
      }),
    );
  });
});
