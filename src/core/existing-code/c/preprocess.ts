import { append } from '../../base/lists';
import type { Problem } from '../../base/problems';
import { BINARY_LEVELS } from './ast';
import { combined } from './constant';
import { constantOf } from './literal';
import { type Place, type Token, type TokenLine, tokenLines } from './tokens';

export interface SourceFile {
  name: string;
  text: string;
}

/** A `#define`, with the place where it stands. */
export interface Macro {
  name: string;
  place: Place;
  /** Names of its parameters; absent for one without brackets. */
  parameters?: string[];
  variadic: boolean;
  body: Token[];
}

export interface Preprocessed {
  tokens: Token[];
  macros: Map<string, Macro>;
  /** What could not be understood, or stands in files that are not there. */
  problems: Problem[];
  /** Headers that were not given. */
  missing: string[];
  /** What a name becomes. */
  expand(name: string): Token[];
}

/** More tokens than that are no code of a person any more. */
const MOST_TOKENS = 300_000;
const DEEPEST_INCLUDE = 64;
const MOST_INCLUDES = 2_000;

export const placeText = ({ file, line }: Place): string => `${file}:${line}`;

/**
 * Expands directives and macros of a file. Headers are found among `files` by their name, whatever folder stands before it; each is
 * read as often as it is included. Source: ISO C11, 6.10.
 */
export function preprocess(
  main: SourceFile,
  files: readonly SourceFile[],
  defines: readonly string[],
): Preprocessed {
  const work = new Work(files);
  for (const one of defines) work.define(`${one.replace('=', ' ')}${one.includes('=') ? '' : ' 1'}`);
  work.file(main, 0);
  return {
    tokens: work.out,
    macros: work.macros,
    problems: work.problems,
    missing: [...work.missing],
    expand: (name) => work.expanded(tokenLines(main.name, name).flat()),
  };
}

class Work {
  readonly out: Token[] = [];
  readonly macros = new Map<string, Macro>();
  readonly problems: Problem[] = [];
  readonly missing = new Set<string>();
  private readonly once = new Set<string>();
  private readonly lines = new Map<string, TokenLine[]>();
  /** Tokens that macros have become, and files that were read, so far. */
  private spent = 0;
  private isFull = false;
  private reads = 0;

  constructor(private readonly files: readonly SourceFile[]) {}

  private wrong(place: Place, message: string): void {
    this.problems.push({ place: placeText(place), message });
  }

  /** `NAME body`, as from a command line. */
  define(text: string): void {
    const [line] = tokenLines('command line', text);
    if (line) this.directive('define', line, line[0]?.place ?? { file: '', line: 1, column: 1 }, 0);
  }

  file(source: SourceFile, depth: number): void {
    let lines = this.lines.get(source.name);
    if (!lines) {
      lines = tokenLines(source.name, source.text);
      this.lines.set(source.name, lines);
    }
    /** One entry for each open #if: whether this branch is taken, whether one was, and whether what is around is. */
    const open: { on: boolean; had: boolean; outer: boolean; place: Place }[] = [];
    let pending: Token[] = [];
    const isOn = (): boolean => open.at(-1)?.on ?? true;
    for (const line of lines) {
      if (this.isFull) return;
      const [hash, word, ...rest] = line;
      if (hash?.text !== '#') {
        if (isOn()) append(pending, line);
        continue;
      }
      const name = word?.text ?? '';
      const outer = isOn();
      if (name === 'if' || name === 'ifdef' || name === 'ifndef') {
        this.flush(pending);
        pending = [];
        const on = outer && this.condition(name, rest, hash.place);
        open.push({ on, had: on, outer, place: hash.place });
        continue;
      }
      const state = open.at(-1);
      if (name === 'elif' || name === 'else') {
        if (!state) this.wrong(hash.place, `#${name} without #if`);
        else {
          this.flush(pending);
          pending = [];
          state.on = state.outer && !state.had && (name === 'else' || this.condition('if', rest, hash.place));
          state.had ||= state.on;
        }
      } else if (name === 'endif') {
        if (open.pop() === undefined) this.wrong(hash.place, '#endif without #if');
      } else if (outer) {
        this.flush(pending);
        pending = [];
        this.directive(name, rest, hash.place, depth, source.name);
      }
    }
    this.flush(pending);
    for (const { place } of open) this.wrong(place, '#if without #endif');
  }

  private flush(tokens: readonly Token[]): void {
    for (const token of this.expanded(tokens)) {
      if (this.out.length >= MOST_TOKENS) return;
      this.out.push(token);
    }
  }

