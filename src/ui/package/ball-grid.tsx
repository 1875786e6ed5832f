'use client';

import { Minus, Plus } from 'lucide-react';
import { type KeyboardEvent, memo, useEffect, useMemo, useRef, useState } from 'react';
import type { Pad } from '@/core/description/types';
import { type Cell, walkTo } from '@/ui/parts/walk';
import { StateGlyph } from '../parts/state-glyph';
import { standsFor, useInSight } from '../parts/use-in-sight';
import { useDerived, useSearch, useSelection } from '../workspace/context';
import { dragNet } from './drag-net';
import { functionWords, padLabel } from './pad-row';
import { KIND_WORDS, padState } from './pad-state';
import { FRESH_SIGN, type PadLook, usePadLooks } from './use-pad-looks';

/** Sizes of a ball's cell in pixels; what a cell says grows with them. */
const ZOOMS = [
  { size: 20, height: 20, detail: 'signs' },
  { size: 33, height: 25, detail: 'pads' },
  { size: 64, height: 42, detail: 'nets' },
  { size: 104, height: 58, detail: 'all' },
] as const;
type Detail = (typeof ZOOMS)[number]['detail'];

const DETAIL_WORDS: Record<Detail, string> = {
  signs: 'signs only',
  pads: 'pads',
  nets: 'pads and nets',
  all: 'pads, nets, functions',
};

/** A ball grid as it lies, seen from above. Nearer, each ball says more. */
export function BallGrid() {
  const { derived } = useDerived();
  const { selectedPad } = useSelection();
  const { placing } = useSearch();
  const { pkg, device } = derived;
  const { lookOf, onSelect } = usePadLooks();
  const area = useRef<HTMLDivElement>(null);
  const [zoom, setZoom] = useState<number | null>(null);
  const shape = pkg.shape.kind === 'ball-grid' ? pkg.shape : { rows: [] as string[], columns: 0 };
  const columns = useMemo(() => Array.from({ length: shape.columns }, (_, i) => i + 1), [shape.columns]);

  // At first the whole grid is in sight, as near as it goes.
  useEffect(() => {
    if (zoom !== null || !area.current) return;
    const { clientWidth, clientHeight } = area.current;
    const fits = ({ size, height }: (typeof ZOOMS)[number]): boolean =>
      size * shape.columns <= clientWidth - 40 && height * shape.rows.length <= clientHeight - 30;
    setZoom(Math.max(0, ZOOMS.findLastIndex(fits)));
  }, [zoom, shape.columns, shape.rows.length]);
  const { size, height, detail } = ZOOMS[zoom ?? 1] ?? ZOOMS[1];
  const step = (by: number): void =>
    setZoom((old) => Math.max(0, Math.min(ZOOMS.length - 1, (old ?? 1) + by)));

  useInSight(area, standsFor('pad', selectedPad));

  const first = Object.keys(pkg.pins)[0];
  const selectedPin =
    selectedPad === undefined ? undefined : device.pinsOf.get(pkg.id)?.get(selectedPad)?.[0];
  const tabStop = selectedPin ?? first;

  function walk(event: KeyboardEvent) {
    if (event.key === '+' || event.key === '=') return step(1);
    if (event.key === '-') return step(-1);
    const target = (event.target as HTMLElement).closest<HTMLElement>('[data-pin]');
    if (!target) return;
    if (event.key === 'Enter' || event.key === ' ') {
      if (event.key === 'Enter' && placing) return;
      event.preventDefault();
      onSelect(target.dataset.pad ?? '');
      return;
    }
    const pin = target.dataset.pin ?? '';
    const from = {
      row: shape.rows.indexOf(pin.replace(/\d+$/, '')),
      column: Number(pin.replace(/^\D+/, '')) - 1,
    };
    const pinAt = ({ row, column }: Cell): string => `${shape.rows[row]}${column + 1}`;
    const to = walkTo(event, from, {
      rows: shape.rows.length,
      columns: shape.columns,
      there: (cell) => pkg.pins[pinAt(cell)] !== undefined,
    });
    if (!to) return;
    const next = area.current?.querySelector<HTMLElement>(`[data-pin="${pinAt(to)}"]`);
    next?.focus();
    if (next && !placing) onSelect(next.dataset.pad ?? '');
  }

  return (
    <div className="flex h-full flex-col">
      <div className="flex items-center gap-2 border-b border-rule px-3 py-1 text-soft">
        <span className="mr-auto">
          {shape.rows.length} × {shape.columns} balls, {Object.keys(pkg.pins).length} of them there, seen from
          above
        </span>
        <span>{DETAIL_WORDS[detail]}</span>
        <button
          type="button"
          className="button !px-1.5"
          aria-label="Further away"
          title="Further away (-)"
          disabled={zoom === 0}
          onClick={() => step(-1)}
        >
          <Minus size={13} />
        </button>
        <button
          type="button"
          className="button !px-1.5"
          aria-label="Nearer"
          title="Nearer (+)"
          disabled={zoom === ZOOMS.length - 1}
          onClick={() => step(1)}
        >
          <Plus size={13} />
        </button>
      </div>
      <div
        ref={area}
        role="listbox"
        aria-label={`Pins of ${pkg.name}`}
        tabIndex={-1}
        className="pane-area min-h-0 flex-1 px-2 pb-2"
        onKeyDown={walk}
      >
        <div
          role="presentation"
          className="grid w-max"
          style={{ gridTemplateColumns: `22px repeat(${shape.columns}, ${size}px)` }}
        >
          <span className="sticky left-0 top-0 z-20 bg-paper" aria-hidden />
          {columns.map((column) => (
            <span
              key={column}
              aria-hidden
              className="m sticky top-0 z-10 bg-paper py-0.5 text-center text-soft"
            >
              {column}
            </span>
          ))}
          {shape.rows.flatMap((row) => [
            <span
              key={row}
              aria-hidden
              className="m sticky left-0 z-10 flex items-center justify-end bg-paper pr-1.5 text-soft"
            >
              {row}
            </span>,
            ...columns.map((column) => {
              const pin = `${row}${column}`;
              const id = pkg.pins[pin];
              const pad = id === undefined ? undefined : device.pads.get(id);
              if (!pad || id === undefined) return <span key={pin} aria-hidden />;
              return (
                <Ball
                  key={pin}
                  pin={pin}
                  pad={pad}
                  height={height}
                  detail={detail}
                  tabStop={tabStop === pin}
                  {...lookOf(id)}
                />
              );
            }),
          ])}
        </div>
      </div>
    </div>
  );
}

