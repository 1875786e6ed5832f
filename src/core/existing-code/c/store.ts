import {
  accessTo,
  type Bus,
  type BusAccess,
  busWidth,
  type Lvalue,
  type MemoryPlace,
  type Told,
} from './bus';
import type { Memory } from './memory';
import { fieldOf, numbersOf, withField } from './parts';
import type { Place } from './tokens';
import { asVolatile, type CType, type IntType, sizeOf, UNSIGNED } from './types';
import { type CValue, converted, type Int, intOf, isKnown, numberOf, UNKNOWN, unknownInt } from './value';

/** Reads and writes places: of the code's own memory, or of what is outside. */
export class Store {
  /** Accesses to what is outside so far, and writes among them: by these loops that wait are told from those that work. */
  accesses = 0;
  writes = 0;

  constructor(
    readonly memory: Memory,
    readonly bus: Bus,
    private readonly told: Told,
    private readonly bigEndian: boolean,
  ) {}

  cast(value: CValue, type: CType): CValue {
    if (type.kind === 'pointer') {
      if (value.kind === 'pointer') return { ...value, to: type.to };
      if (value.kind === 'int' && isKnown(value))
        return { kind: 'pointer', to: type.to, address: Number(BigInt.asUintN(32, value.value)) };
      return value.kind === 'path' ? value : UNKNOWN;
    }
    if (type.kind === 'int') {
      if (value.kind === 'int') return converted(value, type);
      if (value.kind === 'pointer') return intOf(BigInt(value.address), type);
      return value.kind === 'path' ? value : unknownInt(type);
    }
    return value;
  }

  load(target: Lvalue, place: Place): CValue {
    if (target.kind === 'unknown') return UNKNOWN;
    if (target.kind === 'path') return this.fromBus(accessTo(target, place, undefined), UNSIGNED);
    const { address, type, field } = target;
    const isOutside = !this.memory.has(address);
    if (type.kind === 'array')
      return { kind: 'pointer', to: isOutside && target.volatile ? asVolatile(type.of) : type.of, address };
    if (type.kind === 'function') return { kind: 'pointer', to: type, address };
    if (type.kind === 'unknown' && isOutside)
      return this.fromBus(accessTo(target, place, undefined), UNSIGNED);
    if (type.kind === 'float' || type.kind === 'void' || type.kind === 'unknown') return UNKNOWN;
    const size = sizeOf(type) ?? 4;
    if (isOutside) return this.loadOutside(target, type, size, place);
    if (type.kind === 'struct') {
      const bytes = Array.from({ length: size }, (_, k) => this.memory.read(address + k));
      return { kind: 'struct', type, bytes };
    }
    const { value, known } = this.memory.number(address, size, this.bigEndian);
    if (type.kind === 'pointer') {
      if (known !== 0xffffffffn) return this.paths.get(address) ?? UNKNOWN;
      return { kind: 'pointer', to: type.to, address: Number(value) };
    }
    const whole: Int = { kind: 'int', type, value, known };
    return field ? fieldOf(whole, field, type) : whole;
  }

  private loadOutside(target: MemoryPlace, type: CType, size: number, place: Place): CValue {
    if (type.kind === 'struct') return UNKNOWN;
    const bits = busWidth(size);
    if (!bits) {
      this.told.notUnderstood(place, `an access of ${size * 8} bits`);
      return UNKNOWN;
    }
    const plain: IntType = type.kind === 'int' ? type : UNSIGNED;
    const unit: IntType = { kind: 'int', bits: plain.bits, signed: false };
    const whole = this.fromBus(accessTo(target, place, bits), target.field ? unit : plain);
    const value = target.field && whole.kind === 'int' ? fieldOf(whole, target.field, plain) : whole;
    return type.kind === 'pointer' ? this.cast(value, type) : value;
  }

  /** Pointers that hold what a register is called instead of an address. */
  private readonly paths = new Map<number, CValue>();

  fromBus(access: BusAccess, type: IntType): CValue {
    this.accesses++;
    const read = this.bus.read(access);
    if (!read) return 'path' in access.at ? { kind: 'path', path: access.at.path } : unknownInt(type);
    const own: IntType = access.bits === undefined ? { kind: 'int', bits: read.bits, signed: false } : type;
    return { kind: 'int', type: own, value: BigInt(read.value >>> 0), known: BigInt(read.known >>> 0) };
  }

  store(target: Lvalue, given: CValue, place: Place, sign?: string, by?: CValue): void {
    if (target.kind === 'unknown') {
      if (sign !== undefined) this.told.notUnderstood(place, 'where this writes to is not known');
      return;
    }
    if (target.kind === 'path') {
      this.toBus(accessTo(target, place, undefined), given, sign ?? '', by);
      return;
    }
    const { address, type, field } = target;
    const size = sizeOf(type) ?? 4;
    if (this.memory.has(address)) {
      this.keep(address, type, size, given, field);
      return;
    }
    const bits = type.kind === 'unknown' ? undefined : busWidth(size);
    if (type.kind === 'struct' || (type.kind !== 'unknown' && !bits)) {
      this.told.notUnderstood(place, 'a write of more than one number');
      return;
    }
    const access = accessTo(target, place, bits);
    if (!field) {
      this.toBus(
        access,
        type.kind === 'int' ? this.fitting(given, type, place, sign) : given,
        sign ?? '',
        by,
      );
      return;
    }
    // A bit-field is read, changed and written with its whole unit.
    const held = this.fromBus(access, { kind: 'int', bits: bits ?? 32, signed: false });
    if (held.kind === 'int') this.toBus(access, withField(held, field, given), 'field', given);
  }

  /** A number as the register's type takes it; what does not fit is told. */
  private fitting(given: CValue, type: IntType, place: Place, sign: string | undefined): CValue {
    if (given.kind === 'pointer') return intOf(BigInt(given.address), type);
    if (given.kind !== 'int') return given;
    const lost = (given.value & given.known) >> BigInt(type.bits);
    const negative = given.type.signed && isKnown(given) && numberOf(given) < 0n;
    if (lost !== 0n && !negative && sign === '')
      this.told.suspicious(
        'value-does-not-fit',
        place,
        `0x${given.value.toString(16).toUpperCase()} does not fit into ${type.bits} bits`,
      );
    return converted(given, type);
  }

  private keep(
    address: number,
    type: CType,
    size: number,
    given: CValue,
    field: { low: number; bits: number } | undefined,
  ): void {
    this.paths.delete(address);
    if (type.kind === 'struct' && given.kind === 'struct') {
      for (const [k, byte] of given.bytes.entries()) this.memory.write(address + k, byte);
      return;
    }
    if (given.kind === 'path') this.paths.set(address, given);
    const plain: IntType = type.kind === 'int' ? type : UNSIGNED;
    let value: Int = unknownInt(plain);
    if (given.kind === 'int') value = converted(given, plain);
    else if (given.kind === 'pointer') value = intOf(BigInt(given.address), plain);
    if (field) {
      const held = this.memory.number(address, size, this.bigEndian);
      value = withField(
        { kind: 'int', type: { ...plain, signed: false, bool: undefined }, ...held },
        field,
        given,
      );
    }
    this.memory.setNumber(address, size, value.value, value.known, this.bigEndian);
  }

  private toBus(access: BusAccess, given: CValue, sign: string, by: CValue | undefined): void {
    this.accesses++;
    this.writes++;
    this.bus.write({ ...access, ...numbersOf(given), how: { sign, ...numbersOf(by ?? given) } });
  }
}
