import type { Element } from '../circuit/elements';
import { currentThrough, solve } from '../circuit/solve';
import type { PadState } from '../pads/pad-state';
import {
  ANALOG,
  BETWEEN,
  CONTENTION,
  FLOATING,
  HIGH,
  LOW,
  levelOf,
  NOBODY,
  OUTSIDE,
  STRONG,
  stateCode,
  UNKNOWN,
  WEAK,
} from '../trace/lanes';
import type { BenchPad } from './bench-pad';
import { addEvent } from './events';
import { isHeld, type Setup } from './setup';
import type { BenchState } from './state';
import type { Component } from './wiring';

/** From registers to volts: what output stages and pulls are as elements of the circuit, and what comes of all that is joined. */

const OPEN = Number.POSITIVE_INFINITY;
/** An output stage that gives or takes more than this works against somebody. In amperes. */
const WORKS_AGAINST = 1e-3;
/** Voltages of two outputs that differ by this part of the supply are different levels. */
const DIFFERENT = 0.3;
/** A charge is taken to have arrived when this part of the supply is left. */
const ARRIVED = 1e-3;

type Stage = 'off' | 'low' | 'high' | 'unknown';

/** What the output stage of a pad does at the moment. */
export function stageOf(state: PadState, peripheral: number): Stage {
  const told =
    state.output === 'peripheral'
      ? peripheral === 0
        ? 'low'
        : peripheral === 1
          ? 'high'
          : 'unknown'
      : state.output;
  // A peripheral that nobody has started lets an open-drain line go.
  if (told === 'unknown' && state.output === 'peripheral' && state.stage === 'open-drain') return 'off';
  if (told === 'off' || told === 'unknown') return told;
  if (state.stage === 'unknown') return 'unknown';
  if (state.stage === 'open-drain' && told === 'high') return 'off';
  return state.stage === 'open-source' && told === 'low' ? 'off' : told;
}

function driveStage({ stage, supplyVolts }: BenchPad, state: PadState, told: Stage): void {
  stage.bVolts = told === 'high' ? supplyVolts : 0;
  stage.ohms = told === 'high' ? state.ohmsHigh : told === 'low' ? state.ohmsLow : OPEN;
}

type Pull = 'none' | 'up' | 'down' | 'unknown';

/** A keeper pulls to the level that the pad had last. */
function pullOf(state: PadState, definite: number): Pull {
  if (state.pull !== 'keeper') return state.pull;
  return definite === HIGH ? 'up' : definite === LOW ? 'down' : 'none';
}

function drivePull({ pull, supplyVolts }: BenchPad, state: PadState, way: Pull): void {
  pull.bVolts = way === 'up' ? supplyVolts : 0;
  pull.ohms = way === 'up' || way === 'down' ? state.pullOhms : OPEN;
}

/** Gives a pad's output stage and pull what registers make of them; what is not known is open. */
export function setStage(setup: Setup, state: BenchState, index: number): void {
  const pad = setup.pads[index] as BenchPad;
  const now = state.states[index] as PadState;
  driveStage(pad, now, stageOf(now, state.peripheral[index] as number));
  drivePull(pad, now, pullOf(now, state.definite[index] as number));
}

/** The level of a voltage, by the thresholds of the pad. */
export function levelFor({ thresholds }: BenchPad, volts: number): number {
  if (Number.isNaN(volts)) return FLOATING;
  if (volts <= thresholds.lowBelow) return LOW;
  return volts >= thresholds.highAbove ? HIGH : BETWEEN;
}

/** Works out the voltages of what is joined. */
export function solveComponent(setup: Setup, state: BenchState, component: Component): void {
  const { nodes, elements } = component;
  for (const node of nodes) {
    if (!isUnknown(setup, state, node)) continue;
    const open = nodes.filter((each) => isUnknown(setup, state, each));
    solveUnknown(setup, state, component, open);
    return;
  }
  if (component.charged) solveCharged(setup, state, component);
  else solve(nodes, elements, state.volts);
}

