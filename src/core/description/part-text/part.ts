import { type Cursor, Mistake } from './cursor';
import {
  constant,
  either,
  entry,
  flag,
  type Json,
  key,
  type LineForm,
  optional,
  type Piece,
  repeated,
  sequence,
  within,
} from './forms';
import { HARDWARE } from './hardware';
import { SETTINGS_LINES } from './settings';
import { columns, notes, source, why } from './shared';
import { entriesAt, itemsOf, properties } from './targets';
import {
  commas,
  entries,
  expression,
  mapOf,
  names,
  newName,
  number,
  oneOf,
  quantity,
  runsOf,
  separated,
  several,
  text,
  the,
  type Value,
  word,
  words,
} from './values';

/** All lines of a part's text, in the order in which they are printed. They may stand in any order. */

const milliamps = quantity('mA');
const volts = quantity('V');
const hertz = quantity('Hz', true);
const ohms = quantity('Ohm', true);

const sources = sequence('sources', key('sourceMilliamps', milliamps));
const sinks = sequence('sinks', key('sinkMilliamps', milliamps));
const sourcesAndSinks = sequence('sources and sinks', key('sourceMilliamps', milliamps));

/** What it gives and takes, in one where that is the same. */
const currents: Piece = {
  shows: `${sourcesAndSinks.shows} | [${sources.shows}] [${sinks.shows}]`,
  lead: 'sources',
  read(cursor, into) {
    if (sourcesAndSinks.read(cursor, into)) {
      into.sinkMilliamps = into.sourceMilliamps;
      return true;
    }
    const gives = sources.read(cursor, into);
    return sinks.read(cursor, into) || gives;
  },
  print(from) {
    if (from.sourceMilliamps !== undefined && from.sourceMilliamps === from.sinkMilliamps)
      return sourcesAndSinks.print(from);
    const all = [sources, sinks].flatMap((piece) => piece.print(from) ?? []);
    return all.length === 0 ? undefined : all.join(' ');
  },
};

/** Levels that an input is sure to read, as parts of its supply. */
const thresholds: Piece = {
  ...sequence(
    'reads',
    optional(sequence('low below', key('readsLowBelow', number))),
    optional(sequence('high above', key('readsHighAbove', number))),
  ),
  print({ readsLowBelow: low, readsHighAbove: high }) {
    const all = [
      ...(low === undefined ? [] : [`low below ${low}`]),
      ...(high === undefined ? [] : [`high above ${high}`]),
    ];
    return all.length === 0 ? undefined : ['reads', ...all].join(' ');
  },
};
const upTo = sequence('up to', key('highestHertz', hertz));

const pitch = optional(sequence('pitch', key('pitchMillimetres', quantity('mm'))));
const exposed = optional(flag('exposedPad', 'exposed pad'));
const shape: Piece = within(
  'shape',
  either(
    constant('kind', 'quad', sequence('quad', key('pins', number), pitch, exposed)),
    constant('kind', 'dual-row', sequence('dual row', key('pins', number), pitch, exposed)),
    constant(
      'kind',
      'ball-grid',
      sequence('balls', key('columns', number), 'columns', pitch, 'rows', key('rows', words)),
    ),
  ),
);

/** Lines of a kind: `TX DE out, RX in (pull up)`; names in a row have what stands after the last of them. */
const DIRECTIONS = ['in', 'out', 'both', 'analog'];
const kindLines: Value = {
  shows: '(NAME … "in" | "out" | "both" | "analog" [(SETTING VALUE, …)], …)',
  read(cursor) {
    if (!cursor.take('(')) return undefined;
    const lines: Json = Object.create(null);
    separated(cursor, () => {
      const { at } = cursor;
      const all = names.read(cursor) as string[];
      if (all.length === 0) return undefined;
      const direction = all.pop() as string;
      if (!DIRECTIONS.includes(direction) || all.length === 0)
        throw new Mistake(`expected names and their direction, which is ${DIRECTIONS.join(', ')}`, at);
      const defaults = mapOf(word).read(cursor);
      for (const name of all) {
        if (name in lines) throw new Mistake(`line ${name} stands here twice`, at);
        lines[name] = { direction, ...(defaults ? { defaults } : {}) };
        cursor.marks.note(lines, name, at);
      }
      return true;
    });
    cursor.expect(')');
    return lines;
  },
  print(given) {
    const lines = Object.entries(given as Record<string, { direction: string; defaults?: Json }>);
    const tail = ({ direction, defaults }: { direction: string; defaults?: Json }): string =>
      defaults ? `${direction} ${mapOf(word).print(defaults)}` : direction;
    const groups = grouped(lines, ([, line]) => tail(line));
    return `(${commas(groups.map(({ items, by }) => `${runsOf(items.map(([name]) => name)).join(' ')} ${by}`))})`;
  },
};

