import { LIMITS } from '../../base/limits';
import { printPartText, readPartText, type TextKind } from './text-form';

/**
 * The text as a person wrote it, with its comments and in its order, is kept beside what was read from it: `text` of a description. It is
 * shown as long as it says the same, and never decides anything.
 */
export function withText<T extends { text?: string }>(value: T, text: string): T {
  const { text: _before, ...bare } = value;
  return (text === printPartText(bare) ? bare : { ...bare, text }) as T;
}

/** The text of a description or recipe: as it was written where that reads as the very same, and otherwise as it is printed. */
export function writtenText(value: object, text: string | undefined, kind: TextKind): string {
  const printed = printPartText(value);
  if (text === undefined || text.length > LIMITS.deviceBytes) return printed;
  const read = readPartText('', text, kind);
  return read.ok && printPartText(read.value.value as object) === printed ? text : printed;
}
