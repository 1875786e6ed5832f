import { FLOATING, HIGH, type Lane, LOW, levelOf } from './lanes';

/** What is written: a line of one bit with its lane, a bus of several, or a voltage. */
export interface VcdSignal {
  name: string;
  /** Groups signals: a circuit's name. */
  scope: string;
  /** Lowest bit first. */
  lanes: readonly Lane[];
  /** For each lane whether 1 stands for a low level. */
  inverted?: readonly boolean[];
  /** As a voltage. */
  analog?: boolean;
}

/** `!` to `~`: short names of signals, as the format has them. */
function codeOf(index: number): string {
  let code = '';
  let rest = index;
  do {
    code = String.fromCharCode(33 + (rest % 94)) + code;
    rest = Math.floor(rest / 94) - 1;
  } while (rest >= 0);
  return code;
}

/** A name as the format takes it: without spaces, and nothing that ends a line. */
const plainName = (name: string): string => name.replace(/[^\x21-\x7e]+/g, '_').replace(/\$/g, '_') || '_';

const bitOf = (code: number, inverted: boolean): string => {
  const level = levelOf(code);
  if (level === FLOATING) return 'z';
  if (level !== LOW && level !== HIGH) return 'x';
  return (level === HIGH) !== inverted ? '1' : '0';
};

/**
 * Traces as a value change dump (IEEE 1364-2005, clause 18). Times are nanoseconds; `end` is when the recording ends. Floating is
 * `z`; between the thresholds, or not known, is `x`; voltages are real numbers.
 */
export function vcdText(signals: readonly VcdSignal[], end: number, title: string, date: string): string {
  const parts: string[] = [
    `$date ${date.replace(/[^\x20-\x7e]/g, ' ').replaceAll('$', ' ')} $end\n`,
    `$version ${title.replace(/[^\x20-\x7e]/g, ' ').replaceAll('$', ' ')} $end\n`,
    '$timescale 1 ns $end\n',
  ];
  const scopes = new Map<string, number[]>();
  signals.forEach(({ scope }, index) => {
    const own = scopes.get(scope);
    if (own) own.push(index);
    else scopes.set(scope, [index]);
  });
  for (const [scope, own] of scopes) {
    parts.push(`$scope module ${plainName(scope)} $end\n`);
    for (const index of own) {
      const { name, lanes, analog } = signals[index] as VcdSignal;
      const width = analog ? 64 : lanes.length;
      const range = !analog && lanes.length > 1 ? ` [${lanes.length - 1}:0]` : '';
      parts.push(
        `$var ${analog ? 'real' : 'wire'} ${width} ${codeOf(index)} ${plainName(name)}${range} $end\n`,
      );
    }
    parts.push('$upscope $end\n');
  }
  parts.push('$enddefinitions $end\n');
  writeChanges(signals, end, parts);
  return parts.join('');
}

function writeChanges(signals: readonly VcdSignal[], end: number, parts: string[]): void {
  // All changes of all lanes by their time, and by signal: one number each, which sorts fast. Several of a signal at one time are one.
  const count = signals.length;
  let total = 0;
  for (const { lanes } of signals) for (const lane of lanes) total += lane.length;
  const changes = new Float64Array(total);
  let filled = 0;
  signals.forEach(({ lanes }, signal) => {
    for (const lane of lanes)
      for (let at = 0; at < lane.length; at++)
        changes[filled++] = Math.round(lane.times[at] as number) * count + signal;
  });
  changes.sort();
  const places = signals.map(({ lanes }) => lanes.map(() => -1));
  const last = signals.map(() => '');
  const codes = signals.map((_, index) => codeOf(index));
  let time = Number.NaN;
  for (let at = 0; at < total; at++) {
    const change = changes[at] as number;
    if (changes[at + 1] === change) continue;
    const now = Math.floor(change / count);
    const index = change - now * count;
    const { lanes, inverted, analog } = signals[index] as VcdSignal;
    const own = places[index] as number[];
    lanes.forEach((lane, bit) => {
      let place = own[bit] as number;
      while (place + 1 < lane.length && Math.round(lane.times[place + 1] as number) <= now) place++;
      own[bit] = place;
    });
    const text = valueText(lanes, own, inverted, analog === true);
    if (text === last[index]) continue;
    last[index] = text;
    if (now !== time) {
      time = now;
      parts.push(`#${time}\n`);
    }
    parts.push(`${text}${codes[index]}\n`);
  }
  if (Math.round(end) !== time) parts.push(`#${Math.round(end)}\n`);
}

function valueText(
  lanes: readonly Lane[],
  places: readonly number[],
  inverted: readonly boolean[] | undefined,
  analog: boolean,
): string {
  if (analog) {
    const volts = lanes[0]?.volts[places[0] ?? 0] ?? 0;
    return `r${Number.isNaN(volts) || volts > 1e6 ? 0 : Number(volts.toPrecision(6))} `;
  }
  const bits = lanes.map((lane, bit) => {
    const place = places[bit] as number;
    return place < 0 ? 'x' : bitOf(lane.codes[place] as number, inverted?.[bit] === true);
  });
  return bits.length === 1 ? (bits[0] as string) : `b${bits.reverse().join('')} `;
}
