'use client';

import { useState } from 'react';
import type { BenchPad } from '@/core/bench/engine/bench-pad';
import { stateWords } from '@/core/bench/engine/explain';
import { HIGH, LOW, levelOf } from '@/core/bench/trace/lanes';
import { ScrollRegion } from '../parts/scroll-region';
import { Segments } from '../parts/segments';
import { useActions, useSelection } from '../workspace/context';
import { type BenchStore, useBenchVersion } from './bench-store';

/** All bits of a port at once: what each is used as, its latch, its function, its level. */
export function PortPanel({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const { selectedPad } = useSelection();
  const { select } = useActions();
  const { bench } = store.recording.play;
  const { setup, state } = bench;
  const ports = [...new Set(setup.pads.map((one) => one.pad.port ?? ''))];
  const ofSelected = setup.pads.find((one) => one.pad.id === selectedPad)?.pad.port;
  const [chosen, setChosen] = useState<string | undefined>(undefined);
  const port = chosen ?? ofSelected ?? ports[0] ?? '';
  const bits = setup.pads
    .filter((one) => one.pad.port === port)
    .sort((a, b) => (b.pad.bit ?? 0) - (a.pad.bit ?? 0));
  const rows: { title: string; of: (pad: BenchPad) => string }[] = [
    { title: 'use', of: ({ index }) => state.states[index]?.use ?? '' },
    { title: 'drives', of: ({ index }) => DRIVES[state.states[index]?.output ?? 'off'] },
    { title: 'pull', of: ({ index }) => PULLS[state.states[index]?.pull ?? 'none'] },
    { title: 'function', of: ({ index }) => state.states[index]?.fn?.signal ?? '·' },
    { title: 'level', of: ({ index }) => stateWords(state.codes[index] as number) },
    { title: 'reads', of: ({ index }) => readsAs(levelOf(state.codes[index] as number)) },
  ];
  return (
    <div className="flex h-full flex-col px-3.5 py-1.5">
      <Segments
        label="Port"
        value={port}
        choices={ports.map((one) => ({ value: one, label: one }))}
        onChange={setChosen}
      />
      <ScrollRegion label={`Port ${port} bit by bit`} className="mt-1.5 min-h-0 flex-1">
        <table className="border-collapse">
          <thead>
            <tr>
              <th scope="col" className="pr-3 text-left font-normal text-soft">
                port {port}
              </th>
              {bits.map(({ pad, net }) => (
                <th
                  key={pad.id}
                  scope="col"
                  className="border-b border-ink px-1 text-left align-bottom font-normal"
                >
                  <button
                    type="button"
                    className={`block min-h-6 w-full text-left ${pad.id === selectedPad ? 'bg-pickbg' : ''}`}
                    onClick={() => select(net ? { kind: 'net', id: net.id } : { kind: 'pad', id: pad.id })}
                  >
                    <span className="m">{pad.bit}</span>
                    <span className="block max-w-20 overflow-hidden text-ellipsis text-[11.5px]">
                      {net?.name ?? ''}
                    </span>
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ title, of }) => (
              <tr key={title} className="border-b border-rule">
                <th scope="row" className="pr-3 text-left font-normal text-soft">
                  {title}
                </th>
                {bits.map((pad) => (
                  <td key={pad.pad.id} className="whitespace-nowrap px-1 text-[11.5px] leading-6">
                    {of(pad)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </ScrollRegion>
    </div>
  );
}

const DRIVES = { off: '·', low: 'low', high: 'high', peripheral: 'peripheral', unknown: '?' } as const;
const PULLS = { none: '·', up: 'up', down: 'down', keeper: 'keeper', unknown: '?' } as const;
const readsAs = (level: number): string => (level === HIGH ? '1' : level === LOW ? '0' : '?');