/** Registers do not say what the pad does, and that matters for its voltage. */
const isUnknown = (setup: Setup, state: BenchState, node: number): boolean => {
  if (setup.holds.length > 0 && isHeld(setup, node)) return false;
  const now = state.states[node] as PadState;
  return now.pull === 'unknown' || stageOf(now, state.peripheral[node] as number) === 'unknown';
};

/** Marks a voltage that depends on what is not known: no voltage is as large. */
export const OF_UNKNOWN = 1e9;

/** One pad of which something is not known: whatever it is, is the level the same? More than one are not looked into. */
function solveUnknown(setup: Setup, state: BenchState, component: Component, open: readonly number[]): void {
  const { nodes, elements, charged } = component;
  const [node] = open as [number];
  const pad = setup.pads[node] as BenchPad;
  const now = state.states[node] as PadState;
  if (open.length > 1 || charged || now.use === 'unknown') {
    for (const one of nodes) state.volts[one] = OF_UNKNOWN;
    return;
  }
  const told = stageOf(now, state.peripheral[node] as number);
  const stages: Stage[] =
    told === 'unknown' ? (now.stage === 'push-pull' ? ['low', 'high'] : ['off', 'low', 'high']) : [told];
  const pulls: Pull[] =
    now.pull === 'unknown' ? ['none', 'up', 'down'] : [pullOf(now, state.definite[node] as number)];
  const levels = new Map<number, number>();
  const same = new Set(nodes);
  for (const one of stages) {
    for (const pull of pulls) {
      driveStage(pad, now, one);
      drivePull(pad, now, pull);
      solve(nodes, elements, state.volts);
      for (const at of nodes) {
        const level = levelFor(setup.pads[at] as BenchPad, state.volts[at] as number);
        if (!levels.has(at)) levels.set(at, level);
        else if (levels.get(at) !== level) same.delete(at);
      }
    }
  }
  driveStage(pad, now, told);
  drivePull(pad, now, now.pull === 'unknown' ? 'unknown' : (pulls[0] ?? 'none'));
  for (const at of nodes) if (!same.has(at)) state.volts[at] = OF_UNKNOWN;
}

/** A charged node's voltage now. */
export function chargeNow({ charge, time }: BenchState, node: number): number {
  const [held, towards, tau] = [charge.volts[node], charge.towards[node], charge.tau[node]] as [
    number,
    number,
    number,
  ];
  if (tau === 0) return held;
  return towards + (held - towards) * Math.exp(-(time - (charge.since[node] as number)) / tau);
}

/**
 * Nodes with capacitors: each keeps its voltage at the moment and tends to where its resistors and diodes lead, between two corners
 * of which everything is linear: v(t) = E + (v − E) e^(−t/RC). Several charged nodes that are joined see each other as they are now;
 * they are looked at again often.
 */
