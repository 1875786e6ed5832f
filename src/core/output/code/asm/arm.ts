import type { Register } from '../../../device/registers/types';
import type { Statement, Value, Width } from '../program/types';
import { type Body, type Frame, line, type Processor } from './machine-code';
import { type AsmCode, asm, decimal, hex } from './writer';

/**
 * ARM Thumb, as far as every core with Thumb has it (ARMv6-M). r0 to r2 hold what is worked out, r3 an address from which
 * registers are reached, r4 what the function is given.
 */
export const arm: Processor = {
  id: 'arm',
  head: [asm`    .syntax unified`, asm`    .cpu cortex-m0`, asm`    .thumb`],
  type: asm`%`,
  align: 2,
  enter: ({ slots, takes, calls }) => [
    ...(saves(takes, calls) ? [line(asm`push {r4, lr}`)] : []),
    ...(slots.size > 0 ? [line(asm`sub sp, #${decimal(8 * Math.ceil(slots.size / 2))}`)] : []),
    ...(takes === undefined ? [] : [line(asm`movs r4, r0`)]),
  ],
  leave: ({ slots, takes, calls }) => [
    ...(slots.size > 0 ? [line(asm`add sp, #${decimal(8 * Math.ceil(slots.size / 2))}`)] : []),
    line(saves(takes, calls) ? asm`pop {r4, pc}` : asm`bx lr`),
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

const saves = (takes: Width | undefined, calls: boolean): boolean => takes !== undefined || calls;

const SUFFIX = { 8: asm`b`, 16: asm`h`, 32: asm`` };
const SIGN = { '&': asm`ands`, '|': asm`orrs`, '^': asm`eors` };
const REGISTERS = [asm`r0`, asm`r1`, asm`r2`];
/** Instructions after which constants are put between the code: they must lie within 1020 bytes. */
const POOL_AFTER = 110;

/** Bytes that a load of a word reaches from a register. */
const PAGE = 0x80;

class ArmBody implements Body {
  private base: number | undefined;
  private count = 0;

  constructor(private readonly frame: Frame) {}

  statement(one: Statement): AsmCode[] {
    const lines = this.print(one);
    this.count += lines.length;
    if (this.count < POOL_AFTER || one.kind === 'give' || one.kind === 'give level') return lines;
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
      case 'keep':
        return [...this.value(one.value, 0), ...this.toCopy(one.register)];
      case 'choose': {
        const [other, end] = [frame.label(), frame.label()];
        const test = this.masked(one.register, one.mask);
        const known = this.base;
        const set = one.set.flatMap((it) => this.print(it));
        this.base = known;
        const clear = one.clear.flatMap((it) => this.print(it));
        this.base = undefined;
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
        this.base = undefined;
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
        this.base = undefined;
        return lines;
      }
      case 'wait': {
        const again = frame.label();
        return [...this.load(0, one.cycles), asm`${again}:`, line(asm`subs r0, #1`), line(asm`bne ${again}`)];
      }
      case 'enter':
        this.base = undefined;
        return [asm`bl ${frame.names.own('enter')}`, asm`str r0, [sp, #${this.slot('entered')}]`].map(line);
      case 'leave':
        this.base = undefined;
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
    return [line(value < 256 ? asm`movs ${register}, #${hex(value)}` : asm`ldr ${register}, =${hex(value)}`)];
  }

  private toCopy(register: Register): AsmCode[] {
    this.base = undefined;
    const store = asm`str${SUFFIX[register.bits]} r0, [r3]`;
    return [line(asm`ldr r3, =${this.frame.names.copy(register)}`), line(store)];
  }

  /** The bits of a register that a mask names, in r0. */
  private masked(register: Register, mask: number): AsmCode[] {
    return [...this.access(asm`ldr`, 0, register), ...this.load(1, mask), line(asm`ands r0, r1`)];
  }

  /** Where a register is, from what r3 holds: the start of a page, so that registers of one port share the constant. */
  private reach(register: Register): { lines: AsmCode[]; at: AsmCode } {
    const { names } = this.frame;
    const bytes = register.bits / 8;
    const near = register.address % PAGE;
    const base = near <= 31 * bytes && near % bytes === 0 ? register.address - near : register.address;
    const distance = register.address - base;
    const at = distance === 0 ? asm`[r3]` : asm`[r3, #${names.register(register)} - ${hex(base)}]`;
    if (base === this.base) return { lines: [], at };
    this.base = base;
    return { lines: [line(asm`ldr r3, =${hex(base)}`)], at };
  }

  private access(how: AsmCode, to: number, register: Register): AsmCode[] {
    const { lines, at } = this.reach(register);
    return [...lines, line(asm`${how}${SUFFIX[register.bits]} ${REGISTERS[to] ?? asm`r0`}, ${at}`)];
  }

  /** Works a value out in a register; those above it are free. */
  private value(value: Value, to: number): AsmCode[] {
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
