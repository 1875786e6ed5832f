import { ExpressionError } from '../../description/language/expression';
import { defaultOf } from '../../description/meanings';
import { hasRecipe } from '../../description/recipe';
import type { Device } from '../../device/device';
import type { PlannedPad } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';
import type { NetId, Plan } from '../../plan/model/types';
import type { Lowered } from '../lower/lower';
import type { ResolvedNet } from '../resolve/resolve';
import {
  type AccessSteps,
  type AfterInit,
  acknowledgeAccess,
  afterInit,
  canSilence,
  changedByAccess,
  driveAccess,
  interruptAccess,
  pendingAccess,
  readAccess,
  toggleAccess,
  whyAbsent,
  writeAccess,
} from './access';

export type AccessAction =
  | 'set'
  | 'clear'
  | 'toggle'
  | 'read'
  | 'write'
  | `interrupt_${'enable' | 'disable' | 'acknowledge' | 'pending'}`;

/** A function of the generated code that drives or reads pads: of one net, or of several as the bits of a number. */
export interface Accessor extends AccessSteps {
  action: AccessAction;
  /** In the order of the bits, lowest first. */
  nets: NetId[];
  /** Of several nets: what they are together. */
  group?: AccessGroup;
}

export interface AccessGroup {
  id: string;
  /** What its functions are called after. */
  name: string;
  kind: 'bus' | 'circuit';
}

export interface Accessors {
  list: Accessor[];
  /** Registers that cannot be read, of which the code keeps a copy, and what they hold after initialisation. */
  shadows: Map<Register, number>;
  /** What the hardware does not allow to be offered, and why. */
  absent: AbsentAccessor[];
  /** What is known of the chip after initialisation; absent where there are no accessors. */
  after?: AfterInit;
}

/** An accessor that there is no way for. */
export interface AbsentAccessor {
  action: AccessAction;
  pads: string[];
  why: string;
}

/** The most nets that one number holds. */
const WIDEST = 32;

/**
 * The accessors of a plan, proven: for each plain net on a pad of its own what drives and reads it, for each bus and each
 * circuit with several outputs what drives and reads them at once.
 */
export function accessorsOf(
  device: Device,
  plan: Plan,
  byPad: ReadonlyMap<string, readonly ResolvedNet[]>,
  lowered: Lowered,
  before?: Accessors,
): Accessors {
  if (!hasRecipe(device.description.recipe)) return { list: [], shadows: new Map(), absent: [] };
  const plain = new Map<NetId, Accessible>();
  for (const sharing of byPad.values()) {
    const one = sharing[0];
    const mode = one?.planned?.settings.values.mode;
    if (!one?.planned || one.pins.length === 0 || (mode !== 'output' && mode !== 'input')) continue;
    plain.set(one.net.id, {
      id: one.net.id,
      pad: one.planned,
      inverted: one.net.settings.active === 'low',
      driven: mode === 'output',
    });
  }
  if (plain.size === 0) return { list: [], shadows: new Map(), absent: [] };
  const changing = changedByAccess(
    device,
    [...plain.values()].map(({ pad, driven }) => ({ pad, driven, interrupts: interrupts(device, pad) })),
  );
  const after = afterInit(device, lowered, changing, before?.after);
  const worked = [
    ...[...plain.values()].map((one) =>
      remembered(after, 'net', [one], () => netAccessors(device, after, one)),
    ),
    ...groupsOf(plan, plain).map(({ group, members }) =>
      remembered(after, `${group.kind} ${group.id} ${group.name}`, members, () =>
        groupAccessors(device, after, group, members),
      ),
    ),
  ];
  const list = worked.flatMap((each) => each.offered);
  const used = new Set(
    list.flatMap(({ steps }) =>
      steps.flatMap((step) => {
        const kept = ('shadow' in step && step.shadow) || (step.kind === 'put' && step.way.kind === 'shadow');
        return kept && 'register' in step ? [step.register] : [];
      }),
    ),
  );
  const shadows = new Map([...after.shadows].filter(([register]) => used.has(register)));
  return { list, shadows, absent: worked.flatMap((each) => each.absent), after };
}

interface Offer {
  offered: Accessor[];
  absent: AbsentAccessor[];
}

interface Worked {
  members: readonly Accessible[];
  offer: Offer;
}
const workedOut = new WeakMap<AfterInit['machine'], Map<string, Worked>>();

/** Accessors of nets, worked out once for as long as their pads, and what is known of the chip after initialisation, stay the same. */
function remembered(
  { machine }: AfterInit,
  what: string,
  members: readonly Accessible[],
  work: () => Offer,
): Offer {
  let known = workedOut.get(machine);
  if (!known) {
    known = new Map();
    workedOut.set(machine, known);
  }
  const key = `${what} ${members.map((one) => one.id).join(' ')}`;
  const entry = known.get(key);
  const same = entry?.members.every((one, at) => {
    const now = members[at];
    return one.pad === now?.pad && one.inverted === now.inverted && one.driven === now.driven;
  });
  if (entry && same) return entry.offer;
  const offer = work();
  known.set(key, { members: [...members], offer });
  return offer;
}

interface Accessible {
  id: NetId;
  pad: PlannedPad;
  /** The net is asserted low. */
  inverted: boolean;
  driven: boolean;
}