function solveCharged(setup: Setup, state: BenchState, { nodes, elements }: Component): void {
  const { charge, time } = state;
  for (const node of nodes) {
    const pad = setup.pads[node] as BenchPad;
    if (pad.farads === 0) continue;
    const now = chargeNow(state, node);
    charge.volts[node] = now;
    charge.since[node] = time;
    state.volts[node] = now;
  }
  const loose = nodes.filter((node) => (setup.pads[node] as BenchPad).farads === 0);
  if (loose.length > 0) solveAround(loose, elements, state.volts);
  for (const node of nodes) {
    const pad = setup.pads[node] as BenchPad;
    if (pad.farads === 0) continue;
    let conductance = 0;
    let amperes = 0;
    const now = state.volts[node] as number;
    const corners: number[] = [pad.thresholds.lowBelow, pad.thresholds.highAbove];
    for (const one of elements) {
      if ((one.a !== node && one.b !== node) || one.ohms === OPEN) continue;
      const current = currentThrough(one, state.volts);
      if (one.drop !== undefined) {
        corners.push(one.a === node ? one.bVolts + one.drop : one.aVolts - one.drop);
        if (current === 0) continue;
      }
      conductance += 1 / one.ohms;
      amperes += one.a === node ? -current : current;
    }
    charge.due[node] = Number.POSITIVE_INFINITY;
    if (conductance === 0) {
      charge.tau[node] = 0;
      continue;
    }
    const towards = now + amperes / conductance;
    const tau = (pad.farads / conductance) * 1e9;
    charge.towards[node] = towards;
    charge.tau[node] = tau;
    const left = Math.abs(towards - now);
    if (left <= ARRIVED * pad.supplyVolts) {
      charge.volts[node] = towards;
      charge.tau[node] = 0;
      state.volts[node] = towards;
      continue;
    }
    // The next corner on the way, or where it has as good as arrived; joined nodes are looked at in small steps.
    const goals = corners.filter((corner) => (corner - now) * (towards - corner) > 1e-9);
    const nearest = goals.sort((a, b) => Math.abs(a - now) - Math.abs(b - now))[0];
    const part =
      nearest === undefined
        ? (ARRIVED * pad.supplyVolts * 0.9) / left
        : (towards - nearest) / (towards - now);
    const wait = nodes.length > 1 ? Math.min(tau / 20, -tau * Math.log(part)) : -tau * Math.log(part);
    // A little beyond the corner, so that it is passed.
    const due = time + wait * (1 + 1e-9) + 1e-3;
    charge.due[node] = due;
    addEvent(state.events, due, setup.parts.length + node);
  }
}

/** Nodes between charged ones: those stand still for them. */
function solveAround(loose: readonly number[], elements: readonly Element[], volts: Float64Array): void {
  const free = new Set(loose);
  const seen = elements
    .filter((one) => free.has(one.a) || free.has(one.b))
    .map((one) => ({
      ...one,
      ...(one.a >= 0 && !free.has(one.a) ? { a: -1, aVolts: volts[one.a] as number } : {}),
      ...(one.b >= 0 && !free.has(one.b) ? { b: -1, bVolts: volts[one.b] as number } : {}),
    }));
  solve(loose, seen, volts);
}

/** What a pad is, electrically: its level and who gives it. */
export function codeOf(setup: Setup, state: BenchState, node: number): number {
  const pad = setup.pads[node] as BenchPad;
  const now = state.states[node] as PadState;
  const volts = state.volts[node] as number;
  if (volts === OF_UNKNOWN) return stateCode(UNKNOWN, now.output === 'off' ? OUTSIDE : STRONG);
  const level = levelFor(pad, volts);
  const stage = stageOf(now, state.peripheral[node] as number);
  if (stage === 'low' || stage === 'high') {
    const fights =
      Math.abs(currentThrough(pad.stage, state.volts)) > WORKS_AGAINST &&
      isOpposed(setup, node, pad.stage.bVolts);
    return stateCode(level, fights ? CONTENTION : STRONG);
  }
  if (stage === 'unknown') return stateCode(level, STRONG);
  if (level === FLOATING) return stateCode(level, now.use === 'analog' ? ANALOG : NOBODY);
  if (now.use === 'analog') return stateCode(level, ANALOG);
  if (pad.pull.ohms !== OPEN && isAlone(setup, node)) return stateCode(level, WEAK);
  return stateCode(level, OUTSIDE);
}

/** Whether another output that is joined to a node drives another level. */
function isOpposed(setup: Setup, node: number, volts: number): boolean {
  const component = setup.components[setup.componentOf[node] as number] as Component;
  const apart = DIFFERENT * (setup.pads[node] as BenchPad).supplyVolts;
  return component.elements.some(
    (one) => one.strong && one.ohms !== OPEN && Math.abs(one.bVolts - volts) > apart,
  );
}

/** Whether nothing but its own pull gives a pad its level. */
function isAlone(setup: Setup, node: number): boolean {
  const pad = setup.pads[node] as BenchPad;
  const component = setup.components[setup.componentOf[node] as number] as Component;
  return component.elements.every(
    (one) =>
      one === pad.pull || one.ohms === OPEN || one.drop !== undefined || (one.a !== node && one.b !== node),
  );
}

export const isDefinite = (code: number): boolean => levelOf(code) <= HIGH;
