import { append } from '../../../base/lists';
import type { Register } from '../../../device/registers/types';
import { bitsOf, type HeldName, type Statement, type Value } from '../program/types';
import { type Body, type Frame, keptPlaces, line, type Processor, reach } from './machine-code';
import { type AsmCode, asm, decimal, hex } from './writer';

/**
 * AVR, for avr-gcc's conventions. Values are worked out byte by byte in groups of four registers; what the function is given is
 * in r14 and up, what it holds in r2 to r13. Registers of the part are of 8 bits, and within 64 KB.
 */
export const avr: Processor = {
  id: 'avr',
  head: [],
  type: asm`@`,
  align: 1,
  enter: (frame) => {
    const given = (frame.takes ?? 0) / 8;
    return [
      ...saved(frame).map((register) => line(asm`push ${register}`)),
      // Numbers come with their highest byte in r25, or in r24 where they have one.
      ...Array.from({ length: given }, (_, k) =>
        line(asm`mov ${named(14 + k)}, ${named((given === 4 ? 22 : 24) + k)}`),
      ),
    ];
  },
  leave: (frame) => [
    ...saved(frame)
      .reverse()
      .map((register) => line(asm`pop ${register}`)),
    line(asm`ret`),
  ],
  after: [],
  body: (frame) => new AvrBody(frame),
  result: (value) => [line(asm`ldi r24, ${decimal(value)}`)],
  call: (name) => [line(asm`call ${name}`)],
  unlessGiven: (label) => [line(asm`tst r24`), line(asm`breq ${label}`)],
  callOrLeave: (frame, name) => {
    const on = frame.label();
    return [
      line(asm`call ${name}`),
      line(asm`tst r24`),
      line(asm`brne ${on}`),
      ...avr.leave(frame),
      asm`${on}:`,
    ];
  },
  done: ({ names }, value) => [asm`ldi r24, ${decimal(value)}`, asm`sts ${names.own('done')}, r24`].map(line),
  isDone: ({ names }) => [line(asm`lds r24, ${names.own('done')}`)],
};

const named = (number: number): AsmCode => asm`r${decimal(number)}`;

/** Registers that the caller wants back. */
const saved = (frame: Frame): AsmCode[] => [
  ...Array.from({ length: (frame.takes ?? 0) / 8 }, (_, k) => named(14 + k)),
  ...Array.from({ length: placesOf(frame).count }, (_, k) => named(2 + k)),
];

const bytesFor = (most: number): number => (most < 0x100 ? 1 : most < 0x10000 ? 2 : most < 0x1000000 ? 3 : 4);

interface Places {
  first: Map<HeldName | 'entered', number>;
  bytes: Map<HeldName, number>;
  reaches: Map<HeldName, number>;
  count: number;
}

/**
 * Where what is held lies: as many bytes as it can have. What goes on to the next write only shares its place, and what is kept gives its
 * place on after it was last written.
 */
function placesOf({ statements }: Frame): Places {
  const places: Places = { first: new Map(), bytes: new Map(), reaches: new Map(), count: 0 };
  const kept = keptPlaces(statements);
  const rows = new Map<number, number>();
  let passing: number | undefined;
  for (const one of statements) {
    const row = one.kind === 'hold' ? kept.get(one.name) : undefined;
    if (one.kind === 'hold' && row !== undefined) {
      // Registers of the part have 8 bits here.
      const place = rows.get(row) ?? 2 + places.count++;
      rows.set(row, place);
      places.first.set(one.name, place);
      places.bytes.set(one.name, 1);
      places.reaches.set(one.name, 0xff);
      continue;
    }
    if (one.kind === 'enter') places.first.set('entered', 2 + places.count++);
    if (one.kind !== 'hold') continue;
    const most = reach(one.value, places.reaches);
    const bytes = bytesFor(most);
    places.reaches.set(one.name, most);
    places.bytes.set(one.name, bytes);
    if (one.name.startsWith('bits') && bytes === 1 && passing !== undefined) {
      places.first.set(one.name, passing);
      continue;
    }
    places.first.set(one.name, 2 + places.count);
    if (one.name.startsWith('bits') && bytes === 1) passing = 2 + places.count;
    places.count += bytes;
  }
  return places;
}

