import type { Problem } from '../../base/problems';
import { clip } from '../../base/text/clip';
import type {
  Declaration,
  Designator,
  Expression,
  FunctionDefinition,
  Initializer,
  Statement,
  Unit,
} from './ast';
import { wholeValue } from './constant';
import { ExpressionParser } from './parse-expressions';
import { ASSEMBLY, BASIC, QUALIFIERS, STATEMENT_WORDS, STORAGE, TAGGED, Unreadable } from './token-reader';
import type { Place, Token } from './tokens';
import {
  asVolatile,
  CHAR,
  type CType,
  type FreshMember,
  INT,
  LONG_LONG,
  layOut,
  type Parameter,
  type StructBody,
  UNSIGNED,
  UNSIGNED_LONG_LONG,
} from './types';

interface Specifiers {
  type: CType;
  storage: Set<string>;
}

/** Reads the tokens of a file that has been preprocessed. What cannot be read is told with its place and left out. Source: ISO C11, 6.5 to 6.9. */
export function parseUnit(
  file: string,
  tokens: readonly Token[],
  bigEndian: boolean,
): { unit: Unit; problems: Problem[] } {
  const parser = new Parser(file, tokens, bigEndian);
  parser.all();
  return { unit: parser.unit, problems: parser.problems };
}

class Parser extends ExpressionParser {
  private readonly tags = new Map<string, StructBody>();
  private count = 0;

  constructor(
    file: string,
    tokens: readonly Token[],
    private readonly bigEndian: boolean,
  ) {
    super(file, tokens);
  }

  // Files

  all(): void {
    while (this.at < this.tokens.length) {
      const from = this.at;
      this.depth = 0;
      try {
        this.outer();
      } catch (error) {
        if (!(error instanceof Unreadable)) throw error;
        this.wrong(error.place, error.message);
        while (this.types.length > 2) this.leave();
        this.skip(from);
      }
      if (this.at === from) this.at++;
    }
  }

  private outer(): void {
    if (this.take(';')) return;
    if (this.peek() === 'extern' && this.token(1)?.kind === 'string') {
      this.at += 2;
      this.take('{');
      return;
    }
    if (this.peek() === '}') {
      this.at++;
      return;
    }
    if (this.peek() === '_Static_assert' || this.peek() === 'static_assert') {
      this.at++;
      this.skipBrackets();
      return;
    }
    if (this.isDeclaration()) this.declarations(true);
    else this.unit.loose.push(this.statement());
  }

  /** On to behind the next semicolon or block, whatever was begun. */
  private skip(from: number): void {
    this.at = Math.max(this.at, from + 1);
    let depth = 0;
    for (let at = from; at < this.at; at++) {
      const text = this.tokens[at]?.text;
      if (text === '{') depth++;
      else if (text === '}') depth = Math.max(0, depth - 1);
    }
    while (this.at < this.tokens.length) {
      const text = this.peek();
      this.at++;
      if (text === '{') depth++;
      else if (text === '}') {
        depth--;
        if (depth <= 0) return;
      } else if (text === ';' && depth === 0) return;
    }
  }

  // Declarations

  /** Whether a declaration begins here; a name that nobody has declared may be a type of a header that is not there. */
  private isDeclaration(): boolean {
    if (this.isTypeWord(0)) return this.peek(1) !== ':';
    const first = this.token();
    if (first?.kind !== 'name' || STATEMENT_WORDS.has(first.text) || this.isKnownName(first.text))
      return false;
    let ahead = 1;
    if (this.isTypeWord(ahead) && this.peek(ahead) !== 'sizeof') return true;
    while (this.peek(ahead) === '*' || QUALIFIERS.has(this.peek(ahead))) ahead++;
    if (this.token(ahead)?.kind !== 'name' || STATEMENT_WORDS.has(this.peek(ahead))) return false;
    return ['=', ';', ',', '[', '('].includes(this.peek(ahead + 1)) || ahead === 1;
  }

