import { strToU8, zipSync } from 'fflate';
import type { randomFrom } from '../random';
import type { PrintedRow, PrintedTable } from './tables';
import type { TruePart } from './truth';

type Random = ReturnType<typeof randomFrom>;

/** Lines of cells, in order, with titles and notes as rows of one text. */
function linesOf(table: PrintedTable): { cells: string[]; row?: PrintedRow }[] {
  const width = table.head[0]?.length ?? 1;
  const alone = (text: string): string[] => [text, ...Array.from({ length: width - 1 }, () => '')];
  return [
    { cells: alone(table.title) },
    ...table.head.map((cells) => ({ cells })),
    ...table.rows.flatMap((row) => {
      if (row.kind === 'title') return [{ cells: alone(row.text), row }];
      if (row.kind === 'empty') return [{ cells: alone('') }];
      if (row.kind === 'head') return table.head.map((cells) => ({ cells }));
      return [{ cells: row.cells, row }];
    }),
    ...Object.entries(table.notes).map(([mark, text]) => ({ cells: alone(`(${mark}) ${text}`) })),
  ];
}

const emptied = (cells: string[], row: PrintedRow | undefined): string[] =>
  row?.kind === 'data' && row.above ? cells.map((cell, i) => (row.above?.includes(i) ? '' : cell)) : cells;

/** Divided by a character; cells that hold it are quoted. */
export function divided(table: PrintedTable, divider: string): string {
  const quote = (cell: string): string =>
    cell.includes(divider) || cell.includes('"') ? `"${cell.replace(/"/g, '""')}"` : cell;
  return linesOf(table)
    .map(({ cells, row }) => emptied(cells, row).map(quote).join(divider))
    .join('\n');
}

/** Cells below each other, with blanks between. */
export function listed(table: PrintedTable): string {
  const lines = linesOf(table).map(({ cells, row }) => emptied(cells, row));
  const single = (cells: string[]): boolean =>
    cells.filter((cell) => cell !== '').length === 1 && (cells[0] ?? '') !== '';
  const widths = (table.head[0] ?? []).map((_, column) =>
    Math.max(...lines.filter((cells) => !single(cells)).map((cells) => (cells[column] ?? '').length)),
  );
  return lines
    .map((cells) =>
      (single(cells)
        ? (cells[0] ?? '')
        : cells.map((cell, i) => cell.padEnd((widths[i] ?? 0) + 2)).join('')
      ).trimEnd(),
    )
    .join('\n');
}

export type Encoding = 'utf-8' | 'utf-16' | 'windows-1252';

/** A text in bytes; blanks inside cells may be non-breaking. */
export function encoded(text: string, encoding: Encoding): Uint8Array {
  if (encoding === 'utf-8') return strToU8(text);
  if (encoding === 'utf-16') {
    const bytes = new Uint8Array(2 + text.length * 2);
    bytes.set([0xff, 0xfe]);
    for (let i = 0; i < text.length; i++)
      bytes.set([text.charCodeAt(i) & 0xff, text.charCodeAt(i) >> 8], 2 + i * 2);
    return bytes;
  }
  const special: Record<string, number> = { '–': 0x96, '⁰': 0x30, '¹': 0xb9, '²': 0xb2, '³': 0xb3 };
  return Uint8Array.from([...text], (char) => special[char] ?? char.charCodeAt(0) & 0xff);
}

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');
const letter = (column: number): string => String.fromCharCode(65 + column);

