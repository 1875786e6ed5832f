import { LIMITS, tooLarge } from '../base/limits';
import { collectProblems, type Problem } from '../base/problems';
import { fail, ok, type Result } from '../base/result';
import { clip } from '../base/text/clip';
import type { Device } from '../device/device';
import { RegisterNames } from '../device/registers/register-names';
import { fullMask, type Register } from '../device/registers/types';
import { parseValue } from './parse-value';
import { statesRead } from './through-clauses';

/** How a dump is written. `auto` looks at the text. */
export const DUMP_FORMS = ['auto', 'values', 'memory', 'intel-hex', 's-record', 'binary'] as const;
export type DumpForm = (typeof DUMP_FORMS)[number];
export const DUMP_TITLES: Record<DumpForm, string> = {
  auto: 'as it looks',
  values: 'names or addresses with values',
  memory: 'memory print of a debugger',
  'intel-hex': 'Intel HEX',
  's-record': 'Motorola S-record',
  binary: 'raw bytes at an address',
};

export interface DumpOptions {
  form?: DumpForm;
  /** Whose addresses it has: the CPU's, or the document's where those are others. */
  addresses?: 'cpu' | 'document';
  /** Where raw bytes begin. */
  at?: number;
}

export interface Dump {
  form: Exclude<DumpForm, 'auto'>;
  /** What registers hold, as far as the dump says. */
  values: ReadonlyMap<Register, number>;
  /** Lines that say nothing of a register, each with its reason; the rest was understood. */
  unread: readonly Problem[];
  /** Bytes at addresses where the part has no register. */
  strayBytes: number;
}

/**
 * A dump of registers: text in any of the usual forms, or raw bytes. Fails where nothing in it is of a register of the part; what is
 * wrong in single lines is told by line, and the rest is read.
 */
export function readDump(
  device: Device,
  input: string | Uint8Array,
  options: DumpOptions = {},
): Result<Dump> {
  const size = input.length;
  if (size > LIMITS.dumpCharacters) return fail({ place: 'dump', message: tooLarge('dumpCharacters') });
  const text = typeof input === 'string' ? input : undefined;
  const form =
    options.form && options.form !== 'auto' ? options.form : text === undefined ? 'binary' : formOf(text);
  const reader = new Reader(device, options.addresses ?? 'cpu');
  if (form === 'binary') {
    const bytes = text === undefined ? (input as Uint8Array) : bytesOf(text);
    if (!bytes) return fail({ place: 'dump', message: 'raw bytes as text are pairs of hexadecimal digits' });
    if (options.at === undefined || !Number.isInteger(options.at) || options.at < 0)
      return fail({ place: 'address', message: 'say at which address the bytes begin' });
    for (const [k, byte] of bytes.entries()) reader.byte(options.at + k, byte);
  } else {
    const lines = (text ?? new TextDecoder().decode(input as Uint8Array)).split(/\r\n|\r|\n/);
    const read = {
      values: readValues,
      memory: readMemory,
      'intel-hex': readIntelHex,
      's-record': readSRecords,
    }[form];
    read(reader, lines);
  }
  return reader.result(form);
}

/** A file as text where it holds nothing but text, and as it is otherwise. */
export const textOrBytes = (bytes: Uint8Array): string | Uint8Array =>
  bytes.every((byte) => byte >= 0x20 || byte === 9 || byte === 10 || byte === 13)
    ? new TextDecoder().decode(bytes)
    : bytes;

/** What a text looks like: the form that most of its lines have. */
function formOf(text: string): Exclude<DumpForm, 'auto' | 'binary'> {
  const lines = text.split(/\r\n|\r|\n/).filter((line) => line.trim() !== '');
  const share = (pattern: RegExp): number => lines.filter((line) => pattern.test(line)).length / lines.length;
  if (share(/^\s*:[0-9a-f]{10,}\s*$/i) > 0.5) return 'intel-hex';
  if (share(/^\s*S[0-9][0-9a-f]{6,}\s*$/i) > 0.5) return 's-record';
  return share(MEMORY_LINE) > 0.5 && share(/^\s*\S+\s*[:=]?\s*\S+\s*$/) < 0.5 ? 'memory' : 'values';
}

const bytesOf = (text: string): Uint8Array | undefined => {
  const plain = text.replace(/0x/gi, '').replace(/[\s,]+/g, '');
  if (!/^([0-9a-f]{2})+$/i.test(plain)) return undefined;
  return Uint8Array.from(plain.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));
};