/** Why there is no way for an accessor of some pads; none where there is one, or where the description does not say enough to tell. */
function absentOf(
  device: Device,
  after: AfterInit,
  action: 'toggle' | 'write',
  pads: readonly PlannedPad[],
): AbsentAccessor[] {
  try {
    const why = whyAbsent(device, after, action, pads);
    return why === undefined ? [] : [{ action, pads: pads.map(({ pad }) => pad.id), why }];
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    return [];
  }
}

function netAccessors(device: Device, after: AfterInit, one: Accessible): Offer {
  const { id, pad, inverted } = one;
  const drive = (asserted: boolean): AccessSteps =>
    driveAccess(device, after, pad, asserted !== inverted ? 'high' : 'low');
  const nets = [id];
  const isDriven = one.driven && device.description.recipe.access.latch !== undefined;
  const absent = isDriven ? absentOf(device, after, 'toggle', [pad]) : [];
  const offered: Accessor[] = [
    ...(one.driven && device.description.recipe.access.latch !== undefined
      ? [
          { action: 'set' as const, nets, ...drive(true) },
          { action: 'clear' as const, nets, ...drive(false) },
          ...(absent.length > 0
            ? []
            : [{ action: 'toggle' as const, nets, ...toggleAccess(device, after, pad) }]),
        ]
      : []),
    ...(device.description.recipe.access.level !== undefined
      ? [{ action: 'read' as const, nets, ...readAccess(device, after, [one]) }]
      : []),
    ...(interrupts(device, pad) ? interruptAccessors(device, after, one) : []),
  ];
  return { offered, absent };
}

/** Whether a pad shall interrupt. */
export function interrupts(device: Device, { settings }: PlannedPad): boolean {
  const { trigger } = settings.values;
  return trigger !== undefined && trigger !== defaultOf(device.description.recipe, 'trigger');
}

function interruptAccessors(device: Device, after: AfterInit, { id, pad }: Accessible): Accessor[] {
  const nets = [id];
  return [
    ...(canSilence(device, pad)
      ? [
          { action: 'interrupt_enable' as const, nets, ...interruptAccess(device, after, pad, true) },
          { action: 'interrupt_disable' as const, nets, ...interruptAccess(device, after, pad, false) },
        ]
      : []),
    ...(device.description.recipe.access.pending === undefined
      ? []
      : [
          { action: 'interrupt_acknowledge' as const, nets, ...acknowledgeAccess(device, after, pad) },
          { action: 'interrupt_pending' as const, nets, ...pendingAccess(device, after, pad) },
        ]),
  ];
}

function groupAccessors(
  device: Device,
  after: AfterInit,
  group: AccessGroup,
  members: readonly Accessible[],
): Offer {
  const nets = members.map((one) => one.id);
  const { latch, level } = device.description.recipe.access;
  const areDriven = latch !== undefined && members.every((one) => one.driven);
  const absent = areDriven
    ? absentOf(
        device,
        after,
        'write',
        members.map(({ pad }) => pad),
      )
    : [];
  const offered: Accessor[] = [
    ...(areDriven && absent.length === 0
      ? [{ action: 'write' as const, nets, group, ...writeAccess(device, after, members) }]
      : []),
    ...(level !== undefined
      ? [{ action: 'read' as const, nets, group, ...readAccess(device, after, members) }]
      : []),
  ];
  return { offered, absent };
}

/** Buses, and circuits with several outputs; a circuit whose outputs are a bus is that bus. */
function groupsOf(
  plan: Plan,
  plain: ReadonlyMap<NetId, Accessible>,
): { group: AccessGroup; members: Accessible[] }[] {
  const groups: { group: AccessGroup; members: Accessible[] }[] = [];
  const seen = new Set<string>();
  const add = (group: AccessGroup, members: readonly (Accessible | undefined)[]): void => {
    const known = members.filter((one) => one !== undefined);
    const key = known
      .map((one) => one.id)
      .sort()
      .join(' ');
    if (known.length < 2 || known.length > WIDEST || known.length < members.length || seen.has(key)) return;
    seen.add(key);
    groups.push({ group, members: known });
  };
  for (const constraint of plan.constraints ?? []) {
    if (constraint.kind !== 'bus') continue;
    const names = constraint.nets.map((id) => plan.nets.find((net) => net.id === id)?.name ?? '');
    add(
      { id: constraint.id, name: stemOf(names) || 'bus', kind: 'bus' },
      constraint.nets.map((id) => plain.get(id)),
    );
  }
  for (const circuit of plan.circuits) {
    const outputs = plan.nets.filter((net) => net.circuit === circuit.id && plain.get(net.id)?.driven);
    add(
      { id: circuit.id, name: `${circuit.name}_outputs`, kind: 'circuit' },
      outputs.map((net) => plain.get(net.id)),
    );
  }
  return groups;
}

/** What the names of a bus's nets begin with: `D` of D0, D1, D2. */
function stemOf(names: readonly string[]): string {
  const first = names[0] ?? '';
  let length = first.length;
  while (length > 0 && !names.every((name) => name.startsWith(first.slice(0, length)))) length--;
  return first.slice(0, length).replace(/[\d_\s-]+$/, '');
}
