import { parseAssignments, parseTerm, printTerm, type Term } from '../../description/language/clause';
import type { Register, RegisterMap } from '../registers/types';
import { reachedBeside } from '../registers/within';
import { type Condition, clauseText } from './shorthands';

const MOST_PICKED = 4;
const MOST_ASSIGNED = 6;

/** For people: of a long list of elements the first and the last. */
const printed = (term: Term): string =>
  printTerm(term).replace(/pick\(([^()]*)\)/g, (all, list: string) => {
    const [index, first, ...others] = list.split(', ');
    return others.length < MOST_PICKED ? all : `pick(${index}, ${first}, …, ${others.at(-1)})`;
  });

const termText = (text: string): string => printed(parseTerm(text));

function assignmentsText(text: string): string {
  const all = parseAssignments(text).map(({ target, value }) => `${target} := ${printed(value)}`);
  if (all.length <= MOST_ASSIGNED) return all.join('; ');
  return `${all[0]}; ${all[1]}; … ${all.length - 3} more …; ${all.at(-1)}`;
}

const whereText = (conditions: readonly Condition[]): string =>
  conditions.length === 0 ? '' : ` where ${conditions.map(({ holds }) => termText(holds)).join(' and ')}`;

function writeLine(register: Register, name: string): string {
  const { write } = clauseText(register);
  if (!write) return `${name}: nothing`;
  const taken = write.takes.length === 0 ? '' : `, of v the bits ${write.takes.map(termText).join(' and ')}`;
  const after = write.after === '' ? '' : `; then ${assignmentsText(write.after)}`;
  return `${name}: ${assignmentsText(write.effects) || 'starts something, and holds nothing'}${whereText(write.when)}${taken}${after}`;
}

/** What happens to a register without an access to it. */
function byItself(register: Register): string[] {
  const { anyAccess, anyWrite } = clauseText(register);
  const { returns } = register;
  const when =
    returns?.afterCycles === Number.POSITIVE_INFINITY
      ? 'at some time'
      : `within ${returns?.afterCycles} cycles`;
  return [
    ...(anyWrite ? [`any write on the bus: ${assignmentsText(anyWrite)}`] : []),
    ...(anyAccess ? [`any access on the bus: ${assignmentsText(anyAccess)}`] : []),
    ...(returns ? [`by itself: returns to ${returns.value} ${when}`] : []),
  ];
}

/**
 * What a read of a register gives and what a write of `v` does, a line each, in the language of clauses; a further line for every other
 * register that the same write reaches.
 */
export function clauseLines(map: RegisterMap, register: Register): string[] {
  if (register.access.kind === 'internal')
    return ['no access: state that the bus does not reach', ...byItself(register)];
  const { read, afterRead } = clauseText(register);
  return [
    `read: ${read ? `${termText(read.gives)}${whereText(read.when)}` : 'nothing'}`,
    ...(afterRead ? [`a read does: ${assignmentsText(afterRead)}`] : []),
    writeLine(register, 'write v'),
    ...byItself(register),
    ...reachedBeside(map, register).map(({ register: inner, shift }) =>
      writeLine(inner, `the same write, ${shift === 0 ? '' : `moved by ${shift} bits, `}as ${inner.name}`),
    ),
  ];
}
