import { append } from '../../base/lists';
import { clip } from '../../base/text/clip';
import {
  BINARY_LEVELS,
  type BinaryOperator,
  type Expression,
  type Initializer,
  type UnaryOperator,
} from './ast';
import { bytesOfText, constantOf } from './literal';
import { QUALIFIERS, STATEMENT_WORDS, TokenReader, Unreadable } from './token-reader';
import type { Place } from './tokens';
import { type CType, INT, type IntType, LONG_LONG, UNSIGNED, UNSIGNED_LONG_LONG } from './types';

const ASSIGNMENTS: Readonly<Record<string, BinaryOperator | undefined>> = {
  '=': undefined,
  '*=': '*',
  '/=': '/',
  '%=': '%',
  '+=': '+',
  '-=': '-',
  '<<=': '<<',
  '>>=': '>>',
  '&=': '&',
  '^=': '^',
  '|=': '|',
};

/**
 * Operators, calls and members that follow each other in one expression. They make a tree as deep as they are many, which everything
 * that walks along it would walk on the stack.
 */
const MOST_LINKS = 1000;

/**
 * Reads expressions: recursive descent, one level of binary operators after the other. How deep it goes is bounded by `nested`, how long
 * chains become by `link`.
 */
export abstract class ExpressionParser extends TokenReader {
  private inside = 0;
  private links = 0;

  /** Around each expression: links are counted over the outermost one. */
  private outermost<T>(work: () => T): T {
    if (this.inside === 0) this.links = 0;
    this.inside++;
    try {
      return work();
    } finally {
      this.inside--;
    }
  }

  private link(place: Place): void {
    if (++this.links > MOST_LINKS)
      throw new Unreadable(place, `this expression has more than ${MOST_LINKS} operators`);
  }

  protected abstract typeName(): CType;
  protected abstract initializer(): Initializer;

  expression(): Expression {
    return this.outermost(() => {
      let left = this.assignment();
      while (this.peek() === ',') {
        const { place } = this;
        this.link(place);
        this.at++;
        left = { kind: 'comma', left, right: this.assignment(), place };
      }
      return left;
    });
  }

  protected assignment(): Expression {
    return this.outermost(() => this.oneAssignment());
  }

  private oneAssignment(): Expression {
    return this.nested(() => {
      const left = this.conditional();
      const sign = this.peek();
      if (this.token()?.kind !== 'sign' || !Object.hasOwn(ASSIGNMENTS, sign)) return left;
      this.at++;
      const right = this.assignment();
      return { kind: 'assign', operator: ASSIGNMENTS[sign], left, right, place: left.place };
    });
  }

  protected conditional(): Expression {
    const condition = this.level(0);
    if (this.peek() !== '?') return condition;
    const { place } = this;
    this.at++;
    const yes = this.peek() === ':' ? condition : this.expression();
    this.need(':');
    const no = this.nested(() => this.conditional());
    return { kind: 'choose', condition, yes, no, place };
  }

  private level(depth: number): Expression {
    const signs = BINARY_LEVELS[depth];
    if (!signs) return this.unary();
    let left = this.level(depth + 1);
    while (this.token()?.kind === 'sign' && signs.includes(this.peek() as BinaryOperator)) {
      const operator = this.peek() as BinaryOperator;
      const { place } = this;
      this.link(place);
      this.at++;
      const right = this.level(depth + 1);
      left = { kind: 'binary', operator, left, right, place };
    }
    return left;
  }

  private unary(): Expression {
    return this.nested(() => this.oneUnary());
  }

  private oneUnary(): Expression {
    const { place } = this;
    const sign = this.peek();
    if (this.token()?.kind === 'sign') {
      if (sign === '++' || sign === '--') {
        this.at++;
        return { kind: 'step', by: sign === '++' ? 1 : -1, after: false, of: this.unary(), place };
      }
      if (['!', '~', '-', '+', '*', '&'].includes(sign)) {
        this.at++;
        return { kind: 'unary', operator: sign as UnaryOperator, of: this.unary(), place };
      }
      if (sign === '(' && this.isCast()) {
        this.at++;
        const type = this.typeName();
        this.need(')');
        if (this.peek() === '{')
          return this.postfix({ kind: 'literal', type, value: this.initializer(), place });
        return { kind: 'cast', type, of: this.unary(), place };
      }
    }
    if (sign === 'sizeof' || sign === '_Alignof') {
      this.at++;
      if (this.peek() === '(' && this.isCast()) {
        this.at++;
        const type = this.typeName();
        this.need(')');
        return { kind: 'size', type, place };
      }
      return { kind: 'size', of: this.unary(), place };
    }
    return this.postfix(this.primary());
  }

