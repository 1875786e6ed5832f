import type { Register } from '../../../device/registers/types';
import type { Statement, Value } from '../program/types';
import { type Body, type Frame, line, type Processor } from './machine-code';
import { type AsmCode, asm, decimal, hex, signed } from './writer';

/** RISC-V, RV32I. t0 to t3 hold what is worked out, t6 the upper part of an address, s0 what the function is given. */
export const riscv: Processor = {
  id: 'riscv',
  head: [asm`    .option nopic`, asm`    .option norelax`],
  type: asm`@`,
  align: 2,
  enter: (frame) => {
    const size = sizeOf(frame);
    if (size === 0) return [];
    return [
      asm`addi sp, sp, -${decimal(size)}`,
      ...(frame.calls ? [asm`sw ra, ${decimal(size - 4)}(sp)`] : []),
      ...(frame.takes === undefined ? [] : [asm`sw s0, ${decimal(size - 8)}(sp)`, asm`mv s0, a0`]),
    ].map(line);
  },
  leave: (frame) => {
    const size = sizeOf(frame);
    return [
      ...(size > 0 && frame.calls ? [asm`lw ra, ${decimal(size - 4)}(sp)`] : []),
      ...(frame.takes === undefined ? [] : [asm`lw s0, ${decimal(size - 8)}(sp)`]),
      ...(size > 0 ? [asm`addi sp, sp, ${decimal(size)}`] : []),
      asm`ret`,
    ].map(line);
  },
  after: [],
  body: (frame) => new RiscvBody(frame),
  result: (value) => [line(asm`li a0, ${decimal(value)}`)],
  call: (name) => [line(asm`call ${name}`)],
  unlessGiven: (label) => [line(asm`beqz a0, ${label}`)],
  callOrLeave: (frame, name) => {
    const on = frame.label();
    return [line(asm`call ${name}`), line(asm`bnez a0, ${on}`), ...riscv.leave(frame), asm`${on}:`];
  },
  done: ({ names }, value) =>
    [
      asm`la t1, ${names.own('done')}`,
      ...(value === 0 ? [asm`sb zero, 0(t1)`] : [asm`li t0, 1`, asm`sb t0, 0(t1)`]),
    ].map(line),
  isDone: ({ names }) => [asm`la a0, ${names.own('done')}`, asm`lbu a0, 0(a0)`].map(line),
};

const sizeOf = ({ slots, takes, calls }: Frame): number =>
  slots.size === 0 && takes === undefined && !calls ? 0 : 16 * Math.ceil((slots.size * 4 + 8) / 16);

const LOAD = { 8: asm`lbu`, 16: asm`lhu`, 32: asm`lw` };
const STORE = { 8: asm`sb`, 16: asm`sh`, 32: asm`sw` };
const SIGN = { '&': asm`and`, '|': asm`or`, '^': asm`xor` };
const REGISTERS = [asm`t0`, asm`t1`, asm`t2`, asm`t3`];

/** The part of an address that a load or store adds: twelve bits with a sign. */
const lowOf = (address: number): number => ((address + 0x800) & 0xfff) - 0x800;
const highOf = (address: number): number => (address - lowOf(address)) >>> 0;

class RiscvBody implements Body {
  /** Registers that hold upper parts of addresses, the least lately used first; none of them has to be kept for the caller. */
  private readonly held: { register: AsmCode; high: number | undefined }[] = [
    asm`a1`,
    asm`a2`,
    asm`a3`,
    asm`a4`,
    asm`a5`,
    asm`a6`,
    asm`a7`,
    asm`t4`,
    asm`t5`,
    asm`t6`,
  ].map((register) => ({ register, high: undefined }));
  /** What t0 is known to hold. */
  private known: number | undefined;

  /** Forgets what registers hold: another way may lead to here. */
  private forget(): void {
    for (const one of this.held) one.high = undefined;
    this.known = undefined;
  }

  constructor(private readonly frame: Frame) {}

  firstCopy(register: Register, value: number): AsmCode[] {
    return [line(asm`li t0, ${hex(value)}`), ...this.toCopy(register)];
  }

  statement(one: Statement): AsmCode[] {
    const { frame } = this;
    switch (one.kind) {
      case 'hold':
        return [...this.value(one.value, 0), line(asm`sw t0, ${this.slot(one.name)}(sp)`)];
      case 'write': {
        const none = one.value.kind === 'constant' && one.value.value === 0;
        const first = none ? [] : this.value(one.value, 0);
        return [...first, ...this.access(STORE[one.register.bits], none ? asm`zero` : asm`t0`, one.register)];
      }
      case 'read':
        return this.value({ kind: 'read', register: one.register }, 0);
      case 'keep':
        return [...this.value(one.value, 0), ...this.toCopy(one.register)];
      case 'choose': {
        const [other, end] = [frame.label(), frame.label()];
        const test = this.masked(one.register, one.mask);
        this.forget();
        const set = one.set.flatMap((it) => this.statement(it));
        this.forget();
        const clear = one.clear.flatMap((it) => this.statement(it));
        this.forget();
        return [
          ...test,
          line(asm`beqz t0, ${other}`),
          ...set,
          line(asm`j ${end}`),
          asm`${other}:`,
          ...clear,
          asm`${end}:`,
        ];
      }
      case 'await': {
        const [again, end] = [frame.label(), frame.label()];
        this.forget();
        const reach = this.reach(one.register).lines;
        const lines = [
          line(asm`li t2, ${hex(one.tries)}`),
          line(asm`li t3, ${hex(one.value)}`),
          ...reach,
          asm`${again}:`,
          ...this.masked(one.register, one.mask),
          line(asm`beq t0, t3, ${end}`),
          line(asm`addi t2, t2, -1`),
          // Below zero only after one try more than so many.
          line(asm`li t1, -1`),
          line(asm`bne t2, t1, ${again}`),
          ...(one.late === 'leave' ? [...(frame.tells ? riscv.result(0) : []), ...riscv.leave(frame)] : []),
          asm`${end}:`,
        ];
        this.forget();
        return lines;
      }
      case 'wait': {
        const again = frame.label();
        this.known = undefined;
        const lines = [asm`li t0, ${hex(one.cycles)}`, asm`addi t0, t0, -1`, asm`bnez t0, ${again}`].map(
          line,
        );
        return [lines[0] ?? asm``, asm`${again}:`, ...lines.slice(1)];
      }
      case 'enter':
        this.forget();
        return [asm`call ${frame.names.own('enter')}`, asm`sw a0, ${this.slot('entered')}(sp)`].map(line);
      case 'leave':
        this.forget();
        return [asm`lw a0, ${this.slot('entered')}(sp)`, asm`call ${frame.names.own('leave')}`].map(line);
      case 'give':
        return [...this.value(one.value, 0), line(asm`mv a0, t0`)];
      case 'give level':
        return [
          ...this.masked(one.register, one.mask),
          line(one.asserted === 'set' ? asm`snez a0, t0` : asm`seqz a0, t0`),
        ];
    }
  }

