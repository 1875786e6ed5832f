'use client';

import { useActions, useDerived, useSearch, useSelection } from '../workspace/context';
import { placeStep, takePad } from '../workspace/place';

const SHOWN = 12;

/** The pads that can take the net, best first, with what each choice costs. */
export function CandidateList() {
  const { derived } = useDerived();
  const { selectedNet } = useSelection();
  const { placing } = useSearch();
  const { dispatch, setMoving } = useActions();
  if (!placing) return null;
  const { net, candidates } = placing;
  const free = candidates.filter((candidate) => candidate.takenBy.length === 0).length;

  function take(index: number) {
    const candidate = candidates[index];
    if (!candidate) return;
    takePad(derived, net, candidate, dispatch);
    setMoving(null);
  }

  return (
    <section className="mt-2.5 border-t border-rule pt-2" aria-label="Pads that can take it">
      <div className="mb-1 flex items-baseline gap-2">
        <h3 className="font-semibold">
          {candidates.length === 0
            ? 'No pad can take it'
            : `${candidates.length} ${candidates.length === 1 ? 'pad' : 'pads'} can take it`}
        </h3>
        <span className="text-soft">
          {candidates.length > 0 && (free === candidates.length ? 'all free' : `${free} free`)}
        </span>
        {selectedNet?.placement && (
          <button type="button" className="link ml-auto" onClick={() => setMoving(null)}>
            leave it
          </button>
        )}
      </div>
      {candidates.length === 0 && (
        <p className="text-soft">
          Nothing in {derived.pkg.name} offers what this net asks, or all of it is placed already. Change what
          it is, or leave the instance open.
        </p>
      )}
      <ol>
        {candidates.slice(0, SHOWN).map((candidate, index) => {
          const { moves } = placeStep(derived.occupancy, net, candidate);
          return (
            <li key={candidate.pad}>
              <button
                type="button"
                className="grid min-h-6 w-full grid-cols-[18px_34px_1fr] items-baseline gap-1 py-[2px] text-left hover:bg-pickbg"
                onClick={() => take(index)}
              >
                <span className="m text-soft">{index < 9 ? index + 1 : ''}</span>
                <span className="m">{candidate.pad}</span>
                <span className={candidate.takenBy.length > 0 ? 'text-soft' : ''}>
                  {candidate.fn && net.role.kind === 'open-signal' && (
                    <b className="mr-1 font-medium">{candidate.fn.signal}</b>
                  )}
                  {moves.length > 0
                    ? `moves ${moves.map((move) => `${move.net.name} to ${move.pad}`).join(', ')}`
                    : candidate.takenBy.some((other) => !other.placement?.locked) &&
                        candidate.takenBy.every((other) => !other.placement?.locked)
                      ? `taken by ${candidate.takenBy.map((other) => other.name).join(', ')}: makes room by a chain of moves, if there is one`
                      : candidate.reasons.slice(0, 2).join(', ')}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
      {candidates.length > SHOWN && (
        <p className="text-soft">and {candidates.length - SHOWN} more in the package</p>
      )}
      {candidates.length > 0 && (
        <p className="mt-1 text-[12px] text-soft">
          <span className="m">Enter</span> takes the best, <span className="m">1–9</span> take the others; or
          click a pad, or drag.
        </p>
      )}
    </section>
  );
}
