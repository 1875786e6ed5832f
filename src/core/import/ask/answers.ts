import type { FieldRole } from '../attach/roles';

/** A register as the page of the document shows it: its name, how far from the port's first address, its value after reset. */
export interface RegisterAnswer {
  name: string;
  /** Bytes from the base of the port; in a word for each pad not asked. */
  offset: string;
  /** Lowest bit, where all stands in one word for each pad; in registers of ports the bits begin at 0. */
  low: string;
  /** Value after reset; empty for 0. */
  reset: string;
}

/** What was answered to one question. */
export interface TopicAnswer {
  /** Which of the usual shapes it is; `none` where the part has nothing of it. */
  shape: string;
  /** The registers of the shape, by the role that each has. */
  registers: Partial<Record<FieldRole, RegisterAnswer>>;
  /** Numbers of values, by role. */
  values: Partial<Record<FieldRole, Record<string, number>>>;
  /** Bits for each pad, and from one pad's bits to the next one's, where the shape leaves them open. */
  bits: number;
  stride: number;
}

/** Bits that open the clocks of ports, or hold them in reset. */
export interface GateAnswer {
  name: string;
  address: string;
  opensAt: 0 | 1;
  /** Bit by port, as typed. */
  ports: Record<string, string>;
}

/** The port hardware of a part as somebody without a register description tells it. */
export interface HardwareAnswers {
  endian: 'little' | 'big';
  /** Registers of a port hold a bit or field of each pad, or each pad has a word of its own. */
  layout: 'port' | 'pad';
  width: 8 | 16 | 32;
  /** Address of the first port's (or pad's) registers, and how far it is to the next one. */
  base: string;
  step: string;
  /** With a word for each pad: how far it is from one port's first pad to the next port's; empty where pads follow each other. */
  portStep: string;
  /** With a word for each pad: its value after reset; empty for 0. */
  wordReset: string;
  /** Addresses of ports that do not follow that distance, as typed. */
  bases: Record<string, string>;
  topics: Record<string, TopicAnswer>;
  gate: GateAnswer | null;
}

/** `0x1F`, `31` → 31; undefined for what is no such number. */
export function numberOf(text: string): number | undefined {
  const bare = text.trim().replace(/_/g, '');
  if (!/^(0[xX][0-9A-Fa-f]+|\d+)$/.test(bare)) return undefined;
  const value = Number(bare);
  return Number.isSafeInteger(value) && value < 2 ** 32 ? value : undefined;
}