  private slot(name: Parameters<Frame['slots']['get']>[0]): AsmCode {
    return decimal(4 * (this.frame.slots.get(name) ?? 0));
  }

  private toCopy(register: Register): AsmCode[] {
    const store = asm`${STORE[register.bits]} t0, 0(t1)`;
    return [line(asm`la t1, ${this.frame.names.copy(register)}`), line(store)];
  }

  private masked(register: Register, mask: number): AsmCode[] {
    this.known = undefined;
    return [...this.access(LOAD[register.bits], asm`t0`, register), ...this.combine('&', 0, mask)];
  }

  /** Brings the upper part of the register's address into a register, where none holds it. */
  private reach({ address }: Register): { lines: AsmCode[]; by: AsmCode } {
    const high = highOf(address);
    const found = this.held.find((one) => one.high === high);
    const holder = found ?? this.held[0];
    if (!holder) throw new Error('there is a register for addresses');
    this.held.splice(this.held.indexOf(holder), 1);
    this.held.push(holder);
    if (found) return { lines: [], by: holder.register };
    holder.high = high;
    const load =
      high === 0 ? asm`mv ${holder.register}, zero` : asm`lui ${holder.register}, ${hex(high >>> 12)}`;
    return { lines: [line(load)], by: holder.register };
  }

  private access(how: AsmCode, register: AsmCode, of: Register): AsmCode[] {
    const { lines, by } = this.reach(of);
    return [...lines, line(asm`${how} ${register}, ${signed(lowOf(of.address))}(${by})`)];
  }

  /** A value and a constant, in the value's register. */
  private combine(sign: '&' | '|' | '^', to: number, constant: number): AsmCode[] {
    const [register, free] = [REGISTERS[to] ?? asm`t0`, REGISTERS[to + 1] ?? asm`t1`];
    const small = constant | 0;
    if (small >= -2048 && small < 2048)
      return [line(asm`${SIGN[sign]}i ${register}, ${register}, ${signed(small)}`)];
    return [
      line(asm`li ${free}, ${hex(constant)}`),
      line(asm`${SIGN[sign]} ${register}, ${register}, ${free}`),
    ];
  }

  private value(value: Value, to: number): AsmCode[] {
    if (to === 0 && value.kind === 'constant' && value.value === this.known) return [];
    const lines = this.worked(value, to);
    if (to === 0) this.known = value.kind === 'constant' ? value.value : undefined;
    return lines;
  }

  private worked(value: Value, to: number): AsmCode[] {
    const register = REGISTERS[to];
    if (!register) throw new Error('a value is nested deeper than there are registers');
    switch (value.kind) {
      case 'constant':
        return [line(asm`li ${register}, ${hex(value.value)}`)];
      case 'read':
        return this.access(LOAD[value.register.bits], register, value.register);
      case 'copy':
        return [
          line(asm`la ${register}, ${this.frame.names.copy(value.register)}`),
          line(asm`${LOAD[value.register.bits]} ${register}, 0(${register})`),
        ];
      case 'held':
        return [line(asm`lw ${register}, ${this.slot(value.name)}(sp)`)];
      case 'given':
        return [line(asm`mv ${register}, s0`), ...this.cut(to, value.bits)];
      case 'both': {
        const left = this.value(value.left, to);
        if (value.right.kind === 'constant')
          return [...left, ...this.combine(value.sign, to, value.right.value)];
        const right = REGISTERS[to + 1] ?? asm`t1`;
        return [
          ...left,
          ...this.value(value.right, to + 1),
          line(asm`${SIGN[value.sign]} ${register}, ${register}, ${right}`),
        ];
      }
      case 'shift': {
        const how = value.by > 0 ? asm`slli` : asm`srli`;
        const by = decimal(Math.abs(value.by));
        return [...this.value(value.of, to), line(asm`${how} ${register}, ${register}, ${by}`)];
      }
      case 'wide':
        return this.value(value.of, to);
      case 'narrow':
        return [...this.value(value.of, to), ...this.cut(to, value.bits)];
    }
  }

  /** The low bits only. */
  private cut(to: number, bits: number): AsmCode[] {
    const register = REGISTERS[to] ?? asm`t0`;
    if (bits === 32) return [];
    if (bits === 8) return [line(asm`andi ${register}, ${register}, 0xFF`)];
    return [line(asm`slli ${register}, ${register}, 16`), line(asm`srli ${register}, ${register}, 16`)];
  }
}
