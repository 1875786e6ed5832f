import { type Expression, evaluate } from '../../description/language/expression';
import { fullMask } from '../../device/registers/types';
import type { Element } from '../circuit/elements';
import { currentThrough } from '../circuit/solve';
import type { BenchPad } from '../engine/bench-pad';
import { accessorFor, call, type Given, valueText } from '../engine/firmware';
import type { Bench } from '../engine/sync';
import { BETWEEN, FLOATING, HIGH, type Lane, LOW, levelOf } from '../trace/lanes';
import type { Target } from './names';
import type { Captures } from './steps';

/** What is waited for or expected: whether it is so, which nets it is about, and in words what is instead. */

export type Answer = boolean | 'unknown';

/** Nets that a condition speaks of. */
export function watchedBy(values: Captures): string[] {
  return ['net', ...EVENTS.map(({ as }) => as), 'level', 'target', 'reads'].flatMap((key) => {
    const target = values.get(key) as Target | undefined;
    return target ? [...target.nets] : [];
  });
}

/** What happens at a moment and is counted: an interrupt, or that the part is woken. */
const EVENTS = [
  { as: 'interrupt', counts: 'happened', wanted: true, happens: 'interrupt' },
  { as: 'noInterrupt', counts: 'happened', wanted: false, happens: 'interrupt' },
  { as: 'wake', counts: 'woken', wanted: true, happens: 'wake the part' },
  { as: 'noWake', counts: 'woken', wanted: false, happens: 'wake the part' },
] as const;

/** Which of them a condition is about, and how often it has happened since power-up. */
function eventOf(bench: Bench, values: Captures) {
  const event = EVENTS.find(({ as }) => values.has(as));
  if (!event) return undefined;
  const pad = padOf(bench, values.get(event.as) as Target);
  const { state } = bench;
  const [times, latest] =
    event.counts === 'happened' ? [state.happened, state.happenedIn] : [state.woken, state.wokenIn];
  const at = pad?.index ?? -1;
  return {
    ...event,
    count: times[at] ?? 0,
    /** It came with the last step that did something, and nobody has waited for it yet. */
    isNew: latest[at] === state.act,
    meet: () => {
      latest[at] = 0;
    },
  };
}

/** What an event was counted at when somebody began to wait for it: what the last step brought about counts. */
export interface Since {
  count: number;
}

export function sinceNow(bench: Bench, values: Captures): Since {
  const event = eventOf(bench, values);
  return { count: event ? event.count - Number(event.isNew) : 0 };
}

/** An event that was waited for and came is waited for only once. */
export function meetEvent(bench: Bench, values: Captures): void {
  const event = eventOf(bench, values);
  if (event?.wanted) event.meet();
}

const padOf = ({ setup }: Bench, target: Target | undefined): BenchPad | undefined => {
  const at = target && setup.byNet.get(target.nets[0] ?? '');
  return at === undefined ? undefined : setup.pads[at];
};

export type Scope = (name: string) => number | undefined;

/** Whether a condition holds now, and what is there instead when it does not. */
export function holds(
  bench: Bench,
  values: Captures,
  scope: Scope,
  since: Since,
): { is: Answer; instead: string } {
  const finding = values.get('finding');
  if (typeof finding === 'string') return noFinding(bench, finding);
  const event = eventOf(bench, values);
  if (event)
    return {
      is: event.count > since.count === event.wanted,
      instead: `it ${event.count > since.count ? 'did' : 'did not'} ${event.happens}`,
    };
  const level = values.get('level') as Target | undefined;
  if (level) {
    const pad = padOf(bench, level);
    const volts = pad ? (bench.state.volts[pad.index] as number) : Number.NaN;
    const limit = values.get('volts') as number;
    if (Number.isNaN(volts) || volts > 1000)
      return { is: 'unknown', instead: `${level.name} has no voltage that is known` };
    const is = values.get('compare') === '<' ? volts < limit : volts > limit;
    return { is, instead: `it is at ${Number(volts.toPrecision(3))} V` };
  }
  const net = values.get('net') as Target | undefined;
  if (net) {
    const pad = padOf(bench, net);
    if (!pad) return { is: 'unknown', instead: `${net.name} is on no pad` };
    const wanted = values.get('is') as string;
    const now = isNow(bench, pad, bench.state.codes[pad.index] as number, bench.state.volts);
    return { is: matches(now, wanted), instead: `it is ${wordFor(now, wanted)}` };
  }
  return numberIs(bench, values, scope);
}

