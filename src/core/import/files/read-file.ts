import { LIMITS, tooLarge } from '../../base/limits';
import { fail, ok, type Result } from '../../base/result';
import type { RegisterFile } from '../../description/register-file';
import { readBsdl } from '../bsdl/read-bsdl';
import { readRdl } from '../rdl/read-rdl';
import { isRdl } from '../rdl/recognise';
import { readIpXact } from '../svd/read-ipxact';
import { openSvd } from '../svd/read-svd';
import { readXml } from '../svd/xml';
import type { Grid } from '../tables/grid';
import { readText, type TextLayout } from '../tables/read-text';
import { decodeText } from './encoding';
import { readIbis } from './ibis';
import { readOds } from './ods';
import { type Sheet, unpack } from './sheets';
import { namesInZip, partFilesIn, type Sniffed, sniff } from './sniff';
import { readXlsx } from './xlsx';

/** A file as read: its name for messages, and its text. */
export interface TextFile {
  name: string;
  text: string;
}

/** One of the tables that a file holds. */
export interface FoundTable {
  title: string;
  grid: Grid;
  /** Hidden in the document. */
  hidden?: true;
}

/** What is in a file that an engineer has. */
export type FileContent =
  | { kind: 'tables'; name: string; what: string; tables: FoundTable[]; text?: string }
  | { kind: 'registers'; name: string; registers: RegisterFile }
  /** A description in one file, or two tables and a recipe, which are checked where schemas can be compiled. */
  | { kind: 'part'; name: string; files: TextFile[] }
  /** Pages are read by a library that the core does not have. */
  | { kind: 'pdf'; name: string };

export interface ReadOptions {
  layout?: TextLayout;
  onProgress?: (done: number) => void;
}

/** A file of any kind → what is in it. What is of no use here is named for what it is. */
export function readFile(name: string, bytes: Uint8Array, options: ReadOptions = {}): Result<FileContent> {
  const what = sniff(name, bytes);
  switch (what.kind) {
    case 'pdf':
      return ok({ kind: 'pdf', name });
    case 'xlsx':
      return tablesOf(name, what, readXlsx(name, bytes));
    case 'ods':
      return tablesOf(name, what, readOds(name, bytes));
    case 'part zip':
      return readPartZip(name, bytes);
    case 'other':
      return fail({ place: name, message: `${what.title}: ${what.instead ?? 'it is not read'}` });
    default:
      // The largest text that is read is a register description; others have lower limits of their own.
      if (bytes.length > 2 * LIMITS.registerFileCharacters)
        return fail({ place: name, message: `the file ${tooLarge('registerFileCharacters')}` });
      return readTextFile(name, decodeText(bytes).text, what, options);
  }
}

function tablesOf(name: string, what: Sniffed, sheets: Result<Sheet[]>): Result<FileContent> {
  if (!sheets.ok) return sheets;
  const tables = sheets.value.map(
    ({ title, hidden, grid }): FoundTable => ({ title, grid, ...(hidden ? { hidden: true } : {}) }),
  );
  return ok({ kind: 'tables', name, what: what.title, tables });
}

function readTextFile(name: string, text: string, what: Sniffed, options: ReadOptions): Result<FileContent> {
  const one = (read: Result<Grid>): Result<FileContent> =>
    read.ok
      ? ok({ kind: 'tables', name, what: what.title, tables: [{ title: name, grid: read.value }] })
      : read;
  switch (what.kind) {
    case 'bsdl':
      return one(readBsdl(name, text));
    case 'ibis': {
      const components = readIbis(name, text);
      if (!components.ok) return components;
      const tables = components.value.map(({ name: title, grid }): FoundTable => ({ title, grid }));
      return ok({ kind: 'tables', name, what: what.title, tables });
    }
    case 'register file': {
      const registers = readRegisters(name, text, options.onProgress);
      return registers.ok ? ok({ kind: 'registers', name, registers: registers.value }) : registers;
    }
    case 'json':
    case 'part text':
      return ok({ kind: 'part', name, files: [{ name, text }] });
    default: {
      const grid = readText(name, text, options.layout);
      return grid.ok
        ? ok({ kind: 'tables', name, what: what.title, tables: [{ title: name, grid: grid.value }], text })
        : grid;
    }
  }
}

/** CMSIS-SVD or IP-XACT, by the outermost element, or SystemRDL. */
export function readRegisters(
  name: string,
  text: string,
  onProgress: (done: number) => void = () => undefined,
): Result<RegisterFile> {
  if (isRdl(name, text)) return readRdl(name, text);
  const root = /<(?:[A-Za-z_][\w.-]*:)?(device|component)[\s>]/.exec(text)?.[1];
  if (root === 'component') {
    const reading = readXml(name, text);
    while (reading.step()) onProgress(reading.done());
    return readIpXact(name, reading);
  }
  const reading = openSvd(name, text);
  while (reading.step()) onProgress(reading.done());
  return reading.result();
}

/** A part as Mavrek exports it: two tables and a recipe, or a description. */
function readPartZip(name: string, bytes: Uint8Array): Result<FileContent> {
  const wanted = partFilesIn(namesInZip(bytes)) ?? [];
  const files = unpack(name, bytes, (path) => wanted.includes(path));
  if (!files.ok) return files;
  const size = [...files.value.values()].reduce((sum, file) => sum + file.length, 0);
  if (size > LIMITS.partRequestBytes) return fail({ place: name, message: tooLarge('partRequestBytes') });
  const texts = wanted.map(
    (path): TextFile => ({
      name: `${name}, ${path}`,
      text: decodeText(files.value.get(path) ?? new Uint8Array()).text,
    }),
  );
  return ok({ kind: 'part', name, files: texts });
}
