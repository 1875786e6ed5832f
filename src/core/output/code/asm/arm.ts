import { fullMask, type Register } from '../../../device/registers/types';
import { bitsOf, type Statement, type Value, type Width } from '../program/types';
import { type Body, type Frame, line, type Processor } from './machine-code';
import { type AsmCode, asm, decimal, hex } from './writer';

/**
 * ARM Thumb, as far as every core with Thumb has it (ARMv6-M). r0 to r2 hold what is worked out, r3 an address from which
 * registers are reached (in long functions r5 to r7 do so as well), r4 what the function is given.
 */
export const arm: Processor = {
  id: 'arm',
  head: [asm`    .syntax unified`, asm`    .cpu cortex-m0`, asm`    .thumb`],
  type: asm`%`,
  align: 2,
  enter: ({ slots, takes, calls, ...frame }) => [
    ...(isLong(frame)
      ? [line(asm`push {r4, r5, r6, r7, lr}`)]
      : saves(takes, calls)
        ? [line(asm`push {r4, lr}`)]
        : []),
    ...(slots.size > 0 ? [line(asm`sub sp, #${decimal(8 * Math.ceil(slots.size / 2))}`)] : []),
    ...(takes === undefined ? [] : [line(asm`movs r4, r0`)]),
  ],
  leave: ({ slots, takes, calls, ...frame }) => [
    ...(slots.size > 0 ? [line(asm`add sp, #${decimal(8 * Math.ceil(slots.size / 2))}`)] : []),
    line(
      isLong(frame) ? asm`pop {r4, r5, r6, r7, pc}` : saves(takes, calls) ? asm`pop {r4, pc}` : asm`bx lr`,
    ),
  ],
  after: [line(asm`.ltorg`)],
  body: (frame) => new ArmBody(frame),
  result: (value) => [line(asm`movs r0, #${decimal(value)}`)],
  call: (name) => [line(asm`bl ${name}`)],
  unlessGiven: (label) => [line(asm`cmp r0, #0`), line(asm`beq ${label}`)],
  callOrLeave: (frame, name) => {
    const on = frame.label();
    return [
      line(asm`bl ${name}`),
      line(asm`cmp r0, #0`),
      line(asm`bne ${on}`),
      ...arm.leave(frame),
      asm`${on}:`,
    ];
  },
  done: ({ names }, value) =>
    [asm`ldr r1, =${names.own('done')}`, asm`movs r0, #${decimal(value)}`, asm`strb r0, [r1]`].map(line),
  isDone: ({ names }) => [asm`ldr r0, =${names.own('done')}`, asm`ldrb r0, [r0]`].map(line),
};

/** Whether so much is done that it is worth while to keep several addresses at hand. */
const isLong = ({ statements }: Pick<Frame, 'statements'>): boolean => statements.length > 12;

const saves = (takes: Width | undefined, calls: boolean): boolean => takes !== undefined || calls;

const SUFFIX = { 8: asm`b`, 16: asm`h`, 32: asm`` };
const SIGN = { '&': asm`ands`, '|': asm`orrs`, '^': asm`eors` };
const REGISTERS = [asm`r0`, asm`r1`, asm`r2`];
/** Bytes of code, and of constants behind it, after which constants are put between the code: loads reach 1020 bytes. */
const POOL_AFTER = 800;

/** Bytes that a load of a word reaches from a register. */
const PAGE = 0x80;

class ArmBody implements Body {
  /** Registers that hold addresses, the least lately used first. */
  private readonly held: { register: AsmCode; base: number | undefined }[];
  /** What r0 is known to hold. */
  private known: number | undefined;
  private count = 0;
  private readonly constants = new Set<string>();

  constructor(private readonly frame: Frame) {
    const registers = isLong(frame) ? [asm`r5`, asm`r6`, asm`r7`, asm`r3`] : [asm`r3`];
    this.held = registers.map((register) => ({ register, base: undefined }));
  }

  /** Forgets what registers hold: another way may lead to here. */
  private forget(): void {
    for (const one of this.held) one.base = undefined;
    this.known = undefined;
  }

  statement(one: Statement): AsmCode[] {
    const lines = this.print(one);
    this.count += 2 * lines.length;
    for (const one of lines) {
      const [, constant] = /=(\S+)$/.exec(one) ?? [];
      if (constant !== undefined) this.constants.add(constant);
    }
    const size = this.count + 4 * this.constants.size;
    if (size < POOL_AFTER || one.kind === 'give' || one.kind === 'give level') return lines;
    this.constants.clear();
    this.count = 0;
    const on = this.frame.label();
    return [...lines, line(asm`b ${on}`), line(asm`.ltorg`), asm`${on}:`];
  }

