import { Misread, type Token, tokensOf } from './tokens';

/** The syntax of SystemRDL 2.0 (Accellera) as far as registers are described with it: a recursive descent with one word of lookahead. */
export type Expression =
  | { kind: 'number'; value: number }
  | { kind: 'text'; value: string }
  /** A parameter, an enumerator, a word of the language (`rw`, `woclr`), or something in the hierarchy. */
  | { kind: 'name'; name: string; token: Token }
  | { kind: 'unary'; operator: string; of: Expression }
  | { kind: 'binary'; operator: string; left: Expression; right: Expression }
  | { kind: 'choice'; condition: Expression; yes: Expression; no: Expression };

export const COMPONENTS = ['addrmap', 'regfile', 'reg', 'field', 'mem', 'signal'] as const;
export type ComponentKind = (typeof COMPONENTS)[number];

export interface Component {
  kind: ComponentKind;
  name?: string;
  parameters: { name: string; value?: Expression }[];
  body: Statement[];
  token: Token;
}

export interface InstanceItem {
  name: string;
  /** `[7:0]` is a range; `[4]` a width of a field or a length of an array; `[4][2]` an array of arrays. */
  range?: { high: Expression; low: Expression };
  dimensions: Expression[];
  reset?: Expression;
  address?: Expression;
  stride?: Expression;
  align?: Expression;
  token: Token;
}

export type Statement =
  | { kind: 'define'; component: Component }
  | {
      kind: 'instances';
      of: Component | string;
      overrides: Map<string, Expression>;
      alias?: string;
      items: InstanceItem[];
      token: Token;
    }
  /** `value` missing: a property that is true. */
  | { kind: 'property'; isDefault: boolean; name: string; value?: Expression; token: Token }
  /** A step of the path to an element that no plain number names ends with `[]`. */
  | { kind: 'dynamic'; path: string[]; name: string; value?: Expression; token: Token }
  | { kind: 'enum'; name: string; values: { name: string; value?: Expression; says: string }[] };

/** From loosest to tightest. */
const POWER: Readonly<Record<string, number>> = {
  '||': 1,
  '&&': 2,
  '|': 3,
  '^': 4,
  '~^': 4,
  '^~': 4,
  '&': 5,
  '==': 6,
  '!=': 6,
  '<': 7,
  '>': 7,
  '<=': 7,
  '>=': 7,
  '<<': 8,
  '>>': 8,
  '+': 9,
  '-': 9,
  '*': 10,
  '/': 10,
  '%': 10,
  '**': 11,
};
const DEEPEST = 60;

class Reader {
  private at = 0;
  private depth = 0;
  constructor(private readonly tokens: readonly Token[]) {}

  peek(ahead = 0): Token {
    return (this.tokens[this.at + ahead] ?? this.tokens.at(-1)) as Token;
  }

  take(): Token {
    const token = this.peek();
    if (token.kind !== 'end') this.at++;
    return token;
  }

  is(text: string): boolean {
    const { kind, text: next } = this.peek();
    return next === text && (kind === 'symbol' || kind === 'word');
  }

  skip(text: string): boolean {
    if (!this.is(text)) return false;
    this.at++;
    return true;
  }

  expect(text: string): Token {
    if (!this.is(text)) this.refuse(`"${text}"`);
    return this.take();
  }

  word(what: string): Token {
    if (this.peek().kind !== 'word') this.refuse(what);
    return this.take();
  }

  refuse(expected: string): never {
    const { kind, text, line, column } = this.peek();
    throw new Misread(
      `expected ${expected}, found ${kind === 'end' ? text : `"${text.slice(0, 40)}"`}`,
      line,
      column,
    );
  }

  /** One level deeper, as far as texts of people go. */
  deeper<T>(work: () => T): T {
    if (++this.depth > DEEPEST) {
      const { line, column } = this.peek();
      throw new Misread(`nested deeper than ${DEEPEST} levels`, line, column);
    }
    const made = work();
    this.depth--;
    return made;
  }
}

/** A text → what stands at its outermost level. Throws {@link Misread}. */
export function parseRdl(text: string): Statement[] {
  const reader = new Reader(tokensOf(text));
  const statements: Statement[] = [];
  while (reader.peek().kind !== 'end') readStatement(reader, statements);
  return statements;
}

const isComponent = (text: string): text is ComponentKind => COMPONENTS.some((kind) => kind === text);
/** Words of assignments that say which edge or level counts; nothing of it concerns software. */
const MODIFIERS = new Set(['posedge', 'negedge', 'bothedge', 'level', 'nonsticky']);

