'use client';

import { freeName, takenBy } from '@/core/base/text/free-name';
import { newId } from '@/core/base/text/new-id';
import { type FaultResult, faultText } from '@/core/bench/faults/faults';
import type { Proposal } from '@/core/bench/faults/propose';
import { namesIn } from '@/core/bench/script/names';
import { withNames } from '@/core/bench/script/rename';
import type { Derived } from '@/core/derive/derive';
import type { Edit } from '@/core/plan/edits/edits';
import { addTrial, changeTrial } from '@/core/plan/edits/make-edits';
import type { Plan } from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import { type BenchStore, useBenchVersion } from './bench-store';

/** Which single faults no trial notices, each with lines that would; the list stays until it is made anew. */
export function UnnoticedFaults({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const { derived } = useDerived();
  const { faultSearch: search } = store;
  const trials = derived.plan.trials ?? [];
  return (
    <section aria-label="Faults and trials">
      <h3 className="font-semibold">Which single faults would the trials notice?</h3>
      {search.kind === 'working' ? (
        <p className="flex items-center gap-2">
          <progress className="flex-1" value={search.done} max={search.of} aria-label="Faults tried" />
          <span className="m">
            {search.done} of {search.of}
          </span>
          <button type="button" className="button" onClick={search.stop}>
            Stop
          </button>
        </p>
      ) : (
        <p>
          <button type="button" className="button mt-1" onClick={() => void store.searchFaults()}>
            {search.kind === 'done' ? 'Try all of them again' : 'Try every single fault'}
          </button>
          {trials.length === 0 && (
            <span className="ml-2 text-soft">No trials yet: lines are proposed for each.</span>
          )}
        </p>
      )}
      {search.kind === 'failed' && (
        <p role="alert" className="text-err">
          {search.message}
        </p>
      )}
      {search.kind === 'done' && <Results store={store} search={search} />}
    </section>
  );
}

function Results({
  store,
  search,
}: {
  store: BenchStore;
  search: { derived: Derived; results: readonly FaultResult[]; unusable: readonly string[] };
}) {
  const { derived } = useDerived();
  const { results, unusable } = search;
  const unnoticed = results.filter(({ seenBy, matters }) => seenBy.length === 0 && matters);
  const noticed = results.filter(({ seenBy }) => seenBy.length > 0);
  const failing = unusable.flatMap((id) => derived.plan.trials?.find((trial) => trial.id === id)?.name ?? []);
  return (
    <div className="mt-2">
      <p role="status">
        {noticed.length} are noticed, {unnoticed.length} are not;{' '}
        {results.length - noticed.length - unnoticed.length} more change nothing.
      </p>
      {failing.length > 0 && (
        <p className="text-warn">Trials that fail without a fault notice none: {failing.join(', ')}.</p>
      )}
      {search.derived.plan !== derived.plan && (
        <p className="text-soft">The plan has changed since; try again to see what is left.</p>
      )}
      {unnoticed.length > 0 && (
        <ul aria-label="Faults that no trial notices" className="mt-1 border-t border-rule">
          {unnoticed.map((result) => (
            <FaultRow
              key={JSON.stringify(result.fault)}
              store={store}
              result={result}
              tried={search.derived}
            />
          ))}
        </ul>
      )}
    </div>
  );
}

function FaultRow({ store, result, tried }: { store: BenchStore; result: FaultResult; tried: Derived }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { fault, proposal } = result;
  const text = faultText(tried, fault);
  const names = namesIn(derived);
  const trial = derived.plan.trials?.find(({ id }) => id === proposal?.trial);
  const edit = proposal && editFor(derived.plan, proposal, text);
  const isKept = proposal !== undefined && keeps(derived.plan, proposal);
  return (
    <li className="border-b border-rule py-0.5">
      <div className="flex items-baseline gap-2">
        <span className="mr-auto">{text}</span>
        {tried.plan === derived.plan && (
          <button
            type="button"
            className="link shrink-0 whitespace-nowrap leading-6"
            onClick={() => store.breakIt(fault)}
          >
            see it
          </button>
        )}
      </div>
      {proposal ? (
        <div className="flex flex-wrap items-baseline gap-x-2 pl-3">
          <span className="m">{proposal.lines.map((line) => withNames(line, names)).join('; ')}</span>
          {isKept ? (
            <span className="ml-auto text-soft">added</span>
          ) : (
            edit && (
              <button
                type="button"
                className="link ml-auto max-w-full overflow-hidden text-ellipsis whitespace-nowrap leading-6"
                onClick={() => dispatch(edit)}
              >
                {trial ? `add to ${trial.name}` : 'add as a trial'}
              </button>
            )
          )}
        </div>
      ) : (
        <p className="pl-3 text-soft">No line was found that would notice it.</p>
      )}
    </li>
  );
}

const keeps = ({ trials = [] }: Plan, { lines, trial }: Proposal): boolean =>
  trials.some(
    (each) => (trial === undefined || each.id === trial) && lines.every((line) => each.lines.includes(line)),
  );

/** Adds the lines at the end of their trial, or as a trial that is called after the fault. */
function editFor(plan: Plan, { trial: id, lines }: Proposal, fault: string): Edit | undefined {
  const trials = plan.trials ?? [];
  if (id !== undefined) {
    const trial = trials.find((each) => each.id === id);
    return trial && changeTrial(plan, trial, { ...trial, lines: [...trial.lines, ...lines] });
  }
  const name = freeName(`notices: ${fault}`.slice(0, MOST_NAMED), takenBy(trials), ' ');
  return addTrial(plan, { id: newId(), name, lines });
}

/** Of a fault's words so many characters are taken for a trial's name. */
const MOST_NAMED = 100;
