import { didYouMean } from '../../base/text/near';
import {
  type Assignment,
  mapNames,
  namesIn,
  parseAssignments,
  parseTerm,
  type Term,
} from '../../description/language/clause';
import { ExpressionError, type Scope } from '../../description/language/expression';
import { makeScope } from '../../description/language/scope';
import type { BlockSource, RegisterSource } from '../../description/recipe';
import type { DeviceDescription } from '../../description/types';
import { arrayKey, type Instance, instanceKey, instancesOf, type RegisterArrays } from './instances';
import type { Register, RegisterClauseTerms } from './types';

/** Reads clauses of a description, fills their names in, and refuses what names nothing. */

const ASSIGNING = ['write', 'afterRead', 'anyWrite', 'anyAccess'] as const;
const CLAUSE_KEYS = ['read', 'writeWhen', ...ASSIGNING] as const;

/** Whether a description says of a register in clauses what it does. */
export const hasClauses = (source: RegisterSource): boolean =>
  CLAUSE_KEYS.some((key) => source[key] !== undefined);

/** Whether what a read gives or a write does is in clauses, and not in a kind. */
export const isInClauses = (source: RegisterSource): boolean =>
  source.read !== undefined || source.write !== undefined;

/** Whether clauses name bits of the register itself, which it then holds. Throws {@link ExpressionError}. */
export function holdsBits(source: RegisterSource): boolean {
  const terms = [source.read, source.writeWhen].flatMap((text) =>
    text === undefined ? [] : [parseTerm(text)],
  );
  const assignments = ASSIGNING.flatMap((key) => parseAssignments(source[key] ?? ''));
  return (
    assignments.some(({ target }) => target === 'this') ||
    [...terms, ...assignments.map(({ value }) => value)].some((term) => namesIn(term).has('this'))
  );
}

/** Keys that say in other words what clauses say. */
const INSTEAD = [
  'access',
  'follows',
  'shows',
  'readOnly',
  'clearedByOne',
  'clearedByZero',
  'always',
  'writableWhere',
  'accessedBy',
] as const;

/** A key as the text of a part has it: `writeWhen` is "write when". */
const inWords = (key: string): string => key.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

/** Refuses clauses beside what they stand instead of. Throws {@link ExpressionError}. */
export function checkClauseKeys(source: RegisterSource): void {
  if (isInClauses(source)) {
    const beside = INSTEAD.find((key) => source[key] !== undefined);
    if (beside !== undefined)
      throw new ExpressionError(
        `"${inWords(beside)}" stands beside clauses; say it in "read" and "write"`,
        1,
      );
  }
  for (const [key, needed] of [
    ['writeWhen', 'write'],
    ['afterRead', 'read'],
  ] as const)
    if (source[key] !== undefined && source[needed] === undefined)
      throw new ExpressionError(`"${inWords(key)}" needs "${needed}" beside it`, 1);
}

export interface ClauseScope {
  device: DeviceDescription;
  arrays: RegisterArrays;
  block: BlockSource;
  instance: Instance;
  scope: Scope;
  i: number;
  register: Register;
  /** Counts what names reach, of which there is a limit. */
  count(reached: number): void;
}

/** Fills the names of a register's clauses in. Throws {@link ExpressionError} with the column of what names nothing. */
export function linkClauses(source: RegisterSource, at: ClauseScope): RegisterClauseTerms {
  const term = (text: string | undefined, allowed: Allowed): Term | undefined =>
    text === undefined ? undefined : mapNames(parseTerm(text), nameFor(at, allowed));
  const assignments = (text: string | undefined, allowed: Allowed): Assignment[] | undefined =>
    text === undefined ? undefined : parseAssignments(text).flatMap((each) => assign(at, each, allowed));
  const none: Allowed = { written: false };
  const clauses: RegisterClauseTerms = {
    gives: term(source.read, none),
    when: term(source.writeWhen, { written: true }),
    effects: assignments(source.write, { written: true }),
    afterRead: assignments(source.afterRead, none),
    anyWrite: assignments(source.anyWrite, none),
    anyAccess: assignments(source.anyAccess, none),
  };
  return Object.fromEntries(Object.entries(clauses).filter(([, clause]) => clause !== undefined));
}

interface Allowed {
  /** `v` is what is written. */
  written: boolean;
  /** The instance that `[*]` stands for. */
  each?: EachInstance;
}

const nameFor =
  (at: ClauseScope, allowed: Allowed) =>
  (name: string, column: number): Term => {
    if (name === 'v') {
      if (allowed.written) return { kind: 'name', name, column };
      throw new ExpressionError('"v" is what is written, and here nothing is', column);
    }
    const value = name.includes('[') ? undefined : (at.scope(name) ?? allowed.each?.scope(name));
    if (value !== undefined) return { kind: 'number', value: value >>> 0 };
    const selected = selectedFor(at, name, column, allowed.each);
    if (!selected) return { kind: 'name', name: registerFor(at, name, column, allowed.each).name, column };
    at.count(selected.array.length);
    return {
      kind: 'pick',
      index: selected.index,
      of: selected.array.map((element): Term => ({ kind: 'name', name: element.name, column })),
    };
  };

