import type { Edit } from '../../plan/edits/edits';
import { placeNet } from '../../plan/edits/make-edits';
import type { Net, Placement } from '../../plan/model/types';

/** A net that gets another place than it has. */
export interface Move {
  net: Net;
  to: Placement;
}

/** The moves as one edit, to be taken back as one. */
export function placingEdit(moves: readonly Move[], label: string): Edit {
  const edits = moves.map(({ net, to }) => placeNet(net, to));
  const [only] = edits;
  return edits.length === 1 && only ? only : { kind: 'batch', label, edits };
}
