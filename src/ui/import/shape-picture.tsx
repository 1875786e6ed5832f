import type { HardwareAnswers } from '@/core/import/ask/answers';
import type { Shape } from '@/core/import/ask/topics';

const CELL = 11;
const ROW = 15;
const CELLS = 8;

/** A usual shape, drawn: a row for each register, and in it the bits of one pad among those of the others. */
export function ShapePicture({ shape, layout }: { shape: Shape; layout: HardwareAnswers['layout'] }) {
  const width = CELLS * CELL + 1;
  if (layout === 'pad') {
    // All in one word: a stretch of bits for each register of the shape.
    let low = 1;
    const stretches = shape.registers.map(({ role, bits }) => {
      const wide = bits === 'open' ? 2 : bits;
      const at = low;
      low += wide + 1;
      return { role, at, wide };
    });
    return (
      <svg width={width} height={ROW} viewBox={`0 0 ${width} ${ROW}`} aria-hidden="true">
        <Cells
          y={0}
          highlighted={(cell) => stretches.some((one) => cell >= one.at && cell < one.at + one.wide)}
        />
      </svg>
    );
  }
  return (
    <svg
      width={width}
      height={shape.registers.length * ROW}
      viewBox={`0 0 ${width} ${shape.registers.length * ROW}`}
      aria-hidden="true"
    >
      {shape.registers.map(({ role, bits }, row) => {
        const wide = bits === 'open' ? 2 : bits;
        const own = (cell: number): boolean =>
          role === 'halves' ? cell === 1 || cell === 5 : Math.floor(cell / wide) === 1;
        return (
          <Cells
            key={role}
            y={row * ROW}
            highlighted={own}
            divided={(cell) => (role === 'halves' ? cell === 4 : cell % wide === 0)}
          />
        );
      })}
    </svg>
  );
}

/** The bits of a register, the lowest on the right. */
function Cells({
  y,
  highlighted,
  divided = () => false,
}: {
  y: number;
  highlighted: (cell: number) => boolean;
  divided?: (cell: number) => boolean;
}) {
  return (
    <g transform={`translate(0.5 ${y + 0.5})`}>
      {Array.from({ length: CELLS }, (_, at) => {
        const cell = CELLS - 1 - at;
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: bits have their places
            key={at}
            x={at * CELL}
            y={0}
            width={CELL}
            height={ROW - 4}
            fill={highlighted(cell) ? 'var(--pick)' : 'none'}
            stroke="var(--rule)"
          />
        );
      })}
      {Array.from({ length: CELLS }, (_, at) => CELLS - 1 - at)
        .filter((cell) => cell > 0 && divided(cell))
        .map((cell) => (
          <line
            key={cell}
            x1={(CELLS - cell) * CELL}
            x2={(CELLS - cell) * CELL}
            y1={-1}
            y2={ROW - 3}
            stroke="var(--ink)"
          />
        ))}
    </g>
  );
}
