import { valueText } from '@/core/bench/engine/firmware';
import type { Signal } from '@/core/bench/recording/signals';
import { timeText } from '@/core/bench/script/time-text';
import type { Difference } from '@/core/bench/trace/compare';
import {
  BETWEEN,
  byOf,
  CONTENTION,
  changeAt,
  FLOATING,
  HIGH,
  type Lane,
  LOW,
  levelOf,
  NOBODY,
  OUTSIDE,
  WEAK,
} from '@/core/bench/trace/lanes';
import type { LaidOver } from '@/core/bench/trace/lay-over';
import type { Stretch, TimeAxis } from './time-axis';

/** Colours by what they are for, out of the theme. */
export interface Inks {
  ink: string;
  soft: string;
  rule: string;
  pick: string;
  pickbg: string;
  err: string;
  paper: string;
  other: string;
}

export interface LanePicture {
  signals: readonly Signal[];
  axis: TimeAxis;
  /** What of the axis is in sight. */
  shown: Stretch;
  width: number;
  height: number;
  /** How far the lanes are scrolled, in pixels. */
  scroll: number;
  /** When the recording ends, and when initialisation was over. */
  end: number;
  initialised: number | undefined;
  cursors: { a: number | undefined; b: number | undefined };
  selected: string | undefined;
  overlay?: {
    lanes: LaidOver;
    offset: number;
    differences: ReadonlyMap<string, readonly Difference[]>;
  };
}

export const LANE_HEIGHT = 23;
export const AXIS_HEIGHT = 20;
const TOP = 4;
const BOTTOM = 18;
const MIDDLE = 11;
/** Analog lanes are drawn up to this. */
const FULL_VOLTS = 3.6;

/** Draws the lanes that are in sight; what is closer together than a pixel is one line. */
export function paintLanes(context: CanvasRenderingContext2D, picture: LanePicture, inks: Inks): void {
  const { width, height, signals, scroll } = picture;
  context.clearRect(0, 0, width, height);
  const across = acrossOf(picture);
  paintAxis(context, picture, inks);
  context.save();
  context.beginPath();
  context.rect(0, AXIS_HEIGHT, width, height - AXIS_HEIGHT);
  context.clip();
  const first = Math.floor(scroll / LANE_HEIGHT);
  const count = Math.ceil((height - AXIS_HEIGHT) / LANE_HEIGHT) + 1;
  for (let at = first; at < Math.min(signals.length, first + count); at++) {
    const signal = signals[at] as Signal;
    const y = AXIS_HEIGHT + at * LANE_HEIGHT - scroll;
    context.strokeStyle = inks.rule;
    context.lineWidth = 1;
    line(context, 0, y + LANE_HEIGHT - 0.5, width, y + LANE_HEIGHT - 0.5);
    if (signal.id === picture.selected) {
      context.fillStyle = inks.pickbg;
      context.globalAlpha = 0.5;
      context.fillRect(0, y, width, LANE_HEIGHT - 1);
      context.globalAlpha = 1;
    }
    paintOverlay(context, picture, signal, y, inks, across);
    if (signal.kind === 'bus') {
      paintBus(context, signal, y, inks, across);
      paintOtherValues(context, picture, signal, y, inks, across);
    } else if (signal.kind === 'analog')
      paintVolts(context, picture, signal.lanes[0] as Lane, 0, y, inks.ink, across);
    else paintLane(context, picture, signal.lanes[0] as Lane, 0, y, inks, across);
  }
  context.restore();
  paintMarks(context, picture, inks, across);
}

function line(context: CanvasRenderingContext2D, x: number, y: number, toX: number, toY: number): void {
  context.beginPath();
  context.moveTo(x, y);
  context.lineTo(toX, toY);
  context.stroke();
}

/** Times across the width: where each is, in pixels, and which one a pixel is; those at the edges, none after the end. */
interface Across {
  xOf(time: number): number;
  timeOf(x: number): number;
  from: number;
  to: number;
  last: number;
}

