import {
  addChange,
  BETWEEN,
  FLOATING,
  HIGH,
  type Lane,
  LOW,
  newLane,
  OUTSIDE,
  stateCode,
  UNKNOWN,
} from './lanes';

/** A signal of a value change dump: its bits as lanes, the lowest first; a real number as a voltage. */
export interface VcdVariable {
  /** With the scopes that it stands in: `board.FAN_1`. */
  path: string;
  /** `DISPLAY`; of a signal that is one bit of several, with its number: `DISPLAY[3]`. */
  name: string;
  width: number;
  real: boolean;
  /** Its short name: signals that have the same one are one signal. */
  code: string;
  /** Numbers of its bits as they are written, the most significant one first; absent where none are. */
  range?: { first: number; last: number };
  lanes: Lane[];
}

export interface Vcd {
  variables: VcdVariable[];
  /** Nanoseconds of the last time that is named. */
  end: number;
  /** What could not be read, and on which line; the rest was read all the same. */
  problems: { line: number; message: string }[];
}

/** How far a reader has come, in bytes. */
export interface VcdProgress {
  bytes: number;
  of: number;
}

const SCALES: Readonly<Record<string, number>> = { s: 1e9, ms: 1e6, us: 1e3, ns: 1, ps: 1e-3, fs: 1e-6 };
const MOST_VARIABLES = 10_000;
const MOST_WIDTH = 64;
const MOST_PROBLEMS = 20;
/** Between two reports of how far it is. */
const CHUNK = 1 << 20;

const SPACE = 32;
const isSpace = (byte: number): boolean => byte === SPACE || (byte >= 9 && byte <= 13);

/**
 * Reads a value change dump (IEEE 1364-2005, clause 18), piece by piece: each `next` reads about a million bytes more, so that
 * whoever reads can show how far it is, and stop. Times become nanoseconds.
 */
export function* readVcd(bytes: Uint8Array): Generator<VcdProgress, Vcd> {
  const reader = new Reader(bytes);
  while (reader.more()) {
    reader.readOn(CHUNK);
    yield { bytes: reader.at, of: bytes.length };
  }
  return reader.result();
}

class Reader {
  at = 0;
  private line = 1;
  private scale = 1;
  private scaled = false;
  private declared = false;
  private time = 0;
  private timed = false;
  private readonly scopes: string[] = [];
  private readonly variables: VcdVariable[] = [];
  private readonly byCode = new Map<string, VcdVariable[]>();
  private readonly problems: Vcd['problems'] = [];
  private readonly decoder = new TextDecoder('utf-8');

