import { isAsked, type SettingKey, settingKeysOf } from '../../description/settings';
import type { Pad } from '../../description/types';
import { defaultOn, fitTogether, lackOf, valueFor } from '../../device/available';
import type { Device } from '../../device/device';
import { canonical } from '../../device/fields/encode';
import type { PlannedPad } from '../../device/planned-pad';
import type { Circuit, CircuitId, Plan } from '../../plan/model/types';
import type { CircuitPads } from '../lower/by-circuit';
import { type Lowered, lower } from '../lower/lower';
import type { ResolvedNet } from '../resolve/resolve';
import { type Proof, prove } from '../simulate/proof';

/**
 * Initialisation of one circuit alone; releasing all pads; what pads are while the chip sleeps, and making them again what they
 * were. Each changes only its own bits, and is proven by itself, from every state of the chip.
 */
export type RoutineKind = 'circuit' | 'deinit' | 'sleep' | 'wake';

export interface Routine {
  kind: RoutineKind;
  circuit?: Circuit;
  planned: readonly PlannedPad[];
  lowered: Lowered;
  proof: Proof;
  /** Nets whose pads cannot be what is asked, and why; they are released instead. */
  unable: readonly { net: string; why: string }[];
}

/** What a pad is in a state that is not its net's own. */
type PadState = 'release' | 'analog' | 'high' | 'low';

interface Situation {
  device: Device;
  plan: Plan;
  resolved: readonly ResolvedNet[];
  byPad: ReadonlyMap<string, readonly ResolvedNet[]>;
  planned: readonly PlannedPad[];
}

/** The pads circuit by circuit, in the order of circuits; last those that no circuit has. */
export function circuitPads({
  plan,
  byPad,
  planned,
}: Pick<Situation, 'plan' | 'byPad' | 'planned'>): CircuitPads[] {
  const groups = new Map<CircuitId | undefined, PlannedPad[]>(plan.circuits.map((one) => [one.id, []]));
  for (const one of planned) {
    const circuit = byPad.get(one.pad.id)?.find((it) => it.planned === one)?.net.circuit;
    const known = circuit !== undefined && groups.has(circuit) ? circuit : undefined;
    groups.set(known, [...(groups.get(known) ?? []), one]);
  }
  return [...groups].flatMap(([circuit, own]) => (own.length > 0 ? [{ circuit, planned: own }] : []));
}

/** The routines that a plan asks for. */
export function routinesOf(situation: Situation): Routine[] {
  const { plan, device } = situation;
  const routines: Routine[] = [];
  if (plan.code.functions === 'circuits') {
    for (const { circuit: id, planned } of circuitPads(situation)) {
      const circuit = plan.circuits.find((one) => one.id === id);
      routines.push({
        kind: 'circuit',
        ...(circuit ? { circuit } : {}),
        ...worked(device, planned),
        unable: [],
      });
    }
  }
  if (plan.code.deinit) routines.push(stateRoutine(situation, 'deinit', released));
  const asleep = (one: ResolvedNet): boolean => (one.net.settings.sleep ?? 'keep') !== 'keep';
  if (situation.resolved.some(asleep)) {
    const sleep = stateRoutine(situation, 'sleep', sleepState);
    const pads = new Set(sleep.planned.map((one) => one.pad));
    const before = situation.planned.filter((one) => pads.has(one.pad));
    if (before.length > 0) routines.push(sleep, { kind: 'wake', ...worked(device, before), unable: [] });
  }
  return routines;
}

function worked(
  device: Device,
  planned: readonly PlannedPad[],
  peripheralClocks = false,
): Pick<Routine, 'planned' | 'lowered' | 'proof'> {
  const lowered = lower(device, planned, 'preserving', undefined, peripheralClocks);
  return { planned, lowered, proof: prove(device, planned, lowered) };
}

/** Outputs stay where they do no harm, at their inactive level; everything else is released. */
function released({ net, planned }: ResolvedNet): PadState {
  const drives = planned?.settings.values.mode === 'output' && net.role.kind !== 'bidirectional';
  return drives && net.role.kind !== 'open-drain' ? inactive(net.settings.active) : 'release';
}

function sleepState({ net }: ResolvedNet): PadState | undefined {
  switch (net.settings.sleep) {
    case 'release':
    case 'analog':
      return net.settings.sleep;
    case 'inactive':
      return inactive(net.settings.active);
    case 'asserted':
      return net.settings.active === 'low' ? 'low' : 'high';
    default:
      return undefined;
  }
}

const inactive = (active: string | undefined): PadState => (active === 'low' ? 'high' : 'low');

function stateRoutine(
  { device, byPad, planned: all }: Situation,
  kind: 'deinit' | 'sleep',
  stateOf: (one: ResolvedNet) => PadState | undefined,
): Routine {
  const unable: { net: string; why: string }[] = [];
  const planned = all.flatMap((now): PlannedPad[] => {
    const one = byPad.get(now.pad.id)?.find((it) => it.planned === now);
    const state = one && stateOf(one);
    if (!one || !state) return [];
    const wanted = padInState(device, now, state);
    if ('planned' in wanted) return [wanted.planned];
    unable.push({ net: one.net.name, why: wanted.lack });
    const released = padInState(device, now, 'release');
    return 'planned' in released ? [released.planned] : [];
  });
  return { kind, ...worked(device, planned), unable };
}

/** Whether a net's pad can be what it shall be in low power; the reason when not. */
export function whyNotAsleep(device: Device, one: ResolvedNet): string | undefined {
  const state = sleepState(one);
  if (!state || !one.planned) return undefined;
  const found = padInState(device, one.planned, state);
  return 'lack' in found ? found.lack : undefined;
}

function padInState(
  device: Device,
  now: PlannedPad,
  state: PadState,
): { planned: PlannedPad } | { lack: string } {
  const { pad } = now;
  const mode = state === 'release' ? 'input' : state === 'analog' ? 'analog' : 'output';
  const lack = lackOf(device, pad, 'mode', mode);
  if (lack !== undefined) return { lack };
  const values =
    now.settings.values.mode === 'output' && mode === 'output'
      ? { ...now.settings.values }
      : calm(device, pad, mode);
  if (mode === 'output') values.level = state;
  const fit = fitTogether(device, pad, { mode }, values, new Set(['level']));
  if (!fit || fit.given.length > 0) return { lack: fit?.given[0]?.why ?? `the pad cannot be ${mode}` };
  return {
    planned: {
      pad,
      settings: canonical(device.description.recipe, { values: fit.values, mux: null }, undefined),
    },
  };
}

/** The first value of every setting that is asked for, and no pull. */
function calm(device: Device, pad: Pad, mode: string): Partial<Record<SettingKey, string>> {
  const values: Partial<Record<SettingKey, string>> = { mode };
  for (const key of settingKeysOf(device.description.recipe.settings).filter(isAsked)) {
    const first = defaultOn(device, pad, key);
    if (first !== undefined) values[key] = first;
  }
  const none = valueFor(device, pad, 'pull', 'none');
  if (none !== undefined) values.pull = none;
  return values;
}
