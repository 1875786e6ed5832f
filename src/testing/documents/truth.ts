import type { randomFrom } from '../random';

type Random = ReturnType<typeof randomFrom>;

/** A made-up part as its documents are printed from, and as it must come back. */
export interface TruePart {
  packages: { id: string; title: string; balls: boolean }[];
  pads: TruePad[];
  /** Text of each footnote by its number. */
  notes: Record<string, string>;
}

export interface TruePad {
  id: string;
  kind: 'io' | 'supply' | 'ground' | 'reset' | 'clock' | 'no-connect';
  port?: string;
  bit?: number;
  alias?: string;
  supply?: string;
  notes: string[];
  /** By package. */
  pins: Record<string, string[]>;
  functions: { signal: string; code: number | null }[];
}

const KINDS = ['UART', 'SPI', 'PACE', 'LINK', 'AUDIO', 'FRAME'] as const;
const LINES: Record<(typeof KINDS)[number], readonly string[]> = {
  UART: ['TX', 'RX', 'DE', 'CTS'],
  SPI: ['SCK', 'SDO', 'SDI', 'CS'],
  PACE: ['Q1', 'Q2', 'Q3', 'Q4', 'STOP'],
  LINK: ['SDA', 'SCL'],
  AUDIO: ['SCK', 'WS', 'SD'],
  FRAME: ['D0', 'D1', 'D2', 'D3', 'CLK'],
};

const BALL_ROWS = 'ABCDEFGHJKLMNPRTUVWY'.split('');
const ball = (index: number, columns: number): string => {
  const row = Math.floor(index / columns);
  return `${row < 20 ? BALL_ROWS[row] : `A${BALL_ROWS[row - 20]}`}${(index % columns) + 1}`;
};

export interface TruthOptions {
  /** I/O pads, about. */
  pads: number;
  packages: number;
  /** Codes a pad has signals for, at most. */
  codes: number;
}

/** A part by chance: ports of 8 or 16 pads, supplies, packages of several sizes, signals under codes and without. */
export function truePart(random: Random, options: TruthOptions): TruePart {
  const form = random.pick(['A0', 'PA0', 'P0_0'] as const);
  // Letters name up to 52 ports.
  const width = options.pads > 400 ? 16 : random.pick([8, 16]);
  const count = Math.max(1, Math.ceil(options.pads / width));
  const pads: TruePad[] = [];
  const nameOf = (port: number, bit: number): Pick<TruePad, 'id' | 'port' | 'bit'> => {
    const letters = port < 26 ? String.fromCharCode(65 + port) : `A${String.fromCharCode(65 + port - 26)}`;
    if (form === 'P0_0') return { id: `P${port}_${bit}`, port: String(port), bit };
    return { id: `${form === 'PA0' ? 'P' : ''}${letters}${bit}`, port: letters, bit };
  };
  let wake = 0;
  for (let port = 0; port < count; port++)
    for (let bit = 0; bit < width; bit++) {
      const functions: TruePad['functions'] = [];
      for (let code = 0; code < options.codes; code++) {
        if (random.int(3) > 0) continue;
        const kind = random.pick(KINDS);
        const signal = `${kind}${1 + random.int(6)}.${random.pick(LINES[kind])}`;
        if (!functions.some((one) => one.signal === signal)) functions.push({ signal, code });
      }
      if (random.int(4) === 0) functions.push({ signal: `ADC1.V${pads.length}`, code: null });
      pads.push({
        ...nameOf(port, bit),
        kind: 'io',
        ...(random.int(14) === 0 ? { alias: `WAKE${++wake}` } : {}),
        supply: random.int(5) === 0 ? 'VDDIO2' : 'VDD',
        notes: random.int(12) === 0 ? [random.pick(['1', '2'])] : [],
        pins: {},
        functions,
      });
    }
  const other = (id: string, kind: TruePad['kind']): TruePad => ({
    id,
    kind,
    notes: [],
    pins: {},
    functions: [],
  });
  const rest = [
    other('VDD', 'supply'),
    other('VDDIO2', 'supply'),
    other('VSS', 'ground'),
    other('NRST', 'reset'),
    other('XI', 'clock'),
    other('XO', 'clock'),
  ];
  const packages: TruePart['packages'] = [];
  for (let i = 0; i < options.packages; i++) {
    // The first package has all pads, the others lack some.
    const bonded = pads.filter(() => i === 0 || random.int(3) > 0);
    const supplies = Math.max(2, Math.ceil(bonded.length / 14));
    const needed = bonded.length + 4 + 2 * supplies;
    const balls = needed > 250 || random.int(3) === 0;
    const columns = Math.ceil(Math.sqrt(needed));
    const total = balls ? columns * columns : Math.ceil(needed / 4) * 4;
    const alike = packages.filter((one) => one.id.replace(/[b-z]$/, '').endsWith(String(total))).length;
    const id = `${balls ? 'bg' : 'lq'}${total}${alike > 0 ? String.fromCharCode(97 + alike) : ''}`;
    packages.push({ id, title: id.toUpperCase(), balls });
    const order = Array.from({ length: total }, (_, pin) => (balls ? ball(pin, columns) : String(pin + 1)));
    for (let at = order.length - 1; at > 0; at--) {
      const to = random.int(at + 1);
      [order[at], order[to]] = [order[to] as string, order[at] as string];
    }
    const give = (pad: TruePad): void => {
      const pin = order.pop();
      if (pin !== undefined) pad.pins[id] = [...(pad.pins[id] ?? []), pin];
    };
    for (const pad of bonded) give(pad);
    for (const pad of rest) give(pad);
    while (order.length > 0) give(rest[random.int(2) === 0 ? 0 : 2] as TruePad);
    const numbers = (list: string[]): string[] =>
      [...list].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
    for (const pad of rest) if (pad.pins[id]) pad.pins[id] = numbers(pad.pins[id]);
  }
  return {
    packages,
    pads: [...pads, ...rest],
    notes: { '1': 'Only where the second supply is connected.', '2': 'Tolerates 5 V as an input.' },
  };
}