  private specifiers(): Specifiers {
    const storage = new Set<string>();
    const words: string[] = [];
    let type: CType | undefined;
    let isVolatile = false;
    for (;;) {
      const token = this.token();
      if (token?.kind !== 'name') break;
      const { text } = token;
      if (STORAGE.has(text)) {
        storage.add(text);
        this.at++;
      } else if (QUALIFIERS.has(text)) {
        if (text === 'volatile' || text === '__volatile__') isVolatile = true;
        this.at++;
      } else if (text === '__attribute__' || text === '_Alignas' || text === '__declspec') {
        this.at++;
        this.skipBrackets();
      } else if (BASIC.has(text)) {
        words.push(text);
        this.at++;
      } else if (TAGGED.has(text)) {
        type = text === 'enum' ? this.enumeration() : this.structure(text === 'union');
      } else if (!type && words.length === 0) {
        const named = this.typeNamed(text);
        if (!named && this.isTypeWord(1) && this.typeLater()) {
          // A word of a header that is not there, in front of a type: most are for access to registers.
          isVolatile = true;
          this.at++;
          continue;
        }
        type = named ?? { kind: 'unknown', name: text };
        this.at++;
      } else break;
    }
    type ??= basicType(words);
    return { type: isVolatile ? asVolatile(type) : type, storage };
  }

  /** Whether a type still comes among the words that follow. */
  private typeLater(): boolean {
    for (let ahead = 1; this.token(ahead)?.kind === 'name'; ahead++) {
      const text = this.peek(ahead);
      if (BASIC.has(text) || TAGGED.has(text) || this.typeNamed(text)) return true;
      if (!QUALIFIERS.has(text) && !STORAGE.has(text)) return false;
    }
    return false;
  }

  /** Attributes, and whether they say that nothing is to be filled up. */
  private attributes(): boolean {
    let packed = false;
    while (
      this.peek() === '__attribute__' ||
      this.peek() === '_Alignas' ||
      (this.peek() === '[' && this.peek(1) === '[') ||
      ASSEMBLY.has(this.peek())
    ) {
      const from = this.at;
      if (this.peek() !== '[') this.at++;
      this.skipBrackets();
      for (let at = from; at < this.at; at++)
        if (/^(__)?packed(__)?$/.test(this.tokens[at]?.text ?? '')) packed = true;
    }
    return packed;
  }

  private structure(union: boolean): CType {
    this.at++;
    let packed = this.attributes();
    const tag = this.token()?.kind === 'name' ? this.name() : `#${++this.count}`;
    packed = this.attributes() || packed;
    let body = this.tags.get(tag);
    if (!body) {
      body = { tag, union, members: undefined, size: 0, align: 1 };
      this.tags.set(tag, body);
    }
    if (this.take('{')) {
      if (body.members) {
        body = { tag, union, members: undefined, size: 0, align: 1 };
        this.tags.set(tag, body);
      }
      const place = this.place;
      const members: FreshMember[] = [];
      while (!this.take('}')) {
        if (this.at >= this.tokens.length) throw new Unreadable(place, 'this struct does not end');
        this.nested(() => this.members(members));
      }
      packed = this.attributes() || packed;
      if (!layOut(body, members, packed, this.bigEndian))
        this.wrong(
          place,
          `the places in ${tag.startsWith('#') ? 'this struct' : tag} hang on a type that is not in the files`,
        );
    }
    return { kind: 'struct', body };
  }

  private members(members: FreshMember[]): void {
    if (this.take(';')) return;
    if (this.peek() === '_Static_assert') {
      this.at++;
      this.skipBrackets();
      return;
    }
    const { type } = this.specifiers();
    if (this.take(';')) {
      if (type.kind === 'struct') members.push({ name: undefined, type });
      return;
    }
    do {
      const declared: { name: string | undefined; type: CType } =
        this.peek() === ':' ? { name: undefined, type } : this.declarator(type);
      let bits: number | undefined;
      if (this.take(':')) bits = this.whole('the bits of a field') ?? 0;
      this.attributes();
      members.push({ ...declared, ...(bits === undefined ? {} : { bits }) });
    } while (this.take(','));
    this.need(';');
  }

