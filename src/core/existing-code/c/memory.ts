import type { Byte } from './value';

/** Where the variables of the code lie: bytes of which nobody knows anything until they are written. */
export class Memory {
  private readonly bytes = new Map<number, number>();
  private next: number;

  /** From an address where the part has nothing. */
  constructor(readonly start: number) {
    this.next = start + 16;
  }

  has(address: number): boolean {
    return address >= this.start && address < this.next;
  }

  /** Room for an object, zeroed or not. Undefined where there is no more. */
  take(size: number, zeroed: boolean): number | undefined {
    if (size > 1_000_000 || this.next - this.start + size > 16_000_000) return undefined;
    const address = this.next;
    this.next += Math.ceil((size + 1) / 8) * 8;
    if (zeroed) for (let k = 0; k < size; k++) this.bytes.set(address + k, 0xff00);
    return address;
  }

  read(address: number): Byte {
    const held = this.bytes.get(address) ?? 0;
    return { value: held & 0xff, known: held >> 8 };
  }

  write(address: number, { value, known }: Byte): void {
    this.bytes.set(address, (known << 8) | (value & known));
  }

  text(address: number, bytes: readonly number[]): void {
    for (const [k, value] of bytes.entries()) this.write(address + k, { value, known: 0xff });
  }

  /** A number of so many bytes. */
  number(address: number, bytes: number, bigEndian: boolean): { value: bigint; known: bigint } {
    let [value, known] = [0n, 0n];
    for (let k = 0; k < bytes; k++) {
      const byte = this.read(address + (bigEndian ? k : bytes - 1 - k));
      value = (value << 8n) | BigInt(byte.value);
      known = (known << 8n) | BigInt(byte.known);
    }
    return { value, known };
  }

  setNumber(address: number, bytes: number, value: bigint, known: bigint, bigEndian: boolean): void {
    for (let k = 0; k < bytes; k++) {
      const by = BigInt(8 * k);
      const byte = { value: Number((value >> by) & 0xffn), known: Number((known >> by) & 0xffn) };
      this.write(address + (bigEndian ? bytes - 1 - k : k), byte);
    }
  }
}
