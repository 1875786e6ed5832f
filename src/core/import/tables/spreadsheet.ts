import { unzipSync } from 'fflate';
import { LIMITS, limitText, overLimit, tooLarge } from '../../base/limits';
import type { Meter } from '../../base/text/scan';

/**
 * Why a spreadsheet (.xlsx, a zip of XML files) is not to be read; undefined when it may be. Readers of spreadsheets make a row
 * for every number up to the highest, so a file of two kilobytes can ask for a thousand million; and a zip can unpack to a
 * thousand times its size. Both are found here before anything is made of the file.
 */
export function spreadsheetFault(bytes: Uint8Array, meter: Meter = { steps: 0 }): string | undefined {
  if (bytes.length > LIMITS.spreadsheetBytes) return tooLarge('spreadsheetBytes');
  let unpacked = 0;
  let sheets = 0;
  let files: Record<string, Uint8Array>;
  try {
    unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        unpacked += originalSize;
        if (isSheet(name)) sheets++;
        return false;
      },
    });
    if (unpacked > LIMITS.unpackedBytes) return `holds more than ${limitText('unpackedBytes')} when unpacked`;
    if (sheets > LIMITS.sheets) return overLimit('sheets', sheets);
    files = unzipSync(bytes, { filter: ({ name }) => isSheet(name) });
  } catch {
    return 'cannot be read as a spreadsheet (.xlsx)';
  }
  for (const [name, content] of Object.entries(files)) {
    const fault = sheetFault(new TextDecoder().decode(content), meter);
    if (fault) return `${name.replace(/^.*\//, '')} ${fault}`;
  }
  return undefined;
}

const isSheet = (name: string): boolean => /worksheets\/[^/]*\.xml$/i.test(name);

/** Looks at the places that rows and cells name: `r="12"`, `r="C12"`. */
function sheetFault(xml: string, meter: Meter): string | undefined {
  meter.steps += xml.length;
  let row = 0;
  let cells = 0;
  for (const tag of xml.matchAll(/<(?:[A-Za-z_][\w.-]{0,40}:)?(row|c)(?=[\s/>])([^<>]*)>/g)) {
    meter.steps++;
    if (tag[1] === 'row') row++;
    else if (++cells > LIMITS.tableRows * LIMITS.tableColumns) return overLimit('tableRows', row);
    const named = /(?:^|\s)r\s*=\s*(?:"([^"]*)"|'([^']*)')/.exec((tag[2] ?? '').slice(0, 2000));
    const place = named?.[1] ?? named?.[2];
    if (place !== undefined) {
      const match = /^([A-Z]{0,3})(\d{1,10})$/i.exec(place);
      if (!match) return `has a cell at "${place.slice(0, 20)}", which is no place in a sheet`;
      row = Math.max(row, Number(match[2]));
      const column = [...(match[1] ?? '').toUpperCase()].reduce(
        (sum, one) => sum * 26 + one.charCodeAt(0) - 64,
        0,
      );
      if (column > LIMITS.tableColumns) return overLimit('tableColumns', column);
    }
    if (row > LIMITS.tableRows) return overLimit('tableRows', row);
  }
  return undefined;
}