/** Whether the function's values find room in registers. */
export const fitsAvr = (statements: readonly Statement[]): boolean =>
  placesOf({ statements } as Frame).count <= 12;

/** Groups of registers, lowest byte first; all take numbers at once. */
const GROUPS = [
  [18, 19, 20, 21],
  [22, 23, 24, 25],
  [26, 27, 30, 31],
];

class AvrBody implements Body {
  private readonly places: Places;

  constructor(private readonly frame: Frame) {
    this.places = placesOf(frame);
  }

  firstCopy(register: Register, value: number): AsmCode[] {
    return [line(asm`ldi r18, ${hex(value)}`), line(asm`sts ${this.frame.names.copy(register)}, r18`)];
  }

  statement(one: Statement): AsmCode[] {
    const { frame } = this;
    switch (one.kind) {
      case 'hold': {
        const bytes = this.places.bytes.get(one.name) ?? 1;
        const to = this.places.first.get(one.name) ?? 2;
        const from = GROUPS[0] ?? [];
        return [
          ...this.value(one.value, 0, bytes),
          ...Array.from({ length: bytes }, (_, k) =>
            line(asm`mov ${named(to + k)}, ${named(from[k] ?? 18)}`),
          ),
        ];
      }
      case 'write':
        return this.write(one.register, one.value);
      case 'read':
        return this.read(one.register, 18);
      case 'keep':
        return [...this.value(one.value, 0, 1), line(asm`sts ${frame.names.copy(one.register)}, r18`)];
      case 'choose': {
        const [other, end] = [frame.label(), frame.label()];
        return [
          ...this.masked(one.register, one.mask),
          line(asm`breq ${other}`),
          ...one.set.flatMap((it) => this.statement(it)),
          line(asm`rjmp ${end}`),
          asm`${other}:`,
          ...one.clear.flatMap((it) => this.statement(it)),
          asm`${end}:`,
        ];
      }
      case 'await': {
        const [again, end] = [frame.label(), frame.label()];
        const count = this.counter(one.tries);
        const leave =
          one.late === 'leave' ? [...(frame.tells ? avr.result(0) : []), ...avr.leave(frame)] : [];
        return [
          ...count.start,
          asm`${again}:`,
          ...this.masked(one.register, one.mask),
          line(asm`cpi r18, ${hex(one.value)}`),
          line(asm`breq ${end}`),
          ...count.less,
          line(asm`brcc ${again}`),
          ...leave,
          asm`${end}:`,
        ];
      }
      case 'wait': {
        const again = frame.label();
        const count = this.counter(one.cycles);
        return [...count.start, asm`${again}:`, ...count.less, line(asm`brcc ${again}`)];
      }
      case 'enter':
        // The status register, whose topmost bit lets interrupts in.
        return [line(asm`in ${named(this.places.first.get('entered') ?? 2)}, 0x3F`), line(asm`cli`)];
      case 'leave':
        return [line(asm`out 0x3F, ${named(this.places.first.get('entered') ?? 2)}`)];
      case 'give': {
        const bytes = bitsOf(one.value) / 8;
        const from = GROUPS[0] ?? [];
        const to = bytes === 4 ? 22 : 24;
        return [
          ...this.value(one.value, 0, bytes),
          ...Array.from({ length: bytes }, (_, k) =>
            line(asm`mov ${named(to + k)}, ${named(from[k] ?? 18)}`),
          ),
        ];
      }
      case 'give level': {
        const [asserted, other] = one.asserted === 'set' ? [1, 0] : [0, 1];
        return [
          ...this.read(one.register, 18),
          line(asm`ldi r24, ${decimal(other)}`),
          line(asm`sbrc r18, ${decimal(Math.log2(one.mask))}`),
          line(asm`ldi r24, ${decimal(asserted)}`),
        ];
      }
    }
  }