  firstCopy(register: Register, value: number): AsmCode[] {
    return [...this.load(0, value), ...this.toCopy(register)];
  }

  private print(one: Statement): AsmCode[] {
    const { frame } = this;
    switch (one.kind) {
      case 'hold':
        return [...this.value(one.value, 0), line(asm`str r0, [sp, #${this.slot(one.name)}]`)];
      case 'write':
        return [...this.value(one.value, 0), ...this.access(asm`str`, 0, one.register)];
      case 'read':
        return this.value({ kind: 'read', register: one.register }, 0);
      case 'keep':
        return [...this.value(one.value, 0), ...this.toCopy(one.register)];
      case 'choose': {
        const [other, end] = [frame.label(), frame.label()];
        const test = this.masked(one.register, one.mask);
        this.forget();
        const set = one.set.flatMap((it) => this.print(it));
        this.forget();
        const clear = one.clear.flatMap((it) => this.print(it));
        this.forget();
        return [
          ...test,
          line(asm`beq ${other}`),
          ...set,
          line(asm`b ${end}`),
          asm`${other}:`,
          ...clear,
          asm`${end}:`,
        ];
      }
      case 'await': {
        const [again, end] = [frame.label(), frame.label()];
        this.forget();
        const lines = [
          ...this.load(2, one.tries),
          ...this.reach(one.register).lines,
          asm`${again}:`,
          ...this.masked(one.register, one.mask),
          ...this.load(1, one.value),
          line(asm`cmp r0, r1`),
          line(asm`beq ${end}`),
          line(asm`subs r2, #1`),
          line(asm`bcs ${again}`),
          ...(one.late === 'leave' ? [...(frame.tells ? arm.result(0) : []), ...arm.leave(frame)] : []),
          asm`${end}:`,
        ];
        this.forget();
        return lines;
      }
      case 'wait': {
        const again = frame.label();
        this.known = undefined;
        const count = this.load(0, one.cycles);
        this.known = undefined;
        return [...count, asm`${again}:`, line(asm`subs r0, #1`), line(asm`bne ${again}`)];
      }
      case 'enter':
        this.forget();
        return [asm`bl ${frame.names.own('enter')}`, asm`str r0, [sp, #${this.slot('entered')}]`].map(line);
      case 'leave':
        this.forget();
        return [asm`ldr r0, [sp, #${this.slot('entered')}]`, asm`bl ${frame.names.own('leave')}`].map(line);
      case 'give':
        return this.value(one.value, 0);
      case 'give level': {
        const test = this.masked(one.register, one.mask);
        // 1 where r0 is not 0: the subtraction borrows for 0 only.
        const isSet = [asm`subs r1, r0, #1`, asm`sbcs r0, r1`].map(line);
        const turned = [line(asm`movs r1, #1`), line(asm`eors r0, r1`)];
        return [...test, ...isSet, ...(one.asserted === 'set' ? [] : turned)];
      }
    }
  }

  private slot(name: Parameters<Frame['slots']['get']>[0]): AsmCode {
    return decimal(4 * (this.frame.slots.get(name) ?? 0));
  }

  private load(to: number, value: number): AsmCode[] {
    const register = REGISTERS[to] ?? asm`r0`;
    if (to === 0 && this.known === value) return [];
    if (to === 0) this.known = value;
    const inverse = ~value >>> 0;
    if (value < 256) return [line(asm`movs ${register}, #${hex(value)}`)];
    if (inverse < 256)
      return [asm`movs ${register}, #${hex(inverse)}`, asm`mvns ${register}, ${register}`].map(line);
    // Two short instructions instead of one and a constant behind the code.
    const by = Math.clz32(value & -value) ^ 31;
    if (value >>> by < 256)
      return [
        asm`movs ${register}, #${hex(value >>> by)}`,
        asm`lsls ${register}, ${register}, #${decimal(by)}`,
      ].map(line);
    return [line(asm`ldr ${register}, =${hex(value)}`)];
  }

