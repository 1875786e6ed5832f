import { type Assignment, printTerm } from '../../description/language/clause';
import { fullMask, type Register } from '../registers/types';

/**
 * The kinds of registers as shorthands: for each what a read gives and what a write of `v` does, in the language of clauses
 * (`description/language/clause.ts`). This is the one place that says what a kind means; `scripts/print-clauses.ts` prints it into the docs.
 */
export interface ClauseText {
  /** What a read does. */
  afterRead?: string;
  /** What every write, or every access, on the bus does. */
  anyWrite?: string;
  anyAccess?: string;
  read?: { when: Condition[]; gives: string };
  write?: {
    /** Without all of these a write does nothing. */
    when: Condition[];
    /** Only these bits of what is written are taken. */
    takes: string[];
    /** What it does, to which register's bits. */
    effects: string;
    /** What comes after a write that was let through. */
    after: string;
  };
}

/** A condition, and what it is called where it stands in the way. */
export interface Condition {
  holds: string;
  reason: 'guarded' | 'locked' | 'reserved' | 'unmet';
  by?: Register;
}

/** What a kind does, with names for what it acts on: `R` the register acted on, `S` and `C` the halves that set and clear. */
export interface Shorthand {
  kind: string;
  /** As a part's text says it. */
  word: string;
  says: string;
  read?: string;
  write?: string;
}

export const SHORTHANDS: readonly Shorthand[] = [
  { kind: 'read-write', word: 'rw', says: 'holds what is written', read: 'this', write: 'this := v' },
  { kind: 'read', word: 'ro', says: 'ignores writes', read: 'this' },
  { kind: 'write', word: 'wo', says: 'holds what is written, and cannot be read', write: 'this := v' },
  { kind: 'set', word: 'set of R', says: 'ones set bits of R', read: 'R', write: 'R |= v' },
  { kind: 'clear', word: 'clear of R', says: 'ones clear bits of R', read: 'R', write: 'R &= ~v' },
  {
    kind: 'toggle',
    word: 'toggle of R',
    says: 'ones turn bits of R into their opposites',
    read: 'R',
    write: 'R ^= v',
  },
  {
    kind: 'set-clear, both set',
    word: 'set and clear of R',
    says: 'ones of one half set bits of R, ones of the other clear them; where both are asked, the bit is set',
    read: 'R',
    write: 'R := R & ~C | S',
  },
  {
    kind: 'set-clear, both clear',
    word: 'set and clear of R both clear',
    says: 'the same; the bit is cleared',
    read: 'R',
    write: 'R := (R | S) & ~C',
  },
  {
    kind: 'set-clear, both toggle',
    word: 'set and clear of R both toggle',
    says: 'the same; the bit becomes its opposite',
    read: 'R',
    write: 'R := (R | S & ~C) & ~(C & ~S) ^ S & C',
  },
  {
    kind: 'set-clear, both keep',
    word: 'set and clear of R both keep',
    says: 'the same; the bit stays',
    read: 'R',
    write: 'R := (R | S & ~C) & ~(C & ~S)',
  },
  {
    kind: 'masked',
    word: 'masked',
    says: 'the upper half of what is written says which bits of the lower half are taken',
    read: 'this',
    write: 'this := this & ~(v >> HALF) | v & (v >> HALF)',
  },
  { kind: 'act', word: 'act copies A to B', says: 'ones copy bits of A to B', write: 'B := B & ~v | A & v' },
  { kind: 'strobe', word: 'strobe', says: 'ones start something; nothing is held', write: '' },
  { kind: 'internal', word: 'hidden', says: 'state that the bus does not reach' },
  {
    kind: 'flags',
    word: 'w1c F, w0c Z',
    says: 'flags F among its bits: ones clear them; flags Z: zeros clear them',
    read: 'this',
    write: 'this := v & ~F & ~Z | this & F & ~v | this & Z & v',
  },
];

const shorthandOf = (kind: string): Shorthand => {
  const known = SHORTHANDS.find((shorthand) => shorthand.kind === kind);
  if (!known) throw new Error(`no shorthand for ${kind}`);
  return known;
};

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;

/** Names of a shorthand replaced by what they stand for; longer names are never touched. */
const filled = (text: string, names: Readonly<Record<string, string>>): string =>
  text.replace(/(?<![\w.])[A-Za-z]\w*(?![\w.])/g, (name) =>
    Object.hasOwn(names, name) ? (names[name] as string) : name,
  );

/** The name of the hidden count of keys that a key register has seen. */
export const seenName = (key: Register): string => `${key.name}.seen`;

/** The next count after a value is written to a key register: a wrong one closes, the first one begins anew. */
function keyEffects(key: Register): string {
  if (key.access.kind !== 'key') return '';
  const seen = seenName(key);
  const { keys } = key.access;
  const first = `v == ${keys[0]} ? 1 : 0`;
  return keys.reduceRight(
    (rest, value, at) => `(${seen} == ${at}) & (v == ${value}) ? ${at + 1} : (${rest})`,
    first,
  );
}

/** What a write to what a key opens uses up; undefined where nothing is. */
function spentBy(key: Register, anythingElse: boolean): string | undefined {
  if (key.access.kind !== 'key') return undefined;
  const seen = seenName(key);
  const { keys, writes } = key.access;
  const begun = anythingElse ? '0' : seen;
  if (writes === undefined) return anythingElse ? `${seen} < ${keys.length} ? 0 : ${seen}` : undefined;
  return `${seen} < ${keys.length} ? ${begun} : ${seen} < ${keys.length + writes - 1} ? ${seen} + 1 : 0`;
}

