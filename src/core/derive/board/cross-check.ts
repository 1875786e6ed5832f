import type { Package, Pad, PinNumber } from '../../description/types';
import type { Device } from '../../device/device';
import type { Edit } from '../../plan/edits/edits';
import { placeNet, renameNet } from '../../plan/edits/make-edits';
import type { Net, NetId, Placement, Plan, Schematic } from '../../plan/model/types';
import { functionsFor, type ResolvedNet, whyNot } from '../resolve/resolve';
import { isUnconnected, plainNetName, sameNetName } from './net-names';

/** A pin on which the plan and the netlist of the schematic do not agree. */
export interface Difference {
  /** `differs`: both name a net; `only-netlist`, `only-plan`: one of them does. */
  kind: 'differs' | 'only-netlist' | 'only-plan';
  pin: PinNumber;
  pad: Pad;
  /** As the netlist writes it. */
  netlistNet?: string;
  /** The plan's net of that name, wherever it sits. */
  meant?: Net;
  /** What the plan has on the pin. */
  planned?: Net;
  /** Ways to agree: changes of the plan, and changes of what the netlist is taken to say. */
  followNetlist: { label: string; edit: Edit }[];
  followPlan: { label: string; edit: Edit }[];
}

interface Facts {
  device: Device;
  pkg: Package;
  plan: Plan;
  byPad: ReadonlyMap<string, readonly ResolvedNet[]>;
}

/** All differences, in the order of the netlist, then of the plan; none when there is no netlist. */
export function crossCheck(facts: Facts): Difference[] {
  const { device, pkg, plan, byPad } = facts;
  const { schematic } = plan;
  if (!schematic) return [];
  const differences: Difference[] = [];
  const drawn = new Map(schematic.pins.map((pin) => [pin.pin, pin.net]));
  for (const [pin, padId] of Object.entries(pkg.pins)) {
    const pad = device.pads.get(padId);
    if (pad?.kind !== 'io') continue;
    const name = drawn.get(pin) ?? '';
    const netlistNet = isUnconnected(name) ? undefined : name;
    const here = byPad.get(padId)?.[0]?.net;
    if (netlistNet === undefined && here === undefined) continue;
    if (netlistNet !== undefined && here !== undefined && sameNetName(netlistNet, here.name)) continue;
    const meant =
      netlistNet === undefined ? undefined : plan.nets.find((net) => sameNetName(net.name, netlistNet));
    differences.push({
      kind: netlistNet === undefined ? 'only-plan' : here === undefined ? 'only-netlist' : 'differs',
      pin,
      pad,
      ...(netlistNet === undefined ? {} : { netlistNet }),
      ...(meant ? { meant } : {}),
      ...(here ? { planned: here } : {}),
      followNetlist: towardsNetlist(facts, schematic, pad, netlistNet, meant, here),
      followPlan: towardsPlan(schematic, pin, here),
    });
  }
  return differences;
}

/** What the netlist is taken to say instead: the plan's net on that pin, or nothing. */
function towardsPlan(schematic: Schematic, pin: PinNumber, here: Net | undefined): Difference['followPlan'] {
  const others = schematic.pins.filter((row) => row.pin !== pin);
  const pins = here ? [...others, { pin, net: here.name }] : others;
  const state = here ? `is ${here.name}` : 'is not connected';
  return [
    {
      label: `the schematic is to change: ${schematic.designator}-${pin} ${state}`,
      edit: { kind: 'schematic.set', from: schematic, to: { ...schematic, pins } },
    },
  ];
}

function towardsNetlist(
  facts: Facts,
  schematic: Schematic,
  pad: Pad,
  netlistNet: string | undefined,
  meant: Net | undefined,
  here: Net | undefined,
): Difference['followNetlist'] {
  if (netlistNet === undefined)
    return here ? [{ label: `take ${here.name} off ${pad.id}`, edit: placeNet(here, null) }] : [];
  if (!meant) {
    if (here) return [{ label: `rename ${here.name} to ${netlistNet}`, edit: renameNet(here, netlistNet) }];
    const added = newNetHere(facts, pad, netlistNet);
    return added ? [{ label: `add ${netlistNet} on ${pad.id}`, edit: added }] : [];
  }
  const to = placementOn(facts, meant, pad);
  if (!to) return [];
  const edits: Edit[] = [];
  let also = '';
  if (here) {
    // The net that sits there goes where the netlist has it, if that is free and can carry it.
    const free = freePadFor(facts, schematic, here, meant);
    edits.push(placeNet(here, free ?? null));
    also = free ? `, ${here.name} to ${free.pad}` : `, ${here.name} off it`;
  }
  edits.push(placeNet(meant, to));
  const label = `${meant.name} to ${pad.id}${also}`;
  const [only] = edits;
  return [{ label, edit: edits.length === 1 && only ? only : { kind: 'batch', label, edits } }];
}

function placementOn({ device, pkg }: Facts, net: Net, pad: Pad): Placement | undefined {
  if (whyNot(device, pkg, net.role, pad) !== undefined) return undefined;
  const fns = functionsFor(device, pkg, net.role, pad);
  const fn = fns.find((each) => each.signal === net.placement?.signal) ?? fns[0];
  const signal = net.role.kind === 'open-signal' && fn ? { signal: fn.signal } : {};
  return { pad: pad.id, locked: net.placement?.locked ?? false, ...signal };
}

/** Where the netlist has a net, when nobody but the one that leaves sits there. */
function freePadFor(facts: Facts, schematic: Schematic, net: Net, leaving: Net): Placement | undefined {
  const pin = schematic.pins.find((row) => sameNetName(row.net, net.name));
  const padId = pin && facts.pkg.pins[pin.pin];
  const pad = padId === undefined ? undefined : facts.device.pads.get(padId);
  if (!pad || (facts.byPad.get(pad.id) ?? []).some((there) => there.net.id !== leaving.id)) return undefined;
  return placementOn(facts, net, pad);
}

/** A plain input by that name, in the last circuit or in a new one. */
function newNetHere({ device, pkg, plan }: Facts, pad: Pad, name: string): Edit | undefined {
  if (whyNot(device, pkg, { kind: 'input' }, pad) !== undefined) return undefined;
  const circuit = plan.circuits.at(-1);
  const ids = new Set<string>(plan.nets.map((net) => net.id));
  let id: NetId = `net-${plainNetName(name).toLowerCase() || 'x'}`;
  while (ids.has(id)) id += '-';
  const edits: Edit[] = [];
  if (!circuit) edits.push({ kind: 'circuit.add', circuit: { id: 'board', name: 'Board' }, at: 0 });
  edits.push({
    kind: 'net.add',
    at: plan.nets.length,
    net: {
      id,
      name,
      circuit: circuit?.id ?? 'board',
      role: { kind: 'input' },
      placement: { pad: pad.id, locked: false },
      settings: {},
    },
  });
  return { kind: 'batch', label: `add ${name}`, edits };
}
