import type { DeviceDescription, PeripheralKind } from '../description/types';

/** A usual circuit as a line that can be typed, in the part's own words; offered when the part has what it needs. */
export interface Template {
  id: string;
  title: string;
  text: string;
}

type Has = (kind: PeripheralKind, id: string) => boolean;

interface Source {
  id: string;
  title: string;
  /** Which kind of peripheral it needs; none for plain pins. */
  kind?: Has;
  /** Of how many consecutive bits some port must have pads. */
  bits?: number;
  text(kind: string, lines: readonly string[]): string | undefined;
}

const withLines =
  (...lines: string[]): Has =>
  (kind) =>
    lines.every((line) => line in kind.lines);

/** Lines with their complements, by name: a numbered one, and the one that has a letter behind it. */
const complements = (lines: readonly string[]): [string, string][] =>
  lines.flatMap((line): [string, string][] => {
    const other = lines.find((one) => one.slice(0, -1) === line && /\d[A-Z]$/.test(one));
    return other === undefined ? [] : [[line, other]];
  });

const SOURCES: readonly Source[] = [
  {
    id: 'spi',
    title: 'Device on a synchronous serial bus',
    kind: withLines('SCK', 'SDO', 'SDI'),
    text: (kind) => `sensor: ${kind} sck sdo sdi · cs out low · ready irq low up`,
  },
  {
    id: 'two-wire',
    title: 'Two-wire bus with resistors on the board',
    kind: withLines('SDA', 'SCL'),
    text: (kind) => `store: ${kind} sda scl pulled-up`,
  },
  {
    id: 'serial',
    title: 'Serial line with driver enable',
    kind: withLines('TX', 'RX', 'DE'),
    text: (kind) => `link: ${kind} tx rx de 115200Hz`,
  },
  {
    id: 'rs485',
    title: 'RS-485, receiver switched separately',
    kind: withLines('TX', 'RX', 'DE'),
    text: (kind) => `rs485: ${kind} tx rx de 115200Hz · re out low asserted`,
  },
  {
    id: 'flash',
    title: '4-line serial flash',
    kind: (kind) => ['D0', 'D1', 'D2', 'D3'].every((line) => line in kind.lines),
    text: (kind, lines) => `flash: ${kind} ${lines.slice(0, 8).join(' ').toLowerCase()}`,
  },
  {
    id: 'crystal',
    title: 'Crystal',
    kind: (kind) => kind.serves === 'crystal',
    text: (kind, lines) => `clock: ${kind} ${lines.join(' ').toLowerCase()}`,
  },
  {
    id: 'bridge',
    title: 'PWM bridge with complementary lines',
    kind: (kind) => complements(Object.keys(kind.lines)).length >= 2,
    text: (kind, lines) =>
      `bridge: ${kind} ${complements(lines).slice(0, 2).flat().join(' ').toLowerCase()} 20kHz · fault irq low up`,
  },
  {
    id: 'keypad',
    title: 'Keypad, 4 rows and 3 columns',
    text: () => 'keys: row_1..4 out od low · col_1..3 in low up',
  },
  {
    id: 'leds',
    title: 'LEDs sunk by the pads',
    text: () => 'panel: led_1..3 out low 2mA',
  },
  {
    id: 'bus',
    title: 'Parallel bus on consecutive bits, with strobes',
    bits: 8,
    text: () => 'display: d0..7 out bus · select write out low · reset out low on',
  },
  {
    id: 'buttons',
    title: 'Buttons to ground',
    text: () => 'panel: button_1 button_2 in low up',
  },
];

/** The templates that a part can carry out: some instance has all the lines on pads. */
export function templatesFor(description: DeviceDescription): Template[] {
  const { peripherals, peripheralKinds, functions, forced = [] } = description;
  // A crystal's second pad comes with the first; it is no net of its own.
  const along = new Set(forced.flatMap((one) => one.takes));
  const offered = new Set<string>(functions.filter((fn) => !along.has(fn.pad)).map((fn) => fn.signal));
  const longest = longestRun(description);
  return SOURCES.flatMap(({ id, title, kind, bits = 0, text }): Template[] => {
    if (bits > longest) return [];
    if (!kind) return [{ id, title, text: text('', []) ?? '' }];
    for (const instance of peripherals) {
      const known = peripheralKinds[instance.kind];
      if (!known) continue;
      const lines = Object.fromEntries(
        Object.entries(known.lines).filter(([line]) => offered.has(`${instance.id}.${line}`)),
      );
      if (Object.keys(lines).length === 0 || !kind({ ...known, lines }, instance.kind)) continue;
      const line = text(instance.kind.toLowerCase(), Object.keys(lines));
      return line === undefined ? [] : [{ id, title, text: line }];
    }
    return [];
  });
}

/** The most pads that a port has on consecutive bits. */
function longestRun({ pads }: DeviceDescription): number {
  const there = new Set(pads.flatMap((pad) => (pad.kind === 'io' ? [`${pad.port} ${pad.bit}`] : [])));
  let longest = 0;
  for (const { port, bit = 0 } of pads) {
    if (there.has(`${port} ${bit - 1}`)) continue;
    let length = 0;
    while (there.has(`${port} ${bit + length}`)) length++;
    longest = Math.max(longest, length);
  }
  return longest;
}
