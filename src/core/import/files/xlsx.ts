import { SaxesParser } from 'saxes';
import { LIMITS, overLimit } from '../../base/limits';
import { append } from '../../base/lists';
import type { Problem } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import type { Meter } from '../../base/text/scan';
import { raised, type Sheet, SheetBuilder, unpack } from './sheets';

type Attributes = Readonly<Record<string, string>>;
interface Handlers {
  open?: (tag: string, attributes: Attributes) => void;
  close?: (tag: string) => void;
  text?: (text: string) => void;
}

/** Walks XML without keeping it; prefixes of names are dropped. False when it is no good XML. */
export function walkXml(bytes: Uint8Array, handlers: Handlers, stop: () => boolean = () => false): boolean {
  const parser = new SaxesParser({ xmlns: false, position: false });
  const local = (name: string): string => name.slice(name.indexOf(':') + 1);
  let good = true;
  parser.on('error', () => {
    good = false;
  });
  parser.on('doctype', () => {
    good = false;
  });
  parser.on('opentag', ({ name, attributes }) => handlers.open?.(local(name), attributes as Attributes));
  parser.on('closetag', ({ name }) => handlers.close?.(local(name)));
  parser.on('text', (text) => handlers.text?.(text));
  parser.on('cdata', (text) => handlers.text?.(text));
  const decoder = new TextDecoder();
  for (let at = 0; at < bytes.length && good && !stop(); at += 262_144)
    parser.write(decoder.decode(bytes.subarray(at, at + 262_144), { stream: true }));
  if (good && !stop()) parser.close();
  return good;
}

/** `C12` → row 11, column 2; undefined when it is no place in a sheet. */
function placeOf(reference: string): { row: number; column: number } | undefined {
  const match = /^\$?([A-Z]{1,3})\$?(\d{1,7})$/i.exec(reference);
  if (!match) return undefined;
  const column = [...(match[1] ?? '').toUpperCase()].reduce(
    (sum, letter) => sum * 26 + letter.charCodeAt(0) - 64,
    0,
  );
  return { row: Number(match[2]) - 1, column: column - 1 };
}

/** Texts of shared strings and of cells: runs that are raised are written as marks, readings of characters left out. */
function textReader(): Handlers & { take(): string } {
  let text = '';
  let inText = false;
  let phonetic = false;
  let up = false;
  return {
    open(tag, attributes) {
      if (tag === 't') inText = true;
      else if (tag === 'rPh') phonetic = true;
      else if (tag === 'r') up = false;
      else if (tag === 'vertAlign') up = attributes.val === 'superscript';
    },
    close(tag) {
      if (tag === 't') inText = false;
      else if (tag === 'rPh') phonetic = false;
      else if (tag === 'r') up = false;
    },
    text(part) {
      if (inText && !phonetic) text += up ? raised(part) : part;
    },
    take() {
      const all = text;
      text = '';
      return all;
    },
  };
}