function acrossOf({ axis, shown, width, end }: LanePicture): Across {
  const scale = width / (shown.to - shown.from);
  const to = axis.time(shown.to);
  return {
    xOf: (time) => (axis.at(time) - shown.from) * scale,
    timeOf: (x) => axis.time(shown.from + x / scale),
    from: axis.time(shown.from),
    to,
    last: Math.min(to, end),
  };
}

function paintAxis(context: CanvasRenderingContext2D, { axis, shown, width }: LanePicture, inks: Inks): void {
  context.fillStyle = inks.soft;
  context.strokeStyle = inks.rule;
  context.lineWidth = 1;
  context.font = '11px "IBM Plex Sans Condensed", sans-serif';
  context.textBaseline = 'middle';
  context.textAlign = 'left';
  for (const at of axis.ticks(shown, Math.max(2, width / 110))) {
    const x = Math.round(((at - shown.from) / (shown.to - shown.from)) * width) + 0.5;
    line(context, x, AXIS_HEIGHT - 5, x, AXIS_HEIGHT);
    context.fillText(timeText(axis.time(at)), x + 3, 9);
  }
  line(context, 0, AXIS_HEIGHT - 0.5, width, AXIS_HEIGHT - 0.5);
}

/** Each change that is in sight, with the times it lasts from and to; several within one pixel come as one. */
function eachRun(
  lane: Lane,
  offset: number,
  end: number,
  { xOf, timeOf, from: first, last }: Across,
  see: (code: number, from: number, to: number, at: number, many: boolean) => void,
): void {
  let at = Math.max(0, changeAt(lane, first - offset));
  while (at < lane.length) {
    const from = (lane.times[at] as number) + offset;
    if (from > last) return;
    const next = at + 1 < lane.length ? (lane.times[at + 1] as number) + offset : end;
    const pixel = timeOf(xOf(from) + 1);
    if (next >= pixel || at + 1 >= lane.length) {
      see(lane.codes[at] as number, Math.max(from, first), Math.min(next, last), at, false);
      at++;
      continue;
    }
    // All that changes before the pixel ends.
    const beyond = Math.max(at + 1, changeAt(lane, pixel - offset));
    see(lane.codes[at] as number, from, pixel, at, beyond > at + 1);
    at = beyond;
  }
}

const levelY = (level: number): number => (level === HIGH ? TOP : level === LOW ? BOTTOM : MIDDLE);

function paintLane(
  context: CanvasRenderingContext2D,
  picture: LanePicture,
  lane: Lane,
  offset: number,
  y: number,
  inks: Inks,
  across: Across,
  colour = inks.ink,
): void {
  let before: number | undefined;
  eachRun(lane, offset, picture.end, across, (code, from, to, _at, many) => {
    const [level, by] = [levelOf(code), byOf(code)];
    const x = across.xOf(from);
    const end = Math.max(across.xOf(to), x + 1);
    const height = y + levelY(level);
    if (many) {
      context.fillStyle = by === CONTENTION ? inks.err : colour;
      context.fillRect(x, y + TOP, Math.max(1, end - x), BOTTOM - TOP);
      before = undefined;
      return;
    }
    context.strokeStyle = by === CONTENTION ? inks.err : level > HIGH ? inks.soft : colour;
    context.lineWidth = by === WEAK ? 1 : by === CONTENTION ? 2.5 : 1.4;
    if (before !== undefined && before !== height) line(context, x, before, x, height);
    if (level === BETWEEN || (level > FLOATING && by !== NOBODY)) {
      // Neither high nor low: a band.
      context.fillStyle = inks.rule;
      context.fillRect(x, y + TOP + 3, end - x, BOTTOM - TOP - 6);
    } else {
      context.setLineDash(level === FLOATING ? [3, 3] : []);
      line(context, x, height, end, height);
      context.setLineDash([]);
    }
    before = height;
  });
}

