'use client';

import { Message } from '../parts/message';
import { useActions, useDerived, usePlacing } from '../workspace/context';

/** What the placer is doing, and what to do with its answer; above the views, which show the plan as it would be. */
export function PlacerBar() {
  const { derived } = useDerived();
  const { placer } = usePlacing();
  const { select } = useActions();
  const { phase, placing, progress, answers } = placer;
  if (phase === 'away') return null;
  const possible = placing?.status === 'optimal' || placing?.status === 'feasible';
  return (
    <section
      aria-label="Placer"
      className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-ink bg-pickbg px-4 py-1.5"
    >
      <span role="status" className="mr-auto min-w-0">
        {phase === 'working' && (
          <>
            <b className="font-semibold">Placing …</b>{' '}
            <span className="text-soft">
              {progress ? progressWords(progress) : `${derived.plan.nets.length} nets`}
            </span>
          </>
        )}
        {phase === 'failed' && <span className="text-err">The placer failed: {placer.message}</span>}
        {placing && possible && (
          <>
            <b className="font-semibold">
              {answers.length > 1 ? `Answer ${answers.length}: ` : 'Preview: '}
              {moveWords(placing.moves)}
            </b>{' '}
            <span className="text-soft">{qualityWords(placing)}</span>
          </>
        )}
        {placing?.status === 'infeasible' && (
          <>
            <b className="font-semibold">Cannot be placed.</b>{' '}
            <Message text={placing.conflict?.message ?? ''} />
          </>
        )}
        {placing?.status === 'stopped' && <b className="font-semibold">No answer within the limit.</b>}
      </span>
      <span className="flex gap-2">
        {phase === 'working' && (
          <button type="button" className="button" onClick={placer.leave}>
            Stop
          </button>
        )}
        {placing && (
          <>
            <button type="button" className="button" onClick={() => select(null)}>
              {possible ? 'Details' : 'Why'}
            </button>
            {possible && (
              <button type="button" className="button" onClick={placer.another}>
                Another answer
              </button>
            )}
            {possible && placing.moves.length > 0 && (
              <button type="button" className="button button-strong" onClick={placer.apply}>
                Apply
              </button>
            )}
          </>
        )}
        {phase !== 'working' && (
          <button type="button" className="button" onClick={placer.leave}>
            {placing?.moves.length ? 'Discard' : 'Close'}
          </button>
        )}
      </span>
    </section>
  );
}

function progressWords({ nodes, best, bound }: { nodes: number; best?: number; bound: number }): string {
  const found = best === undefined ? 'no answer yet' : `best so far ${best}`;
  return `${nodes} cases looked at, ${found}, none can be below ${Math.max(0, bound)}`;
}

interface Answer {
  status: string;
  optimalFor?: 'all' | 'centres';
  objective?: number;
  bound?: number;
}

function qualityWords({ status, optimalFor, objective, bound }: Answer): string {
  if (status === 'optimal')
    return optimalFor === 'centres'
      ? `cost ${objective}: with each circuit gathered where it is now, no placement costs less`
      : `optimal: cost ${objective}, and no placement costs less`;
  if (bound === undefined) return `cost ${objective}`;
  return `cost ${objective}; with each circuit gathered where it is now, the best there can be is ${bound} or more`;
}

function moveWords(moves: readonly { net: { placement: unknown } }[]): string {
  if (moves.length === 0) return 'everything is best where it is';
  const fresh = moves.filter((one) => one.net.placement === null).length;
  const moved = moves.length - fresh;
  const parts = [];
  if (fresh > 0) parts.push(`${fresh} ${fresh === 1 ? 'net gets' : 'nets get'} a pad`);
  if (moved > 0) parts.push(`${moved} ${moved === 1 ? 'moves' : 'move'}`);
  return parts.join(', ');
}
