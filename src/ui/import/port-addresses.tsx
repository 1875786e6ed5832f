'use client';

import { hexText } from '@/core/base/text/hex';
import type { HardwareAnswers } from '@/core/import/ask/answers';
import { portAddresses } from '@/core/import/ask/hardware';

interface Props {
  answers: HardwareAnswers;
  ports: readonly string[];
  onChange: (bases: Record<string, string>, port: string) => void;
}

/** Where the registers of each port begin: as they follow from the distance, or typed where a port does not keep to it. */
export function PortAddresses({ answers, ports, onChange }: Props) {
  const addresses = portAddresses(answers, ports);
  return (
    <div className="mt-1 flex flex-wrap items-baseline gap-x-2 gap-y-1 text-[12px]">
      <span className="text-soft">so ports begin at</span>
      {ports.map((port) => {
        const follows = addresses.get(port);
        return (
          <label key={port} className="inline-flex items-baseline gap-1">
            <span className="m">{port}</span>
            <input
              aria-label={`Address of port ${port}`}
              className={`m w-[88px] !h-[22px] !px-1 !py-0 text-[12px] ${answers.bases[port] ? '' : 'text-soft'}`}
              value={answers.bases[port] ?? (follows === undefined ? '' : hexText(follows, 32))}
              spellCheck={false}
              maxLength={20}
              onChange={(event) => {
                const { [port]: _old, ...others } = answers.bases;
                const text = event.target.value;
                onChange(text.trim() === '' ? others : { ...others, [port]: text }, port);
              }}
            />
          </label>
        );
      })}
    </div>
  );
}
