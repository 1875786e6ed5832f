import { LIMITS, overLimit } from '../../base/limits';
import { append } from '../../base/lists';
import type { Problem } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import type { Meter } from '../../base/text/scan';
import { raised, type Sheet, SheetBuilder, unpack } from './sheets';
import { walkXml } from './xlsx';

/** Repetitions of empty rows and cells fill a sheet up to its edge; more than this is never a table's. */
const MOST_REPEATED = LIMITS.tableRows;

/** The sheets of an OpenDocument spreadsheet (ISO/IEC 26300) as tables: with merged cells, hidden rows, columns and sheets. */
export function readOds(name: string, bytes: Uint8Array, meter: Meter = { steps: 0 }): Result<Sheet[]> {
  const files = unpack(name, bytes, (path) => path === 'content.xml', meter);
  if (!files.ok) return files;
  const content = files.value.get('content.xml');
  const broken = fail({ place: name, message: 'cannot be read as a spreadsheet (.ods): it is damaged' });
  if (!content) return broken;
  const builders: SheetBuilder[] = [];
  const hiddenStyles = new Set<string>();
  const raisedStyles = new Set<string>();
  let style = '';
  let sheet: SheetBuilder | undefined;
  let fault: string | undefined;
  let row = 0;
  let repeatedRows = 1;
  let column = 0;
  let columns = 0;
  let cells: { column: number; text: string }[] = [];
  let merges: { left: number; across: number; down: number }[] = [];
  let hiddenRow = false;
  let cell: { repeated: number; text: string; paragraphs: number } | undefined;
  /** Depth of comments inside a cell, whose text is not the cell's. */
  let comment = 0;
  const spans: boolean[] = [];
  let inParagraph = 0;
  const count = (text: string | undefined, most: number): number => {
    const value = Number(text ?? 1);
    return Number.isInteger(value) && value > 0 ? Math.min(value, most) : 1;
  };
  const say = (text: string): void => {
    if (cell && comment === 0 && inParagraph > 0) cell.text += spans.includes(true) ? raised(text) : text;
  };
  const good = walkXml(
    content,
    {
      open(tag, attributes) {
        const of = (local: string): string | undefined =>
          Object.entries(attributes).find(([key]) => key.slice(key.indexOf(':') + 1) === local)?.[1];
        switch (tag) {
          case 'style':
            style = of('name') ?? '';
            return;
          case 'table-properties':
            if (of('display') === 'false') hiddenStyles.add(style);
            return;
          case 'text-properties':
            if (/^super|^[1-9]\d?%/.test(of('text-position') ?? '')) raisedStyles.add(style);
            return;
          case 'table':
            sheet = new SheetBuilder(of('name') ?? '', hiddenStyles.has(of('style-name') ?? ''));
            builders.push(sheet);
            row = 0;
            columns = 0;
            if (builders.length > LIMITS.sheets) fault = overLimit('sheets', builders.length);
            return;
          case 'table-column': {
            const repeated = count(of('number-columns-repeated'), LIMITS.tableColumns);
            if (isHidden(of('visibility')))
              for (let at = 0; at < repeated; at++) sheet?.hiddenColumns.add(columns + at);
            columns += repeated;
            return;
          }
          case 'table-row':
            repeatedRows = count(of('number-rows-repeated'), MOST_REPEATED);
            hiddenRow = isHidden(of('visibility'));
            column = 0;
            cells = [];
            merges = [];
            return;
          case 'table-cell':
          case 'covered-table-cell': {
            cell = { repeated: count(of('number-columns-repeated'), 20_000), text: '', paragraphs: 0 };
            const across = count(of('number-columns-spanned'), LIMITS.tableColumns);
            const down = count(of('number-rows-spanned'), MOST_REPEATED);
            if (tag === 'table-cell' && (across > 1 || down > 1)) merges.push({ left: column, across, down });
            return;
          }
          case 'annotation':
            comment++;
            return;
          case 'p':
          case 'h':
            if (cell && comment === 0) {
              inParagraph++;
              if (cell.paragraphs++ > 0) cell.text += '\n';
            }
            return;
          case 'span':
            spans.push(raisedStyles.has(of('style-name') ?? ''));
            return;
          case 's':
            say(' '.repeat(count(of('c'), 100)));
            return;
          case 'tab':
            say(' ');
            return;
          case 'line-break':
            say('\n');
            return;
        }
      },
      text: say,
      close(tag) {
        switch (tag) {
          case 'p':
          case 'h':
            if (cell && comment === 0) inParagraph--;
            return;
          case 'span':
            spans.pop();
            return;
          case 'annotation':
            comment--;
            return;
          case 'table-cell':
          case 'covered-table-cell':
            if (!cell) return;
            // A text that is covered by a merged cell is not seen.
            if (cell.text !== '' && tag === 'table-cell')
              for (let at = 0; at < Math.min(cell.repeated, LIMITS.tableColumns + 1); at++)
                cells.push({ column: column + at, text: cell.text });
            column += cell.repeated;
            cell = undefined;
            return;
          case 'table-row':
            if (cells.length > 0 || merges.length > 0) {
              for (let at = 0; at < repeatedRows && !fault; at++) {
                for (const one of cells)
                  if (sheet && !sheet.put(row + at, one.column, one.text))
                    fault = overLimit('tableRows', row + at + 1);
                if (hiddenRow) sheet?.hiddenRows.add(row + at);
              }
              for (const { left, across, down } of merges)
                sheet?.merges.push({ top: row, left, bottom: row + down - 1, right: left + across - 1 });
            }
            row += repeatedRows;
            return;
        }
      },
    },
    () => fault !== undefined,
  );
  if (fault) return fail({ place: name, message: fault });
  if (!good) return broken;
  const read: Sheet[] = [];
  const problems: Problem[] = [];
  for (const builder of builders) {
    const result = builder.result(name, builders.length === 1);
    if (result.ok) read.push(result.value);
    else append(problems, result.problems);
  }
  return read.length > 0 ? ok(read) : problems.length > 0 ? failWith(problems) : broken;
}

const isHidden = (visibility: string | undefined): boolean =>
  visibility === 'collapse' || visibility === 'filter';