/** What a net is at a moment. */
export interface NetNow {
  level: number;
  /** Active, by what hangs on it or by its level. */
  active: Answer;
}

/** What a net is when its pad has a state and nodes have these voltages. */
export function isNow({ setup }: Bench, pad: BenchPad, code: number, volts: Float64Array): NetNow {
  const level = levelOf(code);
  const driven = pad.net && (pad.net.role.kind === 'output' || pad.net.role.kind === 'open-drain');
  if (driven) {
    for (const at of setup.partsAt.get(pad.net?.id ?? '') ?? []) {
      const part = setup.parts[at];
      const isOn = part?.attached.on;
      if (!part || !isOn) continue;
      // A voltage that depends on what is not known says nothing about it.
      if (level > FLOATING) return { level, active: 'unknown' };
      // Nobody says what a transistor does whose base nothing holds; an LED is dark then.
      const { kind } = part.attachment;
      if (level === FLOATING && (kind === 'contactor' || kind === 'load'))
        return { level, active: 'unknown' };
      const amperes = (element: Element): number => currentThrough(element, volts);
      return { level, active: isOn.call(part.attached, amperes, part.pads.indexOf(pad.index)) };
    }
  }
  if (level !== LOW && level !== HIGH) return { level, active: 'unknown' };
  return { level, active: (level === HIGH) !== (pad.net?.settings.active === 'low') };
}

/** What a net can be expected to be, in the words of a script, the plainest first. */
export const STATE_WORDS = ['on', 'off', 'high', 'low', 'floating'] as const;
export type StateWord = (typeof STATE_WORDS)[number];

/** The words that are true of a net. */
export const wordsFor = (now: NetNow): Set<StateWord> =>
  new Set(STATE_WORDS.filter((word) => matches(now, word) === true));

/** The words that were true of a net at some time since power-up; undefined when its level was not always known. */
export function wordsSince(bench: Bench, pad: BenchPad): Set<StateWord> | undefined {
  const words = new Set<StateWord>();
  for (const { now } of history(bench, pad)) {
    if (now.level > FLOATING) return undefined;
    for (const word of wordsFor(now)) words.add(word);
  }
  return words;
}

/** What a net was, one state after the other; what hangs on it is worked out at each voltage. */
function* history(bench: Bench, pad: BenchPad): Generator<{ now: NetNow; time: number }> {
  const lane = bench.state.lanes[pad.index] as Lane;
  const volts = bench.state.volts.slice();
  for (let at = 0; at < lane.length; at++) {
    // What lasts no time has not been.
    if (at + 1 < lane.length && lane.times[at + 1] === lane.times[at]) continue;
    volts[pad.index] = lane.volts[at] as number;
    yield { now: isNow(bench, pad, lane.codes[at] as number, volts), time: lane.times[at] as number };
  }
}

function matches({ level, active }: NetNow, wanted: string): Answer {
  switch (wanted) {
    case 'on':
      return active;
    case 'off':
      return active === 'unknown' ? 'unknown' : !active;
    case 'high':
      return level === HIGH;
    case 'low':
      return level === LOW;
    case 'floating':
      return level === FLOATING;
    default:
      return level === LOW || level === HIGH;
  }
}

