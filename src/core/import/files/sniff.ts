import { isPartText } from '../../description/part-text/recognise';
import { isRdl } from '../rdl/recognise';
import { decodeText } from './encoding';

/** What a file is by its content; its name is only asked where the content leaves it open. */
export type FileKind =
  | 'pdf'
  | 'xlsx'
  | 'ods'
  | 'part zip'
  | 'part text'
  | 'bsdl'
  | 'ibis'
  | 'register file'
  | 'json'
  | 'text'
  | 'other';

export interface Sniffed {
  kind: FileKind;
  /** With its article: "a PNG picture". */
  title: string;
  /** What to do instead, where such a file is of no use. */
  instead?: string;
}

const PICTURE = 'take the document that it is a picture of, or type the table';
const UNPACK = 'unpack it and take the file inside';
const SAVE = 'save it as .xlsx, .ods or CSV';

const MAGIC: readonly (readonly [start: readonly number[], title: string, instead: string, at?: number])[] = [
  [[0x89, 0x50, 0x4e, 0x47], 'a PNG picture', PICTURE],
  [[0xff, 0xd8, 0xff], 'a JPEG picture', PICTURE],
  [[0x47, 0x49, 0x46, 0x38], 'a GIF picture', PICTURE],
  [[0x42, 0x4d], 'a BMP picture', PICTURE],
  [[0x49, 0x49, 0x2a, 0x00], 'a TIFF picture', PICTURE],
  [[0x4d, 0x4d, 0x00, 0x2a], 'a TIFF picture', PICTURE],
  [[0x57, 0x45, 0x42, 0x50], 'a WebP picture', PICTURE, 8],
  [[0xd0, 0xcf, 0x11, 0xe0], 'an old binary office file (.xls, .doc)', SAVE],
  [[0x1f, 0x8b], 'a gzip archive', UNPACK],
  [[0x37, 0x7a, 0xbc, 0xaf], 'a 7z archive', UNPACK],
  [[0x52, 0x61, 0x72, 0x21], 'a RAR archive', UNPACK],
  [[0xfd, 0x37, 0x7a, 0x58], 'an xz archive', UNPACK],
  [[0x42, 0x5a, 0x68], 'a bzip2 archive', UNPACK],
  [[0x7f, 0x45, 0x4c, 0x46], 'a program (ELF)', 'a register description or a table is needed'],
  [[0x4d, 0x5a], 'a program (.exe)', 'a register description or a table is needed'],
  [[0x53, 0x51, 0x4c, 0x69], 'an SQLite database', 'export the table as CSV'],
  [[0x7b, 0x5c, 0x72, 0x74], 'an RTF document', 'save it as PDF, or copy the table out of it'],
];

const starts = (bytes: Uint8Array, start: readonly number[], at = 0): boolean =>
  start.every((byte, i) => bytes[at + i] === byte);

const isZip = (bytes: Uint8Array): boolean => starts(bytes, [0x50, 0x4b, 0x03, 0x04]);

