import { listed } from '../../base/text/listed';
import { printTerm } from '../../description/language/clause';
import type { Register } from '../../device/registers/types';
import type { Operation } from './operations';
import type { Mishap } from './state';

/** "operation 12 (stage direction)"; of code that was read "board.c:12". */
export const operationText = (operation: Operation, index: number): string =>
  operation.at ?? `operation ${index + 1} (stage ${operation.stage})`;

/** "bit 3", "bits 0, 2, 5": of a mask. */
export function bitWords(mask: number, bits: number): string {
  const found = Array.from({ length: bits }, (_, bit) => bit).filter((bit) => ((mask >>> bit) & 1) === 1);
  if (found.length === bits) return 'all bits';
  return `${found.length === 1 ? 'bit' : 'bits'} ${listed(found.map(String))}`;
}

const conditionText = ({ clauses }: Register): string => (clauses?.when ? printTerm(clauses.when) : '');

const isSingle = (mask: number): boolean => (mask & (mask - 1)) === 0;

/** What happened to an operation and because of what, as a sentence without its full stop. */
export function mishapText(
  operation: Operation,
  index: number,
  mishap: Mishap,
  of: 'init' | 'access' | 'read' = 'init',
): string {
  const { register, perhaps, reason } = mishap;
  const head = of === 'init' ? `${operationText(operation, index)}: ` : '';
  const lost = perhaps ? 'may be lost' : 'is lost';
  const write = `${head}the write to ${register.name} ${lost}`;
  switch (reason) {
    case 'guarded':
    case 'locked':
      return `${head}the ${operation.kind === 'await' || operation.kind === 'read' ? 'read of' : 'write to'} ${register.name} ${lost}: ${cause(mishap)}`;
    case 'read-only':
      return `${write}: ${mishap.mask === 0xffffffff || register.access.kind === 'read' ? 'it can only be read' : `${bitWords(mishap.mask, register.bits)} cannot be written`}`;
    case 'reserved':
      return `${write}: reserved bits need another value`;
    case 'uncommitted':
      return `${head}${bitWords(mishap.mask, register.bits)} of ${register.name} ${perhaps ? 'may not take' : isSingle(mishap.mask) ? 'does not take' : 'do not take'} the write: ${cause(mishap)}`;
    case 'unmet':
      return `${write}: its condition ("${conditionText(register)}") ${perhaps ? 'may not be met' : 'is not met'}`;
    case 'no-effect':
      if (register.access.kind === 'clauses') return `${write}: the value changes nothing there`;
      return `${write}: it writes 1 to no bit, which does nothing in a register of this kind`;
    case 'unreadable':
      return `${head}${register.name} is read, but cannot be`;
    case 'times-out':
      return `${head}waiting for ${bitWords(mishap.mask, register.bits)} of ${register.name} ${perhaps ? 'may end' : 'ends'} without result, and the code stops there`;
  }
}

function cause({ by, perhaps, reason }: Mishap): string {
  if (!by) return 'it is shut';
  const { register, bit, wants } = by;
  if (reason === 'locked')
    return perhaps
      ? `nothing has opened ${register.name}, which may be open or shut`
      : `${register.name} is shut`;
  const shut = wants === 0 ? 1 : 0;
  if (bit === undefined)
    return perhaps ? `${register.name} may be ${shut} there` : `${register.name} is ${shut} there`;
  return perhaps
    ? `${register.name} bit ${bit} must be ${wants}, and may be ${wants === 1 ? 0 : 1}`
    : `${register.name} bit ${bit} is ${wants === 1 ? 0 : 1}`;
}
