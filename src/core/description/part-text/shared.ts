import { key, optional, type Piece, sequence, within } from './forms';
import { mapOf, number, several, text, the, word } from './values';

/** Pieces that lines of all kinds have. */

/** Where it was read. */
export const source: Piece = {
  ...within('source', sourceWords()),
  shows: 'SOURCE',
};

export function sourceWords(): Piece {
  return sequence(
    'document',
    key('document', text),
    optional(sequence('revision', key('revision', text))),
    optional(sequence('page', key('page', number))),
    optional(sequence('row', key('row', number))),
    optional(sequence('file', key('file', word))),
    optional(sequence('box', key('box', several(number)))),
  );
}

export const columns: Piece = sequence('columns', key('columns', mapOf(number)));
export const why: Piece = sequence('why', key('why', text));
export const notes: Piece = sequence('notes', key('notes', several(the.note)));