/** Names of the files in a zip, out of the list at its end, without unpacking anything. */
export function namesInZip(bytes: Uint8Array): string[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const names: string[] = [];
  let end = bytes.length - 22;
  const lowest = Math.max(0, bytes.length - 66_000);
  while (end >= lowest && view.getUint32(end, true) !== 0x06054b50) end--;
  if (end < lowest) return names;
  let at = view.getUint32(end + 16, true);
  const decoder = new TextDecoder();
  while (names.length < 2_000 && at + 46 <= bytes.length && view.getUint32(at, true) === 0x02014b50) {
    const length = view.getUint16(at + 28, true);
    names.push(decoder.decode(bytes.subarray(at + 46, at + 46 + length)));
    at += 46 + length + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  return names;
}

/** The files that make a part, of those in a zip; undefined when they are none. */
export function partFilesIn(names: readonly string[]): string[] | undefined {
  const described = names.find((name) => /\.device\.json$/i.test(name));
  if (described) return [described];
  const find = (wanted: string): string | undefined =>
    names.find((name) => name.split('/').at(-1) === wanted);
  const files = [find('pinout.csv'), find('functions.csv'), find('recipe.part') ?? find('recipe.json')];
  return files.every((one) => one !== undefined) ? (files as string[]) : undefined;
}

function zipKind(bytes: Uint8Array): Sniffed {
  const names = namesInZip(bytes);
  const has = (name: string): boolean => names.includes(name);
  if (has('xl/workbook.xml')) return { kind: 'xlsx', title: 'a spreadsheet (.xlsx)' };
  if (has('content.xml') && has('mimetype')) {
    const head = new TextDecoder('latin1').decode(bytes.subarray(0, 200));
    return head.includes('opendocument.spreadsheet')
      ? { kind: 'ods', title: 'a spreadsheet (.ods)' }
      : {
          kind: 'other',
          title: 'an OpenDocument file that is no spreadsheet',
          instead: 'save it as PDF, or copy the table out of it',
        };
  }
  if (names.some((name) => name.startsWith('word/')))
    return {
      kind: 'other',
      title: 'a text document (.docx)',
      instead: 'save it as PDF, or copy the table out of it',
    };
  if (names.some((name) => name.startsWith('ppt/')))
    return { kind: 'other', title: 'a presentation (.pptx)', instead: 'save it as PDF' };
  if (has('xl/workbook.bin')) return { kind: 'other', title: 'a binary spreadsheet (.xlsb)', instead: SAVE };
  if (partFilesIn(names)) return { kind: 'part zip', title: 'a part exported by Mavrek' };
  return {
    kind: 'other',
    title: `a zip archive${names[0] ? ` with ${names.slice(0, 3).join(', ')}` : ''}`,
    instead: UNPACK,
  };
}

/** What a file is. Looks at its first bytes, and at the list of contents where it is a zip: a large file takes no longer. */
export function sniff(name: string, bytes: Uint8Array): Sniffed {
  if (bytes.length === 0) return { kind: 'other', title: 'an empty file', instead: 'choose another one' };
  const head = bytes.subarray(0, 4096);
  // A PDF may have something in front of it.
  const latin = new TextDecoder('latin1').decode(head.subarray(0, 1024));
  if (latin.includes('%PDF-')) return { kind: 'pdf', title: 'a PDF document' };
  if (isZip(bytes)) return zipKind(bytes);
  if (starts(bytes, [0x50, 0x4b, 0x05, 0x06]))
    return { kind: 'other', title: 'an empty zip archive', instead: UNPACK };
  for (const [start, title, instead, at] of MAGIC)
    if (starts(bytes, start, at) && (start.length > 2 || hasControls(head)))
      return { kind: 'other', title, instead };
  const { text, encoding } = decodeText(head.length < bytes.length ? cutAtCharacter(head) : head);
  if (encoding !== 'UTF-16' && hasControls(head))
    return {
      kind: 'other',
      title: 'a binary file',
      instead: 'a table, a PDF or a register description is needed',
    };
  return textKind(name, text);
}

/** Whole characters only: one that is cut would look like another encoding. */
function cutAtCharacter(bytes: Uint8Array): Uint8Array {
  let end = bytes.length;
  while (end > bytes.length - 4 && ((bytes[end - 1] ?? 0) & 0xc0) === 0x80) end--;
  if (((bytes[end - 1] ?? 0) & 0xc0) === 0xc0) end--;
  return bytes.subarray(0, end);
}

const hasControls = (bytes: Uint8Array): boolean =>
  bytes.some((byte) => byte < 32 && byte !== 9 && byte !== 10 && byte !== 12 && byte !== 13 && byte !== 26);

function textKind(name: string, text: string): Sniffed {
  const body = text.replace(/^\ufeff/, '').trimStart();
  if (body === '') return { kind: 'other', title: 'an empty file', instead: 'choose another one' };
  const root =
    /^(?:<\?[^>]*\?>|<!--[\s\S]*?-->|<!DOCTYPE[^[>]*(?:\[[\s\S]*?\]\s*)?>|\s)*<([A-Za-z_][\w.:-]*)/.exec(
      body,
    )?.[1];
  if (body.startsWith('<') && root) {
    const local = root.split(':').at(-1) ?? root;
    if (local === 'device' || local === 'component')
      return {
        kind: 'register file',
        title: `a register description (${local === 'device' ? 'CMSIS-SVD' : 'IP-XACT'})`,
      };
    if (/^html$/i.test(local))
      return { kind: 'other', title: 'a web page', instead: 'copy the table on it and paste it' };
    return {
      kind: 'other',
      title: `an XML file with "${root}"`,
      instead: 'CMSIS-SVD, IP-XACT, SystemRDL or a table is needed',
    };
  }
  const claimed = /\.(xlsx|xlsm|xls|ods|pdf|zip|docx|png|jpe?g|gif)$/i.exec(name)?.[1];
  if (claimed)
    return {
      kind: 'other',
      title: `a text, though its name ends in .${claimed}`,
      instead: 'rename it to .csv or .txt if it holds a table',
    };
  if (isRdl(name, text)) return { kind: 'register file', title: 'a register description (SystemRDL)' };
  if (isPartText(name, text)) return { kind: 'part text', title: "a part's text" };
  if (/^[{[]/.test(body) && /^[{[]\s*(["{[\]}]|-?\d)/.test(body))
    return { kind: 'json', title: 'a JSON file' };
  if (/^\s*\[IBIS\s+Ver\]/im.test(text)) return { kind: 'ibis', title: 'an IBIS model' };
  if (
    /\.(bsd|bsdl)$/i.test(name) ||
    /^\s*entity\s+\w+\s+is\b/im.test(text) ||
    /\bPIN_MAP_STRING\b/i.test(text)
  )
    return { kind: 'bsdl', title: 'a boundary-scan description (BSDL)' };
  return { kind: 'text', title: 'a text' };
}