  private condition(name: string, rest: Token[], place: Place): boolean {
    if (name === 'ifdef') return this.macros.has(rest[0]?.text ?? '');
    if (name === 'ifndef') return !this.macros.has(rest[0]?.text ?? '');
    const plain: Token[] = [];
    for (let at = 0; at < rest.length; at++) {
      const token = rest[at] as Token;
      if (token.text !== 'defined') {
        plain.push(token);
        continue;
      }
      const bracket = rest[at + 1]?.text === '(';
      const asked = rest[at + (bracket ? 2 : 1)];
      at += bracket ? 3 : 1;
      plain.push({ ...token, kind: 'number', text: this.macros.has(asked?.text ?? '') ? '1' : '0' });
    }
    const value = conditionValue(this.expanded(plain));
    if (value === undefined) this.wrong(place, 'this condition is not understood; it is taken to be false');
    return value !== undefined && value !== 0n;
  }

  private directive(name: string, rest: Token[], place: Place, depth: number, from = ''): void {
    switch (name) {
      case 'define':
        this.defineMacro(rest, place);
        return;
      case 'undef':
        this.macros.delete(rest[0]?.text ?? '');
        return;
      case 'include':
        this.include(rest, place, depth);
        return;
      case 'error':
        this.wrong(place, `#error ${rest.map((token) => token.text).join(' ')}`);
        return;
      case 'pragma':
        if (rest[0]?.text === 'once') this.once.add(from);
        return;
      case '':
      case 'line':
      case 'warning':
      case 'ident':
        return;
      default:
        this.wrong(place, `#${name} is no directive`);
    }
  }

  private include(rest: Token[], place: Place, depth: number): void {
    const path =
      rest[0]?.kind === 'string' ? rest[0].text.slice(1, -1) : rest.map((one) => one.text).join('');
    const base = path.replace(/^<|>$/g, '').split(/[\\/]/).at(-1) ?? '';
    const found = this.files.find((one) => (one.name.split(/[\\/]/).at(-1) ?? '') === base);
    if (!found) this.missing.add(base);
    else if (depth >= DEEPEST_INCLUDE || ++this.reads > MOST_INCLUDES)
      this.wrong(place, `"${base}" is included too deep, or too often`);
    else if (!this.once.has(found.name)) this.file(found, depth + 1);
  }

  private defineMacro(rest: Token[], place: Place): void {
    const [name, bracket] = rest;
    if (name?.kind !== 'name') {
      this.wrong(place, '#define without a name');
      return;
    }
    const macro: Macro = { name: name.text, place: name.place, variadic: false, body: rest.slice(1) };
    if (bracket?.text === '(' && !bracket.spaced) {
      const end = rest.findIndex((token) => token.text === ')');
      if (end < 0) {
        this.wrong(place, `the parameters of ${name.text} do not end`);
        return;
      }
      const inner = rest.slice(2, end).filter((token) => token.text !== ',');
      macro.variadic = inner.at(-1)?.text === '...';
      macro.parameters = inner.map((token) => (token.text === '...' ? '__VA_ARGS__' : token.text));
      macro.body = rest.slice(end + 1);
    }
    this.macros.set(name.text, macro);
  }

  /** Tokens with every macro replaced. */
  expanded(given: readonly Token[]): Token[] {
    const out: Token[] = [];
    const input = [...given].reverse();
    while (input.length > 0) {
      const token = input.pop() as Token;
      const macro = token.kind === 'name' && !token.hidden?.has(token.text) && this.macros.get(token.text);
      if (!macro) {
        out.push(token);
        continue;
      }
      const replaced = this.replaced(macro, token, input);
      if (!replaced) {
        out.push(token);
        continue;
      }
      this.spent += replaced.length;
      if (this.spent > MOST_TOKENS) {
        if (!this.isFull) this.wrong(token.place, `the macro ${token.text} becomes too much`);
        this.isFull = true;
        return out;
      }
      for (let at = replaced.length - 1; at >= 0; at--) input.push(replaced[at] as Token);
    }
    return out;
  }

  /** What a macro becomes; takes its arguments from what is left of the input, whose next token is its last. */
  private replaced(macro: Macro, token: Token, input: Token[]): Token[] | undefined {
    const hidden = new Set([...(token.hidden ?? []), macro.name]);
    const plain =
      token.place.macro === undefined &&
      !macro.body.some((one) => one.text === ';' || /^[^=!<>]?=$/.test(one.text));
    const place = plain ? { ...token.place, macro: macro.name } : token.place;
    const here = (one: Token): Token => ({ ...one, place });
    const hide = (body: readonly Token[]): Token[] =>
      body.map((one) => ({ ...one, hidden: one.hidden ? new Set([...one.hidden, ...hidden]) : hidden }));
    if (!macro.parameters) return hide(pasted(macro.body.map(here)));
    if (input.at(-1)?.text !== '(') return undefined;
    const values = takeArguments(input);
    if (!values) {
      this.wrong(token.place, `the arguments of ${macro.name} do not end`);
      return [];
    }
    const { parameters, variadic } = macro;
    const most = parameters.length;
    if (variadic && values.length > most) {
      const rest = values.splice(most - 1);
      values.push(
        rest.flatMap((one, at) => (at === 0 ? one : [{ ...token, kind: 'sign', text: ',' }, ...one])),
      );
    }
    const argument = (name: string): Token[] | undefined => {
      const at = parameters.indexOf(name);
      return at < 0 ? undefined : (values[at] ?? []);
    };
    const body: Token[] = [];
    for (let at = 0; at < macro.body.length; at++) {
      const one = macro.body[at] as Token;
      const next = macro.body[at + 1];
      if (one.text === '#' && next && argument(next.text)) {
        const text = (argument(next.text) ?? []).map((it) => `${it.spaced ? ' ' : ''}${it.text}`).join('');
        body.push({ ...here(one), kind: 'string', text: JSON.stringify(text.trim()) });
        at++;
        continue;
      }
      const raw = argument(one.text);
      const glued = next?.text === '##' || macro.body[at - 1]?.text === '##';
      if (!raw) body.push(here(one));
      else if (!glued) append(body, this.expanded(raw));
      else if (raw.length > 0) append(body, raw);
      // An empty argument beside ## stands for nothing.
      else body.push({ ...here(one), kind: 'other', text: '' });
    }
    return hide(pasted(body));
  }
}

