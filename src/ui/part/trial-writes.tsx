'use client';

import { useMemo, useState } from 'react';
import { hexText } from '@/core/base/text/hex';
import { lower } from '@/core/derive/lower/lower';
import type { encodeTrial } from '@/core/derive/lower/trial';
import { prove } from '@/core/derive/simulate/proof';
import { offeredFunction } from '@/core/device/available';
import type { Device } from '@/core/device/device';
import type { CodeStyle } from '@/core/plan/model/types';
import { Segments } from '../parts/segments';
import { operationText } from '../registers/operation-text';

interface Props {
  device: Device;
  padId: string;
  trial: ReturnType<typeof encodeTrial>;
}

/** What the generated code would write for this pad alone, in order, and whether that is proven. */
export function TrialWrites({ device, padId, trial }: Props) {
  const [style, setStyle] = useState<CodeStyle>('from-reset');
  const result = useMemo(() => {
    const pad = device.pads.get(padId);
    if (!pad) return undefined;
    const fn = offeredFunction(device, pad, trial.settings);
    const planned = [{ pad, ...(fn ? { fn } : {}), settings: trial.settings }];
    const lowered = lower(device, planned, style);
    return { operations: lowered.operations, failures: prove(device, planned, lowered).failures };
  }, [device, padId, trial, style]);
  if (!result) return null;
  return (
    <section aria-label="What is written" className="mt-3">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2 className="font-semibold">What is written</h2>
        <Segments
          label="starting from"
          value={style}
          choices={[
            { value: 'from-reset', label: 'from reset' },
            { value: 'preserving', label: 'from any state' },
          ]}
          onChange={(value) => setStyle(value as CodeStyle)}
        />
        <span role="status" className={result.failures.length > 0 ? 'text-err' : 'text-soft'}>
          {result.failures[0]?.message ?? 'proven: every bit ends right, nothing is lost on the way'}
        </span>
      </div>
      {result.operations.length === 0 ? (
        <p className="text-soft">Nothing: the pad is so after reset.</p>
      ) : (
        <ol className="m mt-1">
          {result.operations.map((operation, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: operations have no names, and are made anew together
            <li key={index} className="grid grid-cols-[9ch_11ch_1fr] gap-x-2">
              <span className="text-soft">{operation.stage}</span>
              <span className="text-soft">
                {'register' in operation ? hexText(operation.register.address, 32) : ''}
              </span>
              <span>{operationText(operation)}</span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
