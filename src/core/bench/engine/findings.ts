import { currentText, voltsText } from '../../derive/electrical/limits';
import { currentThrough } from '../circuit/solve';
import type { PadState } from '../pads/pad-state';
import { BETWEEN, byOf, CONTENTION, FLOATING, HIGH, LOW, levelOf } from '../trace/lanes';
import { type BenchPad, nameOf } from './bench-pad';
import { type BenchFindingKind, FINDING_KINDS } from './finding-kinds';
import { causeNow } from './log';
import type { Setup } from './setup';
import type { BenchState } from './state';

/** A current is over what a pad may only when it is so by more than a rounding. */
const BEYOND = 1.02;

const PLACES = Object.fromEntries(FINDING_KINDS.map((kind, at) => [kind, at])) as Record<
  BenchFindingKind,
  number
>;
const CONTENTION_PLACE = PLACES.contention;
const CURRENT_PLACE = PLACES['over-current'];
const VOLTAGE_PLACE = PLACES['over-voltage'];
const FLOATING_PLACE = PLACES.floating;
const BETWEEN_PLACE = PLACES.between;
const GUARD_PLACE = PLACES['guard-broken'];

/** Looks at what is wrong with a pad now: notes what begins, and what is over. Texts are made only where something begins. */
export function noticeFindings(setup: Setup, state: BenchState, pad: BenchPad, code: number): void {
  const now = state.states[pad.index] as PadState;
  const level = levelOf(code);
  const volts = state.volts[pad.index] as number;
  const fights = byOf(code) === CONTENTION;
  if (fights !== lasts(state, pad, CONTENTION_PLACE))
    turn(state, pad, CONTENTION_PLACE, fights && againstText(pad, volts));
  const current = -currentThrough(pad.stage, state.volts);
  const limit = current > 0 ? pad.mayGive : pad.mayTake;
  const tooMuch = limit !== undefined && Math.abs(current) > limit * BEYOND;
  if (tooMuch !== lasts(state, pad, CURRENT_PLACE))
    turn(state, pad, CURRENT_PLACE, tooMuch && overCurrentText(pad, current, limit));
  const over = pad.toleratesVolts !== undefined && volts > pad.toleratesVolts + 1e-9 && volts < 1000;
  if (over !== lasts(state, pad, VOLTAGE_PLACE))
    turn(
      state,
      pad,
      VOLTAGE_PLACE,
      over &&
        `\`${nameOf(pad)}\` is at ${voltsText(volts)}; the pad tolerates ${voltsText(pad.toleratesVolts ?? 0)}.`,
    );
  if (pad.net) noticeNet(setup, state, pad, now, level, volts);
}

/** Initialisation is over: inputs count as listened to from now on, though no voltage has changed. */
export function noticeAwaited(setup: Setup, state: BenchState): void {
  for (const pad of setup.pads) {
    if (!pad.net) continue;
    const level = levelOf(state.codes[pad.index] as number);
    noticeNet(
      setup,
      state,
      pad,
      state.states[pad.index] as PadState,
      level,
      state.volts[pad.index] as number,
    );
  }
}

/** What is wrong with a pad that a net is on. */
function noticeNet(
  setup: Setup,
  state: BenchState,
  pad: BenchPad,
  now: PadState,
  level: number,
  volts: number,
): void {
  const listens = now.reads && (now.use === 'input' || now.line === 'in' || now.line === 'both');
  const vague = listens && (level === FLOATING || level === BETWEEN) && isAwaited(setup, state, now);
  const floats = vague && level === FLOATING;
  if (floats !== lasts(state, pad, FLOATING_PLACE))
    turn(
      state,
      pad,
      FLOATING_PLACE,
      floats && `\`${nameOf(pad)}\` is an input, and nothing gives it a level.`,
    );
  const between = vague && level === BETWEEN;
  if (between !== lasts(state, pad, BETWEEN_PLACE))
    turn(state, pad, BETWEEN_PLACE, between && betweenText(pad, volts));
  const guard = pad.net?.demands?.beforeInit;
  const broken = guard !== undefined && !state.called && level !== (guard === 'high' ? HIGH : LOW);
  if (broken !== lasts(state, pad, GUARD_PLACE))
    turn(state, pad, GUARD_PLACE, broken && guardText(pad, guard, level));
}

/** Before initialisation every input floats; a debug port without a probe, and a crystal's pads, are as they are meant to be. */
function isAwaited(setup: Setup, state: BenchState, { fn }: PadState): boolean {
  if (state.operation < setup.operations.length) return false;
  const serves = fn && setup.device.kindOf(fn.signal)?.serves;
  return serves !== 'debug' && serves !== 'crystal';
}

const againstText = (pad: BenchPad, volts: number): string =>
  `\`${nameOf(pad)}\` is driven ${pad.stage.bVolts > 0 ? 'high' : 'low'} against another output; the line is at ${voltsText(volts)}.`;

const overCurrentText = (pad: BenchPad, current: number, limit: number | undefined): string =>
  `\`${nameOf(pad)}\` ${current > 0 ? 'sources' : 'sinks'} ${currentText(Math.abs(current) * 1000)}; the pad is made for ${currentText((limit ?? 0) * 1000)}.`;

const betweenText = (pad: BenchPad, volts: number): string =>
  `\`${nameOf(pad)}\` is at ${voltsText(volts)}; it reads low up to ${voltsText(pad.thresholds.lowBelow)}, and high from ${voltsText(pad.thresholds.highAbove)} on.`;

function guardText(pad: BenchPad, guard: string | undefined, level: number): string {
  const what =
    level === HIGH ? 'high' : level === LOW ? 'low' : level === FLOATING ? 'floating' : 'not known';
  return `\`${nameOf(pad)}\` must be ${guard} until the firmware uses it, and is ${what}.`;
}

const lasts = (state: BenchState, { index }: BenchPad, place: number): boolean =>
  (state.lasting[index * FINDING_KINDS.length + place] as number) > 0;

/** Something begins to be wrong, with a message, or is over. */
function turn(state: BenchState, pad: BenchPad, place: number, message: string | false): void {
  const at = pad.index * FINDING_KINDS.length + place;
  if (message === false) {
    const finding = state.findings[(state.lasting[at] as number) - 1];
    if (finding) finding.until = state.time;
    state.lasting[at] = 0;
    return;
  }
  if (state.findings.length >= MOST_FINDINGS) return;
  state.lasting[at] = state.findings.length + 1;
  state.findings.push({
    kind: FINDING_KINDS[place] as BenchFindingKind,
    pad: pad.index,
    message,
    from: state.time,
    until: undefined,
    cause: causeNow(state.log),
  });
}

/** Whoever has as many has seen enough. */
const MOST_FINDINGS = 5000;