function readStatement(reader: Reader, into: Statement[]): void {
  if (reader.skip(';')) return;
  const first = reader.peek();
  if (first.kind !== 'word') reader.refuse('a component, an instance or a property');
  if (first.text === 'enum' || first.text === 'struct' || first.text === 'abstract')
    into.push(...readEnum(reader));
  else if (first.text === 'property' || first.text === 'constraint') skipDefinition(reader);
  else if (isComponent(first.text)) into.push(...reader.deeper(() => readDefinition(reader)));
  else if (isInstance(reader)) into.push(readInstances(reader));
  else into.push(readAssignment(reader));
}

/** `TYPE name …`, `TYPE #(…) name …`, `external TYPE …`, `alias OTHER TYPE …`. */
function isInstance(reader: Reader): boolean {
  const [first, second] = [reader.peek(), reader.peek(1)];
  if (['external', 'internal', 'alias'].includes(first.text)) return true;
  if (MODIFIERS.has(first.text) || first.text === 'default') return false;
  return second.text === '#' || (second.kind === 'word' && first.kind === 'word');
}

/** `enum x { … }`: values with what they are called. Structs mean nothing to registers. */
function readEnum(reader: Reader): Statement[] {
  const isEnum = reader.take().text === 'enum';
  if (!isEnum) {
    skipBraces(reader);
    return [];
  }
  const name = reader.word('the name of the enumeration').text;
  const values: { name: string; value?: Expression; says: string }[] = [];
  reader.expect('{');
  while (!reader.skip('}')) {
    const value: (typeof values)[number] = { name: reader.word('a value').text, says: '' };
    if (reader.skip('=')) value.value = readExpression(reader);
    if (reader.skip('{')) {
      while (!reader.skip('}')) {
        const property = reader.word('a property').text;
        const given = reader.skip('=') ? readExpression(reader) : undefined;
        if ((property === 'desc' || property === 'name') && given?.kind === 'text')
          value.says ||= given.value;
        reader.expect(';');
      }
    }
    reader.expect(';');
    values.push(value);
  }
  reader.skip(';');
  return [{ kind: 'enum', name, values }];
}

/** Properties of users, and constraints: nothing that registers do. */
function skipDefinition(reader: Reader): void {
  reader.take();
  skipBraces(reader);
}

function skipBraces(reader: Reader): void {
  while (!reader.is('{') && !reader.is(';') && reader.peek().kind !== 'end') reader.take();
  for (let depth = 0; reader.peek().kind !== 'end'; ) {
    const { text } = reader.take();
    if (text === '{' || text === "'{") depth++;
    else if (text === '}') depth--;
    if (depth === 0) break;
  }
  reader.skip(';');
}

function readDefinition(reader: Reader): Statement[] {
  const token = reader.take();
  const component: Component = { kind: token.text as ComponentKind, parameters: [], body: [], token };
  if (reader.peek().kind === 'word') component.name = reader.take().text;
  if (reader.skip('#')) component.parameters = readParameters(reader);
  reader.expect('{');
  while (!reader.skip('}')) {
    if (reader.peek().kind === 'end') reader.refuse('"}"');
    readStatement(reader, component.body);
  }
  reader.skip('external');
  reader.skip('internal');
  const statements: Statement[] = [];
  if (component.name !== undefined) statements.push({ kind: 'define', component });
  if (reader.peek().kind === 'word' || reader.is('#')) {
    const overrides = reader.skip('#') ? readOverrides(reader) : new Map<string, Expression>();
    statements.push({ kind: 'instances', of: component, overrides, items: readItems(reader), token });
  }
  reader.expect(';');
  return statements;
}

/** `#(longint unsigned N = 4, boolean B)`. */
function readParameters(reader: Reader): Component['parameters'] {
  const parameters: Component['parameters'] = [];
  reader.expect('(');
  while (!reader.skip(')')) {
    // Types are words before the name.
    while (reader.peek(1).kind === 'word') reader.take();
    const { text: name } = reader.word('the name of a parameter');
    if (reader.skip('[')) reader.expect(']');
    parameters.push({ name, ...(reader.skip('=') ? { value: readExpression(reader) } : {}) });
    if (!reader.is(')')) reader.expect(',');
  }
  return parameters;
}

/** `#(.N(8))`. */
function readOverrides(reader: Reader): Map<string, Expression> {
  const overrides = new Map<string, Expression>();
  reader.expect('(');
  while (!reader.skip(')')) {
    reader.expect('.');
    const { text: name } = reader.word('the name of a parameter');
    reader.expect('(');
    overrides.set(name, readExpression(reader));
    reader.expect(')');
    if (!reader.is(')')) reader.expect(',');
  }
  return overrides;
}