function assign(at: ClauseScope, { target, value }: Assignment, allowed: Allowed): Assignment[] {
  const every = /^(\w+)\[\*\]/.exec(target)?.[1];
  const instances = every === undefined ? [undefined] : keysOf(at, every);
  return instances.flatMap((each): Assignment[] => {
    const assigned = mapNames(value, nameFor(at, { ...allowed, ...(each ? { each } : {}) }));
    const selected = selectedFor(at, target, 1, each);
    at.count(selected?.array.length ?? 1);
    if (!selected) return [{ target: registerFor(at, target, 1, each).name, value: assigned }];
    return selected.array.map(({ name }, element): Assignment => {
      const right: Term = { kind: 'number', value: element };
      const condition: Term = { kind: 'binary', operator: '==', left: selected.index, right };
      return {
        target: name,
        value: { kind: 'choice', condition, yes: assigned, no: { kind: 'name', name, column: 1 } },
      };
    });
  });
}

/** An instance that `[*]` stands for, with its columns. */
interface EachInstance {
  key: string;
  scope: Scope;
}

function keysOf({ device }: ClauseScope, id: string): EachInstance[] {
  const block = device.recipe.registers.blocks.find((each) => each.id === id);
  if (!block)
    throw new ExpressionError(
      `there is no block ${id}${didYouMean(
        id,
        device.recipe.registers.blocks.map((each) => each.id),
      )}`,
      1,
    );
  return instancesOf(device, block).map(({ key, context }) => ({ key, scope: makeScope(device)(context) }));
}

/** `this`, `R`, `R[3]`, `BLOCK.R`, `BLOCK[PA].R`, `BLOCK[*].R`. */
const NAME = /^(?:(\w+)(?:\[([\w.]+|\*)\])?\.)?(\w+)(?:\[(\w+)\])?$/;

/** `R[S]`: the array, and the register that says which of its elements is meant; undefined where a name says that itself. */
function selectedFor(
  at: ClauseScope,
  name: string,
  column: number,
  each: EachInstance | undefined,
): { array: Register[]; index: Term } | undefined {
  const element = NAME.exec(name)?.[4];
  if (element === undefined || /^\d/.test(element) || at.scope(element) !== undefined) return undefined;
  const { array } = arrayFor(at, name, column, each);
  const index = registerFor(at, element, column, each);
  return { array, index: { kind: 'name', name: index.name, column } };
}

function registerFor(
  at: ClauseScope,
  name: string,
  column: number,
  each: EachInstance | undefined,
): Register {
  if (name === 'this') return at.register;
  const { array, element } = arrayFor(at, name, column, each);
  const position = element === undefined ? at.i : /^\d/.test(element) ? Number(element) : at.scope(element);
  const register = element === undefined ? array[Math.min(at.i, array.length - 1)] : array[position ?? -1];
  if (!register) throw new ExpressionError(`${name}: there is no element ${position ?? element}`, column);
  return register;
}

/** The register, or all elements of the array, that a name means, and the element that it names. */
function arrayFor(
  at: ClauseScope,
  name: string,
  column: number,
  each: EachInstance | undefined,
): { array: Register[]; element: string | undefined } {
  const { device, arrays, instance } = at;
  const [, blockId, key, id = '', element] = NAME.exec(name) ?? [];
  const { blocks } = device.recipe.registers;
  const block = blockId === undefined ? at.block : blocks.find((other) => other.id === blockId);
  if (!block)
    throw new ExpressionError(
      `nothing is called ${name}${didYouMean(
        blockId ?? '',
        blocks.map((other) => other.id),
      )}`,
      column,
    );
  if (!block.registers.some((other) => other.id === id))
    throw new ExpressionError(
      `there is no register ${id} in ${block.id}${didYouMean(
        id,
        block.registers.map((other) => other.id),
      )}`,
      column,
    );
  if (key === '*' && each === undefined)
    throw new ExpressionError(`${name}: what is assigned must name [*], too`, column);
  const wanted =
    key === '*'
      ? each?.key
      : (key ?? (block === at.block ? instance.key : instanceKey(block, instance.context)));
  const array = wanted === undefined ? undefined : arrays.get(arrayKey(block.id, id, wanted));
  if (!array)
    throw new ExpressionError(
      wanted === undefined
        ? `there is one ${block.id}.${id} for each ${block.each}; say which, as ${block.id}[NAME].${id}`
        : `${block.id}.${id} is not there for ${wanted || 'this'}`,
      column,
    );
  return { array, element };
}
