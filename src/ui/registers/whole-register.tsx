'use client';

import { useState } from 'react';
import { clauseLines } from '@/core/device/clauses/clause-lines';
import { behaviourText } from '@/core/device/registers/register-text';
import { type LensRegister, numberTexts } from '@/core/read-back/lens';
import { useDerived } from '../workspace/context';
import { CopyText } from './copy-text';
import { TypedValue } from './typed-value';

/** The whole value of a register in three notations, whose its bits are, and a field to type another value into. */
export function WholeRegister({ row }: { row: LensRegister }) {
  const { register, planned, mask, runs } = row;
  const { derived } = useDerived();
  const [shown, setShown] = useState<'planned' | 'mask' | 'reset'>('planned');
  const value = { planned, mask, reset: row.reset }[shown];
  const texts = numberTexts(value, register.bits);
  const owned = runs.filter((run) => run.kind === 'planned');
  return (
    <div className="grid grid-cols-[136px_1fr] gap-x-3 bg-sheet px-3.5 pb-2 pt-0.5">
      <div className="flex flex-col items-start">
        {(['planned', 'reset', 'mask'] as const).map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={one === shown}
            className={`min-h-6 px-1 ${one === shown ? 'bg-ink text-sheet' : 'text-soft hover:underline'}`}
            onClick={() => setShown(one)}
          >
            {one === 'planned' ? 'as planned' : one === 'reset' ? 'after reset' : 'mask'}
          </button>
        ))}
      </div>
      <div className="min-w-0">
        <dl className="grid grid-cols-[64px_1fr] items-baseline gap-x-2">
          <dt className="text-soft">hex</dt>
          <dd>
            <CopyText text={texts.hex} />
          </dd>
          <dt className="text-soft">binary</dt>
          <dd>
            <CopyText text={texts.binary} copied={`0b${texts.binary.replaceAll(' ', '')}`} />
          </dd>
          <dt className="text-soft">decimal</dt>
          <dd>
            <CopyText text={texts.decimal} />
          </dd>
          <dt className="text-soft">pads</dt>
          <dd className="text-[12px]">
            {owned.length === 0
              ? 'none'
              : owned
                  .map((run) => {
                    const own = Math.floor(planned / 2 ** run.low) % 2 ** run.bits;
                    return `${run.pad}${run.one ? ` ${run.one.net.name}` : ''} = ${own}`;
                  })
                  .join(' · ')}
          </dd>
          <dt className="text-soft">is</dt>
          <dd className="text-[12px] text-soft">{behaviourText(register)}</dd>
          <dt className="text-soft">does</dt>
          <dd className="min-w-0 font-mono text-[12px]">
            {clauseLines(derived.device.registers, register).map((line) => (
              <div key={line} className="break-words">
                {line}
              </div>
            ))}
          </dd>
        </dl>
        <TypedValue row={row} low={0} bits={register.bits} />
      </div>
    </div>
  );
}
