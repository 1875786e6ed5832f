import { largest } from '../../base/lists';
import { printCsv } from '../../base/text/csv';
import { writtenText } from '../../description/part-text/written';
import type { RecipeFile } from '../../description/recipe-file';
import type { DeviceDescription, Pad, PadFunction } from '../../description/types';

/** A description's tables as text, in the layout that `readDeviceFiles` knows without being told. */
export interface PrintedTables {
  pinout: string;
  functions: string;
  /** All that the tables do not hold, as a part's text. */
  recipe: string;
}

/** Description → `pinout.csv`, `functions.csv` and `recipe.part`. Reading them gives the same description again. */
export function printTables(description: DeviceDescription): PrintedTables {
  return {
    pinout: printCsv(pinoutRows(description)),
    functions: printCsv(functionRows(description)),
    recipe: recipeTextOf(description),
  };
}

const PAD_COLUMNS = [
  'pad',
  'kind',
  'port',
  'bit',
  'supply',
  'class',
  'alias',
  'boot',
  'boot note',
  'boot signals',
  'notes',
] as const;

/** Names of numeric columns in the order in which they first appear. */
const numberNames = (items: readonly { columns?: Record<string, number> }[]): string[] => [
  ...new Set(items.flatMap((item) => Object.keys(item.columns ?? {}))),
];

const words = (list: readonly string[] | undefined): string => (list ?? []).join(' ');
const pageOf = (item: Pad | PadFunction): string => String(item.source?.page ?? '');

function pinoutRows({ pads, packages }: DeviceDescription): string[][] {
  const numbers = numberNames(pads);
  const pages = pads.some((pad) => pad.source?.page !== undefined);
  const pins = packages.map((one) => {
    const byPad = new Map<string, string[]>();
    for (const [pin, pad] of Object.entries(one.pins)) byPad.set(pad, [...(byPad.get(pad) ?? []), pin]);
    return byPad;
  });
  const header = [...PAD_COLUMNS, ...(pages ? ['page'] : []), ...numbers, ...packages.map((one) => one.id)];
  const rows = pads.map((pad) => [
    pad.id,
    pad.kind,
    pad.port ?? '',
    String(pad.bit ?? ''),
    pad.supply ?? '',
    pad.class ?? '',
    words(pad.aliases),
    pad.boot?.kind ?? '',
    pad.boot?.note ?? '',
    words(pad.boot?.signals),
    words(pad.notes),
    ...(pages ? [pageOf(pad)] : []),
    ...numbers.map((name) => String(pad.columns?.[name] ?? '')),
    ...pins.map((byPad) => words(byPad.get(pad.id)) || '-'),
  ]);
  return [header, ...rows];
}

/** Above so many codes a wide table is no table any more. */
const MOST_CODE_COLUMNS = 32;

function functionRows(description: DeviceDescription): string[][] {
  return isWide(description) ? wideRows(description) : longRows(description);
}

/** A wide table has no room for numbers of single functions or notes that are no footnote marks, and has an order of its own. */
function isWide({ functions }: DeviceDescription): boolean {
  const order = new Map([...new Set(functions.map((fn) => fn.pad))].map((pad, index) => [pad, index]));
  const rank = (fn: PadFunction): number =>
    (order.get(fn.pad) ?? 0) * 100_000 + (fn.mux === null ? 99_999 : fn.mux);
  return functions.every((fn, index) => {
    const before = functions[index - 1];
    if (before && rank(before) > rank(fn)) return false;
    if (before && before.pad === fn.pad && before.source?.page !== fn.source?.page) return false;
    if (fn.itself) return false;
    if (fn.columns && Object.keys(fn.columns).length > 0) return false;
    if ((fn.notes ?? []).some((note) => !/^\d{1,2}$/.test(note))) return false;
    return fn.mux === null || fn.mux < MOST_CODE_COLUMNS;
  });
}