  /** Whether the bracket here holds a type. */
  private isCast(): boolean {
    if (this.isTypeWord(1)) return true;
    const token = this.token(1);
    if (token?.kind !== 'name' || this.isKnownName(token.text)) return false;
    let ahead = 2;
    while (this.peek(ahead) === '*' || QUALIFIERS.has(this.peek(ahead))) ahead++;
    if (ahead > 2) return this.peek(ahead) === ')';
    // A lonely name that nobody has declared: a type if it is called like one and something follows.
    const next = this.token(3);
    return (
      this.peek(2) === ')' &&
      /_t$/.test(token.text) &&
      next !== undefined &&
      (next.kind !== 'sign' || next.text === '(')
    );
  }

  private primary(): Expression {
    const token = this.token();
    const { place } = this;
    if (!token) throw new Unreadable(place, 'a value is missing at the end');
    if (token.kind === 'sign' && token.text === '(') {
      this.at++;
      const value = this.expression();
      this.need(')');
      return { ...value, bracketed: true };
    }
    this.at++;
    if (token.kind === 'number') {
      const constant = constantOf(token.text);
      if (constant) return { kind: 'number', value: constant.value, type: typeOf(constant), place };
      if (/[.eEpP]/.test(token.text)) return { kind: 'float', place };
      throw new Unreadable(place, `"${clip(token.text, 40)}" is no number`);
    }
    if (token.kind === 'character') {
      const [value = 0] = bytesOfText(token.text);
      return { kind: 'number', value: BigInt(value), type: INT, place };
    }
    if (token.kind === 'string') {
      const bytes = bytesOfText(token.text);
      while (this.token()?.kind === 'string') {
        append(bytes, bytesOfText(this.peek()));
        this.at++;
      }
      return { kind: 'string', bytes: [...bytes, 0], place };
    }
    if (token.kind === 'name' && !STATEMENT_WORDS.has(token.text)) {
      if ((token.text === 'offsetof' || token.text === '__builtin_offsetof') && this.peek() === '(')
        return this.offset(place);
      return { kind: 'name', name: token.text, place };
    }
    throw new Unreadable(place, `"${clip(token.text, 40)}" is not understood here`);
  }

  private offset(place: Place): Expression {
    this.need('(');
    const type = this.typeName();
    this.need(',');
    const names = [this.name()];
    while (this.take('.')) names.push(this.name());
    this.need(')');
    return { kind: 'offset', type, names, place };
  }

  private postfix(first: Expression): Expression {
    let value = first;
    for (;;) {
      const { place } = this;
      const sign = this.token()?.kind === 'sign' ? this.peek() : '';
      if (['(', '[', '.', '->', '++', '--'].includes(sign)) this.link(place);
      if (sign === '(') {
        this.at++;
        const given: Expression[] = [];
        while (!this.take(')')) {
          given.push(this.assignment());
          if (!this.take(',') && this.peek() !== ')') this.need(')');
        }
        value = { kind: 'call', of: value, given, place: value.place };
      } else if (sign === '[') {
        this.at++;
        const at = this.expression();
        this.need(']');
        value = { kind: 'index', of: value, at, place: value.place };
      } else if (sign === '.' || sign === '->') {
        this.at++;
        value = { kind: 'member', of: value, name: this.name(), arrow: sign === '->', place: value.place };
      } else if (sign === '++' || sign === '--') {
        this.at++;
        value = { kind: 'step', by: sign === '++' ? 1 : -1, after: true, of: value, place };
      } else return value;
    }
  }
}

function typeOf({ value, unsigned, long, based }: NonNullable<ReturnType<typeof constantOf>>): IntType {
  const fits = (bits: bigint): boolean => value < 2n ** bits;
  if (!long && !unsigned && fits(31n)) return INT;
  if (!long && (unsigned || based) && fits(32n)) return UNSIGNED;
  if (!unsigned && fits(63n)) return LONG_LONG;
  return UNSIGNED_LONG_LONG;
}
