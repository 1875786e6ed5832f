'use client';

import { useMemo, useState } from 'react';
import { hexText } from '@/core/base/text/hex';
import { newId } from '@/core/base/text/new-id';
import type { LensRegister } from '@/core/read-back/lens';
import { parseValue } from '@/core/read-back/parse-value';
import { whatIf } from '@/core/read-back/what-if';
import { useActions, useDerived } from '../workspace/context';
import { ReadingLine } from './reading-line';

const flipped = (value: number, bit: number): number =>
  Math.floor(value / 2 ** bit) % 2 === 1 ? value - 2 ** bit : value + 2 ** bit;

/** Bits from the highest down, parted where a hexadecimal digit of the register ends. */
function groupsOfFour(low: number, bits: number): number[][] {
  const groups: number[][] = [];
  for (let bit = bits - 1; bit >= 0; bit--) {
    const last = groups.at(-1);
    if (last && (low + bit) % 4 !== 3) last.push(bit);
    else groups.push([bit]);
  }
  return groups;
}

/** The bits, each to be flipped by a click; what is another than planned is marked. */
function BitToggles({
  value,
  planned,
  low,
  bits,
  onFlip,
}: {
  value: number;
  planned: number;
  low: number;
  bits: number;
  onFlip(bit: number): void;
}) {
  const at = (of: number, bit: number): number => Math.floor(of / 2 ** bit) % 2;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset would draw a frame
    <div className="m mt-1 flex flex-wrap gap-y-1" role="group" aria-label="Bits, highest first; each flips">
      {groupsOfFour(low, bits).map((group) => (
        <span key={group[0]} className="mr-1.5 flex">
          {group.map((bit) => {
            const changed = at(value, bit) !== at(planned, bit);
            return (
              <button
                key={bit}
                type="button"
                className={`size-6 border border-rule text-center ${changed ? 'bg-ink text-sheet' : 'hover:bg-pickbg'}`}
                aria-label={`bit ${low + bit}, ${at(value, bit)}`}
                aria-pressed={changed}
                title={`Flip bit ${low + bit}`}
                onClick={() => onFlip(bit)}
              >
                {at(value, bit)}
              </button>
            );
          })}
        </span>
      ))}
    </div>
  );
}

/** "What if it were …": a value typed over a register, or over some of its bits, and the plan that it would be. */
export function TypedValue({ row, low, bits }: { row: LensRegister; low: number; bits: number }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const [text, setText] = useState('');
  const { register, planned } = row;
  const typed = text.trim() === '' ? undefined : parseValue(text, bits);
  const span = bits === 32 ? 2 ** 32 : 2 ** bits;
  const own = Math.floor(planned / 2 ** low) % span;
  const value = typed === undefined ? undefined : planned - own * 2 ** low + typed * 2 ** low;
  const answer = useMemo(
    () => (value === undefined || value === planned ? undefined : whatIf(derived, register, value, newId)),
    [derived, register, value, planned],
  );
  const label = `What if ${register.name}${bits === register.bits ? '' : ` bits ${low + bits - 1} to ${low}`} were`;
  return (
    <div className="mt-1.5 border border-rule px-2 py-1.5">
      <label className="flex items-baseline gap-2">
        <b className="font-semibold">What if it were</b>
        <input
          aria-label={label}
          className="m w-32 py-0"
          maxLength={48}
          placeholder={hexText(own, bits)}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key !== 'Enter' || !answer?.edit) return;
            if (dispatch(answer.edit)) setText('');
          }}
        />
      </label>
      <BitToggles
        value={typed ?? own}
        planned={own}
        low={low}
        bits={bits}
        onFlip={(bit) => setText(hexText(flipped(typed ?? own, bit), bits))}
      />
      <div aria-live="polite">
        {text.trim() !== '' && typed === undefined && (
          <p className="text-err">Type a number of at most {bits} bits: 0x1F, 31, 0b11111 or 1Fh.</p>
        )}
        {typed !== undefined && value === planned && <p className="text-soft">That is what is planned.</p>}
        {answer && (
          <>
            <ul>
              {answer.readings.map((reading) => (
                <ReadingLine key={reading.pad} reading={reading} />
              ))}
            </ul>
            {answer.readings.length === 0 && <p>No pad would be anything else.</p>}
            {answer.left !== 0 && (
              <p className="text-warn">
                Bits {hexText(answer.left, register.bits)} would stay as they are: no setting of a pad gives
                them so.
              </p>
            )}
            {answer.others.length > 0 && (
              <p className="text-soft">Changes as well: {answer.others.map((one) => one.name).join(', ')}.</p>
            )}
            {answer.edit && (
              <button
                type="button"
                className="button mt-1"
                onClick={() => {
                  if (answer.edit && dispatch(answer.edit)) setText('');
                }}
              >
                Take it as an edit
              </button>
            )}
          </>
        )}
      </div>
    </div>
  );
}
