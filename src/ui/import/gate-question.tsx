'use client';

import type { GateAnswer } from '@/core/import/ask/answers';
import { GATE } from '@/core/import/ask/hardware';
import { StillOpen, Typed } from './question-card';

interface Props {
  gate: GateAnswer | null;
  ports: readonly string[];
  problem: string | undefined;
  onChange: (gate: GateAnswer | null, about: string) => void;
}

/** What has to be switched on before a port can be written. */
export function GateQuestion({ gate, ports, problem, onChange }: Props) {
  const begin = (opensAt: 0 | 1): GateAnswer => ({
    name: opensAt === 1 ? 'ON' : 'HELD',
    address: gate?.address ?? '',
    ports: gate?.ports ?? {},
    opensAt,
  });
  const choices: [string, boolean, GateAnswer | null][] = [
    ['nothing: ports work after reset', gate === null, null],
    ['a clock: a bit for each port, 1 opens', gate?.opensAt === 1, begin(1)],
    ['a reset: a bit for each port, 0 releases', gate?.opensAt === 0, begin(0)],
  ];
  return (
    <fieldset className="border-t border-rule py-2">
      <legend className="float-left w-full font-semibold">{GATE}</legend>
      <p className="clear-both text-[12px] text-soft">
        The clock of a port, or its reset. Ready bits, keys and locks are said in the text.
      </p>
      <div className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
        {choices.map(([title, chosen, next]) => (
          <label key={title} className="inline-flex min-h-7 items-center gap-1">
            <input
              type="radio"
              name="question-gate"
              checked={chosen}
              onChange={() => onChange(next, 'gate')}
            />
            {title}
          </label>
        ))}
      </div>
      {gate && (
        <div className="mt-1.5 flex flex-wrap items-baseline gap-x-2 gap-y-1">
          <Typed
            label="name"
            what="the gate"
            wide
            value={gate.name}
            onChange={(name) => onChange({ ...gate, name }, 'gate name')}
          />
          <Typed
            label="address"
            what="the gate"
            wide
            value={gate.address}
            placeholder="0x40020000"
            onChange={(address) => onChange({ ...gate, address }, 'gate address')}
          />
          {ports.map((port) => (
            <Typed
              key={port}
              label={`bit of ${port}`}
              what="the gate"
              value={gate.ports[port] ?? ''}
              onChange={(bit) => onChange({ ...gate, ports: { ...gate.ports, [port]: bit } }, `gate ${port}`)}
            />
          ))}
        </div>
      )}
      {gate && <StillOpen message={problem} />}
    </fieldset>
  );
}
