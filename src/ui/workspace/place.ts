import type { Derived } from '@/core/derive';
import { type Candidate, candidatesFor, type Occupancy, placementAt } from '@/core/placing/candidates';
import type { Edit } from '@/core/plan/edit';
import { placeNet } from '@/core/plan/make-edits';
import { functionsFor, whyNot } from '@/core/plan/resolve';
import type { Net } from '@/core/plan/types';

/** A placement by the user's hand, and what else it moves. */
export interface PlaceStep {
  edit: Edit;
  /** Nets that make room, and where they go. */
  moves: { net: Net; pad: string }[];
}

/**
 * Puts a net on a candidate by hand. Nets that sit there and are not held move to their own best free pad; where they have none,
 * the shortest chain of moves that makes room is looked for.
 */
export function takePad(
  derived: Derived,
  net: Net,
  candidate: Candidate,
  dispatch: (edit: Edit) => boolean,
): void {
  const step = placeStep(derived.occupancy, net, candidate);
  const { takenBy } = candidate;
  if (takenBy.length === step.moves.length || takenBy.some((other) => other.placement?.held)) {
    dispatch(step.edit);
    return;
  }
  void chainEdit(derived, net, candidate).then((edit) => dispatch(edit ?? step.edit));
}

async function chainEdit(derived: Derived, net: Net, candidate: Candidate): Promise<Edit | undefined> {
  // Rarely needed, and as large as the whole placer: loaded when it is. Where it cannot be, the conflict shows as a finding.
  const loaded = await import('@/core/placing/swap').catch(() => undefined);
  const to = placementAt(net, candidate);
  const chain = loaded?.swapChain(derived.device, derived.pkg, derived.plan, net, to);
  if (!chain) return undefined;
  const moves = chain.map((move) => `${move.net.name} moves to ${move.to.pad}`).join(', ');
  const edits = [...chain.map((move) => placeNet(move.net, move.to)), placeNet(net, to)];
  return { kind: 'batch', label: `place ${net.name} on ${candidate.pad}, ${moves}`, edits };
}

/** What is quick to say of a candidate: nets that sit there and are not held move to their own best free pad when they have one. */
export function placeStep(occupancy: Occupancy, net: Net, candidate: Candidate): PlaceStep {
  const place = placeNet(net, placementAt(net, candidate));
  const moves = candidate.takenBy.flatMap((other) => {
    if (other.placement?.held) return [];
    const home = candidatesFor(occupancy, other).find((one) => one.clean && one.pad !== candidate.pad);
    return home ? [{ net: other, pad: home.pad, edit: placeNet(other, placementAt(other, home)) }] : [];
  });
  if (moves.length === 0) return { edit: place, moves: [] };
  const label = `place ${net.name} on ${candidate.pad}, ${moves.map((move) => `${move.net.name} moves to ${move.pad}`).join(', ')}`;
  return { edit: { kind: 'batch', label, edits: [...moves.map((move) => move.edit), place] }, moves };
}

/** A placement by drag, on whatever pad it was dropped: what is wrong with it becomes a finding. */
export function dropStep(occupancy: Occupancy, net: Net, pad: string): Edit {
  const { device, pkg } = occupancy;
  const known = device.pads.get(pad);
  const fn =
    known && whyNot(device, pkg, net.role, known) === undefined
      ? functionsFor(device, pkg, net.role, known)[0]
      : undefined;
  const signal = net.role.kind === 'open-signal' && fn ? { signal: fn.signal } : {};
  return placeNet(net, { pad, held: false, ...signal });
}