function wordFor({ level, active }: NetNow, wanted: string): string {
  if ((wanted === 'on' || wanted === 'off') && active !== 'unknown') return active ? 'on' : 'off';
  return level === HIGH
    ? 'high'
    : level === LOW
      ? 'low'
      : level === FLOATING
        ? 'floating'
        : level === BETWEEN
          ? 'between its thresholds'
          : 'not known';
}

function noFinding(bench: Bench, kind: string): { is: Answer; instead: string } {
  if (kind === 'missed') {
    const pad = bench.setup.pads.find((one) => (bench.state.missed[one.index] as number) > 0);
    return {
      is: pad === undefined,
      instead: pad ? `an interrupt of ${pad.net?.name ?? pad.pad.id} was missed` : '',
    };
  }
  const found = bench.state.findings.find((one) => kind === 'findings' || one.kind === kind);
  return {
    is: found === undefined,
    instead: found ? found.message.replaceAll('`', '').replace(/\.$/, '') : '',
  };
}

/** A bus, a circuit's outputs or a net as a number: what its pads are, or what the firmware reads. */
function numberIs(bench: Bench, values: Captures, scope: Scope): { is: Answer; instead: string } {
  const reads = values.get('reads') as Target | undefined;
  const target = reads ?? (values.get('target') as Target);
  const read = values.get('read');
  const wanted =
    read === undefined ? evaluate(values.get('value') as Expression, scope) >>> 0 : read === 'on' ? 1 : 0;
  const given = reads ? readBy(bench, reads) : levelsOf(bench, target);
  if (!given) return { is: 'unknown', instead: `${target.name} cannot be read` };
  const all = fullMask(target.nets.length);
  const known = (given.known & all) >>> 0;
  if ((known & (given.value ^ wanted)) >>> 0 !== 0 || (wanted & ~all) >>> 0 !== 0)
    return { is: false, instead: `it is ${valueText(given, target.nets.length)}` };
  return { is: known === all ? true : 'unknown', instead: `it is ${valueText(given, target.nets.length)}` };
}

function readBy(bench: Bench, target: Target): Given | undefined {
  const accessor = accessorFor(bench, 'read', target.nets);
  return accessor && call(bench, accessor, 0, `read ${target.name}`);
}

/** Pads as the bits of a number, 1 for active. */
export function levelsOf({ setup, state }: Bench, target: Target): Given | undefined {
  const given: Given = { known: 0, value: 0 };
  for (const [bit, net] of target.nets.entries()) {
    const at = setup.byNet.get(net);
    const pad = at === undefined ? undefined : setup.pads[at];
    if (!pad) return undefined;
    const level = levelOf(state.codes[pad.index] as number);
    if (level !== LOW && level !== HIGH) continue;
    given.known = (given.known | (1 << bit)) >>> 0;
    if ((level === HIGH) !== (pad.net?.settings.active === 'low'))
      given.value = (given.value | (1 << bit)) >>> 0;
  }
  return given;
}

/**
 * Whether a net was, from power-up to now, always or never what is wanted, or never did something; otherwise when it first was not.
 * Its lane is looked through, and what hangs on it at each voltage.
 */
export function wasAlways(
  bench: Bench,
  values: Captures,
  never: boolean,
): { is: Answer; instead: string; time?: number } {
  const event = eventOf(bench, values);
  if (event && event.wanted === never) return { is: event.count === 0, instead: `it did ${event.happens}` };
  const net = values.get('net') as Target | undefined;
  const pad = padOf(bench, net);
  if (!net || !pad)
    return { is: 'unknown', instead: 'always and never are said of one net, or of what it does not do' };
  const wanted = values.get('is') as string;
  let unknown: number | undefined;
  for (const { now, time } of history(bench, pad)) {
    const is = matches(now, wanted);
    if (is === 'unknown') unknown ??= time;
    else if (is === never) return { is: false, instead: `it was ${wordFor(now, wanted)}`, time };
  }
  if (unknown !== undefined) return { is: 'unknown', instead: 'it was not known what it was', time: unknown };
  return { is: true, instead: '' };
}
