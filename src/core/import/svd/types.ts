/** A register description as CMSIS-SVD gives it, with arrays and inheritance worked out. Numbers are as in the file. */
export interface RegisterFile {
  name: string;
  description: string;
  /** Bits of the bus. */
  width: number;
  endian: 'little' | 'big';
  peripherals: PeripheralRegisters[];
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

export interface FileRegister {
  /** With the clusters it stands in, divided by dots, and array indices filled in. */
  name: string;
  description: string;
  /** Bytes from the peripheral's base. */
  offset: number;
  bits: number;
  access: SvdAccess;
  reset: number;
  fields: FileField[];
  line: number;
}

export interface FileField {
  name: string;
  description: string;
  low: number;
  bits: number;
  access?: SvdAccess;
}
