import { bare } from '../../base/bare';
import type { RecipeSource } from '../../description/recipe';
import type { RecipeFile } from '../../description/recipe-file';
import { SETTING_KEYS, SETTINGS, settingKind, usualApplies } from '../../description/settings';
import type { LineKind, PackageShape, Peripheral, PeripheralKind } from '../../description/types';
import { splitSignal } from '../../description/types';
import type { FunctionRecord, PadRecord } from '../tables/records';

/**
 * What tables alone do not say, proposed from what they do say: packages' shapes, supplies, classes, peripherals and the
 * directions of their lines. A proposal that the user corrects.
 */
export function inferRest(
  pads: readonly PadRecord[],
  functions: readonly FunctionRecord[],
  texts: Readonly<Record<string, string>> = {},
): Omit<RecipeFile, 'format' | 'device'> {
  const { peripherals, peripheralKinds } = inferPeripherals(functions);
  // In the order of the table's columns, whichever pad is bonded first.
  const columns = new Map(
    pads.flatMap((pad) => pad.pins.map((one) => [one.package, one.at.column] as const)),
  );
  const packages = [...columns].sort((a, b) => a[1] - b[1]).map(([id]) => id);
  const noteIds = new Set([...pads, ...functions].flatMap((one) => one.notes));
  return {
    packages: packages.map((id) => {
      const shape = inferShape(
        pads.flatMap((pad) => pad.pins.filter((one) => one.package === id).map((one) => one.pin)),
      );
      return { id, name: shapeName(shape), shape };
    }),
    supplies: inferSupplies(pads),
    padClasses: Object.fromEntries(
      [...new Set(pads.flatMap((pad) => pad.class ?? []))].map((id) => [id, { title: id }]),
    ),
    peripheralKinds,
    peripherals,
    notes: Object.fromEntries(
      [...noteIds]
        .filter(Boolean)
        .map((id) => [id, Object.hasOwn(texts, id) ? (texts[id] ?? '') : '(text not entered yet)']),
    ),
    recipe: emptyRecipe([...new Set(pads.flatMap((pad) => pad.port ?? []))]),
  };
}

/** A recipe that knows no registers: nets can be placed and checked, code cannot be generated. */
export const emptyRecipe = (ports: readonly string[]): RecipeSource => ({
  endian: 'little',
  settings: Object.fromEntries(
    SETTING_KEYS.filter((key) => SETTINGS[key].usual.length > 0).map((key) => [
      key,
      [...SETTINGS[key].usual],
    ]),
  ),
  applies: usualApplies((key) => settingKind(key).usual.length > 0),
  ports: Object.fromEntries(ports.map((port) => [port, {}])),
  registers: { blocks: [] },
  fields: {},
  access: {},
  encode: [],
  stages: [],
});

/** JEDEC's letters for the rows of a ball grid: without I, O, Q, S, X and Z. */
const BALL_LETTERS = 'ABCDEFGHJKLMNPRTUVWY'.split('');
export const ballRows = (count: number): string[] =>
  Array.from({ length: count }, (_, i) =>
    i < BALL_LETTERS.length ? (BALL_LETTERS[i] as string) : `A${BALL_LETTERS[i - BALL_LETTERS.length] ?? ''}`,
  );

/** The shape that pin numbers speak of: letters mean balls, at most 28 numbers two rows, else four sides. */
export function inferShape(pins: readonly string[]): PackageShape {
  const balls = pins.flatMap((one) => /^([A-Z]+)(\d+)$/.exec(one) ?? []).length > 0;
  if (balls) {
    const rows = pins.map((one) => one.replace(/\d+$/, ''));
    const all = ballRows(40);
    const last = highestOf(rows.map((row) => all.indexOf(row)));
    const columns = highestOf(pins.map((one) => Number(one.replace(/^\D+/, ''))));
    return { kind: 'ball-grid', rows: all.slice(0, last + 1), columns };
  }
  const highest = highestOf(pins.map(Number).filter(Number.isInteger));
  if (highest <= 28 && highest % 2 === 0) return { kind: 'dual-row', pins: highest };
  // A number more than a multiple of four is the exposed pad under the package.
  const exposed = highest % 4 === 1 && highest > 5;
  return {
    kind: 'quad',
    pins: exposed ? highest - 1 : highest,
    ...(exposed ? { exposedPad: true } : {}),
  };
}

/** The highest of any number of numbers, at least 1. */
const highestOf = (values: readonly number[]): number => values.reduce((most, one) => Math.max(most, one), 1);

export const shapeName = (shape: PackageShape): string =>
  shape.kind === 'ball-grid'
    ? `ball grid ${shape.rows.length} × ${shape.columns}`
    : `${shape.kind === 'quad' ? 'quad' : 'dual row'} ${shape.pins}`;

function inferSupplies(pads: readonly PadRecord[]) {
  const named = pads.flatMap((pad) => pad.supply ?? []);
  // A supply pad that belongs to another supply (a reference, an analog rail of the same) is none of its own.
  const own = pads.filter((pad) => pad.kind === 'supply' && pad.supply === undefined).map((pad) => pad.id);
  return [...new Set([...named, ...own])].map((id) => ({ id, title: id, nominalVolts: 3.3 }));
}

/** Directions of lines in the trade's names; what is not listed is taken to go both ways. */
const DIRECTIONS: [RegExp, LineKind][] = [
  [
    /^(TX|TXD|DE|RTS|TXE?\d?|TXEN|MOSI|SDO|OUT\d*|CH\d+N|Q\d+B|CLKOUT|MDC|[AB]?OUT|P|N|OE|WE|A\d+)$/,
    { direction: 'out' },
  ],
  [/^(RX|RXD|CTS|RX\d|RXV|MISO|SDI|IN|CLKIN|FAULT|BKIN|WAIT|TRIG|WKUP\d*|INT\d*)$/, { direction: 'in' }],
  [/^(SDA|SCL)$/, { direction: 'both', defaults: { outputType: 'open-drain' } }],
];

export function lineKindFor(kind: string, line: string, analog: boolean): LineKind {
  if (analog) return { direction: 'analog' };
  if (/^WAKE/.test(kind) && /^IN?\d*$/.test(line)) return { direction: 'in' };
  return DIRECTIONS.find(([pattern]) => pattern.test(line))?.[1] ?? { direction: 'both' };
}

/** UART2.TX → instance UART2 of kind UART. A kind has every line that one of its instances has. */
function inferPeripherals(functions: readonly FunctionRecord[]) {
  const peripherals = new Map<string, Peripheral>();
  const peripheralKinds = bare<PeripheralKind>();
  for (const { signal, mux, itself } of functions) {
    const [id, line] = splitSignal(signal);
    const kind = id.replace(/\d+$/, '') || id;
    peripherals.set(id, { id, kind });
    const known = peripheralKinds[kind] ?? { title: kind, lines: bare() };
    known.lines[line] ??= lineKindFor(kind, line, mux === null && !itself);
    peripheralKinds[kind] = known;
  }
  return { peripherals: [...peripherals.values()], peripheralKinds };
}
