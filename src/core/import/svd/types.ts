/** A register description as CMSIS-SVD gives it, with arrays and inheritance worked out. Numbers are as in the file. */
export interface RegisterFile {
  name: string;
  description: string;
  /** Bits of the bus. */
  width: number;
  endian: 'little' | 'big';
  peripherals: PeripheralRegisters[];
  /** What the file says of registers and nothing here can say. */
  notCarried?: string[];
}

export interface PeripheralRegisters {
  name: string;
  description: string;
  group: string;
  base: number;
  derivedFrom?: string;
  registers: FileRegister[];
}

export const SVD_ACCESS = ['read-only', 'write-only', 'read-write', 'writeOnce', 'read-writeOnce'] as const;
export type SvdAccess = (typeof SVD_ACCESS)[number];

/** What writing does beside storing (`modifiedWriteValues`), in the words of the format. */
export const WRITE_EFFECTS = [
  'oneToClear',
  'oneToSet',
  'oneToToggle',
  'zeroToClear',
  'zeroToSet',
  'zeroToToggle',
  'clear',
  'set',
  'modify',
] as const;
export type WriteEffect = (typeof WRITE_EFFECTS)[number];

/** What a number in a field means, by the file's own words. */
export interface FileValue {
  name: string;
  description: string;
  value: number;
}

export interface FileRegister {
  /** With the clusters it stands in, divided by dots, and array indices filled in. */
  name: string;
  description: string;
  /** Bytes from the peripheral's base. */
  offset: number;
  bits: number;
  access: SvdAccess;
  reset: number;
  /** Bits of which the file gives a reset value; absent: all. */
  resetMask?: number;
  writes?: WriteEffect;
  /** Reading it changes something (`readAction`). */
  readActs?: true;
  fields: FileField[];
  line: number;
}

export interface FileField {
  name: string;
  description: string;
  low: number;
  bits: number;
  access?: SvdAccess;
  writes?: WriteEffect;
  readActs?: true;
  values?: FileValue[];
}
