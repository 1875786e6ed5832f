/** Types of C, as far as code that sets registers needs them. `volatile` is kept, since registers need it. */
export type CType =
  | { kind: 'void'; volatile?: boolean }
  | IntType
  | { kind: 'float'; bits: 32 | 64; volatile?: boolean }
  | { kind: 'pointer'; to: CType; volatile?: boolean }
  | { kind: 'array'; of: CType; count: number | undefined; volatile?: boolean }
  | StructType
  | { kind: 'function'; returns: CType; parameters: Parameter[]; volatile?: boolean }
  /** Of a header that is not there. */
  | { kind: 'unknown'; name: string; volatile?: boolean };

export interface IntType {
  kind: 'int';
  bits: 8 | 16 | 32 | 64;
  signed: boolean;
  bool?: true;
  volatile?: boolean;
}

export interface Parameter {
  name: string | undefined;
  type: CType;
}

/** The members of a struct or union; filled in when its body has been read. */
export interface StructBody {
  tag: string;
  union: boolean;
  members: Member[] | undefined;
  size: number;
  align: number;
}

export interface StructType {
  kind: 'struct';
  body: StructBody;
  volatile?: boolean;
}

export interface Member {
  /** Undefined for one whose members count as the outer one's. */
  name: string | undefined;
  type: CType;
  /** In bytes, of the unit for a bit-field. */
  offset: number;
  /** For a bit-field: where it lies in its unit, counted from the unit's lowest bit. */
  field?: { low: number; bits: number };
}

const int = (bits: IntType['bits'], signed: boolean): IntType => ({ kind: 'int', bits, signed });
export const INT = int(32, true);
export const UNSIGNED = int(32, false);
export const LONG_LONG = int(64, true);
export const UNSIGNED_LONG_LONG = int(64, false);
export const CHAR = int(8, false);
export const BOOL: IntType = { kind: 'int', bits: 8, signed: false, bool: true };
/** Pointers and sizes have 32 bits. */
export const POINTER_BYTES = 4;

/** Of `<stdint.h>`, `<stddef.h>` and `<stdbool.h>`, which everybody takes to be there. */
export const STANDARD_TYPES: Readonly<Record<string, CType>> = {
  int8_t: int(8, true),
  uint8_t: int(8, false),
  int16_t: int(16, true),
  uint16_t: int(16, false),
  int32_t: INT,
  uint32_t: UNSIGNED,
  int64_t: LONG_LONG,
  uint64_t: UNSIGNED_LONG_LONG,
  int_least8_t: int(8, true),
  uint_least8_t: int(8, false),
  int_least16_t: int(16, true),
  uint_least16_t: int(16, false),
  int_least32_t: INT,
  uint_least32_t: UNSIGNED,
  int_fast8_t: INT,
  uint_fast8_t: UNSIGNED,
  int_fast16_t: INT,
  uint_fast16_t: UNSIGNED,
  int_fast32_t: INT,
  uint_fast32_t: UNSIGNED,
  intptr_t: INT,
  uintptr_t: UNSIGNED,
  intmax_t: LONG_LONG,
  uintmax_t: UNSIGNED_LONG_LONG,
  size_t: UNSIGNED,
  ssize_t: INT,
  ptrdiff_t: INT,
  bool: BOOL,
  _Bool: BOOL,
};

export const asVolatile = <T extends CType>(type: T): T =>
  type.volatile ? type : { ...type, volatile: true };

/** In bytes; undefined where it hangs on what is not there. */
export function sizeOf(type: CType): number | undefined {
  switch (type.kind) {
    case 'int':
    case 'float':
      return type.bits / 8;
    case 'pointer':
      return POINTER_BYTES;
    case 'array': {
      const one = sizeOf(type.of);
      return one === undefined || type.count === undefined ? undefined : one * type.count;
    }
    case 'struct':
      return type.body.members ? type.body.size : undefined;
    case 'void':
    case 'function':
      return 1;
    default:
      return undefined;
  }
}

function alignOf(type: CType): number {
  switch (type.kind) {
    case 'array':
      return alignOf(type.of);
    case 'struct':
      return type.body.align;
    default:
      return Math.min(sizeOf(type) ?? 1, 8);
  }
}

export interface FreshMember {
  name: string | undefined;
  type: CType;
  bits?: number;
}

/**
 * Lays members out as the ABIs of ARM and RISC-V do: each at its natural place, bit-fields from the low end in units of their
 * type, none across the end of its unit. False where a size is not known.
 */
export function layOut(
  body: StructBody,
  fresh: readonly FreshMember[],
  packed: boolean,
  bigEndian: boolean,
): boolean {
  const members: Member[] = [];
  let bit = 0;
  let size = 0;
  let align = 1;
  for (const { name, type, bits } of fresh) {
    const own = sizeOf(type) ?? (type.kind === 'array' ? 0 : undefined);
    if (own === undefined) return false;
    const at = packed ? 1 : alignOf(type);
    if (body.union) bit = 0;
    if (bits !== undefined) {
      const unit = own * 8;
      if (bits === 0) {
        bit = Math.ceil(bit / unit) * unit;
        continue;
      }
      if (Math.floor(bit / unit) !== Math.floor((bit + bits - 1) / unit)) bit = Math.ceil(bit / unit) * unit;
      const start = Math.floor(bit / unit) * unit;
      const inUnit = bit - start;
      const low = bigEndian ? unit - inUnit - bits : inUnit;
      members.push({ name, type, offset: start / 8, field: { low, bits } });
      bit += bits;
      align = Math.max(align, at);
    } else {
      const offset = Math.ceil(Math.ceil(bit / 8) / at) * at;
      members.push({ name, type, offset });
      bit = (offset + own) * 8;
      align = Math.max(align, at);
    }
    size = Math.max(size, Math.ceil(bit / 8));
  }
  body.members = members;
  body.align = align;
  body.size = Math.ceil(size / align) * align;
  return true;
}

/** A member by its name, also of those without a name of their own; its offset is from the outer one's start. */
export function memberOf(type: StructType, name: string): Member | undefined {
  for (const member of type.body.members ?? []) {
    if (member.name === name) return member;
    if (member.name !== undefined || member.type.kind !== 'struct') continue;
    const inner = memberOf(member.type, name);
    if (!inner) continue;
    const found = { ...inner, offset: inner.offset + member.offset };
    return member.type.volatile ? { ...found, type: asVolatile(found.type) } : found;
  }
  return undefined;
}