function paintVolts(
  context: CanvasRenderingContext2D,
  picture: LanePicture,
  lane: Lane,
  offset: number,
  y: number,
  ink: string,
  across: Across,
): void {
  context.strokeStyle = ink;
  context.lineWidth = 1.2;
  context.beginPath();
  let drawing = false;
  eachRun(lane, offset, picture.end, across, (_code, from, to, at) => {
    const volts = lane.volts[at] as number;
    if (Number.isNaN(volts) || volts > 1000) {
      drawing = false;
      return;
    }
    const height = y + BOTTOM - (Math.min(volts, FULL_VOLTS) / FULL_VOLTS) * (BOTTOM - TOP);
    if (drawing) context.lineTo(across.xOf(from), height);
    else context.moveTo(across.xOf(from), height);
    context.lineTo(across.xOf(to), height);
    drawing = true;
  });
  context.stroke();
}

/** The value of several lanes at a time. */
export function busAt(signal: Signal, time: number): { known: number; value: number } {
  let [known, value] = [0, 0];
  signal.lanes.forEach((lane, bit) => {
    const at = changeAt(lane, time);
    const level = at < 0 ? FLOATING : levelOf(lane.codes[at] as number);
    if (level > HIGH) return;
    known = (known | (1 << bit)) >>> 0;
    if ((level === HIGH) !== (signal.inverted?.[bit] === true)) value = (value | (1 << bit)) >>> 0;
  });
  return { known, value };
}

function paintBus(
  context: CanvasRenderingContext2D,
  signal: Signal,
  y: number,
  inks: Inks,
  across: Across,
): void {
  const { xOf, timeOf, last } = across;
  context.font = '11px "IBM Plex Mono", monospace';
  context.textAlign = 'center';
  context.textBaseline = 'middle';
  let time = Math.max(across.from, 0);
  while (time < last) {
    let next = last;
    for (const lane of signal.lanes) {
      const at = changeAt(lane, time) + 1;
      if (at < lane.length) next = Math.min(next, lane.times[at] as number);
    }
    const to = Math.min(last, Math.max(next, timeOf(xOf(time) + 1)));
    const now = busAt(signal, time);
    const [x, edge] = [xOf(time), xOf(to)];
    if (now.known === 0) {
      context.strokeStyle = inks.soft;
      context.lineWidth = 1;
      context.setLineDash([3, 3]);
      line(context, x, y + MIDDLE, edge, y + MIDDLE);
      context.setLineDash([]);
    } else
      box(
        context,
        x,
        edge,
        y,
        inks,
        edge - x > 26 ? valueText(now, signal.lanes.length).replace(/^0[xb]/, '') : '',
      );
    time = to;
  }
}

function box(
  context: CanvasRenderingContext2D,
  x: number,
  to: number,
  y: number,
  inks: Inks,
  text: string,
): void {
  const slant = Math.min(4, (to - x) / 2);
  context.beginPath();
  context.moveTo(x, y + MIDDLE);
  context.lineTo(x + slant, y + TOP);
  context.lineTo(to - slant, y + TOP);
  context.lineTo(to, y + MIDDLE);
  context.lineTo(to - slant, y + BOTTOM);
  context.lineTo(x + slant, y + BOTTOM);
  context.closePath();
  context.fillStyle = inks.pickbg;
  context.fill();
  context.strokeStyle = inks.pick;
  context.lineWidth = 1;
  context.stroke();
  if (text === '') return;
  context.fillStyle = inks.ink;
  context.fillText(text, (x + to) / 2, y + MIDDLE + 0.5, to - x - 6);
}

function paintOverlay(
  context: CanvasRenderingContext2D,
  picture: LanePicture,
  signal: Signal,
  y: number,
  inks: Inks,
  across: Across,
): void {
  const { overlay } = picture;
  if (!overlay) return;
  for (const { from, to } of overlay.differences.get(signal.id) ?? []) {
    if (to < across.from || from > across.to) continue;
    context.fillStyle = inks.err;
    context.globalAlpha = 0.16;
    const x = across.xOf(from);
    context.fillRect(x, y + 1, Math.max(2, across.xOf(to) - x), LANE_HEIGHT - 3);
    context.globalAlpha = 1;
  }
  const lane = overlay.lanes.get(signal.id)?.[0];
  if (!lane || signal.kind === 'bus') return;
  const first = lane.codes[0] ?? 0;
  // A net that an analyser took as a bit has no voltages.
  const hasVolts = byOf(first) !== OUTSIDE || levelOf(first) === BETWEEN;
  if (signal.kind === 'analog' && hasVolts)
    paintVolts(context, picture, lane, overlay.offset, y, inks.other, across);
  else paintLane(context, picture, lane, overlay.offset, y + 2, inks, across, inks.other);
}

