import { hexText } from '@/core/base/text/hex';
import { heldName, type Operation } from '@/core/derive/machine/operations';
import { heldText } from '@/core/description/language/held-value';

/** An operation in a few signs. */
export function operationText(operation: Operation): string {
  switch (operation.kind) {
    case 'wait':
      return `wait ${operation.cycles} cycles`;
    case 'await':
      return `until ${operation.register.name} & ${hexText(operation.mask, operation.register.bits)} is ${hexText(operation.value, operation.register.bits)}`;
    case 'write':
      return `${operation.register.name} = ${hexText(operation.value, operation.register.bits)}`;
    case 'read':
      return operation.holds === undefined
        ? `read ${operation.register.name}`
        : `${heldName(operation.holds)} = ${operation.register.name}`;
    case 'write held':
      return `${operation.register.name} = ${heldText(operation.value, heldName)}`;
    case 'flip':
      return `${operation.register.name} ^ ${hexText(operation.mask, operation.register.bits)}`;
    case 'update': {
      const { register, clear, set } = operation;
      const cleared = (clear & ~set) >>> 0;
      return [
        register.name,
        ...(cleared === 0 ? [] : [`& ~${hexText(cleared, register.bits)}`]),
        ...(set === 0 ? [] : [`| ${hexText(set, register.bits)}`]),
      ].join(' ');
    }
  }
}
