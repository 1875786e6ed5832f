import type { RegisterFile } from '../svd/types';
import type { Proposal } from './choices';
import { propose } from './propose';

/** A pad that registers are to be found for. */
export interface PortPad {
  id: string;
  port: string;
  bit: number;
}

/** A register description as the import view needs it: what it is about, and what is proposed. All else stays where it was read. */
export interface OpenRegisters {
  name: string;
  blocks: number;
  registers: number;
  endian: RegisterFile['endian'];
  notCarried: readonly string[];
  proposal: Proposal;
}

export function openRegisters(file: RegisterFile, pads: readonly PortPad[]): OpenRegisters {
  const ports: Record<string, number> = {};
  for (const { port, bit } of pads) ports[port] = Math.max(ports[port] ?? 0, bit + 1);
  return {
    name: file.name,
    blocks: file.peripherals.length,
    registers: file.peripherals.reduce((sum, one) => sum + one.registers.length, 0),
    endian: file.endian,
    notCarried: file.notCarried ?? [],
    proposal: propose(
      file,
      ports,
      pads.map((pad) => pad.id),
    ),
  };
}
