import { diffLines } from 'diff';

/** A line of a file as shown: its text and how it stands to the file last exported. */
export interface ShownLine {
  kind: 'same' | 'added' | 'removed';
  text: string;
  /** Line number in today's file; null for lines that are gone. */
  number: number | null;
}

/** Today's text line by line, with the lines that went since `before` in their places. Without a `before`, all are the same. */
export function shownLines(text: string, before: string | undefined): ShownLine[] {
  const lines: ShownLine[] = [];
  let number = 0;
  for (const part of before === undefined
    ? [{ value: text, added: false, removed: false }]
    : diffLines(before, text)) {
    const kind = part.added ? 'added' : part.removed ? 'removed' : 'same';
    for (const line of part.value.replace(/\n$/, '').split('\n')) {
      lines.push({ kind, text: line, number: kind === 'removed' ? null : ++number });
    }
  }
  return lines;
}

/** Only what changed, with a little around it; null stands for lines left out. */
export function changedOnly(lines: readonly ShownLine[], around: number): (ShownLine | null)[] {
  const shown: (ShownLine | null)[] = [];
  lines.forEach((line, index) => {
    const near = lines
      .slice(Math.max(0, index - around), index + around + 1)
      .some((one) => one.kind !== 'same');
    if (near) shown.push(line);
    else if (shown.at(-1) !== null) shown.push(null);
  });
  return shown;
}
