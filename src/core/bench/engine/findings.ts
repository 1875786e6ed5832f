import { currentText, voltsText } from '../../derive/electrical/limits';
import { currentThrough } from '../circuit/solve';
import type { PadState } from '../pads/pad-state';
import { BETWEEN, byOf, CONTENTION, FLOATING, HIGH, levelOf } from '../trace/lanes';
import { type BenchFindingKind, FINDING_KINDS } from './finding-kinds';
import { causeNow } from './log';
import type { BenchPad, Setup } from './setup';
import type { BenchState } from './state';

/** A current is over what a pad may only when it is so by more than a rounding. */
const BEYOND = 1.02;

/** Looks at what is wrong with a pad now: notes what begins, and what is over. */
export function noticeFindings(setup: Setup, state: BenchState, pad: BenchPad, code: number): void {
  const now = state.states[pad.index] as PadState;
  const level = levelOf(code);
  note(state, pad, 'contention', byOf(code) === CONTENTION, () => {
    const volts = voltsText(state.volts[pad.index] as number);
    return `\`${nameOf(pad)}\` is driven ${pad.stage.bVolts > 0 ? 'high' : 'low'} against another output; the line is at ${volts}.`;
  });
  const current = -currentThrough(pad.stage, state.volts);
  const limit = current > 0 ? pad.mayGive : pad.mayTake;
  note(state, pad, 'over-current', limit !== undefined && Math.abs(current) > limit * BEYOND, () => {
    const milliamps = currentText(Math.abs(current) * 1000);
    return `\`${nameOf(pad)}\` ${current > 0 ? 'sources' : 'sinks'} ${milliamps}; the pad is made for ${currentText((limit ?? 0) * 1000)}.`;
  });
  const volts = state.volts[pad.index] as number;
  const over = pad.toleratesVolts !== undefined && volts > pad.toleratesVolts + 1e-9 && volts < 1000;
  note(state, pad, 'over-voltage', over, () => {
    return `\`${nameOf(pad)}\` is at ${voltsText(volts)}; the pad tolerates ${voltsText(pad.toleratesVolts ?? 0)}.`;
  });
  if (!pad.net) return;
  // Before initialisation every input floats; that is what initialisation is for.
  const listens = now.reads && (now.use === 'input' || now.line === 'in' || now.line === 'both');
  const serves = now.fn && setup.device.kindOf(now.fn.signal)?.serves;
  // A debug port without a probe, and a crystal's pads, are as they are meant to be.
  const isReady = state.operation >= setup.operations.length && serves !== 'debug' && serves !== 'crystal';
  note(state, pad, 'floating', isReady && listens && level === FLOATING, () => {
    return `\`${nameOf(pad)}\` is an input, and nothing gives it a level.`;
  });
  note(state, pad, 'between', isReady && listens && level === BETWEEN, () => {
    const { lowBelow, highAbove } = pad.thresholds;
    return `\`${nameOf(pad)}\` is at ${voltsText(volts)}; it reads low up to ${voltsText(lowBelow)}, and high from ${voltsText(highAbove)} on.`;
  });
  const guard = pad.net.demands?.beforeInit;
  const broken = guard !== undefined && !state.called && level !== (guard === 'high' ? HIGH : 0);
  note(state, pad, 'guard-broken', broken, () => {
    const what =
      level <= HIGH ? (level === HIGH ? 'high' : 'low') : level === FLOATING ? 'floating' : 'not known';
    return `\`${nameOf(pad)}\` must be ${guard} until the firmware uses it, and is ${what}.`;
  });
}

export const nameOf = ({ net, pad }: BenchPad): string => net?.name ?? pad.id;

function note(
  state: BenchState,
  pad: BenchPad,
  kind: BenchFindingKind,
  wrong: boolean,
  message: () => string,
): void {
  const place = pad.index * FINDING_KINDS.length + FINDING_KINDS.indexOf(kind);
  const known = state.lasting[place] as number;
  if (wrong === known > 0) return;
  if (known > 0) {
    const finding = state.findings[known - 1];
    if (finding) finding.until = state.time;
    state.lasting[place] = 0;
    return;
  }
  if (state.findings.length >= MOST_FINDINGS) return;
  state.lasting[place] = state.findings.length + 1;
  state.findings.push({
    kind,
    pad: pad.index,
    message: message(),
    from: state.time,
    until: undefined,
    cause: causeNow(state.log),
  });
}

/** Whoever has as many has seen enough. */
const MOST_FINDINGS = 5000;
