import type { randomFrom } from '../random';
import type { TruePad, TruePart } from './truth';

type Random = ReturnType<typeof randomFrom>;

/** A table as a document has it, before it is put into a form: rows with what stands around them. */
export interface PrintedTable {
  title: string;
  /** One or two rows; a text of the upper row stands over several columns, which are empty. */
  head: string[][];
  rows: PrintedRow[];
  notes: Record<string, string>;
}

export type PrintedRow =
  | { kind: 'data'; cells: string[] /** Columns whose cell belongs to the row above. */; above?: number[] }
  /** The rest of the row above: cells that were too long. */
  | { kind: 'rest'; cells: string[] }
  | { kind: 'title'; text: string }
  | { kind: 'head' }
  | { kind: 'empty' };

/** What a form can carry: marks that are raised, cells that are merged, several lines. */
export interface Habits {
  merged: boolean;
  raised: boolean;
  wrapped: boolean;
}

const SUPERSCRIPTS = '⁰¹²³⁴⁵⁶⁷⁸⁹';
const KIND_WORDS: Record<TruePad['kind'], readonly string[]> = {
  io: ['I/O', 'IO', 'B', 'Bidir'],
  supply: ['S', 'P', 'Power'],
  ground: ['G', 'GND', 'S'],
  reset: ['RST', 'I/O', 'I'],
  clock: ['CLK', 'I', 'I/O'],
  'no-connect': ['NC'],
};

const marksOf = (random: Random, pad: TruePad, raised: boolean): string =>
  pad.notes.map((one) => (raised && random.int(2) === 0 ? SUPERSCRIPTS[Number(one)] : `(${one})`)).join('');

const nameOf = (random: Random, pad: TruePad): string =>
  pad.alias === undefined
    ? pad.id
    : random.pick([`${pad.id}/${pad.alias}`, `${pad.id}-${pad.alias}`, `${pad.id} (${pad.alias})`]);

/** The pinout table of a part, with the irregularities of documents. */
export function pinoutTable(random: Random, part: TruePart, habits: Habits): PrintedTable {
  const nothing = random.pick(['-', '', '–']);
  const words = Object.fromEntries(
    Object.entries(KIND_WORDS).map(([kind, list]) => [kind, random.pick(list)]),
  ) as Record<TruePad['kind'], string>;
  const withPort = random.int(3) === 0;
  const twoRows = random.int(2) === 0 && part.packages.length > 1;
  const padHead = random.pick(['Pin name', 'Pad', 'Name', 'Pin name (function after reset)', 'Signal name']);
  const columns = [
    ...(withPort ? ['Port', 'Bit'] : []),
    padHead,
    random.pick(['Type', 'Pin type', 'I/O type']),
    ...part.packages.map((one) => one.title),
    random.pick(['Supply', 'Power domain', 'I/O supply']),
  ];
  const first = (withPort ? 2 : 0) + 2;
  const upper = columns.map((text, i) =>
    i === first ? 'Pin number' : i > first && i < first + part.packages.length ? '' : text,
  );
  const lower = columns.map((text, i) => (i >= first && i < first + part.packages.length ? text : ''));
  const rows: PrintedRow[] = [];
  let port: string | undefined;
  const groups = random.int(2) === 0;
  const repeat = 20 + random.int(60);
  part.pads.forEach((pad, index) => {
    if (index > 0 && index % repeat === 0) {
      if (random.int(2) === 0) rows.push({ kind: 'empty' });
      rows.push({ kind: 'head' });
      port = undefined;
    }
    if (groups && pad.port !== port && pad.port !== undefined)
      rows.push({ kind: 'title', text: `Port ${pad.port}${random.int(2) === 0 ? ' (continued)' : ''}` });
    if (pad.kind === 'supply' && port !== undefined && groups)
      rows.push({ kind: 'title', text: 'Power supply and system pins' });
    const merged = habits.merged && withPort && pad.port !== undefined && pad.port === port;
    port = pad.port;
    const lists = part.packages.map((one) => pad.pins[one.id] ?? []);
    const long = habits.wrapped ? 3 : 1000;
    const cells = [
      ...(withPort ? [pad.port ?? '', pad.bit === undefined ? '' : String(pad.bit)] : []),
      nameOf(random, pad) + marksOf(random, pad, habits.raised),
      words[pad.kind],
      ...lists.map((list) => list.slice(0, long).join(random.pick([' ', ', '])) || nothing),
      pad.supply ?? nothing,
    ];
    rows.push({ kind: 'data', cells, ...(merged ? { above: [0] } : {}) });
    for (let at = long; lists.some((list) => list.length > at); at += long)
      rows.push({
        kind: 'rest',
        cells: [
          ...(withPort ? ['', ''] : []),
          '',
          '',
          ...lists.map((list) => list.slice(at, at + long).join(', ')),
          '',
        ],
      });
  });
  return {
    title: `Table ${1 + random.int(30)}. Pinout`,
    head: twoRows ? [upper, lower] : [columns],
    rows,
    notes: part.notes,
  };
}