  private enumeration(): CType {
    this.at++;
    this.attributes();
    if (this.token()?.kind === 'name') this.at++;
    if (this.take('{')) {
      let next = 0n;
      while (!this.take('}')) {
        const name = this.name();
        this.attributes();
        if (this.take('=')) {
          const place = this.place;
          const value = wholeValue(this.assignment(), this.unit.enumerators);
          if (value === undefined) this.wrong(place, `the value of ${name} is not understood`);
          next = value ?? next;
        }
        this.unit.enumerators.set(name, next);
        next++;
        if (!this.take(',') && this.peek() !== '}') this.need('}');
      }
    }
    this.attributes();
    return INT;
  }

  /** A number that must be known while reading. */
  private whole(what: string): number | undefined {
    const place = this.place;
    const value = wholeValue(this.conditional(), this.unit.enumerators);
    if (value === undefined || value < 0n || value > 1_000_000n) {
      this.wrong(place, `${what} is not understood`);
      return undefined;
    }
    return Number(value);
  }

  private declarator(base: CType): { name: string | undefined; type: CType } {
    return this.nested(() => {
      let type = base;
      this.attributes();
      while (this.take('*')) {
        type = { kind: 'pointer', to: type };
        while (QUALIFIERS.has(this.peek()) || this.peek() === '__attribute__') {
          if (this.peek() === 'volatile') type = asVolatile(type);
          if (this.peek() === '__attribute__') this.attributes();
          else this.at++;
        }
      }
      // In brackets: what is inside is said of what stands behind them.
      if (
        this.peek() === '(' &&
        (this.peek(1) === '*' ||
          this.peek(1) === '(' ||
          (this.token(1)?.kind === 'name' && !this.isTypeWord(1) && this.peek(2) === ')'))
      ) {
        this.at++;
        const from = this.at;
        let depth = 1;
        while (depth > 0 && this.at < this.tokens.length) {
          if (this.peek() === '(') depth++;
          if (this.peek() === ')') depth--;
          this.at++;
        }
        const behind = this.suffixes(type);
        const after = this.at;
        this.at = from;
        const inner = this.declarator(behind);
        this.need(')');
        this.at = after;
        return inner;
      }
      const name =
        this.token()?.kind === 'name' && !STATEMENT_WORDS.has(this.peek()) ? this.name() : undefined;
      this.attributes();
      type = this.suffixes(type);
      this.attributes();
      return { name, type };
    });
  }

  private suffixes(base: CType): CType {
    if (this.peek() === '[' && this.peek(1) !== '[') {
      this.at++;
      while (QUALIFIERS.has(this.peek()) || this.peek() === 'static') this.at++;
      const count = this.peek() === ']' ? undefined : this.whole('the length of an array');
      this.need(']');
      const of = this.suffixes(base);
      return { kind: 'array', of, count };
    }
    if (this.take('(')) {
      const parameters: Parameter[] = [];
      while (!this.take(')')) {
        if (this.at >= this.tokens.length) throw new Unreadable(this.end, 'the parameters do not end');
        if (this.take('...') || this.take(',')) continue;
        if (this.token()?.kind !== 'name')
          throw new Unreadable(this.place, `"${clip(this.peek(), 40)}" is no parameter`);
        const { type } = this.specifiers();
        const one = this.declarator(type);
        if (one.name === undefined && one.type.kind === 'void') continue;
        const pointer: CType = one.type.kind === 'array' ? { kind: 'pointer', to: one.type.of } : one.type;
        parameters.push({ name: one.name, type: pointer });
      }
      return { kind: 'function', returns: base, parameters };
    }
    return base;
  }

  protected typeName(): CType {
    const { type } = this.specifiers();
    const { name, type: whole } = this.declarator(type);
    if (name !== undefined)
      throw new Unreadable(this.place, `"${clip(name, 40)}" does not belong into a type`);
    return whole;
  }

