import { endOfRow, endOfString } from './lines';
import type { Role } from './roles';

/** Something in a line that is not understood, and where. */
export class Mistake extends Error {
  constructor(
    message: string,
    /** Characters from the beginning of the text. */
    readonly at: number,
  ) {
    super(message);
  }
}

/** A name, or a stretch of a little language, as it was read. */
export interface NameUse {
  /** What the name is of; `raw`: names stand within it. */
  role: Role | 'raw';
  name: string;
  from: number;
  to: number;
  defines: boolean;
}

/** What could stand where a text ends. */
export interface Wanted {
  literals: Set<string>;
  roles: Set<Role | 'raw'>;
}

/** Where in the text what is held under a key of an object, or at a place of a list, was said. */
export class Marks {
  private readonly of = new WeakMap<object, Map<string | number, number>>();
  /** Names in the order in which they were read; what was read twice on the way stands twice. */
  readonly uses: NameUse[] = [];
  /** Names that runs stand for, in all of the text: a few characters may stand for thousands. */
  runNames = 0;
  /** Set where somebody asks what could come next. */
  wanted: Wanted | undefined;

  note(holder: object, key: string | number, at: number): void {
    let marks = this.of.get(holder);
    if (!marks) {
      marks = new Map();
      this.of.set(holder, marks);
    }
    marks.set(key, at);
  }

  /** Marks of an object that was taken over into another one. */
  copy(from: object, to: object): void {
    for (const [key, at] of this.of.get(from) ?? []) this.note(to, key, at);
  }

  get(holder: object, key: string | number): number | undefined {
    return this.of.get(holder)?.get(key);
  }
}

const BARE = /[A-Za-z0-9_*{}][\w.*{}|-]*/y;
const NUMBER = /-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?(?![\w.])/y;
const DIGITS = /-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?/y;
const HEX = /0[xX][0-9A-Fa-f]+(?!\w)/y;

const isBare = (word: string): boolean => {
  BARE.lastIndex = 0;
  return BARE.exec(word)?.[0] === word && !word.includes('..');
};

/** A word as it is written: bare, or between single quotes. */
export const printWord = (word: string): string => (isBare(word) ? word : quoted(word, "'"));

export const quoted = (text: string, quote: string): string => {
  let escaped = '';
  for (const char of text) {
    const code = char.codePointAt(0) as number;
    if (char === quote || char === '\\') escaped += `\\${char}`;
    else if (char === '\n') escaped += '\\n';
    else if (code < 0x20 || (code >= 0x7f && code < 0xa0) || code === 0x2028 || code === 0x2029)
      escaped += `\\u${code.toString(16).padStart(4, '0')}`;
    else escaped += char;
  }
  return `${quote}${escaped}${quote}`;
};

const unquoted = (text: string): string =>
  text.slice(1, -1).replace(/\\(?:u([0-9A-Fa-f]{4})|(.))/gs, (_, code: string | undefined, char: string) => {
    if (code !== undefined) return String.fromCharCode(Number.parseInt(code, 16));
    return char === 'n' ? '\n' : char;
  });

/** What stands between two operands. Longer ones first. */
const BINARY = /<<|>>|==|!=|<=|>=|&&|\|\||[-+*/%&|^<>]/y;
const OPERAND = /0[xX][0-9A-Fa-f]+|0[bB][01]+|\d+|[A-Za-z_]\w*(?:\.\w+)*/y;

interface LiteralPart {
  part: string;
  isWord: boolean;
}

/** Literals are those of the grammar: few, and asked for at every word. */
const literals = new Map<string, LiteralPart[]>();

function partsOf(literal: string): LiteralPart[] {
  let parts = literals.get(literal);
  if (!parts) {
    parts = literal.split(' ').map((part) => ({ part, isWord: /^\w/.test(part) }));
    literals.set(literal, parts);
  }
  return parts;
}

const BLANK = /\s/;

/** A place in a line, from which its words are read. Blanks, comments and line breaks within the line are stepped over. */
export class Cursor {
  at: number;

  constructor(
    readonly text: string,
    start: number,
    readonly end: number,
    readonly marks: Marks,
  ) {
    this.at = start;
    this.blanks();
  }

  private blanks(): void {
    while (this.at < this.end) {
      const char = this.text[this.at] as string;
      if (char === '#') this.at = endOfRow(this.text, this.at);
      else if (char !== ' ' && !BLANK.test(char)) return;
      else this.at++;
    }
  }

  private match(pattern: RegExp): string | undefined {
    pattern.lastIndex = this.at;
    const match = pattern.exec(this.text)?.[0];
    return match !== undefined && this.at + match.length <= this.end ? match : undefined;
  }

  /** Where what was taken last ends, without the blanks after it. */
  private lastEnd = 0;

  private step(length: number): void {
    this.at += length;
    this.lastEnd = this.at;
    this.blanks();
  }

  get atEnd(): boolean {
    return this.at >= this.end;
  }

  /** What stands here, as a message shows it. */
  next(): string {
    if (this.atEnd) return 'the end of the line';
    const word = this.match(BARE) ?? this.text[this.at] ?? '';
    return `"${word.slice(0, 40)}"`;
  }

  /** The bare word that is next. */
  peekWord(): string | undefined {
    return this.atEnd ? undefined : this.match(BARE);
  }

  /** Takes a word or symbols when they are next: `accessed by`, `(`. */
  take(literal: string): boolean {
    const start = this.at;
    if (this.atEnd) this.marks.wanted?.literals.add(literal);
    for (const { part, isWord } of partsOf(literal)) {
      const there =
        this.text.startsWith(part, this.at) &&
        this.at + part.length <= this.end &&
        (!isWord || this.match(BARE) === part);
      if (!there) {
        this.at = start;
        return false;
      }
      this.step(part.length);
    }
    return true;
  }