/** Whether a dump can say something of a register: it holds bits, or its clauses say what a read gives. */
const isRead = ({ access, storage, clauses }: Register): boolean =>
  access.kind === 'clauses'
    ? clauses?.gives !== undefined
    : access.kind !== 'internal' && storage !== undefined;

/** Collects bytes and values, and finds the registers that they are of. */
class Reader {
  private readonly bytes = new Map<number, number>();
  private readonly named = new Map<Register, number>();
  private readonly problems = collectProblems(LIMITS.problems);
  private readonly names: RegisterNames;
  private readonly byAddress = new Map<number, Register[]>();
  readonly little: boolean;

  constructor(
    private readonly device: Device,
    private readonly view: 'cpu' | 'document',
  ) {
    this.little = device.description.recipe.endian !== 'big';
    const kept = device.registers.all.filter(isRead);
    this.names = new RegisterNames(kept);
    for (const register of kept) add(this.byAddress, this.addressOf(register), register);
  }

  private addressOf(register: Register): number {
    return this.view === 'document' ? (register.documentAddress ?? register.address) : register.address;
  }

  byte(address: number, value: number): void {
    this.bytes.set(address, value);
  }

  /** A word of so many bits, in the part's order of bytes. */
  word(address: number, value: number, bits: number): void {
    const count = bits / 8;
    for (let k = 0; k < count; k++) {
      const place = this.little ? k : count - 1 - k;
      this.byte(address + k, Math.floor(value / 2 ** (8 * place)) % 256);
    }
  }

  wrong(line: number, message: string): void {
    this.problems.push({ place: `line ${line}`, message });
  }

  /** A register by its name; undefined, with the reason told, where it is none or several. */
  name(line: number, text: string): Register | undefined {
    const found = this.names.find(text);
    if (found.length === 0) {
      this.wrong(line, `the part has no register "${text}"`);
      return undefined;
    }
    if (found.length > 1) {
      const names = found.slice(0, 4).map((one) => one.name);
      this.wrong(line, `"${text}" may be ${names.join(', ')}${found.length > 4 ? ' or others' : ''}`);
      return undefined;
    }
    return found[0];
  }

  at(address: number): Register | undefined {
    return this.byAddress.get(address)?.[0];
  }

  set(line: number, register: Register, value: number): void {
    if (value > fullMask(register.bits)) {
      this.wrong(
        line,
        `0x${value.toString(16).toUpperCase()} does not fit into the ${register.bits} bits of ${register.name}`,
      );
      return;
    }
    const before = this.named.get(register);
    if (before !== undefined && before !== value)
      this.wrong(line, `${register.name} has been given another value before; the last one counts`);
    this.named.set(register, value);
  }

  result(form: Dump['form']): Result<Dump> {
    const values = new Map<Register, number>();
    const used = new Set<number>();
    for (const register of this.device.registers.all) {
      if (!isRead(register)) continue;
      const named = this.named.get(register);
      const start = this.addressOf(register);
      const count = register.bits / 8;
      let value = 0;
      let whole = true;
      for (let k = 0; k < count; k++) {
        const byte = this.bytes.get(start + k);
        if (byte === undefined) whole = false;
        else {
          used.add(start + k);
          value += byte * 2 ** (8 * (this.little ? k : count - 1 - k));
        }
      }
      if (named !== undefined) values.set(register, named);
      else if (whole) values.set(register, value);
    }
    const problems = this.problems.list();
    if (values.size === 0) {
      const message = 'nothing in it is of a register of this part';
      return fail(...problems.slice(0, 5), { place: 'dump', message });
    }
    const strayBytes = [...this.bytes.keys()].filter((address) => !used.has(address)).length;
    return ok({ form, values: statesRead(this.device, values), unread: problems, strayBytes });
  }
}

function add<K>(map: Map<K, Register[]>, at: K, register: Register): void {
  const list = map.get(at);
  if (list) list.push(register);
  else map.set(at, [register]);
}

/** Begins with a digit, since registers may be called like a hexadecimal number. Whether it fits is told with the register's name. */
const numberOf = (text: string): number | undefined =>
  /^[0-9]/.test(text) ? parseValue(text, 53) : undefined;