function readInstances(reader: Reader): Statement {
  const token = reader.peek();
  let alias: string | undefined;
  for (;;) {
    if (reader.skip('external') || reader.skip('internal')) continue;
    if (!reader.skip('alias')) break;
    alias = reader.word('the register that it is another name of').text;
  }
  const { text: of } = reader.word('a component');
  const overrides = reader.skip('#') ? readOverrides(reader) : new Map<string, Expression>();
  const items = readItems(reader);
  reader.expect(';');
  return { kind: 'instances', of, overrides, ...(alias === undefined ? {} : { alias }), items, token };
}

function readItems(reader: Reader): InstanceItem[] {
  const items: InstanceItem[] = [];
  do {
    const token = reader.word('the name of an instance');
    const item: InstanceItem = { name: token.text, dimensions: [], token };
    while (reader.skip('[')) {
      const first = readExpression(reader);
      if (reader.skip(':')) item.range = { high: first, low: readExpression(reader) };
      else item.dimensions.push(first);
      reader.expect(']');
    }
    for (;;) {
      if (reader.skip('=')) item.reset = readExpression(reader);
      else if (reader.skip('@')) item.address = readExpression(reader);
      else if (reader.skip('+=')) item.stride = readExpression(reader);
      else if (reader.skip('%=')) item.align = readExpression(reader);
      else break;
    }
    items.push(item);
  } while (reader.skip(','));
  return items;
}

function readAssignment(reader: Reader): Statement {
  const token = reader.peek();
  const isDefault = reader.skip('default');
  while (MODIFIERS.has(reader.peek().text)) reader.take();
  const path = [reader.word('a property').text];
  for (;;) {
    if (reader.skip('.')) path.push(reader.word('a name').text);
    else if (reader.skip('[')) {
      // Elements of an array are called by their number.
      const index = readExpression(reader);
      reader.expect(']');
      path.push(`${path.pop()}${index.kind === 'number' && !reader.is('[') ? index.value : '[]'}`);
    } else break;
  }
  const dynamic = reader.skip('->') ? reader.word('a property').text : undefined;
  const value = reader.skip('=') ? readExpression(reader) : undefined;
  reader.expect(';');
  const given = value ? { value } : {};
  return dynamic === undefined
    ? { kind: 'property', isDefault, name: path.join('.'), ...given, token }
    : { kind: 'dynamic', path, name: dynamic, ...given, token };
}

function readExpression(reader: Reader, power = 0): Expression {
  return reader.deeper(() => {
    let left = readOperand(reader);
    for (;;) {
      const operator = reader.peek().text;
      const binds = reader.peek().kind === 'symbol' ? POWER[operator] : undefined;
      if (binds === undefined || binds <= power) break;
      reader.take();
      left = { kind: 'binary', operator, left, right: readExpression(reader, binds) };
    }
    if (power === 0 && reader.skip('?')) {
      const yes = readExpression(reader);
      reader.expect(':');
      return { kind: 'choice', condition: left, yes, no: readExpression(reader) };
    }
    return left;
  });
}

function readOperand(reader: Reader): Expression {
  const token = reader.take();
  switch (token.kind) {
    case 'number':
      return { kind: 'number', value: token.value ?? Number.NaN };
    case 'text':
      return { kind: 'text', value: token.text };
    case 'word': {
      if (token.text === 'true' || token.text === 'false')
        return { kind: 'number', value: Number(token.text === 'true') };
      let name = token.text;
      while (reader.is('.') || reader.is('::') || reader.is('->') || reader.is('[')) {
        if (reader.skip('[')) {
          // Elements of an array are called by their number.
          const index = readExpression(reader);
          if (index.kind === 'number') name += index.value;
          reader.expect(']');
        } else {
          name += reader.take().text;
          name += reader.word('a name').text;
        }
      }
      return { kind: 'name', name, token };
    }
    default:
      if (['~', '!', '-', '+', '&', '|', '^'].includes(token.text))
        return { kind: 'unary', operator: token.text, of: reader.deeper(() => readOperand(reader)) };
      if (token.text === '(') {
        const inner = readExpression(reader);
        reader.expect(')');
        return inner;
      }
      if (token.text === "'{" || token.text === '{') {
        // Lists and structures: their first value is of no interest, all of it is read over.
        while (!reader.skip('}')) {
          readExpression(reader);
          if (!reader.is('}')) {
            if (!reader.skip(':')) reader.expect(',');
          }
        }
        return { kind: 'text', value: '' };
      }
      throw new Misread(`expected a value, found "${token.text.slice(0, 40)}"`, token.line, token.column);
  }
}
