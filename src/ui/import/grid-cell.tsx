'use client';

import type { TableProblem } from '@/core/import/tables/records';

export interface CellPlace {
  line: number;
  column: number;
}

interface GridCellProps {
  place: CellPlace;
  text: string;
  flaw: TableProblem | undefined;
  active: boolean;
  /** Tab leads here. */
  tabbed: boolean;
  /** Its column is not read. */
  ignored: boolean;
  onClick: () => void;
  onDoubleClick: () => void;
}

/** A cell of a table as it was read, with a wave under what is wrong. */
export function GridCell({
  place,
  text,
  flaw,
  active,
  tabbed,
  ignored,
  onClick,
  onDoubleClick,
}: GridCellProps) {
  const looks = flaw
    ? `font-medium underline decoration-wavy underline-offset-2 ${flaw.severity === 'error' ? 'text-err' : flaw.severity === 'question' ? 'text-pick' : 'text-warn'} ${text === '' ? 'bg-removed' : ''}`
    : ignored
      ? 'text-soft'
      : '';
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the grid hears the keys of all its cells
    // biome-ignore lint/a11y/useSemanticElements: rows are laid out one by one, which a table does not allow
    <span
      role="gridcell"
      data-cell={`${place.line}:${place.column}`}
      tabIndex={tabbed ? 0 : -1}
      title={flaw?.message ?? (text.length > 12 ? text : undefined)}
      aria-invalid={flaw?.severity === 'error'}
      className={`m cursor-text overflow-hidden text-ellipsis whitespace-nowrap border-l border-rule px-1 leading-[22px] ${
        active ? 'bg-pickbg' : ''
      } ${looks}`}
      onClick={onClick}
      onDoubleClick={onDoubleClick}
    >
      {text}
    </span>
  );
}

interface EditedCellProps {
  place: CellPlace;
  text: string;
  onText: (text: string) => void;
  onDone: () => void;
}

/** The cell that is being written. */
export function EditedCell({ place, text, onText, onDone }: EditedCellProps) {
  return (
    <input
      data-edit=""
      ref={(element) => element?.focus()}
      aria-label={`Row ${place.line}, column ${place.column + 1}`}
      className="m !border-pick !px-1 !h-6 !py-0"
      value={text}
      onChange={(event) => onText(event.target.value)}
      onBlur={onDone}
    />
  );
}