const COMMENT = /(\/\/|#|;).*$/;

/** `PA.OUT = 0x62`, `0x50020024 0x62`, `PA_OUT: 98`: one to a line. */
function readValues(reader: Reader, lines: readonly string[]): void {
  lines.forEach((whole, at) => {
    const text = whole
      .replace(COMMENT, '')
      .replace(/[,;]\s*$/, '')
      .trim();
    if (text === '') return;
    const [, left = '', right = ''] = /^(.+?)\s*(?:=|:|\t|\s)\s*(\S+)$/.exec(text) ?? [];
    const value =
      numberOf(right) ??
      (/^[0-9a-f]+$/i.test(right) && /[a-f]/i.test(right) ? Number.parseInt(right, 16) : undefined);
    if (left === '' || value === undefined) {
      reader.wrong(at + 1, `"${clip(text)}" is not a register and its value`);
      return;
    }
    const address = numberOf(left) ?? (/^[0-9a-f]{4,8}$/i.test(left) ? Number.parseInt(left, 16) : undefined);
    if (address === undefined) {
      const register = reader.name(at + 1, left);
      if (register) reader.set(at + 1, register, value);
      return;
    }
    const register = reader.at(address);
    if (register) reader.set(at + 1, register, value);
    else reader.wrong(at + 1, `the part has no register at ${left}`);
  });
}

/** An address, perhaps with a symbol, and values behind it. */
const MEMORY_LINE =
  /^\s*(?:0x)?([0-9a-f]{2,16})\b\s*(?:<[^>]*>)?\s*[:|]?\s+((?:(?:0x)?[0-9a-f]{2,8}\b[\s,]*)+)/i;

/** Lines of an address and of what lies there, in bytes or in words; characters behind them are left alone. */
function readMemory(reader: Reader, lines: readonly string[]): void {
  lines.forEach((line, at) => {
    if (line.trim() === '') return;
    const [, start = '', rest = ''] = MEMORY_LINE.exec(line) ?? [];
    if (start === '') {
      reader.wrong(at + 1, `"${clip(line)}" is not an address and what lies there`);
      return;
    }
    let address = Number.parseInt(start, 16);
    const values = rest.trim().split(/[\s,]+/);
    const digits = (values[0] ?? '').replace(/^0x/i, '').length;
    for (const text of values) {
      const plain = text.replace(/^0x/i, '');
      // Another length is no value any more but the characters beside.
      if (plain.length !== digits || ![2, 4, 8].includes(digits)) break;
      reader.word(address, Number.parseInt(plain, 16), digits * 4);
      address += digits / 2;
    }
  });
}

const hexBytes = (text: string): number[] =>
  (text.match(/../g) ?? []).map((pair) => Number.parseInt(pair, 16));

/** Intel HEX: data, end, segment and linear addresses. Source: Intel's specification of 1988. */
function readIntelHex(reader: Reader, lines: readonly string[]): void {
  let base = 0;
  for (const [at, whole] of lines.entries()) {
    const line = whole.trim();
    if (line === '') continue;
    const bytes = hexBytes(line.slice(1));
    const [count = 0, high = 0, low = 0, type = -1] = bytes;
    const data = bytes.slice(4, 4 + count);
    const sum = bytes.reduce((total, byte) => total + byte, 0) % 256;
    if (!/^:([0-9a-f]{2})+$/i.test(line) || bytes.length !== count + 5) {
      reader.wrong(at + 1, 'is not a record of Intel HEX');
    } else if (sum !== 0) {
      reader.wrong(at + 1, 'its checksum is wrong: the record is left out');
    } else if (type === 0) {
      for (const [k, byte] of data.entries()) reader.byte(base + high * 256 + low + k, byte);
    } else if (type === 2) base = ((data[0] ?? 0) * 256 + (data[1] ?? 0)) * 16;
    else if (type === 4) base = ((data[0] ?? 0) * 256 + (data[1] ?? 0)) * 65536;
    else if (type === 1) return;
  }
}

/** Motorola S-records with addresses of 16, 24 and 32 bits. */
function readSRecords(reader: Reader, lines: readonly string[]): void {
  for (const [at, whole] of lines.entries()) {
    const line = whole.trim();
    if (line === '') continue;
    const type = Number(line[1]);
    const bytes = hexBytes(line.slice(2));
    const [count = 0] = bytes;
    const sum = bytes.reduce((total, byte) => total + byte, 0) % 256;
    if (!/^S[0-9]([0-9a-f]{2})+$/i.test(line) || bytes.length !== count + 1) {
      reader.wrong(at + 1, 'is not an S-record');
    } else if (sum !== 255) reader.wrong(at + 1, 'its checksum is wrong: the record is left out');
    else if (type >= 1 && type <= 3) {
      const width = type + 1;
      const address = bytes.slice(1, 1 + width).reduce((sum, byte) => sum * 256 + byte, 0);
      for (const [k, byte] of bytes.slice(1 + width, -1).entries()) reader.byte(address + k, byte);
    }
  }
}
