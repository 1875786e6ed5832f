'use client';

import { useMemo, useRef } from 'react';
import { largest } from '@/core/base/lists';
import { ScrollRegion } from '../parts/scroll-region';
import { standsFor, useInSight } from '../parts/use-in-sight';
import { useActions, useDerived, useSelection } from '../workspace/context';
import { BitCell, NoBit } from './bit-cell';
import { portRows } from './masks';
import { MasksPane } from './masks-pane';
import { type BitSelection, keyOf, useBitSelection } from './use-bit-selection';

/** Ports as registers see them. Any selection of bits reads as a mask in hexadecimal, decimal and binary. */
export function PortsView() {
  const { derived } = useDerived();
  const { selectedPad } = useSelection();
  const { select } = useActions();
  const { device } = derived;
  const rows = useMemo(() => portRows(device), [device]);
  const widest = Math.max(0, largest(rows.flatMap((row) => [...row.pads.keys()]))) + 1;
  const numbers = useMemo(() => Array.from({ length: widest }, (_, i) => widest - 1 - i), [widest]);
  const grid = useRef<HTMLTableElement>(null);
  useInSight(grid, standsFor('pad', selectedPad));
  const bits = useBitSelection(rows, widest, grid, (pad) => {
    const nets = derived.byPad.get(pad);
    const only = nets?.length === 1 ? nets[0] : undefined;
    select(only ? { kind: 'net', id: only.net.id } : { kind: 'pad', id: pad });
  });

  return (
    <div className="flex h-full flex-col">
      <SelectBar bits={bits} />
      <ScrollRegion label="Ports and their bits" className="pane-area min-h-0 flex-1 px-3 pb-2">
        <table
          ref={grid}
          role="grid"
          aria-label="Bits of the ports"
          aria-multiselectable="true"
          className="w-full table-fixed border-separate border-spacing-0 select-none"
          style={{ minWidth: widest * 43 + 40 }}
          onKeyDown={bits.onKeyDown}
          onPointerUp={bits.release}
          onPointerLeave={bits.release}
        >
          <thead>
            <tr>
              <th
                scope="col"
                className="sticky left-0 top-0 z-20 w-9 bg-paper pr-2 text-left font-medium text-soft"
              >
                port
              </th>
              {numbers.map((bit) => (
                <th key={bit} scope="col" className="m sticky top-0 z-10 bg-paper py-1 font-normal text-soft">
                  {bit}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ port, pads }, row) => (
              <tr key={port}>
                <th scope="row" className="sticky left-0 z-10 bg-paper pr-2 text-left">
                  <button
                    type="button"
                    className="m !text-[13px] font-medium hover:underline"
                    title={`Select all of port ${port}`}
                    onClick={() => bits.choose([...pads.keys()].map((bit) => keyOf({ row, bit })))}
                  >
                    {port}
                  </button>
                </th>
                {numbers.map((bit) => {
                  const pad = device.pads.get(pads.get(bit) ?? '');
                  const shared = { port, cell: { row, bit }, bits };
                  return pad ? (
                    <BitCell key={bit} {...shared} pad={pad} selected={selectedPad === pad.id} />
                  ) : (
                    <NoBit key={bit} {...shared} />
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </ScrollRegion>
      <MasksPane rows={rows} chosen={bits.chosen} />
    </div>
  );
}

/** Bits that are chosen together often. */
function SelectBar({ bits: { choosePads } }: { bits: BitSelection }) {
  const { derived } = useDerived();
  const { byPad, device, pkg, plan } = derived;
  const bonded = device.pinsOf.get(pkg.id);
  const roleAt = (pad: string): string | undefined => byPad.get(pad)?.[0]?.net.role.kind;
  const groups: [string, (pad: string) => boolean][] = [
    ['outputs', (pad) => roleAt(pad) === 'output'],
    ['inputs', (pad) => roleAt(pad) === 'input'],
    ['free pads', (pad) => !byPad.has(pad) && bonded?.has(pad) === true],
  ];
  return (
    <div className="flex flex-wrap items-center gap-1.5 border-b border-rule px-3 py-1">
      <span className="text-soft">Select</span>
      {groups.map(([title, wanted]) => (
        <button key={title} type="button" className="button" onClick={() => choosePads(wanted)}>
          {title}
        </button>
      ))}
      <select
        aria-label="Select the pads of a circuit"
        value=""
        onChange={(event) =>
          choosePads((pad) => byPad.get(pad)?.some((one) => one.net.circuit === event.target.value) === true)
        }
      >
        <option value="">circuit …</option>
        {plan.circuits.map((circuit) => (
          <option key={circuit.id} value={circuit.id}>
            {circuit.name}
          </option>
        ))}
      </select>
      <span className="ml-auto text-soft max-xl:hidden">
        drag, or Shift with a click or arrow, for several
      </span>
    </div>
  );
}