  /** Bits of r0 and of its like that a constant keeps: by what it clears, where that is shorter. */
  private keep(to: number, mask: number, bits: number): AsmCode[] {
    const [register, other] = [REGISTERS[to] ?? asm`r0`, REGISTERS[to + 1] ?? asm`r1`];
    const cleared = (~mask & fullMask(bits)) >>> 0;
    const [kept, less] = [this.load(to + 1, mask), this.load(to + 1, cleared)];
    const size = (lines: readonly AsmCode[]): number =>
      lines.reduce((sum, one) => sum + (one.includes('=') ? 6 : 2), 0);
    return size(less) < size(kept)
      ? [...less, line(asm`bics ${register}, ${other}`)]
      : [...kept, line(asm`ands ${register}, ${other}`)];
  }

  private toCopy(register: Register): AsmCode[] {
    this.forget();
    const store = asm`str${SUFFIX[register.bits]} r0, [r3]`;
    return [line(asm`ldr r3, =${this.frame.names.copy(register)}`), line(store)];
  }

  /** The bits of a register that a mask names, in r0. */
  private masked(register: Register, mask: number): AsmCode[] {
    this.known = undefined;
    return [...this.access(asm`ldr`, 0, register), ...this.keep(0, mask, register.bits)];
  }

  /** Where a register is, from what r3 holds: the start of a page, so that registers of one port share the constant. */
  private reach(register: Register): { lines: AsmCode[]; at: AsmCode } {
    const { names } = this.frame;
    const bytes = register.bits / 8;
    const near = register.address % PAGE;
    const base = near <= 31 * bytes && near % bytes === 0 ? register.address - near : register.address;
    const distance = register.address - base;
    const found = this.held.find((one) => one.base === base);
    const holder = found ?? this.held[0];
    if (!holder) throw new Error('there is a register for addresses');
    this.held.splice(this.held.indexOf(holder), 1);
    this.held.push(holder);
    const at =
      distance === 0
        ? asm`[${holder.register}]`
        : asm`[${holder.register}, #${names.register(register)} - ${hex(base)}]`;
    if (found) return { lines: [], at };
    holder.base = base;
    return { lines: [line(asm`ldr ${holder.register}, =${hex(base)}`)], at };
  }

  private access(how: AsmCode, to: number, register: Register): AsmCode[] {
    const { lines, at } = this.reach(register);
    return [...lines, line(asm`${how}${SUFFIX[register.bits]} ${REGISTERS[to] ?? asm`r0`}, ${at}`)];
  }

  /** Works a value out in a register; those above it are free. */
  private value(value: Value, to: number): AsmCode[] {
    const lines = this.worked(value, to);
    if (to === 0 && value.kind !== 'constant') this.known = undefined;
    return lines;
  }

  private worked(value: Value, to: number): AsmCode[] {
    const register = REGISTERS[to];
    if (!register) throw new Error('a value is nested deeper than there are registers');
    switch (value.kind) {
      case 'constant':
        return this.load(to, value.value);
      case 'read':
        return this.access(asm`ldr`, to, value.register);
      case 'copy': {
        const from = asm`ldr${SUFFIX[value.register.bits]} ${register}, [${register}]`;
        return [line(asm`ldr ${register}, =${this.frame.names.copy(value.register)}`), line(from)];
      }
      case 'held':
        return [line(asm`ldr ${register}, [sp, #${this.slot(value.name)}]`)];
      case 'given':
        return value.bits === 32
          ? [line(asm`movs ${register}, r4`)]
          : [line(asm`uxt${SUFFIX[value.bits]} ${register}, r4`)];
      case 'both': {
        if (value.sign === '&' && value.right.kind === 'constant') {
          const left = this.value(value.left, to);
          return [...left, ...this.keep(to, value.right.value, bitsOf(value.left))];
        }
        const right = REGISTERS[to + 1] ?? asm`r2`;
        const sign = SIGN[value.sign];
        return [
          ...this.value(value.left, to),
          ...this.value(value.right, to + 1),
          line(asm`${sign} ${register}, ${right}`),
        ];
      }
      case 'shift': {
        const how = value.by > 0 ? asm`lsls` : asm`lsrs`;
        return [...this.value(value.of, to), line(asm`${how} ${register}, #${decimal(Math.abs(value.by))}`)];
      }
      case 'wide':
        return this.value(value.of, to);
      case 'narrow':
        return [...this.value(value.of, to), line(asm`uxt${SUFFIX[value.bits]} ${register}, ${register}`)];
    }
  }
}
