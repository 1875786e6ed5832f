import type { ReactNode } from 'react';

interface Cell {
  bit: number;
  /** What it holds. */
  value: string;
  /** Whose it is, in short. */
  below?: string;
  hint?: string;
  changed?: boolean;
}

/** Bits of one register drawn in rows of eight, the highest first. */
export function BitCells({ label, cells }: { label: string; cells: readonly Cell[] }): ReactNode {
  return (
    <ul
      aria-label={label}
      className="m grid grid-cols-8 border-l border-t border-rule text-center text-[11px]"
    >
      {cells.map(({ bit, value, below, hint, changed }) => (
        <li
          key={bit}
          title={hint}
          className={`min-w-0 border-b border-r border-rule px-0.5 ${changed ? 'bg-pickbg font-medium' : ''}`}
        >
          <span className="block text-[10px] text-soft">{bit}</span>
          <span className="block">{value}</span>
          {below !== undefined && (
            <span className="block truncate text-[10px] text-soft">{below || ' '}</span>
          )}
        </li>
      ))}
    </ul>
  );
}
