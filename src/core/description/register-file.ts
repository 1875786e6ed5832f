/**
 * The registers of a part as the open register standards give them (CMSIS-SVD, IP-XACT, SystemRDL), with arrays and inheritance worked
 * out: what their readers make, and their printers print. Numbers are as in the file.
 */
export interface RegisterFile {
  name: string;
  description: string;
  /** Bits of the bus. */
  width: number;
  endian: 'little' | 'big';
  peripherals: PeripheralRegisters[];
  /** What registers do, and has no word here: of a file that was read, what it says beyond this; of a part, what no file of it says. */
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

/** What reading does (`readAction`), in the words of the format. */
export const READ_EFFECTS = ['clear', 'set', 'modify'] as const;
export type ReadEffect = (typeof READ_EFFECTS)[number];

/** What a file's `readAction` says; whatever else it names changes something, too. */
export const readEffectOf = (given: string | undefined): ReadEffect | undefined =>
  given === undefined ? undefined : (READ_EFFECTS.find((effect) => effect === given) ?? 'modify');

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
  reads?: ReadEffect;
  /** The register of the same peripheral whose bits it shows, where it is another name of one. */
  aliasOf?: string;
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
  reads?: ReadEffect;
  /** What is written is back at 0 with the next clock. */
  pulse?: true;
  /** What the hardware makes of it by itself. */
  hardware?: 'sets' | 'clears' | 'writes';
  /** Writes are taken only while a bit is as told. */
  enabledBy?: WriteEnable;
  /** The only values that may be written; `listed`: those in {@link FileField.values}. */
  allowed?: { from: number; to: number } | 'listed';
  values?: FileValue[];
}

/** A field of another register, by peripheral, register and field divided by dots. */
export interface WriteEnable {
  field: string;
  openAt: 0 | 1;
}

/** Bits `low … low+bits-1` as far as a register of 32 bits has them, unsigned. */
export function maskOfBits(low: number, bits: number): number {
  if (low >= 32 || bits <= 0) return 0;
  const width = Math.min(bits, 32 - low);
  return ((2 ** width - 1) * 2 ** low) >>> 0;
}

/** The reset value of a field; undefined where a bit of it has none. */
export function resetOfField(
  { reset, resetMask }: Pick<FileRegister, 'reset' | 'resetMask'>,
  { low, bits }: Pick<FileField, 'low' | 'bits'>,
): number | undefined {
  const width = 2 ** bits;
  const part = (value: number): number => Math.floor(value / 2 ** low) % width;
  return resetMask !== undefined && part(resetMask) !== width - 1 ? undefined : part(reset);
}

/** Bytes from the base of a peripheral to the end of its last register. */
export const sizeOf = ({ registers }: PeripheralRegisters): number =>
  registers.reduce((end, { offset, bits }) => Math.max(end, offset + bits / 8), 0);