/** Formats of numbers that show a date. */
const isDateFormat = (id: number, custom: ReadonlyMap<number, string>): boolean => {
  const code = custom.get(id);
  if (code === undefined) return (id >= 14 && id <= 22) || (id >= 45 && id <= 47);
  return /[dy]|m{3}|h:m/i.test(code.replace(/"[^"]*"|\[[^\]]*\]|\\./g, ''));
};

/** Days since the end of 1899 → `2026-04-03`: what a spreadsheet makes of `3-4` is told by the reader of the table. */
const dateText = (days: number): string =>
  days > 0 && days < 3_000_000
    ? new Date(Date.UTC(1899, 11, 30) + days * 86_400_000).toISOString().slice(0, 10)
    : String(days);

/**
 * The sheets of an Office Open XML workbook (ECMA-376) as tables: with merged cells, hidden rows, columns and sheets, and marks that
 * are raised in their cell.
 */
export function readXlsx(name: string, bytes: Uint8Array, meter: Meter = { steps: 0 }): Result<Sheet[]> {
  const files = unpack(
    name,
    bytes,
    (path) =>
      /^xl\/(workbook|sharedStrings|styles|worksheets\/[^/]+|_rels\/workbook)\.xml(\.rels)?$/i.test(path),
    meter,
  );
  if (!files.ok) return files;
  const broken = (what: string): Result<never> =>
    fail({ place: name, message: `cannot be read as a spreadsheet (.xlsx): ${what}` });
  const file = (path: string): Uint8Array | undefined =>
    [...files.value].find(([known]) => known.toLowerCase() === path.toLowerCase())?.[1];
  const workbook = file('xl/workbook.xml');
  if (!workbook) return broken('it has no workbook');
  const sheets: { name: string; id: string; hidden: boolean }[] = [];
  const targets = new Map<string, string>();
  const good =
    walkXml(workbook, {
      open: (tag, { name: title = '', state = '', ...rest }) => {
        if (tag !== 'sheet') return;
        const id = Object.entries(rest).find(([key]) => /(^|:)id$/.test(key))?.[1] ?? '';
        sheets.push({ name: title, id, hidden: state !== '' && state !== 'visible' });
      },
    }) &&
    walkXml(file('xl/_rels/workbook.xml.rels') ?? new Uint8Array(), {
      open: (tag, { Id = '', Target = '' }) => {
        if (tag === 'Relationship')
          targets.set(Id, Target.startsWith('/') ? Target.slice(1) : `xl/${Target}`);
      },
    });
  if (!good) return broken('its list of sheets is damaged');
  if (sheets.length > LIMITS.sheets)
    return fail({ place: name, message: overLimit('sheets', sheets.length) });
  const shared = readShared(file('xl/sharedStrings.xml'));
  const dates = readDates(file('xl/styles.xml'));
  const read: Sheet[] = [];
  const problems: Problem[] = [];
  for (const one of sheets) {
    const content = file(targets.get(one.id) ?? '');
    if (!content) continue;
    const builder = new SheetBuilder(one.name, one.hidden);
    const fault = readSheet(content, builder, shared, dates);
    if (fault) return fail({ place: `${name}, ${one.name}`, message: fault });
    const sheet = builder.result(name, sheets.length === 1);
    if (sheet.ok) read.push(sheet.value);
    else append(problems, sheet.problems);
  }
  return read.length > 0 ? ok(read) : problems.length > 0 ? failWith(problems) : broken('it has no sheets');
}

function readShared(bytes: Uint8Array | undefined): string[] {
  const texts: string[] = [];
  const reader = textReader();
  walkXml(bytes ?? new Uint8Array(), {
    open: reader.open,
    text: reader.text,
    close(tag) {
      reader.close?.(tag);
      if (tag === 'si') texts.push(reader.take());
    },
  });
  return texts;
}

/** Whether each style of cells shows dates. */
function readDates(bytes: Uint8Array | undefined): boolean[] {
  const custom = new Map<number, string>();
  const styles: boolean[] = [];
  let inside = false;
  walkXml(bytes ?? new Uint8Array(), {
    open(tag, attributes) {
      if (tag === 'numFmt') custom.set(Number(attributes.numFmtId), attributes.formatCode ?? '');
      else if (tag === 'cellXfs') inside = true;
      else if (tag === 'xf' && inside) styles.push(isDateFormat(Number(attributes.numFmtId ?? 0), custom));
    },
    close(tag) {
      if (tag === 'cellXfs') inside = false;
    },
  });
  return styles;
}

/** Reads one sheet into its builder; what is wrong with it when it cannot be. */
function readSheet(
  bytes: Uint8Array,
  builder: SheetBuilder,
  shared: readonly string[],
  dates: readonly boolean[],
): string | undefined {
  let row = -1;
  let column = -1;
  let type = '';
  let style = 0;
  let value = '';
  let inValue = false;
  let fault: string | undefined;
  const inline = textReader();
  const cellText = (): string => {
    if (type === 's') return shared[Number(value)] ?? '';
    if (type === 'inlineStr') return inline.take();
    if (type === 'b') return value === '1' ? 'TRUE' : 'FALSE';
    if (type === 'str' || type === 'e' || type === 'd' || value === '') return value;
    const number = Number(value);
    if (!Number.isFinite(number)) return value;
    return dates[style] ? dateText(number) : String(number);
  };
  const good = walkXml(
    bytes,
    {
      open(tag, attributes) {
        inline.open?.(tag, attributes);
        if (tag === 'row') {
          row = attributes.r === undefined ? row + 1 : Number(attributes.r) - 1;
          column = -1;
          if (!Number.isInteger(row) || row < 0) fault ??= `has a row "${attributes.r?.slice(0, 20)}"`;
          if (isTrue(attributes.hidden)) builder.hiddenRows.add(row);
        } else if (tag === 'col') {
          if (isTrue(attributes.hidden))
            for (
              let at = Number(attributes.min);
              at <= Math.min(Number(attributes.max), LIMITS.tableColumns);
              at++
            )
              builder.hiddenColumns.add(at - 1);
        } else if (tag === 'c') {
          const place = attributes.r === undefined ? { row, column: column + 1 } : placeOf(attributes.r);
          if (!place) fault ??= `has a cell at "${attributes.r?.slice(0, 20)}", which is no place in a sheet`;
          else ({ row, column } = place);
          type = attributes.t ?? '';
          style = Number(attributes.s ?? 0);
          value = '';
          inline.take();
        } else if (tag === 'v') inValue = true;
        else if (tag === 'mergeCell') {
          const [from, to] = (attributes.ref ?? '').split(':').map(placeOf);
          if (from && to && to.row - from.row < LIMITS.tableRows)
            builder.merges.push({ top: from.row, left: from.column, bottom: to.row, right: to.column });
        }
      },
      text(part) {
        inline.text?.(part);
        if (inValue) value += part;
      },
      close(tag) {
        inline.close?.(tag);
        if (tag === 'v') inValue = false;
        else if (tag === 'c' && !builder.put(row, column, cellText()))
          fault ??= overLimit('tableRows', row + 1);
      },
    },
    () => fault !== undefined,
  );
  return fault ?? (good ? undefined : 'is damaged: its XML is not valid');
}

const isTrue = (text: string | undefined): boolean => text === '1' || text === 'true';
