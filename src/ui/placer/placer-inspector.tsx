'use client';

import { DEFAULT_WEIGHTS, TERM_KEYS, TERMS } from '@/core/derive/candidates/terms';
import type { Placing } from '@/core/place/model/answer';
import { Section } from '../inspector/section';
import { Message } from '../parts/message';
import { useActions, useDerived, usePlacing } from '../workspace/context';

/** The placer's answer in full: what moves, what it costs, or why it cannot be done. */
export function PlacerInspector() {
  const { placer } = usePlacing();
  const { placing, phase } = placer;
  return (
    <>
      <h2 className="text-[17px] font-semibold">Placer</h2>
      {phase === 'working' && (
        <p className="text-soft">At work; what is locked stays, all demands are kept.</p>
      )}
      {placing?.conflict && <Explanation placing={placing} />}
      {placing && placing.status !== 'infeasible' && <Answer placing={placing} />}
      <Weighing />
    </>
  );
}

function Answer({ placing }: { placing: Placing }) {
  const { derived } = useDerived();
  const { select } = useActions();
  return (
    <>
      {placing.moves.length > 0 && (
        <Section title="Placements" aside={placing.moves.length}>
          <ol aria-label="Placements">
            {placing.moves.map(({ net, to }) => (
              <li key={net.id} className="grid grid-cols-[1fr_auto] items-center gap-2">
                <button
                  type="button"
                  className="min-h-6 min-w-0 overflow-hidden text-ellipsis whitespace-nowrap text-left hover:underline"
                  onClick={() => select({ kind: 'net', id: net.id })}
                >
                  {net.name}{' '}
                  <span className="text-soft">
                    {to.signal ?? derived.byNet.get(net.id)?.fn?.signal ?? ''}
                  </span>
                </button>
                <span className="m">
                  {net.placement ? `${net.placement.pad} → ` : ''}
                  {to.pad}
                </span>
              </li>
            ))}
          </ol>
        </Section>
      )}
    </>
  );
}

function Explanation({ placing }: { placing: Placing }) {
  const { placer } = usePlacing();
  const { conflict } = placing;
  if (!conflict) return null;
  return (
    <>
      <p className="mt-1.5">
        <Message text={conflict.message} />
      </p>
      <Section title="These cannot hold together" aside={conflict.requirements.length}>
        <ul>
          {conflict.requirements.map((requirement) => (
            <li key={requirement.index} className="border-b border-rule py-1">
              <Message text={requirement.words} />
            </li>
          ))}
        </ul>
        <p className="mt-1 text-[12px] text-soft">
          {conflict.smallest
            ? 'Nothing smaller contradicts itself. Without any one of them, the others can be placed.'
            : conflict.rough
              ? 'The search gave up on some questions: there may be fewer.'
              : 'Without any one of them, the others can be placed. That there is no smaller set was not shown.'}
        </p>
      </Section>
      <Section title="What would help">
        {conflict.suggestions.length === 0 && (
          <p className="text-soft">No single change makes it possible; several of the above must go.</p>
        )}
        <ul>
          {conflict.suggestions.map(({ label, edit }) => (
            <li key={label}>
              <button
                type="button"
                className="link min-h-6 text-left"
                onClick={() => placer.takeWayOut(edit)}
              >
                {label.replaceAll('`', '')}
              </button>
            </li>
          ))}
        </ul>
        <p className="mt-1 text-[12px] text-soft">Each was tried: with it, everything has a pad.</p>
      </Section>
    </>
  );
}

/** What counts how much; changing it asks again. */
function Weighing() {
  const { placer } = usePlacing();
  const { options, placing, phase } = placer;
  return (
    <Section title="Costs" aside={placing?.objective === undefined ? undefined : `cost ${placing.objective}`}>
      <div className="grid grid-cols-[1fr_auto_auto] items-baseline gap-x-2 gap-y-0.5">
        <span />
        <span className="text-right text-[12px] text-soft">amount</span>
        <span className="text-right text-[12px] text-soft">weight</span>
        {TERM_KEYS.map((term) => (
          <label key={term} className="contents">
            <span title={`for each ${TERMS[term].per}; ${TERMS[term].why}`}>{TERMS[term].title}</span>
            <span className="m text-right text-soft">{placing?.terms?.[term] ?? '–'}</span>
            <input
              type="number"
              min={0}
              max={9999}
              step={1}
              className="m h-6 w-16 px-1 py-0 text-right"
              aria-label={`weight: ${TERMS[term].title}`}
              value={options.weights[term] ?? DEFAULT_WEIGHTS[term]}
              disabled={phase === 'working'}
              onChange={(event) => {
                const weight = Math.max(0, Math.min(9999, Math.round(Number(event.target.value) || 0)));
                placer.start({ weights: { ...options.weights, [term]: weight } });
              }}
            />
          </label>
        ))}
      </div>
      <label className="mt-1.5 flex items-baseline gap-1.5">
        <input
          type="checkbox"
          checked={options.keep}
          disabled={phase === 'working'}
          onChange={(event) => placer.start({ keep: event.target.checked })}
        />
        leave everything that has a pad where it is
      </label>
    </Section>
  );
}
