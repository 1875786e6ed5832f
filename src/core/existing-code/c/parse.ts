import type { Problem } from '../../base/problems';
import type {
  BinaryOperator,
  Declaration,
  Designator,
  Expression,
  FunctionDefinition,
  Initializer,
  Statement,
  UnaryOperator,
  Unit,
} from './ast';
import { wholeValue } from './constant';
import { bytesOfText, constantOf } from './literal';
import { placeText } from './preprocess';
import type { Place, Token } from './tokens';
import {
  asVolatile,
  CHAR,
  type CType,
  type FreshMember,
  INT,
  type IntType,
  LONG_LONG,
  layOut,
  type Parameter,
  STANDARD_TYPES,
  type StructBody,
  UNSIGNED,
  UNSIGNED_LONG_LONG,
} from './types';

/** What cannot be read here; what follows is looked at again. */
class Unreadable extends Error {
  constructor(
    readonly place: Place,
    message: string,
  ) {
    super(message);
  }
}

const QUALIFIERS = new Set([
  'const',
  'volatile',
  'restrict',
  '__restrict',
  '_Atomic',
  '__volatile__',
  '__const',
  '__extension__',
]);
const STORAGE = new Set([
  'static',
  'extern',
  'typedef',
  'inline',
  '__inline',
  '__inline__',
  'register',
  'auto',
  '_Noreturn',
  '_Thread_local',
  'constexpr',
]);
const BASIC = new Set([
  'void',
  'char',
  'short',
  'int',
  'long',
  'float',
  'double',
  'signed',
  'unsigned',
  '__signed__',
  '_Complex',
]);
const TAGGED = new Set(['struct', 'union', 'enum']);
const STATEMENT_WORDS = new Set([
  'if',
  'else',
  'while',
  'do',
  'for',
  'switch',
  'case',
  'default',
  'return',
  'break',
  'continue',
  'goto',
  'sizeof',
  'asm',
  '__asm',
  '__asm__',
]);
const ASSEMBLY = new Set(['asm', '__asm', '__asm__']);
const DEEPEST = 200;

const LEVELS: readonly (readonly BinaryOperator[])[] = [
  ['||'],
  ['&&'],
  ['|'],
  ['^'],
  ['&'],
  ['==', '!='],
  ['<', '>', '<=', '>='],
  ['<<', '>>'],
  ['+', '-'],
  ['*', '/', '%'],
];
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

class Parser {
  readonly problems: Problem[] = [];
  readonly unit: Unit;
  private at = 0;
  private depth = 0;
  private readonly types: Map<string, CType>[] = [new Map(Object.entries(STANDARD_TYPES)), new Map()];
  private readonly names: Set<string>[] = [new Set()];
  private readonly tags = new Map<string, StructBody>();
  private readonly end: Place;
  private count = 0;

  constructor(
    file: string,
    private readonly tokens: readonly Token[],
    private readonly bigEndian: boolean,
  ) {
    this.unit = { file, functions: [], objects: [], loose: [], enumerators: new Map() };
    this.end = tokens.at(-1)?.place ?? { file, line: 1, column: 1 };
  }

  // Tokens

  private peek(ahead = 0): string {
    return this.tokens[this.at + ahead]?.text ?? '';
  }

  private token(ahead = 0): Token | undefined {
    return this.tokens[this.at + ahead];
  }

  private get place(): Place {
    return this.tokens[this.at]?.place ?? this.end;
  }

  private take(text: string): boolean {
    if (this.peek() !== text || this.token()?.kind === 'string') return false;
    this.at++;
    return true;
  }

  private need(text: string): void {
    if (this.take(text)) return;
    const found = this.peek();
    throw new Unreadable(
      this.place,
      `"${text}" is missing ${found === '' ? 'at the end' : `before "${clip(found)}"`}`,
    );
  }

  private name(): string {
    const token = this.token();
    if (token?.kind !== 'name')
      throw new Unreadable(this.place, `a name is missing before "${clip(this.peek())}"`);
    this.at++;
    return token.text;
  }

  private nested<T>(work: () => T): T {
    if (++this.depth > DEEPEST) throw new Unreadable(this.place, 'this is nested too deep');
    try {
      return work();
    } finally {
      this.depth--;
    }
  }

