import { copyMachine } from '../../derive/machine/state';
import { setStage } from './electrics';
import { copyEvents } from './events';
import type { BenchFinding } from './finding-kinds';
import { applyHolds, type Setup } from './setup';
import type { BenchState } from './state';

/** A bench as it was at a moment, to go back to. What only grows is kept by its length. */
export interface Checkpoint {
  state: Omit<BenchState, 'lanes' | 'log' | 'findings'>;
  lengths: Int32Array;
  log: number;
  findings: readonly (readonly [until: number | undefined])[];
  parts: readonly Float64Array[];
}

export function checkpoint(setup: Setup, state: BenchState): Checkpoint {
  const { lanes, log, findings, ...rest } = state;
  const { volts, since, towards, tau, due } = rest.charge;
  return {
    state: {
      ...rest,
      machine: copyMachine(rest.machine),
      seenKnown: rest.seenKnown.slice(),
      seenValue: rest.seenValue.slice(),
      states: [...rest.states],
      volts: rest.volts.slice(),
      codes: rest.codes.slice(),
      definite: rest.definite.slice(),
      peripheral: rest.peripheral.slice(),
      charge: {
        volts: volts.slice(),
        since: since.slice(),
        towards: towards.slice(),
        tau: tau.slice(),
        due: due.slice(),
      },
      events: copyEvents(rest.events),
      lasting: rest.lasting.slice(),
      pending: rest.pending.slice(),
      missed: rest.missed.slice(),
      happened: rest.happened.slice(),
      woken: rest.woken.slice(),
      happenedIn: rest.happenedIn.slice(),
      wokenIn: rest.wokenIn.slice(),
      asks: rest.asks.slice(),
    },
    lengths: Int32Array.from(lanes, (lane) => lane.length),
    log: log.first + log.entries.length,
    findings: findings.map(({ until }) => [until] as const),
    parts: setup.parts.map(({ attached }) => attached.state.slice()),
  };
}

/** The state at a checkpoint; what has grown since is cut off, so that only earlier checkpoints of the same play can follow. */
export function restored(setup: Setup, now: BenchState, then: Checkpoint): BenchState {
  const { lanes, log, findings } = now;
  lanes.forEach((lane, at) => {
    lane.length = then.lengths[at] as number;
  });
  log.entries.length = Math.max(0, Math.min(log.entries.length, then.log - log.first));
  findings.length = then.findings.length;
  then.findings.forEach(([until], at) => {
    (findings[at] as BenchFinding).until = until;
  });
  setup.parts.forEach(({ attached }, at) => {
    attached.state.set(then.parts[at] as Float64Array);
    attached.apply();
  });
  applyHolds(setup, then.state.operation);
  // The checkpoint stays as it is: somebody may come back to it.
  const copy = checkpoint(setup, { ...then.state, lanes, log, findings }).state;
  const state = { ...copy, lanes, log, findings };
  for (const { index } of setup.pads) setStage(setup, state, index);
  return state;
}
