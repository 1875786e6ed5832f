import { LIMITS, overLimit, tooLarge } from '../../base/limits';
import { append } from '../../base/lists';
import { collectProblems, type Problems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import { isBlank, isWordChar, type Meter, type Scanner, scan } from '../../base/text/scan';
import { portBitOf } from '../tables/cells';
import type { Grid } from '../tables/grid';

/** A port of the entity: which way it goes, and the indices of its bits where it is a vector of them. */
interface Port {
  mode: string;
  bits?: number[];
}

/**
 * The pin maps of a boundary-scan description (BSDL, IEEE 1149.1) as a pinout table: one row a pad, `kind` from the port's
 * mode, one column for each `PIN_MAP_STRING`. A vector of signals is as many pads; a vector of supply pins is one. From there it is imported like any other table. Reads the text once, in steps that
 * `meter` counts.
 */
export function readBsdl(name: string, text: string, meter: Meter = { steps: 0 }): Result<Grid> {
  if (text.length > LIMITS.tableCharacters)
    return fail({ place: name, message: `the file ${tooLarge('tableCharacters')}` });
  const problems = collectProblems();
  const file = readFile(name, withoutComments(text, meter), problems, meter);
  if (!file.entity)
    return fail({ place: name, message: 'this is no boundary-scan description: it has no entity' });
  const { ports, maps, taps } = file;
  if (ports.size === 0) problems.push({ place: name, message: 'the entity has no port list' });
  if (maps.length === 0 && problems.length === 0)
    problems.push({ place: name, message: 'there is no constant of type PIN_MAP_STRING' });
  if (maps.length > LIMITS.packages)
    problems.push({ place: name, message: overLimit('packages', maps.length) });
  const pads = new Set<string>();
  const unfolded = maps.slice(0, LIMITS.packages).map((map) => unfold(map, ports, name, problems));
  for (const pins of unfolded) for (const pad of pins.keys()) pads.add(pad);
  if (pads.size > LIMITS.tableRows)
    problems.push({ place: name, message: overLimit('tableRows', pads.size) });
  if (problems.length > 0) return failWith(problems.list());
  const ids = unfolded.map((_, i) => (maps[i]?.package ?? '').toLowerCase());
  const header = { line: 1, cells: ['pad', 'kind', ...ids] };
  const rows = [...pads].map((pad, index) => ({
    // Several pads may stand in one line of the file; rows of a table are told apart by theirs.
    line: index + 2,
    cells: [pad, kindFor(ports, taps, pad), ...unfolded.map((pins) => pins.get(pad)?.join(' ') ?? '-')],
  }));
  const roles = [
    'pad',
    'kind',
    ...ids.map((id, i) => `pin:${ids.indexOf(id) === i ? id : `${id}-${i + 1}`}`),
  ];
  return ok({ name, rows: [header, ...rows], known: { headerRow: 0, roles } });
}

/** Vectors of signals → a pad for each of their bits, in the order of their range, which is that of the pins. */
function unfold(
  { package: id, pins }: PinMap,
  ports: ReadonlyMap<string, Port>,
  name: string,
  problems: Problems,
): Map<string, string[]> {
  const pads = new Map<string, string[]>();
  for (const [pad, list] of pins) {
    const port = ports.get(pad.toUpperCase());
    if (!port?.bits || port.mode === 'linkage') {
      pads.set(pad, list);
      continue;
    }
    if (port.bits.length !== list.length)
      problems.push({
        place: `${name}, ${id}`,
        message: `port ${pad} has ${port.bits.length} bits and ${list.length} pins`,
      });
    port.bits.forEach((bit, i) => {
      // A number behind a number would run together.
      const own = list[i];
      if (own !== undefined && own.toUpperCase() !== 'OPEN' && own !== '-')
        pads.set(/\d$/.test(pad) ? `${pad}_${bit}` : `${pad}${bit}`, [own]);
    });
  }
  return pads;
}

/** Comments become blanks, so that places stay as they are. Texts in quotes, which end with their line, may hold two dashes. */
function withoutComments(text: string, meter: Meter): string {
  meter.steps += text.length;
  const pieces: string[] = [];
  let quoted = false;
  let kept = 0;
  for (let at = 0; at < text.length; at++) {
    const char = text[at];
    if (char === '"') quoted = !quoted;
    else if (char === '\n') quoted = false;
    else if (!quoted && char === '-' && text[at + 1] === '-') {
      let end = at;
      while (end < text.length && text[end] !== '\n') end++;
      pieces.push(text.slice(kept, at), ' '.repeat(end - at));
      kept = end;
      at = end - 1;
    }
  }
  pieces.push(text.slice(kept));
  return pieces.join('');
}

interface PinMap {
  package: string;
  pins: Map<string, string[]>;
}

interface BsdlFile {
  entity: boolean;
  /** Ports by their names in capitals. */
  ports: Map<string, Port>;
  /** Signals of the test access port, in capitals. */
  taps: Set<string>;
  maps: PinMap[];
}

/** Walks over the text from word to word; `port` and `constant` are read where they stand, all else is passed over. */
function readFile(name: string, text: string, problems: Problems, meter: Meter): BsdlFile {
  const file: BsdlFile = { entity: false, ports: new Map(), taps: new Set(), maps: [] };
  const scanner = scan(text, meter);
  const places = placesOf(name, text);
  while (!scanner.done()) {
    scanner.take((char) => !isWordChar(char) && char !== '"');
    if (scanner.peek() === '"') {
      scanner.skip();
      scanner.behind('"', '\n');
      continue;
    }
    const word = scanner.take(isWordChar).toLowerCase();
    if (word === 'entity' && !file.entity) file.entity = readEntity(scanner);
    else if (word === 'port' && file.ports.size === 0) readPorts(scanner, file.ports);
    else if (word === 'attribute') readAttribute(scanner, file.taps);
    else if (word === 'constant') readConstant(scanner, file.maps, problems, places);
  }
  return file;
}

/** Places in the order in which they are asked for: each line is counted once. */
function placesOf(name: string, text: string): (at: number) => string {
  let line = 1;
  let reached = 0;
  return (at) => {
    for (; reached < at; reached++) if (text[reached] === '\n') line++;
    return `${name}:${line}:1`;
  };
}

const blanks = (scanner: Scanner): string => scanner.take(isBlank);

function readEntity(scanner: Scanner): boolean {
  blanks(scanner);
  if (scanner.take(isWordChar) === '') return false;
  blanks(scanner);
  return scanner.word('is');
}

/** `TAP_SCAN_IN of TDI : signal is true;` Other attributes are passed over. */
function readAttribute(scanner: Scanner, taps: Set<string>): void {
  blanks(scanner);
  if (!/^tap_scan_(in|out|mode|reset|clock)$/i.test(scanner.take(isWordChar))) return;
  blanks(scanner);
  if (!scanner.word('of')) return;
  blanks(scanner);
  taps.add(scanner.take(isWordChar).toUpperCase());
}

/** `(PA0, PA1: inout bit; VDD: linkage bit_vector(1 to 4))` → ports by name. */
function readPorts(scanner: Scanner, ports: Map<string, Port>): void {
  blanks(scanner);
  if (scanner.peek() !== '(') return;
  scanner.skip();
  let depth = 1;
  let names: string[] = [];
  while (!scanner.done() && depth > 0) {
    const char = scanner.peek();
    if (char === '(') depth++;
    else if (char === ')') depth--;
    else if (depth === 1 && char === ';') names = [];
    else if (depth === 1 && char === ':') {
      scanner.skip();
      blanks(scanner);
      const mode = scanner.take(isWordChar).toLowerCase();
      blanks(scanner);
      const bits = scanner.word('bit_vector') ? readRange(scanner) : undefined;
      if (mode !== '')
        for (const port of names) ports.set(port.toUpperCase(), { mode, ...(bits ? { bits } : {}) });
      names = [];
      continue;
    } else if (isWordChar(char)) {
      const word = scanner.take(isWordChar);
      if (depth === 1) names.push(word);
      continue;
    }
    scanner.skip();
  }
}

/** `(0 to 15)`, `(15 downto 0)` → the indices in that order; undefined when it is no range. */
function readRange(scanner: Scanner): number[] | undefined {
  const isDigit = (char: string): boolean => char >= '0' && char <= '9';
  blanks(scanner);
  if (scanner.peek() !== '(') return undefined;
  scanner.skip();
  blanks(scanner);
  const from = Number(scanner.take(isDigit));
  blanks(scanner);
  const down = scanner.word('downto');
  if (!down) scanner.word('to');
  blanks(scanner);
  const to = Number(scanner.take(isDigit));
  blanks(scanner);
  if (scanner.peek() === ')') scanner.skip();
  const count = Math.abs(to - from) + 1;
  if (count > LIMITS.pins) return undefined;
  return Array.from({ length: count }, (_, i) => (down ? from - i : from + i));
}

function kindFor(ports: ReadonlyMap<string, Port>, taps: ReadonlySet<string>, pad: string): string {
  const upper = pad.toUpperCase();
  if (taps.has(upper) && portBitOf(upper) === undefined) return 'debug-only';
  const own = ports.get(upper) ?? ports.get(upper.replace(/_?\d{1,80}$/, ''));
  // Linkage pads are those that boundary scan leaves alone: what they are, their names say.
  return own?.mode === 'inout' ? 'io' : '-';
}

/** `constant D4 : PIN_MAP_STRING := "A0 : 1, " & "VDD : (3, 4)";` Other constants are passed over. */
function readConstant(
  scanner: Scanner,
  maps: PinMap[],
  problems: Problems,
  places: (at: number) => string,
): void {
  blanks(scanner);
  const id = scanner.take(isWordChar);
  blanks(scanner);
  if (id === '' || scanner.peek() !== ':') return;
  scanner.skip();
  blanks(scanner);
  if (!scanner.word('pin_map_string')) return;
  blanks(scanner);
  if (scanner.peek() !== ':' || scanner.peek(1) !== '=') return;
  scanner.skip(2);
  const map: PinMap = { package: id, pins: new Map() };
  // Quotes and ampersands only join the lines of one text.
  const gap = (): string => scanner.take((char) => isBlank(char) || char === '"' || char === '&');
  for (gap(); !scanner.done() && scanner.peek() !== ';'; gap()) {
    const start = scanner.at();
    if (!readEntry(scanner, map, gap)) {
      const near = scanner
        .slice(start, start + 30)
        .replace(/;[\s\S]*/, '')
        .replace(/[\s"&]+/g, ' ')
        .trim();
      problems.push({ place: places(start), message: `the pin map cannot be read at "${near}"` });
      scanner.behind(';');
      break;
    }
  }
  // Without its end it is no constant.
  if (!scanner.done() || scanner.peek(-1) === ';') maps.push(map);
}

/** `A0 : 1,` or `VDD : (3, 4)`; false when it is neither. */
function readEntry(scanner: Scanner, map: PinMap, gap: () => string): boolean {
  const pad = scanner.take(isWordChar);
  gap();
  if (pad === '' || scanner.peek() !== ':') return false;
  scanner.skip();
  gap();
  const pins: string[] = [];
  if (scanner.peek() === '(') {
    scanner.skip();
    for (;;) {
      scanner.take((char) => isBlank(char) || '",&'.includes(char));
      const pin = scanner.take((char) => !isBlank(char) && !'",&();'.includes(char));
      if (pin !== '') pins.push(pin);
      else if (scanner.peek() === ')') break;
      else return false;
    }
    scanner.skip();
  } else {
    const pin = scanner.take(isWordChar);
    if (pin === '') return false;
    pins.push(pin);
  }
  const known = map.pins.get(pad);
  if (known) append(known, pins.slice(0, LIMITS.pins));
  else map.pins.set(pad, pins);
  gap();
  if (scanner.peek() === ',') {
    scanner.skip();
    return true;
  }
  return scanner.peek() === ';';
}
