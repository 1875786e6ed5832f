'use client';

import { useMemo } from 'react';
import type { Package } from '@/core/device/types';
import { circuitColour } from '../parts/circuit-colour';
import { useWorkspace } from '../workspace/context';
import { sidesOf } from './sides';

interface Mark {
  terminal: string;
  pad: string;
  x: number;
  y: number;
  width: number;
  height: number;
  /** Where a label stands and how it is turned. */
  label: { x: number; y: number; turn: number; anchor: 'start' | 'end' };
}

const SIZE = 400;

/** Terminals of a package at their places, seen from above, terminal 1 at the top of the left edge. */
function marksOf(pkg: Package): Mark[] {
  const sides = sidesOf(pkg);
  if (pkg.shape.kind === 'ball-grid') {
    const { rows, columns } = pkg.shape;
    const pitch = SIZE / Math.max(rows.length, columns);
    return Object.entries(pkg.terminals).map(([terminal, pad]) => {
      const x = (Number(terminal.replace(/^\D+/, '')) - 0.75) * pitch;
      const y = (rows.indexOf(terminal.replace(/\d+$/, '')) + 0.25) * pitch;
      const size = pitch / 2;
      return { terminal, pad, x, y, width: size, height: size, label: { x, y, turn: 0, anchor: 'start' } };
    });
  }
  const long = 16;
  return sides.flatMap((side, edge) => {
    const pitch = (SIZE - 2 * long - 16) / side.terminals.length;
    const thick = Math.max(2, pitch * 0.62);
    return side.terminals.map(({ terminal, pad }, index): Mark => {
      const along = long + 8 + index * pitch + (pitch - thick) / 2;
      const back = SIZE - along - thick;
      const dual = sides.length === 2;
      const place = dual && edge === 1 ? 2 : edge;
      switch (place) {
        case 0:
          return { terminal, pad, x: 0, y: along, width: long, height: thick, label: { x: long + 6, y: along + thick, turn: 0, anchor: 'start' } };
        case 1:
          return { terminal, pad, x: along, y: SIZE - long, width: thick, height: long, label: { x: along + thick, y: SIZE - long - 6, turn: -90, anchor: 'start' } };
        case 2:
          return { terminal, pad, x: SIZE - long, y: back, width: long, height: thick, label: { x: SIZE - long - 6, y: back + thick, turn: 0, anchor: 'end' } };
        default:
          return { terminal, pad, x: back, y: 0, width: thick, height: long, label: { x: back + thick, y: long + 6, turn: -90, anchor: 'end' } };
      }
    });
  });
}

/** The package true to shape: where terminal 1 is, and where circuits cluster. With labels when there is room. */
export function Footprint({ labels }: { labels: boolean }) {
  const { derived, select, selectedPad, placing } = useWorkspace();
  const { pkg, plan } = derived;
  const marks = useMemo(() => marksOf(pkg), [pkg]);
  const candidates = new Set(placing?.candidates.map((candidate) => candidate.pad));
  const balls = pkg.shape.kind === 'ball-grid';
  return (
    <svg viewBox={`-4 -4 ${SIZE + 8} ${SIZE + 8}`} className="block h-full w-full" role="img" aria-label={`${pkg.name}, seen from above`}>
      <rect x={balls ? 0 : 16} y={balls ? 0 : 16} width={SIZE - (balls ? 0 : 32)} height={SIZE - (balls ? 0 : 32)} fill="var(--sheet)" stroke="var(--soft)" strokeWidth="1.5" />
      {!balls && <circle cx={34} cy={34} r={labels ? 4 : 7} fill="none" stroke="var(--ink)" strokeWidth="2" />}
      {marks.map((mark) => {
        const net = derived.byPad.get(mark.pad)?.[0]?.net;
        const chosen = mark.pad === selectedPad;
        const fill = net ? circuitColour(plan, net.circuit) : candidates.has(mark.pad) ? 'var(--pick)' : 'var(--rule)';
        return (
          // biome-ignore lint/a11y/useKeyWithClickEvents lint/a11y/noStaticElementInteractions: a shortcut for the mouse; the unfolded list beside it does the same by keyboard
          <g key={mark.terminal} className="cursor-pointer" onClick={() => select({ kind: 'pad', id: mark.pad })}>
            <rect x={mark.x} y={mark.y} width={mark.width} height={mark.height} fill={fill} stroke={chosen ? 'var(--ink)' : 'none'} strokeWidth="3">
              <title>{`${mark.terminal} ${mark.pad}${net ? ` ${net.name}` : ''}`}</title>
            </rect>
            {labels && (
              <text
                x={mark.label.x}
                y={mark.label.y}
                transform={`rotate(${mark.label.turn} ${mark.label.x} ${mark.label.y})`}
                textAnchor={mark.label.anchor}
                fontSize="7.5"
                fontFamily="var(--font-mono)"
                fill={net ? 'var(--ink)' : 'var(--soft)'}
              >
                {net ? `${mark.pad} ${net.name.slice(0, 16)}` : mark.pad}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