/** A workbook with a cover, a hidden sheet, merged cells and a hidden row. */
export function workbook(random: Random, tables: Record<string, PrintedTable>): Uint8Array {
  const XML = '<?xml version="1.0" encoding="UTF-8"?>';
  const NS = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
  const OFFICE = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
  const text = (cell: string): string =>
    cell
      .split(/([⁰¹²³⁴⁵⁶⁷⁸⁹]+)/)
      .map((run, i) =>
        run === ''
          ? ''
          : i % 2 === 1
            ? `<r><rPr><vertAlign val="superscript"/></rPr><t>${[...run].map((one) => '⁰¹²³⁴⁵⁶⁷⁸⁹'.indexOf(one)).join('')}</t></r>`
            : `<r><t xml:space="preserve">${escaped(run)}</t></r>`,
      )
      .join('');
  const sheets: [name: string, xml: string, state: string][] = [
    [
      'Cover',
      `${XML}<worksheet xmlns="${NS}"><sheetData><row r="3"><c r="B3" t="inlineStr"><is><t>Pin list, revision 4</t></is></c></row></sheetData></worksheet>`,
      '',
    ],
    ...Object.entries(tables).map(([name, table]): [string, string, string] => {
      const merges: string[] = [];
      const lines = linesOf(table);
      const width = table.head[0]?.length ?? 1;
      const rows = lines.map(({ cells, row }, r) => {
        if (row?.kind === 'title') merges.push(`A${r + 1}:${letter(width - 1)}${r + 1}`);
        return `<row r="${r + 1}">${emptied(cells, row)
          .map((cell, c) =>
            cell === '' ? '' : `<c r="${letter(c)}${r + 1}" t="inlineStr"><is>${text(cell)}</is></c>`,
          )
          .join('')}</row>`;
      });
      // Cells that belong to the one above are merged with it.
      for (let c = 0; c < width; c++)
        for (let r = 0; r < lines.length; r++) {
          let end = r;
          const goesOn = (at: number): boolean => {
            const row = lines[at]?.row;
            return row?.kind === 'data' && row.above?.includes(c) === true;
          };
          while (goesOn(end + 1)) end++;
          if (end > r) merges.push(`${letter(c)}${r + 1}:${letter(c)}${end + 1}`);
          r = end;
        }
      const head = lines.findIndex((line) => line.cells === table.head[0]);
      if (table.head.length === 2)
        table.head[0]?.forEach((cell, c) => {
          if (cell === '') return;
          let end = c;
          while (table.head[0]?.[end + 1] === '') end++;
          if (end > c) merges.push(`${letter(c)}${head + 1}:${letter(end)}${head + 1}`);
          else if (table.head[1]?.[c] === '') merges.push(`${letter(c)}${head + 1}:${letter(c)}${head + 2}`);
        });
      const hidden = `<row r="${lines.length + 1}" hidden="1"><c r="A${lines.length + 1}" t="inlineStr"><is><t>checked by hand</t></is></c></row>`;
      return [
        name,
        `${XML}<worksheet xmlns="${NS}"><sheetData>${rows.join('')}${random.int(2) === 0 ? hidden : ''}</sheetData>${merges.length > 0 ? `<mergeCells>${merges.map((one) => `<mergeCell ref="${one}"/>`).join('')}</mergeCells>` : ''}</worksheet>`,
        '',
      ];
    }),
    [
      'Lists',
      `${XML}<worksheet xmlns="${NS}"><sheetData><row><c t="inlineStr"><is><t>Pad</t></is></c><c t="inlineStr"><is><t>LQ48</t></is></c></row></sheetData></worksheet>`,
      ' state="hidden"',
    ],
  ];
  return zipSync({
    'xl/workbook.xml': strToU8(
      `${XML}<workbook xmlns="${NS}" xmlns:r="${OFFICE}"><sheets>${sheets.map(([name, , state], i) => `<sheet name="${escaped(name)}" sheetId="${i + 1}" r:id="rId${i + 1}"${state}/>`).join('')}</sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      `${XML}<Relationships>${sheets.map((_, i) => `<Relationship Id="rId${i + 1}" Target="worksheets/sheet${i + 1}.xml"/>`).join('')}</Relationships>`,
    ),
    ...Object.fromEntries(sheets.map(([, xml], i) => [`xl/worksheets/sheet${i + 1}.xml`, strToU8(xml)])),
  });
}

/** An OpenDocument spreadsheet with the same. */
export function openDocument(tables: Record<string, PrintedTable>): Uint8Array {
  const sheets = Object.entries(tables).map(([name, table]) => {
    const lines = linesOf(table);
    const width = table.head[0]?.length ?? 1;
    const rows = lines.map(({ cells, row }, r) => {
      const title = row?.kind === 'title';
      const xml = cells.map((cell, c) => {
        if (title && c > 0) return '<table:covered-table-cell/>';
        if (row?.kind === 'data' && row.above?.includes(c)) return '<table:covered-table-cell/>';
        let down = 1;
        const goesOn = (at: number): boolean => {
          const next = lines[at]?.row;
          return next?.kind === 'data' && next.above?.includes(c) === true;
        };
        while (goesOn(r + down)) down++;
        const span = title
          ? ` table:number-columns-spanned="${width}"`
          : down > 1
            ? ` table:number-rows-spanned="${down}"`
            : '';
        const runs = cell
          .split(/([⁰¹²³⁴⁵⁶⁷⁸⁹]+)/)
          .map((run, i) =>
            i % 2 === 1
              ? `<text:span text:style-name="up">${[...run].map((one) => '⁰¹²³⁴⁵⁶⁷⁸⁹'.indexOf(one)).join('')}</text:span>`
              : escaped(run),
          )
          .join('');
        return cell === ''
          ? `<table:table-cell${span}/>`
          : `<table:table-cell${span} office:value-type="string"><text:p>${runs}</text:p></table:table-cell>`;
      });
      return `<table:table-row>${xml.join('')}</table:table-row>`;
    });
    return `<table:table table:name="${escaped(name)}"><table:table-column table:number-columns-repeated="${width}"/>${rows.join('')}<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table>`;
  });
  return zipSync({
    mimetype: [strToU8('application/vnd.oasis.opendocument.spreadsheet'), { level: 0 }],
    'content.xml': strToU8(
      `<?xml version="1.0" encoding="UTF-8"?><office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x" xmlns:style="s"><office:automatic-styles><style:style style:name="up"><style:text-properties style:text-position="super 58%"/></style:style></office:automatic-styles><office:body><office:spreadsheet>${sheets.join('')}</office:spreadsheet></office:body></office:document-content>`,
    ),
  });
}

