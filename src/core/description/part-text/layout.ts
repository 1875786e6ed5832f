import { COLUMN } from './forms';
import { BREAK, JOINED } from './values';

/** Lines as they are printed: columns aligned among neighbours, and broken after commas where they are too long. */
export interface Printed {
  /** With {@link BREAK}, {@link JOINED} and {@link COLUMN}. */
  text: string;
  depth: number;
  /** Neighbours of the same kind are aligned. */
  kind: unknown;
  above: readonly string[];
  blankAbove: boolean;
  beside: readonly string[];
}

const WIDTH = 132;
const INDENT = 2;
/** A column that is wider moves nobody. */
const WIDEST_COLUMN = 26;

const plain = (text: string): string => text.replaceAll(BREAK, ' ');

export function layOut(lines: readonly Printed[]): string {
  const texts = aligned(lines);
  let out = '';
  for (const [position, { depth, above, blankAbove, beside }] of lines.entries()) {
    const margin = ' '.repeat(INDENT * depth);
    if (blankAbove && position > 0) out += '\n';
    // One comment stays beside its line; of several nobody could say where.
    const tail = beside.length === 1 ? `  # ${beside[0]}` : '';
    for (const comment of tail === '' ? [...above, ...beside] : above)
      out += `${margin}# ${comment}`.trimEnd().concat('\n');
    out += `${broken(texts[position] ?? '', margin)}${tail}\n`;
  }
  return out;
}

function aligned(lines: readonly Printed[]): string[] {
  const texts = lines.map(({ text }) => text.replace(new RegExp(` ?${JOINED}`, 'g'), ''));
  for (let from = 0; from < lines.length; ) {
    let to = from + 1;
    const first = lines[from] as Printed;
    const goesOn = (next: Printed | undefined): boolean =>
      next !== undefined &&
      next.kind === first.kind &&
      next.depth === first.depth &&
      !next.blankAbove &&
      next.above.length === 0;
    while (goesOn(lines[to])) to++;
    const cells = texts.slice(from, to).map((text) => text.split(COLUMN));
    const widths: number[] = [];
    for (const row of cells)
      row.slice(0, -1).forEach((cell, at) => {
        const width = cell.trim().length;
        if (width <= WIDEST_COLUMN) widths[at] = Math.max(widths[at] ?? 0, width);
      });
    cells.forEach((row, at) => {
      let line = '';
      row.forEach((cell, place) => {
        const shown = place === 0 ? cell.trimEnd() : cell.trim();
        const before = place === 0 ? 0 : (widths[place - 1] ?? 0);
        if (place > 0) {
          // What was printed for the column before fills it, unless nothing more than options follows.
          const missing = before - (row[place - 1] as string).trim().length;
          if (shown !== '' && !shown.startsWith(',')) line += ' '.repeat(Math.max(0, missing) + 1);
        }
        line += shown;
      });
      texts[from + at] = line;
    });
    from = to;
  }
  return texts;
}

function broken(text: string, margin: string): string {
  if (margin.length + plain(text).length <= WIDTH) return margin + plain(text);
  const further = `${margin}    `;
  const rows: string[] = [];
  let row = margin;
  text.split(BREAK).forEach((part, at) => {
    const begun = row.trim() !== '';
    if (begun && row.length + 1 + part.length > WIDTH) {
      rows.push(row);
      row = further + part;
    } else row += at === 0 ? part : ` ${part}`;
  });
  return [...rows, row].join('\n');
}
