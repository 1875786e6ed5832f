/**
 * The outline of JSON text, from one pass over its bytes and before anything is made of it: how many values, how deep.
 * A state machine of three states (outside, in a string, after a backslash); it keeps nothing of the text, so that it can run over
 * pieces as they arrive. Of text that is no JSON the counts are bounds all the same: a parser makes no more values than there are
 * commas and opening brackets.
 */
export interface JsonShape {
  /** Values so far: elements, members and containers. */
  values: number;
  depth: number;
  deepest: number;
  state: 'outside' | 'string' | 'escape';
}

export const newJsonShape = (): JsonShape => ({ values: 1, depth: 0, deepest: 0, state: 'outside' });

const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const COMMA = 0x2c;

/** Brackets and braces differ in one bit from each other: `[` and `{` open, `]` and `}` close. */
const opens = (byte: number): boolean => byte === 0x5b || byte === 0x7b;
const closes = (byte: number): boolean => byte === 0x5d || byte === 0x7d;

/** Takes the next piece of the text into account, in place. */
export function extendJsonShape(shape: JsonShape, piece: Uint8Array): void {
  let { values, depth, deepest, state } = shape;
  for (let at = 0; at < piece.length; at++) {
    const byte = piece[at] as number;
    if (state === 'string') {
      if (byte === QUOTE) state = 'outside';
      else if (byte === BACKSLASH) state = 'escape';
    } else if (state === 'escape') state = 'string';
    else if (byte === QUOTE) state = 'string';
    else if (byte === COMMA) values++;
    else if (opens(byte)) {
      values++;
      depth++;
      if (depth > deepest) deepest = depth;
    } else if (closes(byte)) depth--;
  }
  Object.assign(shape, { values, depth, deepest, state });
}