/** Joins what stands at both sides of ##. */
function pasted(body: readonly Token[]): Token[] {
  const out: Token[] = [];
  for (let at = 0; at < body.length; at++) {
    const token = body[at] as Token;
    const next = body[at + 1];
    if (token.text !== '##' || out.length === 0 || !next) {
      out.push(token);
      continue;
    }
    const left = out.pop() as Token;
    const [line = []] = tokenLines(left.place.file, left.text + next.text);
    append(
      out,
      line.map((one) => ({ ...one, place: left.place, spaced: left.spaced })),
    );
    at++;
  }
  return out.filter((token) => token.text !== '');
}

/** The arguments between brackets; undefined where they do not end. */
function takeArguments(input: Token[]): Token[][] | undefined {
  input.pop();
  const values: Token[][] = [[]];
  let depth = 0;
  while (input.length > 0) {
    const token = input.pop() as Token;
    if (token.text === ')' && depth === 0) return values;
    if (token.text === ',' && depth === 0) {
      values.push([]);
      continue;
    }
    if (token.text === '(') depth++;
    if (token.text === ')') depth--;
    values.at(-1)?.push(token);
  }
  return undefined;
}

/** Deeper brackets and signs in a condition than any person writes; each takes several calls. */
const DEEPEST_CONDITION = 200;

/** The value of a condition; names that are left are 0. Undefined where it is none, or nested too deep. */
function conditionValue(tokens: readonly Token[]): bigint | undefined {
  let at = 0;
  let depth = 0;
  const nested = (work: () => bigint | undefined): bigint | undefined => {
    if (depth >= DEEPEST_CONDITION) return undefined;
    depth++;
    const value = work();
    depth--;
    return value;
  };
  const peek = (): string => tokens[at]?.text ?? '';
  const unary = (): bigint | undefined => nested(plainUnary);
  const plainUnary = (): bigint | undefined => {
    const token = tokens[at++];
    if (!token) return undefined;
    if (token.text === '(') {
      const value = ternary();
      return tokens[at++]?.text === ')' ? value : undefined;
    }
    if (token.text === '!') return apply1(unary(), (value) => (value === 0n ? 1n : 0n));
    if (token.text === '-') return apply1(unary(), (value) => -value);
    if (token.text === '+') return unary();
    if (token.text === '~') return apply1(unary(), (value) => ~value);
    if (token.kind === 'name') {
      // A macro of a header that is not there, with arguments.
      if (peek() === '(') return undefined;
      return 0n;
    }
    return constantOf(token.text)?.value;
  };
  const level = (depth: number): bigint | undefined => {
    const signs: readonly string[] | undefined = BINARY_LEVELS[depth];
    if (!signs) return unary();
    let left = level(depth + 1);
    while (signs.includes(peek())) {
      const sign = tokens[at++]?.text ?? '';
      const right = level(depth + 1);
      left = left === undefined || right === undefined ? undefined : apply2(sign, left, right);
    }
    return left;
  };
  const ternary = (): bigint | undefined => nested(plainTernary);
  const plainTernary = (): bigint | undefined => {
    const condition = level(0);
    if (peek() !== '?') return condition;
    at++;
    const yes = ternary();
    if (tokens[at++]?.text !== ':') return undefined;
    const no = ternary();
    return condition === undefined ? undefined : condition !== 0n ? yes : no;
  };
  const value = ternary();
  return at === tokens.length ? value : undefined;
}

const apply1 = (value: bigint | undefined, work: (value: bigint) => bigint): bigint | undefined =>
  value === undefined ? undefined : BigInt.asIntN(64, work(value));

const apply2 = (sign: string, left: bigint, right: bigint): bigint | undefined =>
  apply1(combined(sign, left, right), (value) => value);
