'use client';

import { useState } from 'react';
import { POLICY_TITLES } from '@/core/derive/resolve/unused';
import { setEntry } from '@/core/plan/edits/make-edits';
import { UNUSED_POLICIES } from '@/core/plan/model/types';
import { ScrollRegion } from '../parts/scroll-region';
import { useActions, useDerived } from '../workspace/context';
import { maskTexts, type PortRow } from './masks';

/** The selection as masks, one line a port. Each text is copied by a click. */
export function MasksPane({ rows, chosen }: { rows: readonly PortRow[]; chosen: ReadonlySet<string> }) {
  const [copied, setCopied] = useState('');
  const lines = rows.flatMap(({ port, width }, index) => {
    const bits = [...chosen].flatMap((key) =>
      key.startsWith(`${index}:`) ? [Number(key.split(':')[1])] : [],
    );
    return bits.length > 0
      ? [{ port, width, bits: bits.sort((a, b) => b - a), ...maskTexts(bits, width) }]
      : [];
  });
  const copy = (text: string): void => {
    void navigator.clipboard?.writeText(text).then(
      () => setCopied(text),
      () => setCopied(''),
    );
  };
  return (
    <ScrollRegion
      label="Masks of the selection"
      className="max-h-[40%] shrink-0 border-t border-rule bg-sheet px-3 py-1.5"
    >
      {lines.length === 0 ? (
        <p className="text-soft">Select bits to read their mask.</p>
      ) : (
        <table className="border-separate border-spacing-x-4 border-spacing-y-0.5 -ml-4">
          <thead>
            <tr className="text-left text-soft">
              <th className="font-normal">port</th>
              <th className="font-normal">hexadecimal</th>
              <th className="font-normal">decimal</th>
              <th className="font-normal">binary</th>
              <th className="font-normal">bits</th>
            </tr>
          </thead>
          <tbody>
            {lines.map(({ port, bits, hex, decimal, binary }) => (
              <tr key={port}>
                <th scope="row" className="m text-left">
                  {port}
                </th>
                {[hex, decimal, binary].map((text) => (
                  <td key={text}>
                    <button
                      type="button"
                      className="m hover:underline"
                      title="Copy"
                      onClick={() => copy(text.replaceAll(' ', ''))}
                    >
                      {text}
                    </button>
                  </td>
                ))}
                <td className="m text-soft">{bits.join(' ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {lines.length > 0 && <OnBits rows={rows} chosen={chosen} />}
      <span className="sr-only" role="status">
        {copied && `${copied} copied`}
      </span>
    </ScrollRegion>
  );
}

/** What can be done with the pads of the chosen bits, all at once: change their nets, or say what the unused ones become. */
function OnBits({ rows, chosen }: { rows: readonly PortRow[]; chosen: ReadonlySet<string> }) {
  const { derived } = useDerived();
  const { mark, dispatch } = useActions();
  const bonded = derived.device.pinsOf.get(derived.pkg.id);
  const pads = [...chosen].flatMap((key) => {
    const [row, bit] = key.split(':').map(Number);
    const pad = rows[row ?? -1]?.pads.get(bit ?? -1);
    return pad !== undefined && bonded?.has(pad) ? [pad] : [];
  });
  const nets = pads.flatMap((pad) => derived.byPad.get(pad) ?? []).map((one) => one.net);
  const unused = pads.filter(
    (pad) => !derived.byPad.has(pad) && derived.device.pads.get(pad)?.boot === undefined,
  );
  return (
    <div className="mt-1 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      {nets.length > 0 && (
        <button
          type="button"
          className="button"
          onClick={() =>
            mark(
              nets.map((net) => net.id),
              'only',
            )
          }
        >
          {nets.length === 1 ? 'Choose the net there' : `Choose the ${nets.length} nets there`}
        </button>
      )}
      {unused.length > 0 && (
        <label className="flex items-baseline gap-1.5">
          <span className="text-soft">
            {unused.length} unused {unused.length === 1 ? 'pad' : 'pads'}:
          </span>
          <select
            className="py-0"
            value=""
            onChange={(event) => {
              const { value } = event.target;
              dispatch({
                kind: 'batch',
                label: `unused pads ${unused.join(', ')}`,
                edits: unused.map((pad) =>
                  setEntry(derived.plan, 'unused', pad, value === 'as all' ? null : value),
                ),
              });
            }}
          >
            <option value="" disabled>
              become …
            </option>
            <option value="as all">as all others</option>
            {UNUSED_POLICIES.map((policy) => (
              <option key={policy} value={policy}>
                {POLICY_TITLES[policy]}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}