interface BallProps extends PadLook {
  pin: string;
  pad: Pad;
  height: number;
  detail: Detail;
  tabStop: boolean;
}

const Ball = memo(function Ball(props: BallProps) {
  const { pin, pad, nets, height, detail, finding, selected, rank, fresh, back } = props;
  const first = nets[0];
  const fixed = pad.kind !== 'io';
  const label = padLabel(props);
  const state = padState(pad, nets, finding);
  // What a preview puts here matters more than the state it will be in.
  const sign =
    fresh && state !== 'finding' ? (
      <span className="m text-[12px] leading-none text-pick">{FRESH_SIGN[fresh]}</span>
    ) : (
      <StateGlyph state={state} severity={finding?.severity} />
    );
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the grid around the balls handles keys for all of them
    <div
      role="option"
      aria-selected={selected}
      aria-label={label}
      title={detail === 'all' ? undefined : label}
      tabIndex={props.tabStop ? 0 : -1}
      data-pad={pad.id}
      data-pin={pin}
      {...dragNet(pad.id, first?.net.id, props.onDropNet)}
      className={`relative flex cursor-pointer flex-col justify-center overflow-hidden whitespace-nowrap border-b border-r border-rule leading-tight ${detail === 'pads' ? 'pl-[5px]' : 'px-0.5 text-center'} ${
        selected ? 'bg-pickbg shadow-[inset_0_0_0_1.5px_var(--pick)]' : rank !== undefined ? 'bg-pickbg' : ''
      } ${fixed && !first ? 'hatched' : ''} ${back && !selected ? 'text-soft' : ''}`}
      style={{ height }}
      onClick={() => props.onSelect(pad.id)}
    >
      <span className="absolute inset-y-0 left-0 w-[3px]" style={{ background: props.colour }} />
      {rank !== undefined ? (
        <span className="m mx-auto bg-pick px-1 text-[11px] leading-[14px] text-onpick">{rank}</span>
      ) : (
        detail === 'signs' && sign
      )}
      {detail === 'pads' && state !== 'free' && state !== 'fixed' && (
        <span className={`absolute right-[-3px] top-[-6px] ${fresh ? '' : 'scale-[0.6]'}`}>{sign}</span>
      )}
      {detail !== 'signs' && !(rank !== undefined && detail === 'pads') && (
        <span className={`m !text-[10.5px] ${first && !back ? '' : 'text-soft'}`}>
          {detail === 'all' && <span className="mr-1 text-soft">{pin}</span>}
          {pad.id}
          {(detail === 'all' || detail === 'nets') && sign}
        </span>
      )}
      {(detail === 'nets' || detail === 'all') && (
        <span
          className={`overflow-hidden text-ellipsis text-[11px] ${first ? 'font-medium' : 'text-soft'} ${finding?.severity === 'error' ? 'text-err' : fresh ? 'text-pick' : ''}`}
        >
          {first
            ? nets.map((one) => one.net.name).join(' + ')
            : (KIND_WORDS[pad.kind] ?? pad.boot?.kind ?? ' ')}
        </span>
      )}
      {detail === 'all' && first && (
        <span className="overflow-hidden text-ellipsis text-[10.5px] text-soft">{functionWords(first)}</span>
      )}
    </div>
  );
});