  private wrong(place: Place, message: string): void {
    this.problems.push({ place: placeText(place), message });
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

  private skipBrackets(): void {
    let depth = 0;
    do {
      const text = this.peek();
      if (text === '' && this.at >= this.tokens.length) return;
      if (text === '(' || text === '[' || text === '{') depth++;
      else if (text === ')' || text === ']' || text === '}') depth--;
      this.at++;
    } while (depth > 0);
  }

  // Scopes

  private enter(): void {
    this.types.push(new Map());
    this.names.push(new Set());
  }

  private leave(): void {
    this.types.pop();
    this.names.pop();
  }

  private typeNamed(name: string): CType | undefined {
    for (let at = this.types.length - 1; at >= 0; at--) {
      const found = this.types[at]?.get(name);
      if (found) return found;
      // A name of a nearer scope hides it; the outermost two are built in, and the file's.
      if (at > 0 && this.names[at - 1]?.has(name)) return undefined;
    }
    return undefined;
  }

  private isKnownName(name: string): boolean {
    return this.names.some((scope) => scope.has(name)) || this.unit.enumerators.has(name);
  }

  private declare(name: string): void {
    this.names.at(-1)?.add(name);
  }

  // Declarations

  private isTypeWord(ahead: number): boolean {
    const token = this.token(ahead);
    if (token?.kind !== 'name') return false;
    const { text } = token;
    return (
      BASIC.has(text) ||
      QUALIFIERS.has(text) ||
      STORAGE.has(text) ||
      TAGGED.has(text) ||
      text === '__attribute__' ||
      text === '_Alignas' ||
      this.typeNamed(text) !== undefined
    );
  }

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
          throw new Unreadable(this.place, `"${clip(this.peek())}" is no parameter`);
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

  private typeName(): CType {
    const { type } = this.specifiers();
    const { name, type: whole } = this.declarator(type);
    if (name !== undefined) throw new Unreadable(this.place, `"${clip(name)}" does not belong into a type`);
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
      if (name === undefined) throw new Unreadable(at, `a name is missing before "${clip(this.peek())}"`);
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

  private initializer(): Initializer {
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

  // Expressions

  expression(): Expression {
    let left = this.assignment();
    while (this.peek() === ',') {
      const { place } = this;
      this.at++;
      left = { kind: 'comma', left, right: this.assignment(), place };
    }
    return left;
  }

  private assignment(): Expression {
    return this.nested(() => {
      const left = this.conditional();
      const sign = this.peek();
      if (this.token()?.kind !== 'sign' || !Object.hasOwn(ASSIGNMENTS, sign)) return left;
      this.at++;
      const right = this.assignment();
      return { kind: 'assign', operator: ASSIGNMENTS[sign], left, right, place: left.place };
    });
  }

  private conditional(): Expression {
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
    const signs = LEVELS[depth];
    if (!signs) return this.unary();
    let left = this.level(depth + 1);
    while (this.token()?.kind === 'sign' && signs.includes(this.peek() as BinaryOperator)) {
      const operator = this.peek() as BinaryOperator;
      const { place } = this;
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
      throw new Unreadable(place, `"${clip(token.text)}" is no number`);
    }
    if (token.kind === 'character') {
      const [value = 0] = bytesOfText(token.text);
      return { kind: 'number', value: BigInt(value), type: INT, place };
    }
    if (token.kind === 'string') {
      const bytes = bytesOfText(token.text);
      while (this.token()?.kind === 'string') {
        bytes.push(...bytesOfText(this.peek()));
        this.at++;
      }
      return { kind: 'string', bytes: [...bytes, 0], place };
    }
    if (token.kind === 'name' && !STATEMENT_WORDS.has(token.text)) {
      if ((token.text === 'offsetof' || token.text === '__builtin_offsetof') && this.peek() === '(')
        return this.offset(place);
      return { kind: 'name', name: token.text, place };
    }
    throw new Unreadable(place, `"${clip(token.text)}" is not understood here`);
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

const clip = (text: string): string => (text.length > 40 ? `${text.slice(0, 37)}…` : text);