/** Runs of items that agree in something. */
function grouped<T>(items: readonly T[], of: (item: T) => string): { by: string; items: T[] }[] {
  const groups: { by: string; items: T[] }[] = [];
  for (const item of items) {
    const by = of(item);
    const last = groups.at(-1);
    if (last?.by === by) last.items.push(item);
    else groups.push({ by, items: [item] });
  }
  return groups;
}

const dividers: Value = {
  shows: 'NUMBER..NUMBER ["step" NUMBER] | NUMBER …',
  read(cursor) {
    const { at } = cursor;
    const run = cursor.readWord();
    const match = /^(\d+)[.]{2}(\d+)$/.exec(run ?? '');
    if (match) {
      const step = cursor.take('step') ? cursor.readNumber() : undefined;
      return { from: Number(match[1]), to: Number(match[2]), ...(step === undefined ? {} : { step }) };
    }
    cursor.at = at;
    if (cursor.take('from')) {
      const from = cursor.readNumber();
      cursor.expect('to');
      const to = cursor.readNumber();
      const step = cursor.take('step') ? cursor.readNumber() : undefined;
      return { from, to, ...(step === undefined ? {} : { step }) };
    }
    const list = several(number).read(cursor) as number[];
    return list.length === 0 ? undefined : list;
  },
  print(given) {
    if (Array.isArray(given)) return several(number).print(given);
    const { from, to, step } = given as { from: number; to: number; step?: number };
    const whole = Number.isSafeInteger(from) && Number.isSafeInteger(to);
    return `${whole ? `${from}..${to}` : `from ${from} to ${to}`}${step === undefined ? '' : ` step ${step}`}`;
  },
};

const rate: Piece = within(
  'rate',
  sequence(
    'rate',
    optional(sequence('clock', key('clockHertz', hertz))),
    optional(sequence('per', key('per', number))),
    'dividers',
    key('dividers', dividers),
    optional(sequence('lines', key('lines', words))),
  ),
);

/** What a serial peripheral can be set to. */
const FORMATS: readonly Piece[] = [
  sequence('data bits', key('dataBits', several(number))),
  sequence('parity', key('parity', words)),
  sequence('stop bits', key('stopBits', several(number))),
  sequence('modes', key('modes', several(number))),
  sequence('bit orders', key('bitOrders', words)),
  sequence('speed classes', key('speedClasses', words)),
];
const formats: Piece = within('formats', {
  shows: `formats (${FORMATS.map((piece) => piece.shows).join(', ')})`,
  lead: 'formats',
  read(cursor, into) {
    if (!cursor.take('formats')) return false;
    cursor.expect('(');
    separated(cursor, () => (FORMATS.some((piece) => piece.read(cursor, into)) ? true : undefined));
    cursor.expect(')');
    return true;
  },
  print: (from) => `formats (${commas(FORMATS.flatMap((piece) => piece.print(from) ?? []))})`,
});

/** Instances, those that follow each other and are of one kind together: `UART1..UART8 SPI1 UART (clock 50 MHz)`. */
const FACTS: readonly Piece[] = [sequence('clock', key('clockHertz', hertz)), upTo, columns, source];
const peripherals: Value = {
  shows:
    'NAME … KIND [(["clock" NUMBER Hz], ["up to" NUMBER Hz], ["columns" (NAME NUMBER, …)], [SOURCE])], …',
  read(cursor) {
    const all: Json[] = [];
    const list = separated(cursor, () => {
      const { at } = cursor;
      const run = names.read(cursor) as string[];
      const kind = run.pop();
      if (kind === undefined) return undefined;
      if (run.length === 0) throw new Mistake(`expected names and then their kind, found "${kind}"`, at);
      const facts: Json = Object.create(null);
      if (cursor.take('(')) {
        separated(cursor, () => (FACTS.some((piece) => piece.read(cursor, facts)) ? true : undefined));
        cursor.expect(')');
      }
      for (const id of run) {
        all.push({ id, kind, ...facts });
        cursor.marks.note(all, all.length - 1, at);
      }
      return true;
    });
    return list.length === 0 ? undefined : all;
  },
  print(given) {
    const tail = (item: Json): string => {
      const facts = FACTS.flatMap((piece) => piece.print(item) ?? []);
      return `${word.print(item.kind)}${facts.length === 0 ? '' : ` (${facts.join(', ')})`}`;
    };
    return commas(
      grouped(given as Json[], tail).map(
        ({ by, items }) => `${runsOf(items.map(({ id }) => String(id))).join(' ')} ${by}`,
      ),
    );
  },
};