  constructor(private readonly bytes: Uint8Array) {
    // A byte order mark, as some editors leave it.
    if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) this.at = 3;
  }

  more(): boolean {
    this.skipSpace();
    return this.at < this.bytes.length;
  }

  readOn(count: number): void {
    const until = this.at + count;
    while (this.at < until && this.more()) this.readOne();
  }

  result(): Vcd {
    if (!this.declared) {
      // Whatever else was wrong is wrong because of it.
      this.problems.length = 0;
      this.complain('there is no $var: this is no value change dump');
    } else if (!this.scaled) this.complain('there is no $timescale: its times are taken for nanoseconds');
    return { variables: this.variables, end: this.time, problems: this.problems };
  }

  private complain(message: string): void {
    if (this.problems.length < MOST_PROBLEMS) this.problems.push({ line: this.line, message });
  }

  private skipSpace(): void {
    const { bytes } = this;
    while (this.at < bytes.length && isSpace(bytes[this.at] as number)) {
      if (bytes[this.at] === 10) this.line++;
      this.at++;
    }
  }

  /** The next word, as its bounds. */
  private word(): [from: number, to: number] {
    this.skipSpace();
    const from = this.at;
    while (this.at < this.bytes.length && !isSpace(this.bytes[this.at] as number)) this.at++;
    return [from, this.at];
  }

  private text(): string {
    const [from, to] = this.word();
    return this.slice(from, to);
  }

  private slice(from: number, to: number): string {
    // Codes and numbers are short and plain.
    if (to - from < 12) {
      let text = '';
      for (let at = from; at < to; at++) text += String.fromCharCode(this.bytes[at] as number);
      return text;
    }
    return this.decoder.decode(this.bytes.subarray(from, to));
  }

  private readOne(): void {
    const first = this.bytes[this.at] as number;
    switch (first) {
      case 36: // $
        this.readCommand();
        return;
      case 35: // #
        this.readTime();
        return;
      case 98: // b
      case 66: // B
        this.readVector();
        return;
      case 114: // r
      case 82: // R
        this.readReal();
        return;
      case 115: // s
      case 83: // S
        this.word();
        this.word();
        return;
      default:
        this.readBit(first);
    }
  }

  private readCommand(): void {
    const command = this.text();
    switch (command) {
      case '$var':
        this.declared = true;
        this.readVariable(this.untilEnd());
        return;
      case '$scope':
        this.scopes.push(this.untilEnd()[1] ?? '');
        return;
      case '$upscope':
        this.scopes.pop();
        this.untilEnd();
        return;
      case '$timescale': {
        const match = /^(\d+)\s*(s|ms|us|ns|ps|fs)$/.exec(this.untilEnd().join(''));
        this.scaled = true;
        if (match) this.scale = Number(match[1]) * (SCALES[match[2] as string] as number);
        else this.complain('$timescale is not a number and s, ms, us, ns, ps or fs');
        return;
      }
      case '$dumpvars':
      case '$dumpall':
      case '$dumpon':
      case '$dumpoff':
      case '$end':
        // What stands in them are changes like others.
        return;
      default:
        this.untilEnd();
    }
  }

  private untilEnd(): string[] {
    const words: string[] = [];
    while (this.at < this.bytes.length) {
      const word = this.text();
      if (word === '$end' || word === '') return words;
      if (words.length < 1000) words.push(word);
    }
    return words;
  }

  private readVariable(words: readonly string[]): void {
    const [kind = '', size = '', code = '', plain = '', ...rest] = words;
    const width = Number(size);
    const real = kind === 'real' || kind === 'realtime';
    if (!Number.isInteger(width) || width < 1 || code === '' || plain === '') {
      this.complain('$var needs a kind, a width, a short name and a name');
      return;
    }
    if (kind === 'string' || (width > MOST_WIDTH && !real)) {
      // Known, and no lane.
      if (!this.byCode.has(code)) this.byCode.set(code, []);
      return;
    }
    if (this.variables.length >= MOST_VARIABLES) {
      this.complain(`more than ${MOST_VARIABLES} signals; this one is left out`);
      return;
    }
    const { name, range } = nameOf([plain, ...rest].join(' '), width);
    const variable: VcdVariable = {
      path: [...this.scopes, name].filter(Boolean).join('.'),
      name,
      width: real ? 1 : width,
      real,
      code,
      ...(range ? { range } : {}),
      lanes: Array.from({ length: real ? 1 : width }, newLane),
    };
    this.variables.push(variable);
    // Several names may stand for one signal.
    this.byCode.set(code, [...(this.byCode.get(code) ?? []), variable]);
  }

  private readTime(): void {
    const [from, to] = this.word();
    let value = 0;
    for (let at = from + 1; at < to; at++) {
      const digit = (this.bytes[at] as number) - 48;
      if (digit < 0 || digit > 9) {
        this.complain('a time is a whole number');
        return;
      }
      value = value * 10 + digit;
    }
    const time = value * this.scale;
    if (this.timed && time < this.time) {
      this.complain('a time lies before the one above it');
      return;
    }
    this.timed = true;
    this.time = time;
  }

  private readBit(first: number): void {
    const [from, to] = this.word();
    const code = codeFor(first);
    const known = code === undefined ? undefined : this.byCode.get(this.slice(from + 1, to));
    if (code === undefined || !known) {
      this.complain(
        `"${this.slice(from, Math.min(to, from + 20))}" is no change of a signal that was declared`,
      );
      return;
    }
    for (const { lanes } of known) for (const lane of lanes) this.change(lane, code, 0);
  }

  private change(lane: Lane, code: number, volts: number): void {
    // The first dump says again what holds anyway.
    if (lane.length > 0 && lane.codes[lane.length - 1] === code && lane.volts[lane.length - 1] === volts)
      return;
    addChange(lane, this.time, code, volts, -1);
  }

  private readVector(): void {
    const [from, to] = this.word();
    const known = this.byCode.get(this.text());
    if (!known) {
      this.complain('a change of a signal that was not declared');
      return;
    }
    for (const { lanes } of known) {
      for (const [bit, lane] of lanes.entries()) {
        const place = to - 1 - bit;
        // What is not written is 0, or as the first that is written where that is x or z.
        const at = place > from ? (this.bytes[place] as number) : this.bytes[from + 1];
        const code = codeFor(
          place > from || at === 120 || at === 122 || at === 88 || at === 90 ? (at as number) : 48,
        );
        this.change(lane, code ?? stateCode(UNKNOWN, OUTSIDE), 0);
      }
    }
  }

  private readReal(): void {
    const [from, to] = this.word();
    const known = this.byCode.get(this.text());
    const volts = Number(this.slice(from + 1, to));
    if (!known || Number.isNaN(volts)) {
      this.complain('a real number that is none, or of a signal that was not declared');
      return;
    }
    for (const { lanes } of known)
      for (const lane of lanes) this.change(lane, stateCode(BETWEEN, OUTSIDE), volts);
  }
}

/** A name may have the numbers of its bits behind it, with a blank between or without; other numbers are part of the name. */
function nameOf(text: string, width: number): Pick<VcdVariable, 'name' | 'range'> {
  const found = /^(.*?)\s*\[(\d{1,6})(?::(\d{1,6}))?\]$/.exec(text);
  if (!found) return { name: text };
  const [, base = '', first = '', last = first] = found;
  const range = { first: Number(first), last: Number(last) };
  if (Math.abs(range.first - range.last) !== width - 1) return { name: text };
  return { name: width === 1 ? `${base}[${range.first}]` : base, range };
}

/** Levels of IEEE 1364, and those of IEEE 1164 that simulators write as well: H and L are 1 and 0, held weakly. */
function codeFor(byte: number): number | undefined {
  switch (byte) {
    case 48:
    case 76:
    case 108:
      return stateCode(LOW, OUTSIDE);
    case 49:
    case 72:
    case 104:
      return stateCode(HIGH, OUTSIDE);
    case 122:
    case 90:
      return stateCode(FLOATING, OUTSIDE);
    case 120:
    case 88:
    // Of nine levels: weak and unknown, not initialised, of no interest.
    case 87:
    case 119:
    case 85:
    case 117:
    case 45:
      return stateCode(UNKNOWN, OUTSIDE);
    default:
      return undefined;
  }
}
