'use client';

import { useState } from 'react';
import type { PadReading } from '@/core/read-back/read-back';
import { joined } from '@/core/read-back/take-over';
import { useActions, useDerived } from '../workspace/context';
import { ReadingLine } from './reading-line';

/** Pads that are not as planned, each with what it means and a way to take that over. */
export function Differences({
  readings,
  source,
  onSaid,
}: {
  readings: readonly PadReading[];
  /** "as read back": what an edit of several pads is called by. */
  source: string;
  onSaid: (text: string) => void;
}) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const [chosen, setChosen] = useState<Readonly<Record<string, number>>>({});
  const changes = readings.filter((one) => one.state === 'differs' || one.state === 'other');
  const meaningless = readings.filter((one) => one.state === 'meaningless');
  const ambiguous = readings.filter((one) => one.equally.length > 0);

  function takeOver(list: readonly PadReading[]) {
    const edits = list.flatMap((one) => one.meanings[chosen[one.pad] ?? 0]?.edit ?? []);
    const taken = joined(derived.plan, `${list.length} pads ${source}`, edits);
    if (!taken.ok) onSaid(taken.problems[0]?.message ?? 'this cannot be taken over');
    else if (dispatch(taken.value.edit))
      onSaid(`${list.length === 1 ? list[0]?.pad : `${list.length} pads`} taken over; undo takes it back`);
  }

  return (
    <>
      {changes.length > 0 && (
        <section aria-label="What differs" className="mt-2">
          <h2 className="flex items-baseline gap-3 border-b border-rule pb-1 font-semibold">
            What differs
            <button type="button" className="button ml-auto font-normal" onClick={() => takeOver(changes)}>
              Take all {changes.length} over
            </button>
          </h2>
          <ul>
            {changes.map((reading) => (
              <ReadingLine key={reading.pad} reading={reading}>
                {reading.missing.length > 0 && (
                  <span className="text-soft" title={reading.missing.map((one) => one.name).join(', ')}>
                    as far as read
                  </span>
                )}
                {reading.meanings[chosen[reading.pad] ?? 0]?.exact === false && (
                  <span className="text-warn">no plan gives exactly these bits</span>
                )}
                <span className="ml-auto flex items-baseline gap-2">
                  {reading.meanings.length > 1 && (
                    <select
                      aria-label={`What ${reading.pad} means`}
                      className="max-w-56 py-0"
                      value={chosen[reading.pad] ?? 0}
                      onChange={(event) =>
                        setChosen({ ...chosen, [reading.pad]: Number(event.target.value) })
                      }
                    >
                      {reading.meanings.map((one, index) => (
                        <option key={one.text} value={index}>
                          {one.text}
                        </option>
                      ))}
                    </select>
                  )}
                  <button type="button" className="link" onClick={() => takeOver([reading])}>
                    take over
                  </button>
                </span>
              </ReadingLine>
            ))}
          </ul>
        </section>
      )}
      {ambiguous.length > 0 && (
        <section aria-label="What no bit tells apart" className="mt-2">
          <h2 className="border-b border-rule pb-1 font-semibold">As planned, as far as bits tell</h2>
          <ul>
            {ambiguous.map((reading) => (
              <li key={reading.pad} className="flex flex-wrap items-baseline gap-x-2 py-px">
                <span className="m font-medium">{reading.pad}</span>
                <span>{reading.net?.name ?? <span className="text-soft">no net</span>}</span>
                <span className="text-soft">the bits are as well {reading.equally.join(', or ')}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {meaningless.length > 0 && (
        <section aria-label="What means nothing" className="mt-2">
          <h2 className="border-b border-rule pb-1 font-semibold">What is no setting</h2>
          <ul>
            {meaningless.map((reading) => (
              <ReadingLine key={reading.pad} reading={reading} />
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