/** What every write on the bus does to keys that must not be interrupted. */
export const brokenBy = (keys: readonly Register[], written: Register): string =>
  keys
    .filter((key) => key !== written)
    .map((key) => `${seenName(key)} := ${spentBy(key, true)}`)
    .join('; ');

const open = (key: Register): Condition => ({
  holds: `${seenName(key)} >= ${key.access.kind === 'key' ? key.access.keys.length : 0}`,
  reason: 'locked',
  by: key,
});

/** The bits of a register that its own guards, commit bits and read-only bits let through. */
function takenBy(register: Register): string[] {
  const { commit, guards, readOnlyMask, bits } = register;
  const takes: string[] = [];
  if (readOnlyMask !== 0) takes.push(`~${hex(readOnlyMask)}`);
  if (commit) {
    const { register: by, from, bitsEach, openAt } = commit;
    const bitsOf = `each((${openAt === 1 ? '' : '~'}${by.name}) >> ${from}, ${bitsEach})`;
    // Lock bits in the register itself are there for those below them.
    const covered = by === register ? Math.min(bits, from * bitsEach) : bits;
    takes.push(covered < bits ? `${bitsOf} | ~${hex(fullMask(covered))}` : bitsOf);
  }
  for (const { register: by, bit, openAt } of guards)
    if (by === register)
      takes.push(`${by.name} >> ${bit} & 1 == ${openAt} ? ${hex(fullMask(bits))} : ${hex(2 ** bit)}`);
  return takes;
}

const assignmentsText = (assignments: readonly Assignment[]): string =>
  assignments.map(({ target, value }) => `${target} := ${printTerm(value)}`).join('; ');

/** What reads and writes of a register do: its own clauses, or its shorthand, and what stands around it. */
export function clauseText(register: Register): ClauseText {
  const { clauses } = register;
  const { anyWrite, anyAccess } = clauses ?? {};
  return {
    ...ofAccess(register),
    ...(anyWrite ? { anyWrite: assignmentsText(anyWrite) } : {}),
    ...(anyAccess ? { anyAccess: assignmentsText(anyAccess) } : {}),
  };
}

/** Clauses of the description, within the register's guards and locks. */
function stated(register: Register, reading: Condition[], writing: Condition[]): ClauseText {
  const { gives, when, effects, afterRead } = register.clauses ?? {};
  const unmet: Condition[] = when ? [{ holds: printTerm(when), reason: 'unmet' }] : [];
  return {
    ...(gives ? { read: { when: reading, gives: printTerm(gives) } } : {}),
    ...(effects
      ? {
          write: {
            when: [...writing, ...unmet],
            takes: [],
            effects: assignmentsText(effects),
            after: spentText(register.locks),
          },
        }
      : {}),
    ...(afterRead ? { afterRead: assignmentsText(afterRead) } : {}),
  };
}

/** What a write that was let through uses up of the keys that opened the way. */
const spentText = (keys: Iterable<Register>): string =>
  [...keys]
    .filter((key) => key.access.kind === 'key' && !key.access.unbroken)
    .flatMap((key) => {
      const count = spentBy(key, false);
      return count === undefined ? [] : [`${seenName(key)} := ${count}`];
    })
    .join('; ');

function ofAccess(register: Register): ClauseText {
  const { access, bits } = register;
  if (access.kind === 'internal') return {};
  const reading: Condition[] = [];
  const writing: Condition[] = [];
  for (const guard of register.guards) {
    if (guard.register === register) continue;
    const condition: Condition = {
      holds: `${guard.register.name} >> ${guard.bit} & 1 == ${guard.openAt}`,
      reason: 'guarded',
      by: guard.register,
    };
    writing.push(condition);
    if (guard.stops === 'all') reading.push(condition);
  }
  const target = register.target ?? register;
  const keys = new Set([...register.locks, ...(target === register ? [] : target.locks)]);
  for (const key of keys) writing.push(open(key));
  if (access.kind === 'clauses') return stated(register, reading, writing);
  const { always } = access.kind === 'alias' ? target : register;
  if (always) writing.push({ holds: `v & ${hex(always.mask)} == ${hex(always.value)}`, reason: 'reserved' });
  const names: Record<string, string> = {
    this: register.name,
    R: target.name,
    B: target.name,
    A: register.from?.name ?? '',
    HALF: String(bits / 2),
    F: hex(target.flagMask),
    Z: hex(target.zeroFlagMask),
  };
  if (access.kind === 'set-clear') {
    const [lower, upper] = [`(v & ${hex(fullMask(bits / 2))})`, `(v >> ${bits / 2})`];
    Object.assign(names, access.setting === 'lower' ? { S: lower, C: upper } : { S: upper, C: lower });
  }
  const holder = access.kind === 'alias' ? target : register;
  const kind =
    (holder.flagMask | holder.zeroFlagMask) !== 0 &&
    (holder.access.kind === 'read-write' || holder.access.kind === 'write')
      ? 'flags'
      : holder.access.kind === 'set-clear'
        ? `set-clear, both ${holder.access.both}`
        : holder.access.kind;
  if (access.kind === 'alias') names.this = target.name;
  const after = spentText(keys);
  if (kind === 'key')
    return {
      write: {
        when: writing,
        takes: [],
        effects: `${seenName(register)} := ${keyEffects(register)}`,
        after: '',
      },
    };
  const shorthand = shorthandOf(kind);
  const takes = [...takenBy(register), ...(target === register ? [] : takenBy(target))];
  const readable = access.kind !== 'write' && shorthand.read !== undefined;
  return {
    ...(readable ? { read: { when: reading, gives: filled(shorthand.read ?? '', names) } } : {}),
    ...(shorthand.write === undefined
      ? {}
      : { write: { when: writing, takes, effects: filled(shorthand.write, names), after } }),
  };
}