function wideRows({ pads, functions }: DeviceDescription): string[][] {
  const highest = Math.max(-1, largest(functions.map((fn) => fn.mux ?? -1)));
  const codes = Array.from({ length: highest + 1 }, (_, code) => code);
  const pages = functions.some((fn) => fn.source?.page !== undefined);
  // Pads without a function have an empty row, so that one sees that nothing was forgotten.
  const io = pads.filter((pad) => pad.kind === 'io').map((pad) => pad.id);
  const rows = [...new Set([...functions.map((fn) => fn.pad), ...io])].map((pad) => {
    const own = functions.filter((fn) => fn.pad === pad);
    const notes = sharedNotes(own);
    const cell = (mux: number | null): string =>
      own
        .filter((fn) => fn.mux === mux)
        .map((fn) => fn.signal + marks((fn.notes ?? []).filter((note) => !notes.includes(note))))
        .join(' ') || '-';
    const page = pages ? [own[0] ? pageOf(own[0]) : ''] : [];
    return [pad, ...codes.map(cell), cell(null), words(notes), ...page];
  });
  const header = ['pad', ...codes.map((code) => `F${code}`), 'AN', 'notes', ...(pages ? ['page'] : [])];
  return [header, ...rows];
}

const marks = (notes: readonly string[]): string => notes.map((note) => `(${note})`).join('');

/** Notes that hold for all functions of a row; the others are marks on their signals. */
const sharedNotes = (functions: readonly PadFunction[]): string[] =>
  (functions[0]?.notes ?? []).filter((note) => functions.every((fn) => fn.notes?.includes(note)));

function longRows({ pads, functions }: DeviceDescription): string[][] {
  const io = pads.filter((pad) => pad.kind === 'io').map((pad) => pad.id);
  const numbers = numberNames(functions);
  const pages = functions.some((fn) => fn.source?.page !== undefined);
  const rows: string[][] = [];
  for (let at = 0; at < functions.length; ) {
    const fn = functions[at] as PadFunction;
    const everywhere = onAllPads(functions, at, io);
    rows.push([
      everywhere ? '*' : fn.pad,
      fn.signal,
      fn.itself ? 'itself' : fn.mux === null ? '-' : String(fn.mux),
      words(fn.notes),
      ...numbers.map((name) => String(fn.columns?.[name] ?? '')),
      ...(pages ? [pageOf(fn)] : []),
    ]);
    at += everywhere ? io.length : 1;
  }
  return [['pad', 'signal', 'mux', 'notes', ...numbers, ...(pages ? ['page'] : [])], ...rows];
}

/** Whether a run of functions from here on is one signal on every I/O pad, in order: a row with `*`. */
function onAllPads(functions: readonly PadFunction[], at: number, io: readonly string[]): boolean {
  const first = functions[at];
  if (!first || io.length < 3) return false;
  const rest = ({ pad: _pad, source: _source, ...fn }: PadFunction): string => JSON.stringify(fn);
  const same = rest(first);
  return io.every((pad, index) => {
    const fn = functions[at + index];
    return fn !== undefined && fn.pad === pad && rest(fn) === same;
  });
}

/** All that the tables do not hold, as the part's text: as it was written, where that is known. */
export const recipeTextOf = (description: DeviceDescription): string =>
  writtenText(recipeFileOf(description), description.text);

/** All that the tables do not hold. */
export function recipeFileOf(description: DeviceDescription): RecipeFile {
  const { id, name, maker, summary, source, packages } = description;
  const {
    supplies,
    padClasses,
    peripheralKinds,
    peripherals,
    forced,
    interrupts,
    notes,
    recipe,
    unconfirmed,
  } = description;
  return {
    format: 'mavrek-recipe/3',
    device: { id, name, maker, summary, source },
    packages: packages.map(({ pins: _table, ...one }) => one),
    supplies,
    padClasses,
    peripheralKinds,
    peripherals,
    forced,
    interrupts,
    notes,
    recipe,
    ...(unconfirmed ? { unconfirmed } : {}),
  };
}