const pins = entries(
  'PIN PAD',
  (cursor) => {
    const pin = cursor.readWord();
    const pad = pin === undefined ? undefined : cursor.readName('pad', false);
    if (pin !== undefined && pad === undefined) cursor.refuse(`the pad of pin ${pin}`);
    return pin === undefined ? undefined : [pin, pad];
  },
  (pin, pad: string) => `${word.print(pin)} ${word.print(pad)}`,
  null,
);

const mux: Piece = {
  shows: 'CODE | "none" | "itself"',
  read(cursor, into) {
    if (cursor.take('itself')) into.itself = true;
    else if (!cursor.take('none')) return key('mux', number).read(cursor, into);
    into.mux = null;
    return true;
  },
  print: (from) => (from.mux === null ? (from.itself ? 'itself' : 'none') : String(from.mux)),
};

/** What a correction finds, and what it puts there. */
const textOrNothing: Value = {
  shows: 'TEXT | "nothing"',
  read: (cursor: Cursor) => (cursor.take('nothing') ? null : cursor.readText()),
  print: (given) => (given === null ? 'nothing' : text.print(given)),
};

export const PART_LINES: readonly LineForm[] = [
  {
    keyword: 'part',
    says: 'the part',
    example: 'part tarn-t4 "Tarn T4", maker "Tarn", summary "8-bit controller"',
    head: [key('id', word), key('name', text)],
    options: [sequence('maker', key('maker', text)), sequence('summary', key('summary', text)), source],
    target: properties('', ['id', 'name', 'maker', 'summary', 'source']),
  },
  ...SETTINGS_LINES,
  ...HARDWARE,
  {
    keyword: 'supply',
    says: 'a supply',
    example: 'supply VDD "supply" 3.3 V, lowest 3 V, highest 3.6 V, sources and sinks 100 mA',
    head: [key('id', newName('supply')), key('title', text), key('nominalVolts', volts)],
    options: [
      sequence('lowest', key('lowestVolts', volts)),
      sequence('highest', key('highestVolts', volts)),
      currents,
      source,
    ],
    target: itemsOf('supplies'),
  },
  {
    keyword: 'class',
    says: 'a class of pads',
    example: 'class std "standard", tolerates 5 V, sources and sinks 8 mA, pull 40 kOhm',
    head: [key('$key', newName('class')), key('title', text)],
    options: [
      sequence('tolerates', key('toleratesVolts', volts)),
      currents,
      entry('byDrive', sequence('drive', key('$key', the.value), currents)),
      sequence('pull', key('pullOhms', ohms)),
      upTo,
      entry('bySpeed', sequence('speed', key('$key', the.value), upTo)),
      thresholds,
      sequence('at reset', key('atReset', oneOf('floating', 'pull-up', 'pull-down'))),
      repeated(
        'lacks',
        sequence('lacks', key('setting', the.setting), key('values', several(the.value)), key('why', text)),
      ),
      source,
    ],
    target: entriesAt('padClasses'),
  },
  {
    keyword: 'kind',
    says: 'a kind of peripheral',
    example: 'kind UART "serial" (TX out, RX in (pull up)), needs TX',
    head: [key('$key', newName('kind')), key('title', text), key('lines', kindLines)],
    options: [
      sequence('needs', key('needs', words)),
      sequence(
        'serves',
        key(
          'serves',
          oneOf('analog in', 'analog out', 'comparator', 'crystal', 'wake-up', 'clock out', 'debug', 'pwm'),
        ),
      ),
      rate,
      formats,
    ],
    target: entriesAt('peripheralKinds'),
  },
  {
    keyword: 'peripherals',
    says: 'the peripherals',
    example: 'peripherals UART1..UART4 UART, SPI1 SPI (up to 8 MHz)',
    head: [key('peripherals', peripherals)],
    options: [],
    target: properties('', ['peripherals']),
  },
  {
    keyword: 'interrupts',
    says: 'the interrupt lines',
    example: 'interrupts port, number 16 + p, why "chapter 10"',
    head: [key('lines', oneOf('pad', 'bit', 'port', 'listed'))],
    options: [
      sequence('count', key('count', number)),
      sequence('number', key('number', expression)),
      why,
      source,
    ],
    children: [
      {
        keyword: 'line',
        says: 'an interrupt line',
        example: 'line EXT0, pads A0 B0, number 6',
        head: [key('name', word)],
        options: [
          sequence('pads', key('pads', names)),
          sequence('ports', key('ports', several(the.port))),
          sequence('number', key('number', number)),
          flag('together', 'together'),
        ],
        target: itemsOf('listed'),
      },
    ],
    target: properties('interrupts', ['lines', 'count', 'number', 'why', 'source', 'listed']),
  },
  {
    keyword: 'package',
    says: 'a package',
    example: 'package q48 "quad 48" quad 48 pitch 0.5 mm, limit 100 mA',
    head: [key('id', newName('package')), key('name', text), shape],
    options: [sequence('limit', key('highestMilliamps', milliamps)), notes, source],
    children: [
      {
        keyword: 'removes',
        says: 'what a package takes away',
        example: 'removes signals UART2.*, note 3, why "note 3"',
        head: [],
        options: [
          sequence('signals', key('signals', several(the.signal))),
          sequence('pads', key('pads', several(the.pad))),
          upTo,
          sequence('note', key('note', the.note)),
          why,
          source,
        ],
        target: itemsOf('removes'),
      },
      {
        keyword: 'pins',
        says: 'the pins of a package',
        example: 'pins 1 A0, 2 A1',
        head: [key('pins', pins)],
        options: [],
        target: properties('', ['pins']),
      },
    ],
    target: itemsOf('packages'),
  },
  {
    keyword: 'note',
    says: 'a note',
    example: 'note 1 "A3 is an input only"',
    head: [key('$key', newName('note')), key('$value', text)],
    options: [],
    target: entriesAt('notes'),
  },
  {
    keyword: 'forced',
    says: 'a pad that takes others along',
    example: 'forced M3 OSC.XI takes M4, why "note 3"',
    head: [key('pad', the.pad), key('signal', the.signal), sequence('takes', key('takes', several(the.pad)))],
    options: [why, source],
    target: itemsOf('forced'),
  },
  {
    keyword: 'unconfirmed',
    says: 'what nobody has confirmed',
    example: 'unconfirmed "gate A" says "gate of A is bit 2" rests on "its name"',
    head: [key('id', text), sequence('says', key('says', text)), sequence('rests on', key('rests', text))],
    options: [],
    target: itemsOf('unconfirmed'),
  },
  {
    keyword: 'pad',
    says: 'a pad',
    example: 'pad A0 io, port A, bit 0, supply VDD, class std',
    head: [key('id', newName('pad')), key('kind', word)],
    options: [
      sequence('port', key('port', the.port)),
      sequence('bit', key('bit', number)),
      sequence('aliases', key('aliases', words)),
      sequence('supply', key('supply', the.supply)),
      sequence('class', key('class', the.class)),
      within(
        'boot',
        sequence(
          'boot',
          key('kind', oneOf('debug', 'strap', 'clock', 'reset')),
          key('note', text),
          optional(sequence('signals', key('signals', words))),
        ),
      ),
      notes,
      columns,
      source,
    ],
    target: itemsOf('pads'),
  },
  {
    keyword: 'function',
    says: 'a function of a pad',
    example: 'function A0 UART1.TX 1',
    head: [key('pad', the.pad), key('signal', the.signal), mux],
    options: [notes, columns, source],
    target: itemsOf('functions'),
  },
  {
    keyword: 'correction',
    says: 'a correction',
    example:
      'correction "c1" of pad A0 class, from "std", to "strong", why "erratum 2", by "R. Lind", at "2026-11-25"',
    head: [key('id', text), sequence('of', key('what', several(word)))],
    options: [
      sequence('from', key('from', textOrNothing)),
      sequence('to', key('to', textOrNothing)),
      why,
      sequence('by', key('who', text)),
      sequence('at', key('when', text)),
    ],
    target: itemsOf('corrections'),
  },
];