  private declarations(outermost: boolean): Declaration[] {
    const list: Declaration[] = [];
    const { place } = this;
    const { type: base, storage } = this.specifiers();
    if (this.take(';')) return list;
    do {
      const at = this.place;
      const { name, type } = this.declarator(base);
      if (name === undefined) throw new Unreadable(at, `a name is missing before "${clip(this.peek(), 40)}"`);
      if (storage.has('typedef')) {
        this.types.at(-1)?.set(name, type);
        continue;
      }
      this.declare(name);
      if (type.kind === 'function' && this.peek() === '{') {
        if (!outermost) throw new Unreadable(at, 'a function within a function');
        this.functionBody(name, type, storage.has('static'), place);
        return list;
      }
      const one: Declaration = {
        name,
        type,
        static: storage.has('static'),
        external: storage.has('extern') || type.kind === 'function',
        place: at,
        ...(this.take('=') ? { value: this.initializer() } : {}),
      };
      list.push(one);
      if (outermost && type.kind !== 'function') this.unit.objects.push(one);
    } while (this.take(','));
    this.need(';');
    return list;
  }

  private functionBody(
    name: string,
    type: FunctionDefinition['type'],
    isStatic: boolean,
    place: Place,
  ): void {
    this.enter();
    for (const one of type.parameters) if (one.name !== undefined) this.declare(one.name);
    const body = this.block();
    this.leave();
    this.unit.functions.push({ name, type, body, static: isStatic, place });
  }

  protected initializer(): Initializer {
    return this.nested(() => {
      const { place } = this;
      if (!this.take('{')) return { kind: 'one', value: this.assignment() };
      const entries: Extract<Initializer, { kind: 'list' }>['entries'] = [];
      while (!this.take('}')) {
        const to: Designator[] = [];
        while (this.peek() === '.' || this.peek() === '[') {
          if (this.take('.')) to.push({ member: this.name() });
          else {
            this.at++;
            to.push({ index: this.conditional() });
            this.need(']');
          }
        }
        if (to.length > 0) this.need('=');
        entries.push({ to, value: this.initializer() });
        if (!this.take(',') && this.peek() !== '}') this.need('}');
      }
      return { kind: 'list', place, entries };
    });
  }

  // Statements

  private block(): Statement {
    const { place } = this;
    this.need('{');
    this.enter();
    const list: Statement[] = [];
    while (!this.take('}')) {
      if (this.at >= this.tokens.length) throw new Unreadable(place, 'this block does not end');
      const from = this.at;
      const scopes = this.types.length;
      const { depth } = this;
      try {
        list.push(this.statement());
      } catch (error) {
        if (!(error instanceof Unreadable)) throw error;
        this.wrong(error.place, error.message);
        while (this.types.length > scopes) this.leave();
        this.depth = depth;
        list.push({ kind: 'other', what: 'not read', place: this.tokens[from]?.place ?? place });
        this.skipStatement(from);
      }
    }
    this.leave();
    return { kind: 'block', list, place };
  }

  /** On to behind the next semicolon, but not out of the block. */
  private skipStatement(from: number): void {
    this.at = from;
    let depth = 0;
    while (this.at < this.tokens.length) {
      const text = this.peek();
      if (text === '}' && depth === 0) return;
      this.at++;
      if (text === '{' || text === '(' || text === '[') depth++;
      else if (text === '}' || text === ')' || text === ']') {
        depth = Math.max(0, depth - 1);
        if (text === '}' && depth === 0) return;
      } else if (text === ';' && depth === 0) return;
    }
  }

  private statement(): Statement {
    return this.nested(() => this.oneStatement());
  }

  private oneStatement(): Statement {
    const { place } = this;
    const word = this.peek();
    if (word === '{') return this.block();
    if (this.take(';')) return { kind: 'nothing', place };
    if (this.token()?.kind === 'name') {
      const done = this.worded(word, place);
      if (done) return done;
      if (this.isDeclaration()) return { kind: 'declare', list: this.declarations(false), place };
    }
    const value = this.expression();
    this.need(';');
    return { kind: 'do', value, place };
  }

