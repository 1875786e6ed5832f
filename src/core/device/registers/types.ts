import type { Assignment, Term } from '../../description/language/clause';
import type { Context } from '../../description/language/scope';
import type { Access, Follows } from '../../description/language/statement';

/** One register at one address. Values are unsigned numbers below 2^bits. */
export interface Register {
  /** Position in {@link RegisterMap.all}; the machine keeps values by it. */
  index: number;
  /** Unique name as printed: `PA.USE`, `PA.FN1`. */
  name: string;
  block: string;
  /** Id in the recipe, without an array index. */
  id: string;
  title: string;
  /** CPU address in bytes. */
  address: number;
  /** Address as the document prints it, where that is another one. */
  documentAddress?: number;
  bits: 8 | 16 | 32;
  /** Of internal state: how many bits there are, where that is no width of the bus. */
  width?: number;
  reset: number;
  /** Bits for which the document gives no reset value; they are 0 in {@link reset}. */
  unknownReset: number;
  access: Access;
  follows?: Follows;
  /** Where its bits are kept. Registers without bits of their own (set, clear, key …) have none. */
  storage?: Storage;
  /** The register that a set/clear/toggle/act/alias register acts on, or that this one follows. */
  target?: Register;
  /** For a register that follows the pads: the bits of which one invert it. */
  inverter?: Register;
  /** Bits that show the level of a pad, among bits that hold what is written. */
  levels: LevelBit[];
  /** Where its bits, or some of them, come from by themselves. */
  followers: Follower[];
  /** Registers that share its address on purpose. */
  overlaps: Register[];
  /** Flags among its bits: writing 1 clears one. */
  flagMask: number;
  /** Flags among its bits: writing 0 clears one, and 1 leaves it. */
  zeroFlagMask: number;
  /** For act registers: where the target's new bits come from. */
  from?: Register;
  /** For key registers: what they open. */
  opens?: Register[];
  /** Key registers that must all be open for a write to be taken. */
  locks: Register[];
  /** Accesses have no effect while one of these is closed. */
  guards: Guard[];
  /** Bits that ignore writes. */
  readOnlyMask: number;
  /** Reserved bits and the value that every write must give them. */
  always?: { value: number; mask: number };
  /** Takes a write only where these commit bits are 1, each for `bitsEach` bits of this register. */
  commit?: { register: Register; from: number; bitsEach: number; openAt: 0 | 1 };
  /** For a register that the bus reaches in pieces only: the pieces, lowest bits first. It is then no bus register itself. */
  pieces?: Register[];
  /** What its bits come back to by themselves, and how long that takes at most. */
  returns?: { value: number; afterCycles: number };
  /** What the description says of it in clauses, names being those of registers. */
  clauses?: RegisterClauseTerms;
  /** The instance of its block: which port, pad or function it belongs to. */
  context: Context;
}

/**
 * Clauses of a description, with every name replaced by the register that it names from where it stands, or by the number of a column.
 * `BLOCK[*].R` makes one assignment for each instance of the block.
 */
export interface RegisterClauseTerms {
  gives?: Term;
  when?: Term;
  effects?: Assignment[];
  afterRead?: Assignment[];
  anyWrite?: Assignment[];
  anyAccess?: Assignment[];
}

/** A bit that shows a pad's level. */
export interface LevelBit {
  bit: number;
  inverted: boolean;
  invertedBy?: { register: Register; bit: number };
}

/** Bits of a register that come to be what bits of another (or the same) one are. */
export interface Follower {
  register: Register;
  mask: number;
  source: Register;
  /** How far the source's bits are moved to the left to stand where they are shown; negative: to the right. */
  shift: number;
  inverted: boolean;
  /** Infinite where nobody says how long it takes. */
  afterCycles: number;
}

/** Bits that show something and are nobody's to write. */
export const shownMask = (register: Register): number => {
  if (register.follows) return fullMask(register.bits);
  let mask = 0;
  for (const { bit } of register.levels) mask |= 1 << bit;
  for (const one of register.followers) mask |= one.mask;
  return mask >>> 0;
};

/** A place in the part's memory: a word of up to 32 bits, and the lowest of its bits that the register shows. */
export interface Storage {
  word: number;
  shift: number;
}

/** A register bit that must have a value for accesses (or only writes) to have effect. */
export interface Guard {
  register: Register;
  bit: number;
  openAt: 0 | 1;
  stops: 'all' | 'writes';
}

export interface RegisterMap {
  /** Every register on the bus, and internal state; of a register in pieces, the pieces. */
  all: Register[];
  endian: 'little' | 'big';
  /** Some register's behaviour is said in clauses. */
  inClauses: boolean;
  /** How many words of memory the registers take (see {@link Storage}). */
  words: number;
  byName: Map<string, Register>;
  /** The register a recipe names, in a context; undefined when the context does not reach one. */
  /** `element`: which one of an array; without it, the one that the array's index says. */
  find(block: string, id: string, context: Context, element?: number): Register | undefined;
  /** True when the block's instance depends on the function chosen on a pad. */
  needsFunction(block: string, id: string): boolean;
}

const NEVER_READ: ReadonlySet<Access['kind']> = new Set(['write', 'key', 'act', 'strobe', 'internal']);

/** Whether the bus can read a register, whatever may stand in the way at the moment. */
export const canRead = ({ access, clauses }: Register): boolean =>
  access.kind === 'clauses' ? clauses?.gives !== undefined : !NEVER_READ.has(access.kind);

/** Whether a write to it can do anything. */
export const canWrite = ({ access, clauses }: Register): boolean =>
  access.kind === 'clauses'
    ? clauses?.effects !== undefined
    : access.kind !== 'read' && access.kind !== 'internal';

export const fullMask = (bits: number): number => (bits >= 32 ? 0xffffffff : ((1 << bits) - 1) >>> 0);

/** The bits of a register that hold something: of a masked one the lower half, of internal state as many as there are. */
export const heldBits = (register: Register): number =>
  register.access.kind === 'masked' ? register.bits / 2 : (register.width ?? register.bits);

/** Bits `low … low+bits-1` as an unsigned mask. */
export const maskOf = (low: number, bits: number): number => ((fullMask(bits) * 2 ** low) & 0xffffffff) >>> 0;