  private write(register: Register, value: Value): AsmCode[] {
    const single = this.singleBit(register, value);
    if (single) return [single];
    return [...this.value(value, 0, 1), ...this.store(register, 18)];
  }

  /** One instruction sets or clears one bit of the lowest registers, where no other bit minds being written back. */
  private singleBit(register: Register, value: Value): AsmCode | undefined {
    if (
      !isBitSpace(register) ||
      register.flagMask !== 0 ||
      register.zeroFlagMask !== 0 ||
      value.kind !== 'both'
    )
      return undefined;
    const { left, right, sign } = value;
    if (left.kind !== 'read' || left.register !== register || right.kind !== 'constant') return undefined;
    const at = asm`${this.frame.names.register(register)} - 0x20`;
    const mask = sign === '|' ? right.value : sign === '&' ? ~right.value & 0xff : 0;
    const bit = Math.log2(mask);
    if (!Number.isInteger(bit)) return undefined;
    return line(asm`${sign === '|' ? asm`sbi` : asm`cbi`} ${at}, ${decimal(bit)}`);
  }

  private read(register: Register, to: number): AsmCode[] {
    const at = this.frame.names.register(register);
    return [line(isIoSpace(register) ? asm`in ${named(to)}, ${at} - 0x20` : asm`lds ${named(to)}, ${at}`)];
  }

  private store(register: Register, from: number): AsmCode[] {
    const at = this.frame.names.register(register);
    return [
      line(isIoSpace(register) ? asm`out ${at} - 0x20, ${named(from)}` : asm`sts ${at}, ${named(from)}`),
    ];
  }

  private masked(register: Register, mask: number): AsmCode[] {
    return [...this.read(register, 18), line(asm`andi r18, ${hex(mask)}`)];
  }

  /** A counter in the last group, and what counts it down; the carry says that it was at its end. */
  private counter(from: number): { start: AsmCode[]; less: AsmCode[] } {
    const group = (GROUPS[2] ?? []).slice(0, bytesFor(from));
    return {
      start: group.map((register, k) => line(asm`ldi ${named(register)}, ${hex((from >>> (8 * k)) & 0xff)}`)),
      less: group.map((register, k) =>
        line(k === 0 ? asm`subi ${named(register)}, 1` : asm`sbci ${named(register)}, 0`),
      ),
    };
  }

  /** The low bytes of a value in a group of registers; the groups behind it are free. */
  private value(value: Value, to: number, bytes: number): AsmCode[] {
    const group = GROUPS[to];
    if (!group) throw new Error('a value is nested deeper than there are registers');
    const at = (k: number): AsmCode => named(group[k] ?? 18);
    const zeros = (from: number): AsmCode[] =>
      Array.from({ length: Math.max(0, bytes - from) }, (_, k) => line(asm`ldi ${at(from + k)}, 0`));
    switch (value.kind) {
      case 'constant':
        return Array.from({ length: bytes }, (_, k) =>
          line(asm`ldi ${at(k)}, ${hex((value.value >>> (8 * k)) & 0xff)}`),
        );
      case 'read':
        return [...this.read(value.register, group[0] ?? 18), ...zeros(1)];
      case 'copy':
        return [line(asm`lds ${at(0)}, ${this.frame.names.copy(value.register)}`), ...zeros(1)];
      case 'held': {
        const own = Math.min(bytes, this.places.bytes.get(value.name) ?? 1);
        const from = this.places.first.get(value.name) ?? 2;
        return [
          ...Array.from({ length: own }, (_, k) => line(asm`mov ${at(k)}, ${named(from + k)}`)),
          ...zeros(own),
        ];
      }
      case 'given': {
        const own = Math.min(bytes, value.bits / 8);
        return [
          ...Array.from({ length: own }, (_, k) => line(asm`mov ${at(k)}, ${named(14 + k)}`)),
          ...zeros(own),
        ];
      }
      case 'both':
        return this.both(value, to, bytes);
      case 'shift':
        return this.shift(value, to, bytes);
      case 'wide':
        return this.value(value.of, to, bytes);
      case 'narrow': {
        const own = Math.min(bytes, value.bits / 8);
        return [...this.value(value.of, to, own), ...zeros(own)];
      }
    }
  }

