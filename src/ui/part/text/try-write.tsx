'use client';

import { useEffect, useState } from 'react';
import type { StateBefore, WriteEffect } from '@/core/derive/machine/write-effect';
import type { PartTextReader } from '../../client/part-text-worker';
import { Segments } from '../../parts/segments';
import { BitCells } from './bit-cells';

const numberIn = (text: string): number | undefined => {
  const value = /^(0[xX][0-9A-Fa-f]{1,8}|\d{1,10})$/.test(text.trim()) ? Number(text) : Number.NaN;
  return value <= 0xffffffff ? value : undefined;
};

/** A write of any value to a register, carried out on the machine of the proof: which bits it changes, in which registers. */
export function TryWrite({
  reader,
  registers,
  version,
}: {
  reader: PartTextReader;
  registers: readonly string[];
  /** Changes when the part does. */
  version: number;
}) {
  const [register, setRegister] = useState(registers[0] ?? '');
  const [text, setText] = useState('0x01');
  const [before, setBefore] = useState<StateBefore>('open');
  const [effect, setEffect] = useState<WriteEffect | null>(null);
  const chosen = registers.includes(register) ? register : (registers[0] ?? '');
  const value = numberIn(text);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another version of the part is another machine
  useEffect(() => {
    let current = true;
    if (value === undefined) setEffect(null);
    else
      void reader.write(chosen, value, before).then((answer) => {
        if (current) setEffect(answer);
      });
    return () => {
      current = false;
    };
  }, [reader, chosen, value, before, version]);

  return (
    <section aria-label="What a write does" className="mt-3 grid gap-1.5">
      <h3 className="font-semibold">What a write does</h3>
      <div className="flex flex-wrap items-center gap-2">
        {registers.length > 1 ? (
          <select
            aria-label="Register"
            value={chosen}
            onChange={(event) => setRegister(event.target.value)}
            className="m"
          >
            {registers.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        ) : (
          <span className="m">{chosen}</span>
        )}
        <span className="m">:=</span>
        <input
          aria-label="Value that is written"
          aria-invalid={value === undefined}
          className="m w-28"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Segments
          label="The state before"
          value={before}
          choices={[
            { value: 'open', label: 'guards open' },
            { value: 'reset', label: 'after reset' },
            { value: 'every', label: 'any state' },
          ]}
          onChange={(state) => setBefore(state as StateBefore)}
        />
      </div>
      {value === undefined && <p className="text-err">a number, like 0x1F or 31</p>}
      <div role="status" className="grid gap-2">
        {effect?.lost.map((words) => (
          <p key={words} className="text-warn">
            {words}
          </p>
        ))}
        {effect?.changes.map(({ register: name, cells }) => (
          <div key={name}>
            <p className="m">
              {name}
              {cells.every((cell) => cell.before === cell.after) && (
                <span className="text-soft"> stays as it was</span>
              )}
            </p>
            <BitCells
              label={`Bits of ${name} after the write`}
              cells={cells.map((cell) => ({
                bit: cell.bit,
                value: cell.before === cell.after ? cell.after : `${cell.before}→${cell.after}`,
                changed: cell.before !== cell.after,
              }))}
            />
          </div>
        ))}
        {effect && effect.changes.length === 0 && <p className="text-soft">no bit that anything holds</p>}
      </div>
    </section>
  );
}