/** A boundary-scan description: ports of pads as vectors, supplies as linkage, a pin map a package. */
export function boundaryScan(random: Random, part: TruePart): string {
  const ports = [...new Set(part.pads.flatMap((pad) => pad.port ?? []))];
  const grouped =
    random.int(2) === 0 && part.pads.every((pad) => pad.port === undefined || /^P?[A-Z]+\d+$/.test(pad.id));
  const of = (port: string) => part.pads.filter((pad) => pad.port === port);
  const stem = (port: string): string => (of(port)[0]?.id ?? '').replace(/\d+$/, '');
  const down = random.int(2) === 0;
  const lines: string[] = [];
  if (grouped)
    for (const port of ports)
      lines.push(
        `${stem(port)} : inout bit_vector(${down ? `${of(port).length - 1} downto 0` : `0 to ${of(port).length - 1}`})`,
      );
  else
    lines.push(
      `${part.pads
        .filter((pad) => pad.kind === 'io')
        .map((pad) => pad.id)
        .join(', ')} : inout bit`,
    );
  for (const pad of part.pads.filter((one) => one.kind !== 'io')) {
    const most = Math.max(...part.packages.map((one) => pad.pins[one.id]?.length ?? 0));
    lines.push(
      `${pad.id} : ${pad.kind === 'reset' ? 'in bit' : most > 1 ? `linkage bit_vector(1 to ${most})` : 'linkage bit'}`,
    );
  }
  const maps = part.packages.map((pkg) => {
    const entries: string[] = [];
    if (grouped)
      for (const port of ports) {
        const pads = down ? [...of(port)].reverse() : of(port);
        entries.push(`${stem(port)} : (${pads.map((pad) => pad.pins[pkg.id]?.[0] ?? 'OPEN').join(', ')})`);
      }
    for (const pad of part.pads) {
      const pins = pad.pins[pkg.id];
      if (!pins || (grouped && pad.kind === 'io')) continue;
      entries.push(`${pad.id} : ${pins.length > 1 ? `(${pins.join(', ')})` : pins[0]}`);
    }
    return `  constant ${pkg.title} : PIN_MAP_STRING :=\n${entries.map((one, i) => `    "${one}${i < entries.length - 1 ? ', " &' : '";'}`).join('\n')}`;
  });
  return `entity FROST is\n  generic (PHYSICAL_PIN_MAP : string := "${part.packages[0]?.title}");\n  port (\n    ${lines.join(';\n    ')}\n  );\n${maps.join('\n')}\nend FROST;\n`;
}

/** An IBIS file: a component a package. */
export function ibis(part: TruePart): string {
  const pins = part.packages.map((pkg) => {
    const rows = part.pads.flatMap((pad) =>
      (pad.pins[pkg.id] ?? []).map((pin) => [
        pin,
        pad.id,
        pad.kind === 'supply' ? 'POWER' : pad.kind === 'ground' ? 'GND' : 'io_fast',
      ]),
    );
    return `[Component] ${pkg.title}\n[Manufacturer] Frostmark\n[Package]\n| variable typ min max\nR_pkg 0.1 NA NA\n[Pin] signal_name model_name R_pin L_pin C_pin\n${rows.map((row) => row.join('   ')).join('\n')}`;
  });
  return `[IBIS Ver] 5.0\n[File Name] frost.ibs\n| made up\n${pins.join('\n')}\n[Model] io_fast\nModel_type I/O\n[End]\n`;
}

/** The balls of a package as they lie on the board. */
export function ballMatrix(part: TruePart, id: string): string {
  const at = new Map(part.pads.flatMap((pad) => (pad.pins[id] ?? []).map((pin) => [pin, pad.id] as const)));
  const rows = [...new Set([...at.keys()].map((pin) => pin.replace(/\d+$/, '')))].sort(
    (a, b) => a.length - b.length || a.localeCompare(b),
  );
  const columns = Math.max(...[...at.keys()].map((pin) => Number(pin.replace(/^\D+/, ''))));
  const numbers = Array.from({ length: columns }, (_, i) => String(i + 1));
  return [
    ['', ...numbers],
    ...rows.map((row) => [row, ...numbers.map((one) => at.get(`${row}${one}`) ?? '-')]),
  ]
    .map((cells) => cells.join('\t'))
    .join('\n');
}
