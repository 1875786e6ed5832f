import { avrInstruction, CPU } from 'avr8js';

const DATA = 0xd000;
const STACK = 0xefff;
/** Where calls return to: no code is there. */
const STOP = 0xfff0;
const LONGEST = 20_000_000;

/** Runs AVR code and holds its bus accesses to a trace, in order. Gives the first difference, or nothing. */
export function runAvr(
  { code, data, addresses }: { code: Buffer; data: Buffer; addresses: readonly number[] },
  trace: readonly string[],
): string {
  const program = new Uint16Array(0x10000);
  for (let at = 0; at < code.length; at += 2) {
    program[at / 2] = (code[at] ?? 0) | ((code[at + 1] ?? 0) << 8);
  }
  const cpu = new CPU(program, 0xff00);
  cpu.data.set(data, DATA);
  const words = trace.map((one) => one.split(' '));
  let position = 0;
  let wrong = '';
  const meet = (kind: string, address: number, value?: number): number => {
    const [how, bits, at, noted] = words[position] ?? [];
    const seen = `${kind} 8 ${address.toString(16)}`;
    if (
      `${how} ${bits} ${at}` !== seen ||
      (value !== undefined && value !== Number.parseInt(noted ?? '', 16))
    ) {
      wrong ||= `${position}: ${seen} ${value?.toString(16) ?? ''} instead of ${words[position]?.join(' ')}`;
      return 0;
    }
    position++;
    return Number.parseInt(noted ?? '', 16);
  };
  const registers = new Set(
    words.flatMap(([how, , at]) => (how === 'r' || how === 'w' ? [Number.parseInt(at ?? '', 16)] : [])),
  );
  for (const address of registers) {
    cpu.readHooks[address] = () => meet('r', address);
    cpu.writeHooks[address] = (value) => {
      meet('w', address, value);
      return true;
    };
  }
  for (const [number, address] of addresses.entries()) {
    if (words[position]?.join(' ') !== `call ${number.toString(16)}`) {
      return `${position}: call ${number.toString(16)} instead of ${words[position]?.join(' ')}`;
    }
    position++;
    cpu.SP = STACK;
    // What a call leaves on the stack: the high byte below the low one.
    cpu.data[STACK] = STOP & 0xff;
    cpu.data[STACK - 1] = STOP >> 8;
    cpu.SP = STACK - 2;
    cpu.data[1] = 0;
    cpu.pc = address / 2;
    for (let count = 0; cpu.pc !== STOP && wrong === ''; count++) {
      if (count > LONGEST) return `${position}: does not end`;
      avrInstruction(cpu);
    }
    if (wrong !== '') return wrong;
    if (cpu.SP !== STACK) return `${position}: the stack is not as it was`;
    if (words[position]?.[0] === 'gives') {
      // A function of the driver gives 32 bits, from r22 up.
      const given = [22, 23, 24, 25].reduce(
        (sum, register, k) => sum + (cpu.data[register] ?? 0) * 2 ** (8 * k),
        0,
      );
      if (given.toString(16) !== words[position]?.[1]) {
        return `${position}: gives ${given.toString(16)} instead of ${words[position]?.[1]}`;
      }
      position++;
    }
  }
  return position === words.length ? '' : `${position}: ends before ${words[position]?.join(' ')}`;
}
