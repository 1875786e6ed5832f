import { type Candidate, candidatesFor, placementAt } from '@/core/derive/candidates/candidates';
import type { Occupancy } from '@/core/derive/candidates/occupancy';
import type { Derived } from '@/core/derive/derive';
import { functionsFor, whyNot } from '@/core/derive/resolve/resolve';
import type { Move } from '@/core/place/model/moves';
import type { RoomTask } from '@/core/place/place-task';
import type { Edit } from '@/core/plan/edits/edits';
import { placeNet } from '@/core/plan/edits/make-edits';
import type { Net } from '@/core/plan/model/types';
import { findRoom } from '@/ui/client/place-worker';

/** A placement by the user's hand, and what else it moves. */
export interface PlaceStep {
  edit: Edit;
  /** Nets that make room, and where they go. */
  moves: { net: Net; pad: string }[];
}

/**
 * Puts a net on a candidate by hand. Nets that sit there and are not locked move to their own best free pad; where they have none,
 * the shortest chain of moves that makes room is looked for.
 */
export function takePad(
  derived: Derived,
  net: Net,
  candidate: Candidate,
  dispatch: (edit: Edit) => boolean,
  makeRoom: (task: RoomTask) => Promise<Move[] | undefined> = findRoom,
): void {
  const step = placeStep(derived.occupancy, net, candidate);
  const { takenBy } = candidate;
  if (takenBy.length === step.moves.length || takenBy.some((other) => other.placement?.locked)) {
    dispatch(step.edit);
    return;
  }
  void chainEdit(derived, net, candidate, makeRoom).then((edit) => dispatch(edit ?? step.edit));
}

async function chainEdit(
  { device, plan }: Derived,
  net: Net,
  candidate: Candidate,
  makeRoom: (task: RoomTask) => Promise<Move[] | undefined>,
): Promise<Edit | undefined> {
  // Looked for in the worker, so that the page stays quick. Where there is no such chain, the conflict shows as a finding.
  const to = placementAt(net, candidate);
  const chain = await makeRoom({ kind: 'make room', description: device.original, plan, net, to });
  if (!chain) return undefined;
  const moves = chain.map((move) => `${move.net.name} moves to ${move.to.pad}`).join(', ');
  const edits = [...chain.map((move) => placeNet(move.net, move.to)), placeNet(net, to)];
  return { kind: 'batch', label: `place ${net.name} on ${candidate.pad}, ${moves}`, edits };
}

/** What is quick to say of a candidate: nets that sit there and are not locked move to their own best free pad when they have one. */
export function placeStep(occupancy: Occupancy, net: Net, candidate: Candidate): PlaceStep {
  const place = placeNet(net, placementAt(net, candidate));
  const moves = candidate.takenBy.flatMap((other) => {
    if (other.placement?.locked) return [];
    const home = candidatesFor(occupancy, other).find((one) => one.clean && one.pad !== candidate.pad);
    return home ? [{ net: other, pad: home.pad, edit: placeNet(other, placementAt(other, home)) }] : [];
  });
  if (moves.length === 0) return { edit: place, moves: [] };
  const label = `place ${net.name} on ${candidate.pad}, ${moves.map((move) => `${move.net.name} moves to ${move.pad}`).join(', ')}`;
  return { edit: { kind: 'batch', label, edits: [...moves.map((move) => move.edit), place] }, moves };
}

/** A placement by drag, on whatever pad it was dropped: what is wrong with it becomes a finding. A lock goes along. */
export function dropStep(occupancy: Occupancy, net: Net, pad: string): Edit {
  const { device, pkg } = occupancy;
  const known = device.pads.get(pad);
  const fn =
    known && whyNot(device, pkg, net.role, known) === undefined
      ? functionsFor(device, pkg, net.role, known)[0]
      : undefined;
  const signal = net.role.kind === 'open-signal' && fn ? { signal: fn.signal } : {};
  return placeNet(net, { pad, locked: net.placement?.locked === true, ...signal });
}
