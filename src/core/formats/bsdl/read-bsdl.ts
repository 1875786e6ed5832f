import { fail, ok, type Problem, type Result } from '../../result';
import type { Grid } from '../../tables/grid';

/**
 * The pin maps of a boundary-scan description (BSDL, IEEE 1149.1) as a pinout table: one row a pad, `kind` from the port's
 * mode, one column for each `PIN_MAP_STRING`. From there it is imported like any other table.
 */
export function readBsdl(name: string, text: string): Result<Grid> {
  if (text.length > 8_000_000) return fail({ place: name, message: 'the file is larger than 8 MB' });
  const problems: Problem[] = [];
  const plain = withoutComments(text);
  const entity = /\bentity\s+(\w+)\s+is\b/i.exec(plain);
  if (!entity)
    return fail({ place: name, message: 'this is no boundary-scan description: it has no entity' });
  const modes = readPorts(plain);
  if (modes.size === 0) problems.push({ place: name, message: 'the entity has no port list' });
  const maps = readMaps(name, plain, problems);
  if (maps.length === 0 && problems.length === 0)
    problems.push({ place: name, message: 'there is no constant of type PIN_MAP_STRING' });
  if (problems.length > 0) return fail(...problems);
  const pads = [...new Set(maps.flatMap(({ terminals }) => [...terminals.keys()]))];
  const header = { line: 1, cells: ['pad', 'kind', ...maps.map((one) => one.package.toLowerCase())] };
  const rows = pads.map((pad, index) => ({
    // Several pads may stand in one line of the file; rows of a table are told apart by theirs.
    line: index + 2,
    cells: [pad, kindFor(modes, pad), ...maps.map((map) => map.terminals.get(pad)?.join(' ') ?? '-')],
  }));
  return ok({ name, rows: [header, ...rows] });
}

/** Comments go, their length stays, so that lines can be told. Texts in quotes may hold two dashes. */
const withoutComments = (text: string): string =>
  text
    .split('\n')
    .map((line) => {
      const at = commentStart(line);
      return at < 0 ? line : line.slice(0, at);
    })
    .join('\n');

function commentStart(line: string): number {
  let quoted = false;
  for (let i = 0; i < line.length; i++) {
    if (line[i] === '"') quoted = !quoted;
    else if (!quoted && line[i] === '-' && line[i + 1] === '-') return i;
  }
  return -1;
}

/** `port (PA0: inout bit; VDD: linkage bit_vector(1 to 4))` → mode by name. */
function readPorts(text: string): Map<string, string> {
  const modes = new Map<string, string>();
  const start = /\bport\s*\(/i.exec(text);
  if (!start) return modes;
  let depth = 1;
  let end = start.index + start[0].length;
  for (; end < text.length && depth > 0; end++) {
    if (text[end] === '(') depth++;
    else if (text[end] === ')') depth--;
  }
  for (const part of text.slice(start.index + start[0].length, end - 1).split(';')) {
    const match = /^\s*([\w\s,]+):\s*(\w+)/.exec(part);
    if (!match) continue;
    for (const port of (match[1] ?? '').split(','))
      modes.set(port.trim().toUpperCase(), (match[2] ?? '').toLowerCase());
  }
  return modes;
}

function kindFor(modes: ReadonlyMap<string, string>, pad: string): string {
  const mode = modes.get(pad.toUpperCase().replace(/_?\d+$/, '')) ?? modes.get(pad.toUpperCase());
  const own = modes.get(pad.toUpperCase()) ?? mode;
  // Linkage pads are those that boundary scan leaves alone: what they are, their names say.
  return own === 'inout' ? 'io' : '-';
}

interface PinMap {
  package: string;
  terminals: Map<string, string[]>;
}

function readMaps(name: string, text: string, problems: Problem[]): PinMap[] {
  const maps: PinMap[] = [];
  const pattern = /\bconstant\s+(\w+)\s*:\s*PIN_MAP_STRING\s*:=\s*([^;]*);/gi;
  for (let match = pattern.exec(text); match; match = pattern.exec(text)) {
    const map: PinMap = { package: match[1] ?? '', terminals: new Map() };
    const body = match[2] ?? '';
    const offset = match.index + match[0].indexOf(body);
    const lineAt = (at: number): number => text.slice(0, offset + at).split('\n').length;
    // Quotes and ampersands only join the lines of one text.
    const joined = body.replace(/["&\n\r]/g, ' ');
    const entry = /\s*(\w+)\s*:\s*(?:\(([^)]*)\)|([\w]+))\s*(,|$)/y;
    let end = 0;
    while (end < joined.length && joined.slice(end).trim() !== '') {
      entry.lastIndex = end;
      const found = entry.exec(joined);
      if (!found) {
        const at = end + joined.slice(end).search(/\S/);
        const near = joined
          .slice(at, at + 30)
          .replace(/\s+/g, ' ')
          .trim();
        problems.push({
          place: `${name}:${lineAt(at)}:1`,
          message: `the pin map cannot be read at "${near}"`,
        });
        break;
      }
      const pad = found[1] ?? '';
      const terminals = (found[2] ?? found[3] ?? '').split(/[\s,]+/).filter(Boolean);
      map.terminals.set(pad, [...(map.terminals.get(pad) ?? []), ...terminals]);
      end = entry.lastIndex;
    }
    maps.push(map);
  }
  return maps;
}
