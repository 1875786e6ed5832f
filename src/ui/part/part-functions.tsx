'use client';

import { useMemo, useState } from 'react';
import { derive } from '@/core/derive/derive';
import type { Device } from '@/core/device/device';
import { emptyPlan } from '@/core/plan/model/types';
import { FunctionMatrix } from '../functions/functions-view';
import { Segments } from '../parts/segments';

/** The function matrix of one of the packages, with nothing placed. */
export function PartFunctions({ device }: { device: Device }) {
  const { packages, id } = device.description;
  const [pkg, setPkg] = useState(packages[0]?.id ?? '');
  const derived = useMemo(
    () => derive(device, emptyPlan('', id, pkg, device.fingerprint)),
    [device, id, pkg],
  );
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-center gap-2 px-3 pt-1.5">
        <span className="text-soft">in</span>
        <Segments
          label="Package"
          value={pkg}
          choices={packages.map((one) => ({ value: one.id, label: one.name }))}
          onChange={setPkg}
        />
      </div>
      <div className="min-h-0 flex-1">{derived.ok && <FunctionMatrix derived={derived.value} />}</div>
    </div>
  );
}