  private worded(word: string, place: Place): Statement | undefined {
    const bracketed = (): Expression => {
      this.need('(');
      const value = this.expression();
      this.need(')');
      return value;
    };
    switch (word) {
      case 'if': {
        this.at++;
        const condition = bracketed();
        const yes = this.statement();
        return { kind: 'if', condition, yes, ...(this.take('else') ? { no: this.statement() } : {}), place };
      }
      case 'while': {
        this.at++;
        const condition = bracketed();
        return { kind: 'loop', test: 'before', condition, body: this.statement(), place };
      }
      case 'do': {
        this.at++;
        const body = this.statement();
        this.need('while');
        const condition = bracketed();
        this.need(';');
        return { kind: 'loop', test: 'after', condition, body, place };
      }
      case 'for':
        return this.forLoop(place);
      case 'switch': {
        this.at++;
        const of = bracketed();
        return { kind: 'switch', of, body: this.statement(), place };
      }
      case 'case':
      case 'default': {
        this.at++;
        const value = word === 'case' ? this.conditional() : undefined;
        this.need(':');
        const body: Statement = this.peek() === '}' ? { kind: 'nothing', place } : this.statement();
        return { kind: 'case', ...(value ? { value } : {}), body, place };
      }
      case 'return': {
        this.at++;
        const value = this.peek() === ';' ? undefined : this.expression();
        this.need(';');
        return { kind: 'return', ...(value ? { value } : {}), place };
      }
      case 'break':
      case 'continue':
        this.at++;
        this.need(';');
        return { kind: word, place };
      case 'goto':
        this.at += 2;
        this.need(';');
        return { kind: 'other', what: 'goto', place };
      case '_Static_assert':
      case 'static_assert':
        this.at++;
        this.skipBrackets();
        this.need(';');
        return { kind: 'nothing', place };
    }
    if (ASSEMBLY.has(word)) {
      this.at++;
      while (this.token()?.kind === 'name') this.at++;
      const from = this.at;
      this.skipBrackets();
      const text = this.tokens
        .slice(from, this.at)
        .filter((one) => one.kind === 'string')
        .map((one) => one.text.slice(1, -1));
      this.take(';');
      // What only passes time or keeps an order sets no register.
      const harmless = text.every((one) =>
        /^(\s*(nop|dsb|dmb|isb|fence|wfi|wfe|cpsi[de]|sei|cli)\b[^;\\]*(\\n|\\t|;|$))*\s*$/i.test(one),
      );
      return harmless ? { kind: 'nothing', place } : { kind: 'other', what: 'assembly', place };
    }
    // A mark to jump to.
    if (this.peek(1) === ':' && this.peek(2) !== ':') {
      this.at += 2;
      return this.peek() === '}' ? { kind: 'nothing', place } : this.statement();
    }
    return undefined;
  }

  private forLoop(place: Place): Statement {
    this.at++;
    this.need('(');
    this.enter();
    const at = this.place;
    let first: Statement | undefined;
    if (!this.take(';')) {
      if (this.isDeclaration()) first = { kind: 'declare', list: this.declarations(false), place: at };
      else {
        first = { kind: 'do', value: this.expression(), place: at };
        this.need(';');
      }
    }
    const condition = this.peek() === ';' ? undefined : this.expression();
    this.need(';');
    const next = this.peek() === ')' ? undefined : this.expression();
    this.need(')');
    const body = this.statement();
    this.leave();
    const loop: Statement = {
      kind: 'loop',
      test: 'before',
      ...(condition ? { condition } : {}),
      ...(next ? { next } : {}),
      body,
      place,
    };
    return { kind: 'for', ...(first ? { first } : {}), loop, place };
  }
}

function basicType(words: readonly string[]): CType {
  const has = (word: string): boolean => words.includes(word);
  if (has('void')) return { kind: 'void' };
  if (has('float')) return { kind: 'float', bits: 32 };
  if (has('double')) return { kind: 'float', bits: 64 };
  const signed = !has('unsigned');
  if (has('char')) return has('signed') ? { ...CHAR, signed: true } : CHAR;
  if (has('short')) return { kind: 'int', bits: 16, signed };
  if (words.filter((word) => word === 'long').length > 1) return signed ? LONG_LONG : UNSIGNED_LONG_LONG;
  return signed ? INT : UNSIGNED;
}
