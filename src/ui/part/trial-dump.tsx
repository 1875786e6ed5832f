'use client';

import { useMemo, useState } from 'react';
import { decodeTrial } from '@/core/derive/lower/trial';
import type { Device } from '@/core/device/device';
import { readDump } from '@/core/read-back/dump';

/** Values out of a debugger, pasted in any usual form, as what they make of the pad; registers that are not given are at reset. */
export function TrialDump({ device, padId }: { device: Device; padId: string }) {
  const [text, setText] = useState('');
  const pad = device.pads.get(padId);
  const read = useMemo(() => (text.trim() === '' ? undefined : readDump(device, text)), [device, text]);
  if (!pad) return null;
  const meant = read?.ok ? decodeTrial(device, pad, read.value.values) : undefined;
  return (
    <section aria-label="Values from a debugger" className="mt-3">
      <h2 className="font-semibold">Values from a debugger</h2>
      <p className="text-[12px] text-soft">
        Names or addresses with values, a memory print, Intel HEX or S-records: what they make of {padId}.
        Registers that are not given are as after reset.
      </p>
      <textarea
        aria-label="Pasted register values"
        spellCheck={false}
        className="m mt-1 h-14 w-full text-[12px]"
        value={text}
        placeholder={exampleOf(device)}
        onChange={(event) => setText(event.target.value)}
      />
      {read && (
        <p role="status">
          {!read.ok ? (
            <span className="text-err">{read.problems[0]?.message}</span>
          ) : (
            <>
              <span className="text-soft">{padId} is</span>{' '}
              {meant && meant.settings.length > 0 ? (
                meant.words
              ) : (
                <span className="text-err">nothing: no setting gives these bits</span>
              )}
              <span className="text-soft">
                , by {read.value.values.size} register{read.value.values.size === 1 ? '' : 's'}
                {read.value.unread.length > 0 &&
                  `; not understood: ${read.value.unread[0]?.place}, ${read.value.unread[0]?.message}`}
              </span>
            </>
          )}
        </p>
      )}
    </section>
  );
}

function exampleOf(device: Device): string {
  const first = device.registers.all.find((one) => one.access.kind === 'read-write');
  return first ? `${first.name} = 0x${'0'.repeat(first.bits / 4)}` : '';
}
