'use client';

import { Popover } from 'radix-ui';
import { useMemo, useState } from 'react';
import { type BenchFault, FAULT_TITLES, faultsOf, faultText } from '@/core/bench/faults/faults';
import { useDerived } from '../workspace/context';
import { type BenchStore, useBenchVersion } from './bench-store';
import { UnnoticedFaults } from './unnoticed-faults';

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
          <div className="mt-3 border-t border-rule pt-2">
            <UnnoticedFaults store={store} />
          </div>
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
  const list = faults.filter((fault) => fault.kind === kind);
  const at = list.findIndex((fault) => JSON.stringify(fault) === JSON.stringify(store.fault));
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
          {KINDS.filter((title) => faults.some((fault) => fault.kind === title)).map((title) => (
            <option key={title} value={title}>
              {FAULT_TITLES[title]}
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
          {list.map((fault, index) => (
            <option key={JSON.stringify(fault)} value={index}>
              {faultText(derived, fault)}
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