  expect(literal: string): void {
    if (!this.take(literal)) this.refuse(`"${literal}"`);
  }

  /** What stands here is something else; of a single text the grammar's word is said in words. */
  refuse(expected: string): never {
    const words = expected.startsWith('TEXT') ? 'a text in double quotes' : expected;
    throw new Mistake(`expected ${words}, found ${this.next()}`, this.at);
  }

  private string(quote: string): string | undefined {
    if (this.text[this.at] !== quote || this.atEnd) return undefined;
    const { end, closed } = endOfString(this.text, this.at);
    if (!closed || end > this.end) throw new Mistake('this string has no end', this.at);
    const text = unquoted(this.text.slice(this.at, end));
    this.step(end - this.at);
    return text;
  }

  /** A text between double quotes. */
  readText(): string | undefined {
    return this.string('"');
  }

  /** A name that is of something: it is noted. */
  readName(role: Role, defines: boolean): string | undefined {
    const from = this.at;
    if (this.atEnd) this.marks.wanted?.roles.add(role);
    const name = this.readWord();
    if (name !== undefined) this.marks.uses.push({ role, name, from, to: this.lastEnd, defines });
    return name;
  }

  /** A name: bare, or between single quotes. */
  readWord(): string | undefined {
    const quotedWord = this.string("'");
    if (quotedWord !== undefined) return quotedWord;
    const word = this.match(BARE);
    if (word === undefined || this.atEnd) return undefined;
    this.step(word.length);
    return word;
  }

  readNumber(): number | undefined {
    const text = this.match(HEX) ?? this.match(NUMBER);
    if (text === undefined || this.atEnd) return undefined;
    this.step(text.length);
    return Number(text);
  }

  /** A number as it is written, for units that move its point. */
  readDigits(): string | undefined {
    const text = this.match(DIGITS);
    if (text === undefined || this.atEnd) return undefined;
    this.step(text.length);
    return text;
  }

  /** What is written between backticks: anything that could not be written plainly. */
  private raw(): string | undefined {
    return this.string('`');
  }

  /** An expression: operands between operators, as far as it goes. Its text is what is kept. */
  readExpression(): string | undefined {
    const raw = this.raw();
    if (raw !== undefined) return raw;
    const start = this.at;
    let last = start;
    if (this.atEnd) this.marks.wanted?.roles.add('raw');
    const done = (): string | undefined => {
      if (this.atEnd) this.marks.wanted?.roles.add('raw');
      this.at = last;
      this.blanks();
      return last === start ? undefined : this.noted(start, last);
    };
    for (let depth = 0; ; ) {
      // An operand, with what stands before it.
      for (let char = this.text[this.at]; char === '~' || char === '('; char = this.text[this.at]) {
        if (char === '(') depth++;
        this.step(1);
      }
      const operand = this.match(OPERAND);
      if (operand === undefined || this.atEnd) return done();
      let end = this.at + operand.length;
      this.step(operand.length);
      for (; depth > 0 && this.text[this.at] === ')' && !this.atEnd; depth--) {
        end = this.at + 1;
        this.step(1);
      }
      if (depth === 0) last = end;
      const operator = this.match(BINARY);
      if (operator === undefined || this.atEnd) return done();
      this.step(operator.length);
    }
  }

  /** Everything up to a comma, a closing bracket or a text that is in no bracket. */
  readPhrase(stops = ',)"'): string | undefined {
    const raw = this.raw();
    if (raw !== undefined) return raw;
    const start = this.at;
    let end = start;
    for (let depth = 0; this.at < this.end; ) {
      const char = this.text[this.at] as string;
      if (char === '#') {
        this.blanks();
        continue;
      }
      if (depth === 0 && stops.includes(char)) break;
      if (char === '(' || char === '[') depth++;
      else if (char === ')' || char === ']') depth--;
      this.at++;
      if (!/\s/.test(char)) end = this.at;
    }
    if (this.atEnd) this.marks.wanted?.roles.add('raw');
    this.at = end;
    this.lastEnd = end;
    this.blanks();
    return end === start ? undefined : this.noted(start, end);
  }

  private noted(start: number, end: number): string {
    const name = this.slice(start, end);
    this.marks.uses.push({ role: 'raw', name, from: start, to: end, defines: false });
    return name;
  }

  /** Text without comments and line breaks. */
  private slice(start: number, end: number): string {
    const rows = this.text.slice(start, end).split('\n');
    if (rows.length === 1) return rows[0] as string;
    return rows
      .map((row) => row.split('#', 1)[0]?.trim())
      .filter(Boolean)
      .join(' ');
  }
}

/** Whether brackets open and close in order, so that no line goes on because of them. */
function isBalanced(value: string): boolean {
  let depth = 0;
  for (const char of value) {
    if (char === '(' || char === '[') depth++;
    else if ((char === ')' || char === ']') && --depth < 0) return false;
  }
  return depth === 0;
}

/** What is printed so that reading it gives the same: plainly where that works, else between backticks. */
export function printRaw(value: string, read: (cursor: Cursor) => string | undefined): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: what is printed must not hold what lines are laid out by
  if (!/[\u0000-\u001f#"'`]|,$/.test(value) && isBalanced(value)) {
    const cursor = new Cursor(value, 0, value.length, new Marks());
    try {
      if (read(cursor) === value && cursor.atEnd) return value;
    } catch (error) {
      if (!(error instanceof Mistake)) throw error;
    }
  }
  return quoted(value, '`');
}