/** Where the value of a bus is another one in what is laid over it: both of them. */
function paintOtherValues(
  context: CanvasRenderingContext2D,
  picture: LanePicture,
  signal: Signal,
  y: number,
  inks: Inks,
  across: Across,
): void {
  const { overlay } = picture;
  const { xOf } = across;
  const lanes = overlay?.lanes.get(signal.id);
  if (!overlay || !lanes) return;
  const text = (now: { known: number; value: number }): string =>
    valueText(now, lanes.length).replace(/^0[xb]/, '');
  context.textAlign = 'center';
  for (const { from, to } of overlay.differences.get(signal.id) ?? []) {
    if (to < across.from || from > across.to) continue;
    const [x, end] = [xOf(Math.max(from, across.from)), xOf(Math.min(to, across.to))];
    context.fillStyle = inks.paper;
    context.fillRect(x, y + TOP, Math.max(2, end - x), BOTTOM - TOP);
    // Within a difference either value may change.
    const edges = [
      ...signal.lanes.map((lane) => changesIn(lane, 0, from, to)),
      ...lanes.map((lane) => changesIn(lane, overlay.offset, from, to)),
    ];
    const times = [from, ...edges.flat().sort((a, b) => a - b), to];
    for (let at = 0; at + 1 < times.length; at++) {
      const [start, until] = [times[at] as number, times[at + 1] as number];
      const [left, right] = [Math.max(xOf(start), x), Math.min(xOf(until), end)];
      if (right - left < FITS_TWO_VALUES) continue;
      const theirs = busAt({ ...signal, lanes }, start - overlay.offset);
      const both = `${text(busAt(signal, start))} ≠ ${text(theirs)}`;
      context.fillStyle = inks.err;
      context.fillText(both, (left + right) / 2, y + MIDDLE + 0.5, right - left);
    }
  }
}

/** In pixels. */
const FITS_TWO_VALUES = 40;
const MOST_EDGES = 500;

/** When a lane changes between two times, at most so often. */
function changesIn(lane: Lane, offset: number, from: number, to: number): number[] {
  const times: number[] = [];
  for (let at = changeAt(lane, from - offset) + 1; at < lane.length && times.length < MOST_EDGES; at++) {
    const time = (lane.times[at] as number) + offset;
    if (time >= to) break;
    times.push(time);
  }
  return times;
}

function paintMarks(
  context: CanvasRenderingContext2D,
  picture: LanePicture,
  inks: Inks,
  { xOf }: Across,
): void {
  const { height, initialised, end, cursors } = picture;
  const mark = (time: number | undefined, colour: string, dash: number[], text: string): void => {
    if (time === undefined) return;
    const x = Math.round(xOf(time)) + 0.5;
    if (x < 0 || x > picture.width) return;
    context.strokeStyle = colour;
    context.lineWidth = 1;
    context.setLineDash(dash);
    line(context, x, AXIS_HEIGHT, x, height);
    context.setLineDash([]);
    context.fillStyle = colour;
    context.font = '600 11px "IBM Plex Sans Condensed", sans-serif';
    const fits = x + 70 < picture.width;
    context.textAlign = fits ? 'left' : 'right';
    if (text !== '') context.fillText(text, fits ? x + 3 : x - 3, height - 8);
  };
  mark(initialised, inks.pick, [], 'initialised');
  mark(end, inks.soft, [1, 3], '');
  mark(cursors.a, inks.err, [2, 2], 'A');
  mark(cursors.b, inks.err, [2, 2], 'B');
}
