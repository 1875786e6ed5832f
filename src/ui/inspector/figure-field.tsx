'use client';

import { LARGEST_FIGURE, parseFigure } from '@/core/derive/electrical/figures';
import { TextField } from './text-field';

interface Props {
  label: string;
  value: number | undefined;
  /** How the value is shown. */
  show: (value: number) => string;
  units: readonly string[];
  /** What the base of the units is multiplied by: 1000 where milliamperes are kept. */
  scale?: number;
  placeholder?: string;
  className?: string;
  onCommit: (value: number | undefined) => void;
}

/** A figure with a unit, typed as engineers write it; emptied, it is not given. */
export function FigureField({
  label,
  value,
  show,
  units,
  scale = 1,
  placeholder,
  className,
  onCommit,
}: Props) {
  const read = (text: string): number | undefined => {
    const bare = /^[\d.,]+$/.test(text.trim());
    const figure = parseFigure(text, units);
    // Without a unit the figure is in what is kept: "8" milliamperes.
    return figure === undefined ? undefined : bare ? figure : figure * scale;
  };
  return (
    <TextField
      label={label}
      value={value === undefined ? '' : show(value)}
      placeholder={placeholder ?? '–'}
      maxLength={24}
      className={className ?? 'm w-24'}
      refuse={(text) => {
        const figure = text.trim() === '' ? 1 : read(text);
        if (figure === undefined || !(figure > 0)) return 'A figure above 0, such as 4k7 or 10 M.';
        return figure > LARGEST_FIGURE ? `No more than ${show(LARGEST_FIGURE)}.` : undefined;
      }}
      onCommit={(text) => onCommit(text === '' ? undefined : read(text))}
    />
  );
}
