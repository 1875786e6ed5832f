'use client';

import { type DragEvent, useMemo, useRef } from 'react';
import type { DeviceDescription } from '@/core/description/types';
import { loadDevice } from '@/core/device/compile/load';
import { Trial } from '../part/recipe-trial';
import { ProblemAlert } from '../parts/problem-alert';

interface Props {
  description: DeviceDescription;
  has: boolean;
  onFile: (file: File | undefined) => void;
  onClear: () => void;
  /** The port hardware by questions, for who has no register description. */
  onAsk: () => void;
}

/** No register description is open: how to bring one in, and the recipe there is. */
export function RegistersEmpty({ description, has, onFile, onClear, onAsk }: Props) {
  const chooser = useRef<HTMLInputElement>(null);
  const device = useMemo(() => (has ? loadDevice(description) : null), [has, description]);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is a shortcut; the button does the same
    <div
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event: DragEvent) => {
        event.preventDefault();
        onFile(event.dataTransfer.files[0]);
      }}
    >
      <h2 className="text-[16px] font-semibold">{has ? 'The part has a recipe' : 'Attach a recipe'}</h2>
      <p className="mt-1 max-w-2xl text-soft">
        {has
          ? 'Try it on any pad. Another register description or recipe file takes its place.'
          : 'Without it, nets can be placed and checked, but there are no register values and no code. With a register description Mavrek proposes which registers are direction, pull, function and latch; you decide, and try each on a pad.'}
      </p>
      <p className="my-3 flex flex-wrap items-center gap-3">
        <button type="button" className="button button-strong" onClick={() => chooser.current?.click()}>
          Choose a file
        </button>
        <span className="text-soft">or drop one here: CMSIS-SVD, IP-XACT, SystemRDL, or a part's text</span>
        <button type="button" className="button" onClick={onAsk}>
          Answer questions instead
        </button>
        {has && (
          <button type="button" className="link" onClick={onClear}>
            go without a recipe
          </button>
        )}
        <input
          ref={chooser}
          type="file"
          className="hidden"
          aria-label="register description file"
          onChange={(event) => {
            onFile(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </p>
      {device &&
        (device.ok ? (
          <div className="border-t border-rule pt-3">
            <Trial device={device.value} />
          </div>
        ) : (
          <ProblemAlert problems={device.problems} most={12} />
        ))}
    </div>
  );
}
