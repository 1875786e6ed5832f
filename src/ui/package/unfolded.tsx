'use client';

import { type KeyboardEvent, useMemo, useRef } from 'react';
import { offerOf } from '@/core/device/offers';
import { later } from '../parts/later';
import { standsFor, useInSight } from '../parts/use-in-sight';
import { placeAround } from '../parts/walk';
import { useDerived, useSearch, useSelection } from '../workspace/context';
import { PadRow } from './pad-row';
import { sidesOf } from './sides';
import { usePadLooks } from './use-pad-looks';

const BallGrid = later('The ball grid', () => import('./ball-grid').then((one) => one.BallGrid));

/** The package: its edges as columns of level rows, or its balls as they lie. */
export function PackageView() {
  const { derived } = useDerived();
  return derived.pkg.shape.kind === 'ball-grid' ? <BallGrid /> : <UnfoldedPackage />;
}

/** The package with its edges laid out as columns, so that every label reads level. */
function UnfoldedPackage() {
  const { derived } = useDerived();
  const { selectedPad } = useSelection();
  const { placing } = useSearch();
  const { lookOf, onSelect } = usePadLooks();
  const { pkg, device } = derived;
  const sides = useMemo(() => sidesOf(pkg), [pkg]);
  const list = useRef<HTMLDivElement>(null);
  const offers = useMemo(() => {
    const offer = offerOf(device, pkg);
    const words = (id: string): string =>
      offer
        .of(id)
        .slice(0, 6)
        .map((fn) => fn.signal)
        .join(' ');
    return new Map(device.description.pads.map(({ id }) => [id, words(id)]));
  }, [device, pkg]);
  const tabStop = selectedPad ?? sides[0]?.pins[0]?.pad;

  useInSight(list, standsFor('pad', selectedPad));

  function walk(event: KeyboardEvent) {
    const target = (event.target as HTMLElement).closest<HTMLElement>('[data-pin]');
    if (!target) return;
    if (event.key === 'Enter' || event.key === ' ') {
      // While a net is being placed, Enter means the best candidate, wherever the focus is; space takes this pad.
      if (event.key === 'Enter' && placing) return;
      event.preventDefault();
      onSelect(target.dataset.pad ?? '');
      return;
    }
    const column = sides.findIndex((side) => side.pins.some((one) => one.pin === target.dataset.pin));
    const row = sides[column]?.pins.findIndex((one) => one.pin === target.dataset.pin) ?? 0;
    const to = placeAround(
      event.key,
      { column, row },
      sides.map((side) => side.pins.length),
    );
    const next = to && sides[to.column]?.pins[to.row]?.pin;
    if (next === undefined) return;
    event.preventDefault();
    const element = list.current?.querySelector<HTMLElement>(`[data-pin="${CSS.escape(next)}"]`);
    element?.focus();
    if (!placing) onSelect(element?.dataset.pad ?? '');
  }

  return (
    <div className="pane-area @container h-full px-3 pb-2 pt-1.5">
      {/* Where the edges stand below each other, one press leads to each of them. */}
      <nav
        aria-label="Edges of the package"
        className="sticky top-0 z-10 mb-1 flex gap-1 bg-paper py-1 @2xl:hidden"
      >
        {sides.map((side) => (
          <button
            key={side.title}
            type="button"
            className="button min-w-0 flex-1 overflow-hidden text-ellipsis px-1"
            title={`Pins ${side.title}`}
            onClick={() =>
              list.current
                ?.querySelector(`[data-edge="${CSS.escape(side.title)}"]`)
                ?.scrollIntoView({ block: 'start' })
            }
          >
            {side.title.split(' ')[0]}
          </button>
        ))}
      </nav>
      <div
        ref={list}
        role="listbox"
        aria-label={`Pins of ${pkg.name}`}
        tabIndex={-1}
        className="grid grid-cols-1 gap-x-2.5 @md:grid-cols-2 @2xl:min-h-full @2xl:grid-cols-4"
        onKeyDown={walk}
      >
        {sides.map((side) => (
          // biome-ignore lint/a11y/useSemanticElements: a group within a listbox; fieldset has no place there
          <div
            key={side.title}
            role="group"
            aria-label={side.title}
            data-edge={side.title}
            className="@container/edge flex min-w-0 scroll-mt-9 flex-col"
          >
            <div
              className="mb-0.5 border-b border-ink pb-0.5 text-[11.5px] font-medium text-soft"
              aria-hidden
            >
              {side.title}
            </div>
            {side.pins.map(({ pin, pad: id }) => {
              const pad = device.pads.get(id);
              if (!pad) return null;
              return (
                <PadRow
                  key={pin}
                  pin={pin}
                  pad={pad}
                  tabStop={tabStop === id}
                  offers={offers.get(id) ?? ''}
                  {...lookOf(id)}
                />
              );
            })}
          </div>
        ))}
      </div>
    </div>
  );
}
