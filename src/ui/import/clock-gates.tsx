'use client';

import { hexText } from '@/core/base/text/hex';
import type { GateChoice } from '@/core/import/attach/choices';

interface Props {
  ports: readonly string[];
  gates: readonly GateChoice[];
  others: readonly GateChoice[];
  onChange: (gates: GateChoice[]) => void;
}

/** The registers that give ports their clock, and which bit is which port's. */
export function ClockGates({ ports, gates, others, onChange }: Props) {
  const set = (index: number, change: Partial<GateChoice>): void =>
    onChange(gates.map((one, i) => (i === index ? { ...one, ...change } : one)));
  return (
    <div className="mt-3">
      <h3 className="font-semibold">Clock gates</h3>
      {gates.map((gate, index) => (
        <div key={gate.register} className="border-b border-rule py-1">
          <span className="m">{gate.register}</span>{' '}
          <span className="m text-soft">{hexText(gate.address, 32)}</span>
          <label className="ml-3 text-soft">
            open at{' '}
            <select
              className="m !h-6 !py-0"
              value={gate.opensAt}
              onChange={(event) => set(index, { opensAt: event.target.value === '0' ? 0 : 1 })}
            >
              <option value={1}>1</option>
              <option value={0}>0</option>
            </select>
          </label>
          <button
            type="button"
            className="link ml-3"
            onClick={() => onChange(gates.filter((_, i) => i !== index))}
          >
            none of it
          </button>
          <span className="mt-0.5 flex flex-wrap gap-x-3 gap-y-0.5">
            {ports.map((port) => (
              <label key={port} className="m inline-flex items-baseline gap-1">
                {port} bit
                <input
                  className="m w-9 !px-1 !h-6 !py-0 text-right"
                  inputMode="numeric"
                  value={gate.ports[port] ?? ''}
                  onChange={(event) => {
                    const bit = Number.parseInt(event.target.value, 10);
                    set(index, {
                      ports: { ...gate.ports, [port]: Number.isNaN(bit) ? 0 : Math.min(bit, gate.bits - 1) },
                    });
                  }}
                />
              </label>
            ))}
          </span>
        </div>
      ))}
      <select
        aria-label="Add a clock gate"
        className="m mt-1 !h-6 !py-0"
        value=""
        onChange={(event) => {
          const found = others.find((one) => one.register === event.target.value);
          if (found) onChange([...gates, found]);
        }}
      >
        <option value="">{gates.length === 0 ? 'none; choose one …' : 'one more …'}</option>
        {others
          .filter((one) => !gates.some((gate) => gate.register === one.register))
          .map((one) => (
            <option key={one.register}>{one.register}</option>
          ))}
      </select>
    </div>
  );
}
