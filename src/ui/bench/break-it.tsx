'use client';

import { Popover } from 'radix-ui';
import { useMemo, useRef, useState } from 'react';
import {
  type BenchFault,
  FAULT_TITLES,
  type FaultResult,
  faultsOf,
  faultText,
} from '@/core/bench/faults/faults';
import { type BenchRun, runBenchTask } from '../client/bench-worker';
import { useDerived } from '../workspace/context';
import { type BenchStore, useBenchVersion } from './bench-store';

/** Breaks the code or the board on purpose, and asks which single faults the trials would notice. */
export function BreakIt({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const { derived } = useDerived();
  const { fault } = store;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          className={`button ${fault ? 'text-err' : ''}`}
          title="Put a fault in, and see what happens"
        >
          {fault ? `broken: ${faultText(derived, fault)}` : 'break it …'}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-30 max-h-[70vh] w-[26rem] overflow-auto border border-ink bg-sheet p-3 shadow-sm"
        >
          <Choose store={store} />
          <Coverage store={store} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const KINDS = Object.keys(FAULT_TITLES) as BenchFault['kind'][];

function Choose({ store }: { store: BenchStore }) {
  const { derived } = useDerived();
  const faults = useMemo(() => faultsOf(derived), [derived]);
  const [kind, setKind] = useState<BenchFault['kind']>(store.fault?.kind ?? 'dropped');
  const list = faults.filter((one) => one.kind === kind);
  const at = list.findIndex((one) => JSON.stringify(one) === JSON.stringify(store.fault));
  return (
    <section aria-label="A fault">
      <h3 className="font-semibold">Break it on purpose</h3>
      <div className="mt-1 grid grid-cols-[auto_1fr] items-center gap-x-2 gap-y-1">
        <label className="text-soft" htmlFor="fault-kind">
          what
        </label>
        <select
          id="fault-kind"
          value={kind}
          onChange={(event) => setKind(event.target.value as BenchFault['kind'])}
        >
          {KINDS.filter((one) => faults.some((fault) => fault.kind === one)).map((one) => (
            <option key={one} value={one}>
              {FAULT_TITLES[one]}
            </option>
          ))}
        </select>
        <label className="text-soft" htmlFor="fault-which">
          which
        </label>
        <select
          id="fault-which"
          value={at < 0 ? '' : String(at)}
          onChange={(event) => store.breakIt(list[Number(event.target.value)])}
        >
          <option value="" disabled>
            choose one …
          </option>
          {list.map((one, index) => (
            <option key={JSON.stringify(one)} value={index}>
              {faultText(derived, one)}
            </option>
          ))}
        </select>
      </div>
      {store.fault && (
        <p className="mt-1.5">
          What was played has been played again with the fault.{' '}
          <button type="button" className="link" onClick={() => store.breakIt(undefined)}>
            Take it out
          </button>
        </p>
      )}
    </section>
  );
}

/** Which single faults no trial sees. */
function Coverage({ store }: { store: BenchStore }) {
  const { derived } = useDerived();
  const [state, setState] = useState<
    | { kind: 'idle' }
    | { kind: 'working'; done: number; of: number }
    | { kind: 'done'; results: FaultResult[] }
    | { kind: 'said'; text: string }
  >({ kind: 'idle' });
  const run = useRef<BenchRun | null>(null);
  const trials = derived.plan.trials ?? [];
  async function start() {
    setState({ kind: 'working', done: 0, of: 1 });
    run.current = runBenchTask(
      { kind: 'faults', description: derived.device.description, plan: derived.plan },
      (done, of) => setState({ kind: 'working', done, of }),
    );
    const answer = await run.current.result;
    if (answer === 'stopped') setState({ kind: 'idle' });
    else if (answer.kind === 'faults') setState({ kind: 'done', results: answer.results });
    else setState({ kind: 'said', text: answer.kind === 'failed' ? answer.message : '' });
  }
  return (
    <section aria-label="What the trials notice" className="mt-3 border-t border-rule pt-2">
      <h3 className="font-semibold">Which single faults would the trials notice?</h3>
      {trials.length === 0 ? (
        <p className="text-soft">
          The plan has no trials yet. Keep a play with what you expect of it as a trial first.
        </p>
      ) : state.kind === 'working' ? (
        <p className="flex items-center gap-2">
          <progress className="flex-1" value={state.done} max={state.of} aria-label="Faults tried" />
          <span className="m">
            {state.done} of {state.of}
          </span>
          <button type="button" className="button" onClick={() => run.current?.stop()}>
            Stop
          </button>
        </p>
      ) : (
        <button type="button" className="button mt-1" onClick={() => void start()}>
          Try every single fault
        </button>
      )}
      {state.kind === 'said' && (
        <p role="alert" className="text-err">
          {state.text}
        </p>
      )}
      {state.kind === 'done' && <Results store={store} results={state.results} />}
    </section>
  );
}

function Results({ store, results }: { store: BenchStore; results: readonly FaultResult[] }) {
  const { derived } = useDerived();
  const unseen = results.filter((one) => one.seenBy.length === 0 && one.matters);
  const seen = results.filter((one) => one.seenBy.length > 0);
  const harmless = results.filter((one) => one.seenBy.length === 0 && !one.matters);
  return (
    <div className="mt-2">
      <p>
        {seen.length} are noticed, {unseen.length} are not; {harmless.length} more change nothing.
      </p>
      {unseen.length > 0 && (
        <ul
          aria-label="Faults that no trial notices"
          className="mt-1 max-h-60 overflow-auto border-t border-rule"
        >
          {unseen.map(({ fault }) => (
            <li key={JSON.stringify(fault)} className="flex items-baseline gap-2 border-b border-rule">
              <span className="mr-auto">{faultText(derived, fault)}</span>
              <button type="button" className="link leading-6" onClick={() => store.breakIt(fault)}>
                see it
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
