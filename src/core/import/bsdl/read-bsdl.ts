import { LIMITS, overLimit, tooLarge } from '../../base/limits';
import { collectProblems, type Problems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import { isBlank, isWordChar, type Meter, type Scanner, scan } from '../../base/text/scan';
import type { Grid } from '../tables/grid';

/**
 * The pin maps of a boundary-scan description (BSDL, IEEE 1149.1) as a pinout table: one row a pad, `kind` from the port's
 * mode, one column for each `PIN_MAP_STRING`. From there it is imported like any other table. Reads the text once, in steps that
 * `meter` counts.
 */
export function readBsdl(name: string, text: string, meter: Meter = { steps: 0 }): Result<Grid> {
  if (text.length > LIMITS.tableCharacters)
    return fail({ place: name, message: `the file ${tooLarge('tableCharacters')}` });
  const problems = collectProblems();
  const file = readFile(name, withoutComments(text, meter), problems, meter);
  if (!file.entity)
    return fail({ place: name, message: 'this is no boundary-scan description: it has no entity' });
  const { modes, maps } = file;
  if (modes.size === 0) problems.push({ place: name, message: 'the entity has no port list' });
  if (maps.length === 0 && problems.length === 0)
    problems.push({ place: name, message: 'there is no constant of type PIN_MAP_STRING' });
  if (maps.length > LIMITS.packages)
    problems.push({ place: name, message: overLimit('packages', maps.length) });
  const pads = new Set<string>();
  for (const { pins } of maps.slice(0, LIMITS.packages)) for (const pad of pins.keys()) pads.add(pad);
  if (pads.size > LIMITS.tableRows)
    problems.push({ place: name, message: overLimit('tableRows', pads.size) });
  if (problems.length > 0) return failWith(problems.list());
  const header = { line: 1, cells: ['pad', 'kind', ...maps.map((one) => one.package.toLowerCase())] };
  const rows = [...pads].map((pad, index) => ({
    // Several pads may stand in one line of the file; rows of a table are told apart by theirs.
    line: index + 2,
    cells: [pad, kindFor(modes, pad), ...maps.map((map) => map.pins.get(pad)?.join(' ') ?? '-')],
  }));
  return ok({ name, rows: [header, ...rows] });
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
  modes: Map<string, string>;
  maps: PinMap[];
}

/** Walks over the text from word to word; `port` and `constant` are read where they stand, all else is passed over. */
function readFile(name: string, text: string, problems: Problems, meter: Meter): BsdlFile {
  const file: BsdlFile = { entity: false, modes: new Map(), maps: [] };
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
    else if (word === 'port' && file.modes.size === 0) readPorts(scanner, file.modes);
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

/** `(PA0, PA1: inout bit; VDD: linkage bit_vector(1 to 4))` → mode by name. */
function readPorts(scanner: Scanner, modes: Map<string, string>): void {
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
      if (mode !== '') for (const port of names) modes.set(port.toUpperCase(), mode);
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

function kindFor(modes: ReadonlyMap<string, string>, pad: string): string {
  const upper = pad.toUpperCase();
  const own = modes.get(upper) ?? modes.get(upper.replace(/_?\d{1,80}$/, ''));
  // Linkage pads are those that boundary scan leaves alone: what they are, their names say.
  return own === 'inout' ? 'io' : '-';
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
  if (known) known.push(...pins.slice(0, LIMITS.pins));
  else map.pins.set(pad, pins);
  gap();
  if (scanner.peek() === ',') {
    scanner.skip();
    return true;
  }
  return scanner.peek() === ';';
}