  private both(value: Extract<Value, { kind: 'both' }>, to: number, bytes: number): AsmCode[] {
    const group = GROUPS[to] ?? [];
    const other = GROUPS[to + 1] ?? [];
    const lines = this.value(value.left, to, bytes);
    const constant = value.right.kind === 'constant' ? value.right.value : undefined;
    if (constant === undefined) append(lines, this.value(value.right, to + 1, bytes));
    for (let k = 0; k < bytes; k++) {
      const register = named(group[k] ?? 18);
      const right = named(other[k] ?? 22);
      const byte = constant === undefined ? undefined : (constant >>> (8 * k)) & 0xff;
      if (byte === undefined) {
        const sign = value.sign === '&' ? asm`and` : value.sign === '|' ? asm`or` : asm`eor`;
        lines.push(line(asm`${sign} ${register}, ${right}`));
      } else if (value.sign === '&') {
        if (byte === 0) lines.push(line(asm`ldi ${register}, 0`));
        else if (byte !== 0xff) lines.push(line(asm`andi ${register}, ${hex(byte)}`));
      } else if (byte !== 0) {
        if (value.sign === '|') lines.push(line(asm`ori ${register}, ${hex(byte)}`));
        else lines.push(line(asm`ldi ${right}, ${hex(byte)}`), line(asm`eor ${register}, ${right}`));
      }
    }
    return lines;
  }

  private shift({ of, by }: Extract<Value, { kind: 'shift' }>, to: number, bytes: number): AsmCode[] {
    const group = GROUPS[to] ?? [];
    const at = (k: number): AsmCode => named(group[k] ?? 18);
    const whole = Math.floor(Math.abs(by) / 8);
    const bits = Math.abs(by) % 8;
    const lines: AsmCode[] = [];
    if (by > 0) {
      append(lines, this.value(of, to, bytes));
      for (let k = bytes - 1; k >= 0; k--) {
        if (whole === 0) break;
        lines.push(line(k >= whole ? asm`mov ${at(k)}, ${at(k - whole)}` : asm`ldi ${at(k)}, 0`));
      }
      for (let turn = 0; turn < bits; turn++) {
        for (let k = 0; k < bytes; k++) lines.push(line(asm`${k === 0 ? asm`lsl` : asm`rol`} ${at(k)}`));
      }
      return lines;
    }
    const needed = Math.min(4, bytes + whole + (bits > 0 ? 1 : 0));
    append(lines, this.value(of, to, needed));
    for (let k = 0; whole > 0 && k < needed; k++) {
      lines.push(line(k + whole < needed ? asm`mov ${at(k)}, ${at(k + whole)}` : asm`ldi ${at(k)}, 0`));
    }
    for (let turn = 0; turn < bits; turn++) {
      for (let k = needed - 1; k >= 0; k--) {
        lines.push(line(asm`${k === needed - 1 ? asm`lsr` : asm`ror`} ${at(k)}`));
      }
    }
    return lines;
  }
}

/** Registers that `in` and `out` reach, and those of them in which single bits can be set. */
const isIoSpace = ({ address }: Register): boolean => address >= 0x20 && address < 0x60;
const isBitSpace = ({ address }: Register): boolean => address >= 0x20 && address < 0x40;