/** The function table of a part: wide or long. */
export function functionTable(random: Random, part: TruePart, habits: Habits): PrintedTable {
  const io = part.pads.filter((pad) => pad.kind === 'io');
  const codes = [...new Set(io.flatMap((pad) => pad.functions.flatMap((one) => one.code ?? [])))].sort(
    (a, b) => a - b,
  );
  const write = (signal: string): string => (dotted ? signal : signal.replace('.', '_'));
  const dotted = random.int(2) === 0;
  const nothing = random.pick(['-', '', '–']);
  const rows: PrintedRow[] = [];
  const repeat = 25 + random.int(60);
  if (random.int(2) === 0) {
    const prefix = random.pick(['AF', 'F', 'ALT', 'Mux ']);
    const head = [
      'Pad',
      ...codes.map((code) => `${prefix}${code}`),
      random.pick(['Analog', 'Additional functions']),
    ];
    io.forEach((pad, index) => {
      if (index > 0 && index % repeat === 0) rows.push({ kind: 'head' });
      if (pad.bit === 0 && random.int(2) === 0) rows.push({ kind: 'title', text: `Port ${pad.port}` });
      const cell = (code: number | null): string =>
        pad.functions
          .filter((one) => one.code === code)
          .map((one) => write(one.signal))
          .join(', ') || nothing;
      const cells = [pad.id, ...codes.map(cell), cell(null)];
      const at = 1 + random.int(codes.length);
      const text = cells[at] ?? '';
      const cut = dotted ? text.indexOf('.') : text.indexOf('_');
      // A long word is broken behind what divides it.
      if (habits.wrapped && random.int(6) === 0 && cut > 0) {
        cells[at] = text.slice(0, cut + 1);
        rows.push({ kind: 'data', cells });
        rows.push({ kind: 'rest', cells: cells.map((_, i) => (i === at ? text.slice(cut + 1) : '')) });
      } else rows.push({ kind: 'data', cells });
    });
    return { title: 'Table 12. Alternate functions', head: [head], rows, notes: {} };
  }
  const head = [
    random.pick(['Pad', 'Pin name', 'Port pin']),
    'Signal',
    random.pick(['Code', 'Mux', 'Function code']),
  ];
  for (const pad of io)
    pad.functions.forEach((one, index) => {
      if (rows.length > 0 && rows.length % repeat === 0) rows.push({ kind: 'head' });
      const merged = habits.merged && index > 0 && rows.at(-1)?.kind === 'data';
      rows.push({
        kind: 'data',
        cells: [pad.id, write(one.signal), one.code === null ? '-' : String(one.code)],
        ...(merged ? { above: [0] } : {}),
      });
    });
  return { title: 'Table 13. Signals', head: [head], rows, notes: {} };
}
