'use client';

import { hexText } from '@/core/base/text/hex';
import type { Pad } from '@/core/description/types';
import type { HardwareAnswers } from '@/core/import/ask/answers';
import { numberOf } from '@/core/import/ask/answers';
import { padAddresses, portAddresses } from '@/core/import/ask/hardware';

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

/** Where the words of the first pads of each port are: what is compared with the page. */
export function PadAddresses({
  answers,
  ports,
  pads,
}: Pick<Props, 'answers' | 'ports'> & { pads: readonly Pad[] }) {
  if (numberOf(answers.base) === undefined) return null;
  const addresses = padAddresses(answers, ports, pads);
  const first = ports.flatMap((port) => {
    const own = pads.filter((pad) => pad.port === port).sort((a, b) => (a.bit ?? 0) - (b.bit ?? 0));
    return own.slice(0, 2);
  });
  return (
    <p className="mt-1 flex flex-wrap gap-x-3 text-[12px]">
      <span className="text-soft">so words are at</span>
      {first.slice(0, 16).map((pad) => (
        <span key={pad.id} className="m">
          {pad.id} <span className="text-soft">{hexText(addresses.get(pad.id) ?? 0, 32)}</span>
        </span>
      ))}
    </p>
  );
}
