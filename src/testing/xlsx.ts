import { strToU8, zipSync } from 'fflate';

const XML = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>';
const OFFICE = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';
const SHEET = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');

const sheetXml = (rows: readonly (readonly string[])[]): string =>
  `${XML}<worksheet xmlns="${SHEET}"><sheetData>${rows
    .map(
      (row, r) =>
        `<row r="${r + 1}">${row
          .map(
            (cell, c) =>
              `<c r="${String.fromCharCode(65 + c)}${r + 1}" t="inlineStr"><is><t>${escaped(cell)}</t></is></c>`,
          )
          .join('')}</row>`,
    )
    .join('')}</sheetData></worksheet>`;

/** A spreadsheet as other programs write it, with one sheet for each table. */
export function xlsx(sheets: Record<string, readonly (readonly string[])[]>): Uint8Array {
  const names = Object.keys(sheets);
  const type = 'application/vnd.openxmlformats-officedocument.spreadsheetml';
  const relation = (id: number, kind: string, target: string): string =>
    `<Relationship Id="rId${id}" Type="${OFFICE}/${kind}" Target="${target}"/>`;
  const overrides = names
    .map(
      (_, i) => `<Override PartName="/xl/worksheets/sheet${i + 1}.xml" ContentType="${type}.worksheet+xml"/>`,
    )
    .join('');
  return zipSync({
    '[Content_Types].xml': strToU8(
      `${XML}<Types xmlns="${PACKAGE}/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="${type}.sheet.main+xml"/>${overrides}</Types>`,
    ),
    '_rels/.rels': strToU8(
      `${XML}<Relationships xmlns="${PACKAGE}/relationships">${relation(1, 'officeDocument', 'xl/workbook.xml')}</Relationships>`,
    ),
    'xl/workbook.xml': strToU8(
      `${XML}<workbook xmlns="${SHEET}" xmlns:r="${OFFICE}"><sheets>${names
        .map((name, i) => `<sheet name="${escaped(name)}" sheetId="${i + 1}" r:id="rId${i + 1}"/>`)
        .join('')}</sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      `${XML}<Relationships xmlns="${PACKAGE}/relationships">${names
        .map((_, i) => relation(i + 1, 'worksheet', `worksheets/sheet${i + 1}.xml`))
        .join('')}</Relationships>`,
    ),
    ...Object.fromEntries(
      names.map((name, i) => [`xl/worksheets/sheet${i + 1}.xml`, strToU8(sheetXml(sheets[name] ?? []))]),
    ),
  });
}
