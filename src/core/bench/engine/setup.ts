import type { Derived } from '../../derive/derive';
import type { Operation } from '../../derive/machine/operations';
import type { Device } from '../../device/device';
import { plainNames } from '../../output/code/names';
import { programOf } from '../../output/code/program/program';
import { figuresOf } from '../../plan/model/attachments';
import { attachmentsOf, type BoardAttachment, USUAL_VOLTS } from '../attached/defaults';
import { BEHAVIOURS } from '../attached/kinds';
import { faradsOf } from '../attached/passive';
import { between, driver, type Element } from '../circuit/elements';

import { type BenchPad, benchPad } from './bench-pad';
import { type BenchPart, type Component, componentsOf, type Watched, watchersOf } from './wiring';

/** Pads and what is attached to them: what all benches of a plan have in common, one at a time. */
export interface Board extends Watched {
  pads: readonly BenchPad[];
  byPad: ReadonlyMap<string, number>;
  byNet: ReadonlyMap<string, number>;
  parts: readonly BenchPart[];
  /** Parts at each net, for whoever acts on them. */
  partsAt: ReadonlyMap<string, readonly number[]>;
  /** What handlers of nets' interrupts are called in generated code; worked out when one first runs. */
  handlers(): ReadonlyMap<string, string>;
}

/** Everything about a bench that does not change while one plays. */
export interface Setup extends Board {
  derived: Derived;
  device: Device;
  board: Board;
  operations: readonly Operation[];
  /** Whoever holds a pad from outside, until initialisation is done or for good. */
  holds: readonly Hold[];
  components: readonly Component[];
  componentOf: Int32Array;
}

interface Hold {
  element: Element;
  pad: number;
  until: 'initialised' | 'never';
}

/** What a bench is set up with, beside the plan. */
export interface SetupOptions {
  /** Instead of the initialisation as it is: with a fault put in. */
  operations?: readonly Operation[];
  /** Neighbours that are shorted. */
  shorts?: readonly (readonly [string, string])[];
  /** Pads that are held from outside from power-up on, at which level, and whether for good. */
  held?: readonly { pad: string; level: 'high' | 'low'; until: Hold['until'] }[];
  /** After so many operations and events a play ends. */
  mostSteps?: number;
  /** The board of a bench of the same plan that nobody plays on any more: making one takes longer than most plays. */
  board?: Board;
}

/** What a solder bridge between neighbours resists, in ohms. */
const SHORT_OHMS = 0.1;
/** What a bridge to a rail resists, in ohms: nothing that drives the pin, from inside or outside, comes near it. */
const HOLD_OHMS = 1e-4;

/** Prepares a bench for a plan. */
export function setupOf(derived: Derived, options: SetupOptions = {}): Setup {
  const board = options.board ?? boardOf(derived);
  const { pads, byPad, parts } = board;
  for (const { attached, atStart } of parts) {
    attached.state.set(atStart);
    attached.apply();
  }
  const holds = (options.held ?? []).flatMap(({ pad, level, until }): Hold[] => {
    const at = byPad.get(pad);
    const volts = level === 'high' ? (pads[at ?? -1]?.supplyVolts ?? 0) : 0;
    return at === undefined ? [] : [{ element: driver(at, volts, HOLD_OHMS), pad: at, until }];
  });
  const shorts = (options.shorts ?? []).flatMap(([one, other]) => {
    const [a, b] = [byPad.get(one), byPad.get(other)];
    return a === undefined || b === undefined ? [] : [between(a, b, SHORT_OHMS)];
  });
  return {
    ...board,
    board,
    derived,
    device: derived.device,
    operations: options.operations ?? derived.lowered.operations,
    holds,
    ...componentsOf(pads, parts, [...holds.map(({ element }) => element), ...shorts]),
  };
}

/** Whether a pad is held from outside at the moment: its voltage is known then, whatever registers say. */
export const isHeld = ({ holds }: Setup, pad: number): boolean =>
  holds.some((hold) => hold.pad === pad && hold.element.ohms === HOLD_OHMS);

/** Those who hold pads let go, or hold them again, as it is when so much of initialisation has been done; pads that this concerns. */
export function applyHolds({ holds, operations }: Setup, operation: number): number[] {
  const done = operation >= operations.length;
  return holds.flatMap(({ element, pad, until }) => {
    const ohms = done && until === 'initialised' ? Number.POSITIVE_INFINITY : HOLD_OHMS;
    if (element.ohms === ohms) return [];
    element.ohms = ohms;
    return [pad];
  });
}

function boardOf(derived: Derived): Board {
  const { device, pkg, plan, byNet, byPad: netsOn } = derived;
  const bonded = new Set(Object.values(pkg.pins));
  const io = device.description.pads.filter(
    (pad) => bonded.has(pad.id) && pad.kind === 'io' && pad.port !== undefined,
  );
  const pads = io.map((pad, index) => benchPad(derived, pad, index, netsOn.get(pad.id)?.[0]));
  const byPad = new Map(pads.map((one) => [one.pad.id as string, one.index]));
  const padOfNet = new Map<string, number>();
  for (const { net } of derived.resolved) {
    const at = net.placement ? byPad.get(net.placement.pad) : undefined;
    if (at !== undefined) padOfNet.set(net.id, at);
  }
  const parts: BenchPart[] = [];
  for (const attachment of attachmentsOf(device, plan, byNet)) {
    const at = attachment.nets.map((id) => padOfNet.get(id));
    const there = at.filter((one) => one !== undefined);
    // What is not on a pad yet has nothing to be attached to.
    if (there.length === 0 || there.length < at.length) continue;
    parts.push(partOf(attachment, there, pads, derived));
  }
  const partsAt = new Map<string, number[]>();
  parts.forEach(({ attachment }, index) => {
    for (const net of attachment.nets) partsAt.set(net, [...(partsAt.get(net) ?? []), index]);
  });
  return {
    pads,
    byPad,
    byNet: padOfNet,
    parts,
    partsAt,
    ...watchersOf(device, pads),
    handlers: handlersOf(derived),
  };
}

function handlersOf(derived: Derived): () => ReadonlyMap<string, string> {
  let handlers: Map<string, string> | undefined;
  return () => {
    if (!handlers) {
      const plain = plainNames(derived, { registers: [] });
      handlers = new Map(
        programOf(derived).interrupts.flatMap(({ nets }) =>
          nets.map(({ net }) => [net, `${plain.prefix}_${plain.handler(net)}`]),
        ),
      );
    }
    return handlers;
  };
}

function partOf(
  attachment: BoardAttachment,
  at: readonly number[],
  pads: readonly BenchPad[],
  derived: Derived,
): BenchPart {
  const figures = figuresOf(attachment);
  const attached = BEHAVIOURS[attachment.kind]({
    nodes: at,
    supplyVolts: at.map((one) => pads[one]?.supplyVolts ?? USUAL_VOLTS),
    activeLow: attachment.nets.map((id) => derived.byNet.get(id)?.net.settings.active === 'low'),
    figures,
  });
  attached.apply();
  if (attachment.kind === 'capacitor') {
    for (const one of at) {
      const pad = pads[one];
      if (pad) pad.farads += faradsOf(figures);
    }
  }
  return { attachment, attached, pads: at, atStart: attached.state.slice() };
}
