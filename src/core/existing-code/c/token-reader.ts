import type { Problem } from '../../base/problems';
import { clip } from '../../base/text/clip';
import type { Unit } from './ast';
import { placeText } from './preprocess';
import type { Place, Token } from './tokens';
import { type CType, STANDARD_TYPES } from './types';

/** What cannot be read here; what follows is looked at again. */
export class Unreadable extends Error {
  constructor(
    readonly place: Place,
    message: string,
  ) {
    super(message);
  }
}

export const QUALIFIERS = new Set([
  'const',
  'volatile',
  'restrict',
  '__restrict',
  '_Atomic',
  '__volatile__',
  '__const',
  '__extension__',
]);
export const STORAGE = new Set([
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
export const BASIC = new Set([
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
export const TAGGED = new Set(['struct', 'union', 'enum']);
export const STATEMENT_WORDS = new Set([
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
export const ASSEMBLY = new Set(['asm', '__asm', '__asm__']);
const DEEPEST = 200;

/** Goes along the tokens of a file, and knows which names are types there. */
export class TokenReader {
  readonly problems: Problem[] = [];
  readonly unit: Unit;
  protected at = 0;
  protected depth = 0;
  protected readonly types: Map<string, CType>[] = [new Map(Object.entries(STANDARD_TYPES)), new Map()];
  protected readonly names: Set<string>[] = [new Set()];
  protected readonly end: Place;

  constructor(
    file: string,
    protected readonly tokens: readonly Token[],
  ) {
    this.unit = { file, functions: [], objects: [], loose: [], enumerators: new Map() };
    this.end = tokens.at(-1)?.place ?? { file, line: 1, column: 1 };
  }

  protected peek(ahead = 0): string {
    return this.tokens[this.at + ahead]?.text ?? '';
  }

  protected token(ahead = 0): Token | undefined {
    return this.tokens[this.at + ahead];
  }

  protected get place(): Place {
    return this.tokens[this.at]?.place ?? this.end;
  }

  protected take(text: string): boolean {
    if (this.peek() !== text || this.token()?.kind === 'string') return false;
    this.at++;
    return true;
  }

  protected need(text: string): void {
    if (this.take(text)) return;
    const found = this.peek();
    throw new Unreadable(
      this.place,
      `"${text}" is missing ${found === '' ? 'at the end' : `before "${clip(found, 40)}"`}`,
    );
  }

  protected name(): string {
    const token = this.token();
    if (token?.kind !== 'name')
      throw new Unreadable(this.place, `a name is missing before "${clip(this.peek(), 40)}"`);
    this.at++;
    return token.text;
  }

  protected nested<T>(work: () => T): T {
    if (++this.depth > DEEPEST) throw new Unreadable(this.place, 'this is nested too deep');
    try {
      return work();
    } finally {
      this.depth--;
    }
  }

  protected wrong(place: Place, message: string): void {
    this.problems.push({ place: placeText(place), message });
  }

  protected enter(): void {
    this.types.push(new Map());
    this.names.push(new Set());
  }

  protected leave(): void {
    this.types.pop();
    this.names.pop();
  }

  protected typeNamed(name: string): CType | undefined {
    for (let at = this.types.length - 1; at >= 0; at--) {
      const found = this.types[at]?.get(name);
      if (found) return found;
      // A name of a nearer scope hides it; the outermost two are built in, and the file's.
      if (at > 0 && this.names[at - 1]?.has(name)) return undefined;
    }
    return undefined;
  }

  protected isKnownName(name: string): boolean {
    return this.names.some((scope) => scope.has(name)) || this.unit.enumerators.has(name);
  }

  protected declare(name: string): void {
    this.names.at(-1)?.add(name);
  }

  protected isTypeWord(ahead: number): boolean {
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

  protected skipBrackets(): void {
    let depth = 0;
    do {
      const text = this.peek();
      if (text === '' && this.at >= this.tokens.length) return;
      if (text === '(' || text === '[' || text === '{') depth++;
      else if (text === ')' || text === ']' || text === '}') depth--;
      this.at++;
    } while (depth > 0);
  }
}
