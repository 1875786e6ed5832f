import type { Statement } from './ast';

/** Whether something within leaves the loop that this is the body of. */
export function leaves(body: Statement): boolean {
  switch (body.kind) {
    case 'break':
    case 'return':
      return true;
    case 'other':
      return body.what === 'goto';
    case 'block':
      return body.list.some(leaves);
    case 'if':
      return leaves(body.yes) || (body.no !== undefined && leaves(body.no));
    case 'case':
      return leaves(body.body);
    case 'loop':
      return returns(body.body);
    case 'for':
      return leaves(body.loop);
    case 'switch':
      return returns(body.body);
    default:
      return false;
  }
}

export const isBreak = (statement: Statement): boolean =>
  statement.kind === 'break' ||
  (statement.kind === 'block' && statement.list.length === 1 && statement.list.every(isBreak));

/** Whether the body of a loop does nothing but count, or give up. */
export function onlyWaits(body: Statement): boolean {
  switch (body.kind) {
    case 'nothing':
    case 'break':
    case 'continue':
    case 'return':
      return true;
    case 'do':
      return body.value.kind === 'step';
    case 'block':
      return body.list.every(onlyWaits);
    case 'if':
      return onlyWaits(body.yes) && (body.no === undefined || onlyWaits(body.no));
    default:
      return false;
  }
}

function returns(body: Statement): boolean {
  switch (body.kind) {
    case 'return':
      return true;
    case 'block':
      return body.list.some(returns);
    case 'if':
      return returns(body.yes) || (body.no !== undefined && returns(body.no));
    case 'case':
    case 'loop':
    case 'switch':
      return returns(body.body);
    case 'for':
      return returns(body.loop);
    default:
      return false;
  }
}
