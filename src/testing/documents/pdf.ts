import PDFDocument from 'pdfkit';
import type { Random } from '../random';
import type { PrintedTable } from './tables';

const SUPERSCRIPTS = '⁰¹²³⁴⁵⁶⁷⁸⁹';

interface Look {
  /** Lines around all cells, under rows only, or none. */
  rules: 'all' | 'rows' | 'none';
  /** Headings of the columns of pins are written upwards. */
  turned: boolean;
}

/**
 * Tables as a data sheet has them: over several pages with running heads and feet, headings again on each page, footnotes below,
 * raised marks, and text around.
 */
export async function pdfOf(
  random: Random,
  tables: readonly PrintedTable[],
  look: Look,
): Promise<Uint8Array> {
  const document = new PDFDocument({ size: 'A4', margin: 0, compress: false });
  const chunks: Buffer[] = [];
  document.on('data', (chunk: Buffer) => chunks.push(chunk));
  const ended = new Promise<void>((done) => {
    document.on('end', done);
  });
  let page = 0;
  const running = (): void => {
    page++;
    document.font('Helvetica').fontSize(7);
    document.text('Frost guard controller', 40, 24, { lineBreak: false });
    document.text('Data sheet, revision 4', 440, 24, { lineBreak: false });
    document.text(`${page} / 40`, 290, 815, { lineBreak: false });
  };
  running();
  document.fontSize(16).text('Pins', 40, 60, { lineBreak: false });
  document
    .fontSize(8)
    .text(
      'This chapter lists the pins of all packages, and what each can be used for. Supplies are named',
      40,
      84,
      { lineBreak: false },
    );
  let top = 120;
  for (const table of tables) {
    top = printTable(table);
    if (top > 500) {
      document.addPage();
      running();
      top = 60;
    }
  }
  document.end();
  await ended;
  return new Uint8Array(Buffer.concat(chunks));

  function printTable(table: PrintedTable): number {
    const size = 6.5;
    const width = table.head[0]?.length ?? 1;
    document.font('Helvetica').fontSize(size);
    const measure = (text: string): number => document.widthOfString(text);
    const isTurned = (column: number): boolean =>
      look.turned && table.head.length === 1 && column >= 2 && /\d/.test(table.head[0]?.[column] ?? '');
    const natural = Array.from({ length: width }, (_, column) =>
      Math.max(
        ...table.head.map((cells, row) =>
          isTurned(column) || (row < table.head.length - 1 && cells[column + 1] === '')
            ? 8
            : measure(cells[column] ?? ''),
        ),
        ...table.rows.map((row) => ('cells' in row ? measure(row.cells[column] ?? '') : 0)),
      ),
    );
    const widths = natural.map((one) => Math.min(one, 88) + 9);
    const total = widths.reduce((sum, one) => sum + one, 0);
    const scale = total > 520 ? 520 / total : 1;
    const lefts = [40];
    for (const one of widths) lefts.push((lefts.at(-1) ?? 40) + one * scale);
    const at = (column: number): number => lefts[column] ?? 40;
    const linesOf = (text: string, column: number): string[] => {
      const room = at(column + 1) - at(column) - 5;
      const words = text.split(' ');
      const lines: string[] = [];
      for (const word of words) {
        const last = lines.at(-1);
        if (last !== undefined && measure(`${last} ${word}`) <= room)
          lines[lines.length - 1] = `${last} ${word}`;
        else lines.push(word);
      }
      return lines;
    };
    const write = (text: string, x: number, y: number): void => {
      let left = x;
      for (const [i, run] of text.split(/([⁰¹²³⁴⁵⁶⁷⁸⁹]+)/).entries()) {
        if (run === '') continue;
        const raised = i % 2 === 1;
        const shown = raised
          ? [...run].map((one) => SUPERSCRIPTS.indexOf(one)).join('')
          : run.replace(/–/g, '-');
        document
          .fontSize(raised ? size * 0.62 : size)
          .text(shown, left, raised ? y - 1.2 : y, { lineBreak: false });
        left += measure(shown);
        document.fontSize(size);
      }
    };
    const rule = (x1: number, y1: number, x2: number, y2: number): void =>
      void document.lineWidth(0.4).moveTo(x1, y1).lineTo(x2, y2).stroke();
    const right = at(width);
    let y = 0;
    const head = (start: number): number => {
      let top = start;
      if (look.rules !== 'none') rule(40, top, right, top);
      table.head.forEach((cells, row) => {
        const turned = cells.some((_, column) => isTurned(column));
        const height = turned
          ? Math.max(...cells.map((cell, column) => (isTurned(column) ? measure(cell) + 8 : 11)))
          : 11;
        cells.forEach((cell, column) => {
          if (isTurned(column)) {
            document.save().rotate(-90, { origin: [at(column) + 3, top + height - 3] });
            document.text(cell, at(column) + 3, top + height - 3, { lineBreak: false });
            document.restore();
          } else write(cell, at(column) + 2, top + 3);
        });
        top += height;
        const upper = row < table.head.length - 1;
        if (look.rules === 'all')
          for (let column = 0; column <= width; column++)
            if (!(upper && column > 0 && cells[column] === ''))
              rule(at(column), top - height, at(column), top);
        if (look.rules !== 'none' && !upper) rule(40, top, right, top);
        else if (look.rules !== 'none')
          cells.forEach((_, column) => {
            if (table.head[1]?.[column] !== '') rule(at(column), top, at(column + 1), top);
          });
      });
      return top;
    };
    document.fontSize(8).text(table.title, 40, top, { lineBreak: false });
    document.fontSize(size);
    y = head(top + 14);
    let rows = 0;
    table.rows.forEach((row, index) => {
      if (row.kind === 'head' || row.kind === 'empty') return;
      const lines = 'cells' in row ? row.cells.map((cell, column) => linesOf(cell, column)) : [[row.text]];
      const height = Math.max(...lines.map((one) => one.length)) * 8 + 4;
      if (y + height > 760) {
        document.addPage();
        running();
        document.fontSize(8).text(`${table.title} (continued)`, 40, 50, { lineBreak: false });
        document.fontSize(size);
        y = head(64);
        rows = 0;
      }
      lines.forEach((cell, column) => {
        cell.forEach((line, i) => {
          if (!('above' in row && row.above?.includes(column) && rows > 0))
            write(line, at(column) + 2, y + 3 + i * 8);
        });
      });
      y += height;
      rows++;
      const next = table.rows[index + 1];
      const open = next && 'above' in next && next.above && y + 12 <= 760 ? next.above : [];
      if (look.rules === 'all') {
        for (let column = 0; column <= width; column++)
          if (row.kind !== 'title' || column === 0 || column === width)
            rule(at(column), y - height, at(column), y);
        for (let column = 0; column < width; column++)
          if (!open.includes(column) && next?.kind !== 'rest') rule(at(column), y, at(column + 1), y);
      } else if (look.rules === 'rows' && next?.kind !== 'rest') rule(40, y, right, y);
    });
    if (look.rules !== 'none') rule(40, y, right, y);
    y += 4;
    for (const [mark, text] of Object.entries(table.notes)) {
      if (random.int(2) === 0) write(`(${mark}) ${text}`, 40, y);
      else {
        document.fontSize(4).text(mark, 40, y - 1, { lineBreak: false });
        document.fontSize(size).text(text, 46, y, { lineBreak: false });
      }
      y += 9;
    }
    return y + 24;
  }
}
