'use client';

import type { Pad } from '@/core/description/types';
import { functionWords } from '../package/pad-row';
import { padState } from '../package/pad-state';
import { circuitColour } from '../parts/circuit-colour';
import { StateGlyph } from '../parts/state-glyph';
import { useDerived } from '../workspace/context';
import { type BitSelection, type Cell, keyOf } from './use-bit-selection';

const NO_NETS: never[] = [];

interface Props {
  port: string;
  cell: Cell;
  pad: Pad;
  bits: BitSelection;
  /** It is the workspace's selection. */
  selected: boolean;
}

/** A pad as a bit of its port: its pin, its state, its net. */
export function BitCell({ port, cell, pad, bits, selected }: Props) {
  const { derived, worst } = useDerived();
  const nets = derived.byPad.get(pad.id) ?? NO_NETS;
  const [first] = nets;
  const pins = derived.device.pinsOf.get(derived.pkg.id)?.get(pad.id) ?? [];
  const finding = nets.length > 0 ? worst.pads.get(pad.id) : undefined;
  const state = pins.length === 0 && !first ? 'unbonded' : padState(pad, nets, finding);
  const isChosen = bits.chosen.has(keyOf(cell));
  const words = first
    ? `${first.net.name} ${functionWords(first)}`
    : state === 'unbonded'
      ? 'not bonded'
      : 'free';
  return (
    // biome-ignore lint/a11y/useAriaPropsSupportedByRole: a cell of a table that is a grid
    <td
      data-cell={keyOf(cell)}
      data-pad={pad.id}
      aria-selected={isChosen}
      tabIndex={isTab(bits, cell) ? 0 : -1}
      title={`${pad.id}${pins.length > 0 ? `, pin ${pins.join(' ')}` : ''}: ${words}`}
      aria-label={`port ${port} bit ${cell.bit}, pad ${pad.id}, ${words}`}
      className={`relative h-[58px] cursor-pointer overflow-hidden border-b border-r border-rule pl-1.5 pr-0.5 align-top leading-[1.2] ${
        isChosen ? 'bg-pickbg' : ''
      } ${selected ? 'shadow-[inset_0_0_0_1.5px_var(--pick)]' : ''}`}
      onPointerDown={(event) => bits.press(event, cell)}
      onPointerEnter={() => bits.drag(cell)}
    >
      <span
        className="absolute inset-y-0 left-0 w-[3px]"
        style={{ background: first ? circuitColour(derived.plan, first.net.circuit) : 'transparent' }}
      />
      <span className="flex items-center text-soft">
        <span className="m !text-[10.5px]">{pins[0] ?? ''}</span>
        <span className="ml-auto">
          <StateGlyph state={state} severity={finding?.severity} />
        </span>
      </span>
      <span
        className={`line-clamp-3 text-[11px] [overflow-wrap:anywhere] leading-[1.1] ${finding?.severity === 'error' ? 'text-err' : ''}`}
      >
        {first ? breakable(nets.map((one) => one.net.name).join('+')) : ' '}
      </span>
    </td>
  );
}

/** A bit that no pad has. */
export function NoBit({ port, cell, bits }: Pick<Props, 'port' | 'cell' | 'bits'>) {
  return (
    <td
      data-cell={keyOf(cell)}
      tabIndex={isTab(bits, cell) ? 0 : -1}
      aria-label={`port ${port} bit ${cell.bit}, no pad`}
      className="border-b border-r border-rule bg-transparent"
    />
  );
}

const isTab = ({ tab }: BitSelection, { row, bit }: Cell): boolean => tab.row === row && tab.bit === bit;

/** Names may break behind an underscore, where their words do. */
const breakable = (name: string): string => name.replace(/_/g, '_\u200b');
