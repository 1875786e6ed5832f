import { smallest } from '../base/lists';
import type { Device } from '../device/device';
import { blockOf, ownName, RegisterNames } from '../device/registers/register-names';
import { canRead, canWrite, type Register } from '../device/registers/types';

/** Last names that headers give to the whole of a register. */
const WHOLE = new Set(['REG', 'WORD', 'ALL', 'VALUE', 'RAW', 'W', 'U8', 'U16', 'U32', 'R']);
/** How far behind the first register of a block an address still counts as the block's. */
const REACH = 0x1000;

/** The registers of a part, by the addresses and names that code has for them. */
export class Addresses {
  private readonly byByte = new Map<number, Register[]>();
  private readonly names: RegisterNames;
  private readonly blocks = new Map<string, Register[]>();
  /** Registers by the names that they have in their block. */
  private readonly inBlock = new Map<string, RegisterNames>();
  private readonly all: readonly Register[];
  private readonly ports: readonly string[];
  private readonly bases: readonly { block: string; base: number }[];

  constructor(device: Device, alsoCalled: (register: Register) => readonly string[] = () => []) {
    this.all = device.registers.all;
    this.ports = [...new Set(device.description.pads.flatMap((pad) => pad.port ?? []))];
    const all = this.all.filter((one) => one.access.kind !== 'internal');
    this.names = new RegisterNames(all, alsoCalled);
    for (const register of all) {
      for (let k = 0; k < register.bits / 8; k++) {
        const list = this.byByte.get(register.address + k);
        if (list) list.push(register);
        else this.byByte.set(register.address + k, [register]);
      }
      const block = blockOf(register);
      const list = this.blocks.get(block);
      if (list) list.push(register);
      else this.blocks.set(block, [register]);
    }
    this.bases = [...this.blocks]
      .map(([block, list]) => ({ block, base: smallest(list.map((one) => one.address)) }))
      .sort((a, b) => b.base - a.base);
  }

  /** The register at an address that is accessed in so many bits; that which can be read or written where there are two. */
  at(address: number, bits: number | undefined, access: 'read' | 'write'): Register | undefined {
    const list = this.byByte.get(address) ?? [];
    const score = (one: Register): number =>
      (one.address === address ? 4 : 0) +
      (bits === undefined || one.bits === bits ? 2 : 0) +
      (suits(one, access) ? 1 : 0);
    return list.reduce<Register | undefined>(
      (best, one) => (!best || score(one) > score(best) ? one : best),
      undefined,
    );
  }

  /** The register that names in order lead to, as `PA`, `OUT` of `PA->OUT`; `@…` is an address whose type is not known. */
  named(path: readonly string[]): Register | undefined {
    const [first = '', ...rest] = path;
    if (first.startsWith('@')) return this.near(Number(first.slice(1)), rest);
    const parts = first.endsWith('()') ? rest : path;
    for (const names of this.spellings(parts)) {
      const found = this.names.find(names.join('_'));
      if (found.length === 1) return found[0];
    }
    return undefined;
  }

  private spellings(parts: readonly string[]): string[][] {
    const plain = parts.map((one) => one.replace(/^\[(.*)\]$/, '$1'));
    const joined: string[] = [];
    for (const [at, one] of parts.entries()) {
      if (one.startsWith('[') && at > 0) joined.push(`${joined.pop()}${plain[at]}`);
      else joined.push(plain[at] as string);
    }
    const list = [joined, plain];
    const last = plain.at(-1) ?? '';
    if (WHOLE.has(last.toUpperCase()) && plain.length > 1) list.push(joined.slice(0, -1));
    const [, index, ...members] = parts;
    const port = index?.startsWith('[') ? this.ports[Number(index.slice(1, -1))] : undefined;
    if (port && members.length > 0) list.push([port, ...members]);
    return list;
  }

  /** A member of what begins at an address. */
  private near(address: number, names: readonly string[]): Register | undefined {
    const block = this.bases.find(({ base }) => base === address)?.block;
    return block === undefined ? undefined : this.own(block, names);
  }

  /** A register of a block by the name that it has there. */
  own(block: string, names: readonly string[]): Register | undefined {
    let own = this.inBlock.get(block);
    if (!own) {
      own = new RegisterNames((this.blocks.get(block) ?? []).map((one) => ({ ...one, name: ownName(one) })));
      this.inBlock.set(block, own);
    }
    for (const spelling of this.spellings(names)) {
      const [found, other] = own.find(spelling.join('_'));
      if (found && !other) return this.all[found.index];
    }
    return undefined;
  }

  /** Whether names are those of a block, or of something in a block: no number that is missing. */
  isBlock(path: readonly string[]): boolean {
    const first = (path[0] ?? '').toUpperCase();
    return [...this.blocks.keys()].some(
      (block) =>
        first === block.toUpperCase() ||
        first.endsWith(`_${block.toUpperCase()}`) ||
        first.startsWith(`${block.toUpperCase()}_`),
    );
  }

  /** The block that an address lies in or behind, and how far. */
  blockAt(address: number): { block: string; base: number; offset: number } | undefined {
    const found = this.bases.find(({ base }) => base <= address && address - base < REACH);
    return found && { ...found, offset: address - found.base };
  }

  /** The start of the block that a register is in. */
  baseOf(register: Register): number {
    return this.bases.find(({ block }) => block === blockOf(register))?.base ?? register.address;
  }

  /** What an offset would be if its digits were of the other base: `0x20` for 20, 20 for `0x20`. */
  otherBase(address: number): { register: Register; offset: number; meant: number } | undefined {
    const place = this.blockAt(address);
    if (!place) return undefined;
    const { base, offset } = place;
    const asDecimal = /^[0-9]+$/.test(offset.toString(16)) ? Number(offset.toString(16)) : undefined;
    const asHex = Number.parseInt(String(offset), 16);
    for (const meant of [asDecimal, asHex]) {
      const register =
        meant === undefined || meant === offset ? undefined : this.byByte.get(base + meant)?.[0];
      if (register && register.address === base + (meant as number))
        return { register, offset, meant: meant as number };
    }
    return undefined;
  }

  /** The registers that a whole name can only mean, with a prefix or an ending like `_REG`. */
  called(name: string): Register | undefined {
    for (const one of [name, name.replace(/_?(REG|ADDR|ADDRESS|PTR)$/i, '')]) {
      const found = one.includes('_') ? this.names.find(one) : [];
      if (found.length === 1) return found[0];
    }
    return undefined;
  }
}

const suits = (register: Register, wanted: 'read' | 'write'): boolean =>
  wanted === 'read' ? canRead(register) : canWrite(register);
