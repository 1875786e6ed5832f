'use client';

import { useMemo } from 'react';
import type { Package } from '@/core/description/types';
import { circuitColour } from '../parts/circuit-colour';
import { useActions, useDerived, useSearch, useSelection } from '../workspace/context';
import { sidesOf } from './sides';

interface Mark {
  pin: string;
  pad: string;
  x: number;
  y: number;
  width: number;
  height: number;
  /** Pad and net, outside of the package; the pin's number, inside. */
  label: Place;
  number: Place;
}

/** Where a text stands and how it is turned. */
interface Place {
  x: number;
  y: number;
  turn: number;
  anchor: 'start' | 'middle' | 'end';
}

const SIZE = 400;

/** Pins of a package at their places, seen from above, pin 1 at the top of the left edge. */
function marksOf(pkg: Package): Mark[] {
  const sides = sidesOf(pkg);
  if (pkg.shape.kind === 'ball-grid') {
    const { rows, columns } = pkg.shape;
    const pitch = SIZE / Math.max(rows.length, columns);
    return Object.entries(pkg.pins).map(([pin, pad]) => {
      const x = (Number(pin.replace(/^\D+/, '')) - 0.75) * pitch;
      const y = (rows.indexOf(pin.replace(/\d+$/, '')) + 0.25) * pitch;
      const size = pitch / 2;
      const below: Place = { x: x + size / 2, y: y + size * 1.3, turn: 0, anchor: 'middle' };
      const inside: Place = { x: x + size / 2, y: y + size / 2, turn: 0, anchor: 'middle' };
      return { pin, pad, x, y, width: size, height: size, label: below, number: inside };
    });
  }
  const long = 16;
  return sides.flatMap((side, edge) => {
    const pitch = (SIZE - 2 * long - 16) / side.pins.length;
    const thick = Math.max(2, pitch * 0.62);
    return side.pins.map(({ pin, pad }, index): Mark => {
      const along = long + 8 + index * pitch + (pitch - thick) / 2;
      const back = SIZE - along - thick;
      const dual = sides.length === 2;
      const place = dual && edge === 1 ? 2 : edge;
      const mid = thick / 2;
      switch (place) {
        case 0:
          return mark(
            0,
            along,
            long,
            thick,
            { x: -6, y: along + mid, turn: 0, anchor: 'end' },
            { x: long + 4, y: along + mid, turn: 0, anchor: 'start' },
          );
        case 1:
          return mark(
            along,
            SIZE - long,
            thick,
            long,
            { x: along + mid, y: SIZE + 6, turn: -90, anchor: 'end' },
            { x: along + mid, y: SIZE - long - 4, turn: -90, anchor: 'start' },
          );
        case 2:
          return mark(
            SIZE - long,
            back,
            long,
            thick,
            { x: SIZE + 6, y: back + mid, turn: 0, anchor: 'start' },
            { x: SIZE - long - 4, y: back + mid, turn: 0, anchor: 'end' },
          );
        default:
          return mark(
            back,
            0,
            thick,
            long,
            { x: back + mid, y: -6, turn: -90, anchor: 'start' },
            { x: back + mid, y: long + 4, turn: -90, anchor: 'end' },
          );
      }
      function mark(x: number, y: number, width: number, height: number, label: Place, number: Place): Mark {
        return { pin, pad, x, y, width, height, label, number };
      }
    });
  });
}

/** The package true to shape: where pin 1 is, and where circuits cluster. With labels when there is room. */
export function Footprint({ labels }: { labels: boolean }) {
  const { derived } = useDerived();
  const { selectedPad } = useSelection();
  const { placing } = useSearch();
  const { select } = useActions();
  const { pkg, plan } = derived;
  const marks = useMemo(() => marksOf(pkg), [pkg]);
  const candidates = new Set(placing?.candidates.map((candidate) => candidate.pad));
  const balls = pkg.shape.kind === 'ball-grid';
  const edge = labels && !balls ? 96 : 4;
  return (
    <svg
      viewBox={`${-edge} ${-edge} ${SIZE + 2 * edge} ${SIZE + 2 * edge}`}
      className="block h-full w-full"
      role="img"
      aria-label={`${pkg.name}, seen from above`}
    >
      <rect
        x={balls ? 0 : 16}
        y={balls ? 0 : 16}
        width={SIZE - (balls ? 0 : 32)}
        height={SIZE - (balls ? 0 : 32)}
        fill="var(--sheet)"
        stroke="var(--soft)"
        strokeWidth="1.5"
      />
      {!balls && (
        <circle
          cx={labels ? 46 : 40}
          cy={labels ? 46 : 40}
          r={labels ? 4 : 7}
          fill="none"
          stroke="var(--ink)"
          strokeWidth="2"
        />
      )}
      {marks.map((mark) => {
        const net = derived.byPad.get(mark.pad)?.[0]?.net;
        const chosen = mark.pad === selectedPad;
        const fill = net
          ? circuitColour(plan, net.circuit)
          : candidates.has(mark.pad)
            ? 'var(--pick)'
            : 'var(--rule)';
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: a shortcut for the mouse; the unfolded list beside it does the same by keyboard
          <g key={mark.pin} className="cursor-pointer" onClick={() => select({ kind: 'pad', id: mark.pad })}>
            <rect
              x={mark.x}
              y={mark.y}
              width={mark.width}
              height={mark.height}
              fill={fill}
              stroke={chosen ? 'var(--ink)' : 'none'}
              strokeWidth="3"
            >
              <title>{`${mark.pin} ${mark.pad}${net ? ` ${net.name}` : ''}`}</title>
            </rect>
            {labels && (
              <>
                <MarkText place={mark.number} size={6.5} colour="var(--soft)" text={mark.pin} />
                <MarkText
                  place={mark.label}
                  size={7.5}
                  colour={net ? 'var(--ink)' : 'var(--soft)'}
                  text={net ? `${mark.pad} ${net.name.slice(0, 16)}` : mark.pad}
                />
              </>
            )}
          </g>
        );
      })}
    </svg>
  );
}

function MarkText({
  place,
  size,
  colour,
  text,
}: {
  place: Place;
  size: number;
  colour: string;
  text: string;
}) {
  return (
    <text
      x={place.x}
      y={place.y}
      transform={`rotate(${place.turn} ${place.x} ${place.y})`}
      textAnchor={place.anchor}
      dominantBaseline="central"
      fontSize={size}
      fontFamily="var(--font-mono)"
      fill={colour}
    >
      {text}
    </text>
  );
}
