/**
 * Pins that no plan decides about, against the netlist of the schematic: supplies and grounds are connected, to a net that can be
 * theirs, and to nothing that shorts them; pins that must be left open are open. Nets are compared by name; what a name says (`GND`,
 * `+5V`) counts only where it contradicts the pin.
 */
import { groupBy } from '../../base/lists';
import type { Package, Pad, PadId, PinNumber, Supply } from '../../description/types';
import type { Device } from '../../device/device';
import type { Edit } from '../../plan/edits/edits';
import { placeNet } from '../../plan/edits/make-edits';
import type { Net, NetId, Plan, Schematic } from '../../plan/model/types';
import type { ResolvedNet } from '../resolve/resolve';
import { unusedPads } from '../resolve/unused';
import { isUnconnected, plainNetName, saysGround, saysSupply, voltsIn } from './net-names';

export type SupplyFaultKind =
  | 'supply-open'
  | 'supply-wrong'
  | 'supply-split'
  | 'supply-shorted'
  | 'not-left-open';

export interface SupplyFault {
  kind: SupplyFaultKind;
  /** Pins that it is about, in the order of the package, and their pads. */
  pins: PinNumber[];
  pads: PadId[];
  /** Nets of the plan that are on them. */
  nets: NetId[];
  message: string;
  /** What the schematic is to change. */
  remedies: { label: string; edit: Edit }[];
}

interface Facts {
  device: Device;
  pkg: Package;
  plan: Plan;
  byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>;
}

/** A pin of the package with what the netlist has on it. */
interface DrawnPin {
  pin: PinNumber;
  pad: Pad;
  /** As the netlist writes it; undefined when the pin is open, or alone on its net. */
  net: string | undefined;
  alone: boolean;
}

/** All faults, by kind and in the order of the package; none when there is no netlist. */
export function supplyFaults(facts: Facts): SupplyFault[] {
  const { schematic } = facts.plan;
  if (!schematic) return [];
  const pins = drawnPins(facts, schematic);
  const shorts = shortedNets(facts, schematic, pins);
  const shorted = new Set(shorts.flatMap((fault) => fault.pins));
  // One cause is one fault: a pin that shorts two supplies is not also on a wrong net.
  const unshorted = pins.filter(({ pin }) => !shorted.has(pin));
  const wrong = unshorted.flatMap((pin) => wrongNet(facts, schematic, pins, pin));
  const settled = new Set(wrong.flatMap((fault) => fault.pins));
  return [
    ...shorts,
    ...openSupplies(schematic, pins),
    ...wrong,
    ...splitSupplies(
      schematic,
      unshorted.filter(({ pin }) => !settled.has(pin)),
    ),
    ...connectedOpenPins(schematic, unshorted),
  ];
}

const faultOn = (kind: SupplyFaultKind, members: readonly DrawnPin[]): Omit<SupplyFault, 'message'> => ({
  kind,
  pins: members.map(({ pin }) => pin),
  pads: [...new Set(members.map(({ pad }) => pad.id))],
  nets: [],
  remedies: [],
});

const isSupply = ({ pad }: DrawnPin): boolean => pad.kind === 'supply';
const isGround = ({ pad }: DrawnPin): boolean => pad.kind === 'ground';

function drawnPins({ device, pkg }: Facts, schematic: Schematic): DrawnPin[] {
  const drawn = new Map(schematic.pins.map((row) => [row.pin, row]));
  return Object.entries(pkg.pins).flatMap(([pin, padId]) => {
    const pad = device.pads.get(padId);
    if (!pad) return [];
    const row = drawn.get(pin);
    const alone = row?.alone === true;
    const net = row === undefined || alone || isUnconnected(row.net) ? undefined : row.net;
    return [{ pin, pad, net, alone }];
  });
}

/** One fault for the pins of a pad; one for all supplies, when the netlist connects none. */
function openSupplies(schematic: Schematic, pins: readonly DrawnPin[]): SupplyFault[] {
  const rails = pins.filter((pin) => isSupply(pin) || isGround(pin));
  const open = rails.filter(({ net }) => net === undefined);
  if (open.length === 0) return [];
  if (open.length === rails.length && rails.length > 2)
    return [
      {
        ...faultOn('supply-open', open),
        message: `No supply or ground pin of ${schematic.designator} is connected in the schematic (${open.length} pins), or the netlist leaves them out.`,
      },
    ];
  return [...groupBy(open, ({ pad, alone }) => `${pad.id} ${alone}`).values()].flatMap((members) => {
    const [first] = members;
    if (!first) return [];
    const siblings = rails.filter(({ pad }) => pad.id === first.pad.id);
    const several = members.length > 1;
    const subject = several
      ? `${pinsText(schematic, members)}, ${kindText(first)} pins, are`
      : `${pinText(schematic, first)}, a ${kindText(first)}, is`;
    const state = first.alone
      ? `on ${several ? 'nets' : 'a net'} in the schematic where nothing else of the board is`
      : 'not connected in the schematic';
    const net = commonNet(siblings);
    return [
      {
        ...faultOn('supply-open', members),
        message: `${subject} ${state}.`,
        remedies: net === undefined ? [] : [redraw(schematic, members, net)],
      },
    ];
  });
}

/** A supply on a net that says ground or other volts, or that the plan has for a signal; a ground likewise. */
function wrongNet(
  { device, plan }: Facts,
  schematic: Schematic,
  pins: readonly DrawnPin[],
  pin: DrawnPin,
): SupplyFault[] {
  const { net, pad } = pin;
  if (net === undefined || (!isSupply(pin) && !isGround(pin))) return [];
  const signal = plan.nets.find(({ name }) => plainNetName(name) === plainNetName(net));
  const because = signal
    ? 'which the plan has as a signal'
    : isSupply(pin)
      ? whyNotSupply(device, net, supplyOf(device, pad))
      : saysSupply(net) || isNameOf(device, net, 'supply')
        ? 'which is named like a supply'
        : undefined;
  if (because === undefined) return [];
  const siblings = pins.filter((each) => each.pad.id === pad.id && each.net !== undefined);
  const sibling = commonNet(siblings.filter((each) => !sameNet(each.net, net)));
  return [
    {
      ...faultOn('supply-wrong', [pin]),
      nets: signal ? [signal.id] : [],
      message: `${pinText(schematic, pin)}, a ${kindText(pin)}, is on \`${net}\` in the schematic, ${because}.`,
      remedies: sibling === undefined ? [] : [redraw(schematic, [pin], sibling)],
    },
  ];
}

function whyNotSupply(device: Device, net: string, supply: Supply | undefined): string | undefined {
  if (saysGround(net) || isNameOf(device, net, 'ground')) return 'which is named like a ground';
  const volts = voltsIn(net);
  if (volts === undefined || !supply) return undefined;
  const { lowest, highest } = rangeOf(supply);
  return volts >= lowest && volts <= highest
    ? undefined
    : `and ${supply.id} takes ${lowest === highest ? `${lowest} V` : `${lowest} V to ${highest} V`}`;
}

/** A net called like a pad of that kind. */
const isNameOf = (device: Device, net: string, kind: Pad['kind']): boolean =>
  device.description.pads.some((pad) => pad.kind === kind && plainNetName(pad.id) === plainNetName(net));

/** Without limits in the description, a tenth above and below the nominal voltage. */
const rangeOf = ({
  nominalVolts,
  lowestVolts,
  highestVolts,
}: Supply): { lowest: number; highest: number } => ({
  lowest: lowestVolts ?? Math.round(nominalVolts * 90) / 100,
  highest: highestVolts ?? Math.round(nominalVolts * 110) / 100,
});

/** The supply that a supply pad feeds: named by the pad, or called like it, or the only one. */
function supplyOf(device: Device, pad: Pad): Supply | undefined {
  const { supplies } = device.description;
  return (
    supplies.find(({ id }) => id === pad.supply) ??
    supplies.find(({ id }) => id === pad.id) ??
    (supplies.length === 1 ? supplies[0] : undefined)
  );
}

/** Pins of one supply pad are the same metal inside the part: on two nets of the board, the part joins them. */
function splitSupplies(schematic: Schematic, pins: readonly DrawnPin[]): SupplyFault[] {
  const byPad = groupBy(
    pins.filter((pin) => pin.net !== undefined && (isSupply(pin) || isGround(pin))),
    ({ pad }) => pad.id,
  );
  return [...byPad].flatMap(([pad, siblings]): SupplyFault[] => {
    const common = commonNet(siblings);
    const strays = siblings.filter(({ net }) => !sameNet(net, common));
    if (common === undefined || strays.length === 0) return [];
    const nets = [...new Set(siblings.map(({ net }) => `\`${net}\``))];
    return [
      {
        ...faultOn('supply-split', siblings),
        message: `The pins of \`${pad}\` are on ${nets.length} nets in the schematic, ${nets.join(', ')}; inside the part they are one.`,
        remedies: [redraw(schematic, strays, common)],
      },
    ];
  });
}

/** Nets of the schematic that join a supply with a ground, two supplies of different volts, or one of them with what drives it. */
function shortedNets(facts: Facts, schematic: Schematic, pins: readonly DrawnPin[]): SupplyFault[] {
  const byNet = groupBy(
    pins.filter(({ net }) => net !== undefined),
    ({ net }) => plainNetName(net ?? ''),
  );
  const faults: SupplyFault[] = [];
  for (const joined of byNet.values()) {
    const supplies = joined.filter(isSupply);
    const grounds = joined.filter(isGround);
    const net = joined[0]?.net ?? '';
    /** The fewer are the likelier ones to be wrong: to the net where their pad's other pins are. */
    const separations = (shortedNet: string): SupplyFault['remedies'] => {
      const fewer = supplies.length > grounds.length ? grounds : supplies;
      return [...groupBy(fewer, ({ pad }) => pad.id)].flatMap(([pad, members]) => {
        const elsewhere = pins.filter((pin) => pin.pad.id === pad && !sameNet(pin.net, shortedNet));
        const right = commonNet(elsewhere);
        return right === undefined ? [] : [redraw(schematic, members, right)];
      });
    };
    const report = (members: readonly DrawnPin[], message: string, drivers: readonly Net[] = []): void => {
      faults.push({
        ...faultOn('supply-shorted', members),
        nets: drivers.map(({ id }) => id),
        message,
        remedies:
          supplies.length > 0 && grounds.length > 0
            ? separations(net)
            : [
                ...drivers.map((driver) => ({
                  label: `take ${driver.name} off ${members[0]?.pad.id}`,
                  edit: placeNet(driver, null),
                })),
                ...members.slice(-1).map((pin) => redraw(schematic, [pin], undefined)),
              ],
      });
    };
    if (supplies.length > 0 && grounds.length > 0) {
      report(
        [...supplies, ...grounds],
        `\`${net}\` shorts ${pinsText(schematic, supplies)} to ${pinsText(schematic, grounds)}.`,
      );
      continue;
    }
    const apart = farApart(facts.device, supplies);
    if (apart)
      report(
        supplies,
        `\`${net}\` joins ${apart[0].id} (${apart[0].nominalVolts} V) and ${apart[1].id} (${apart[1].nominalVolts} V) in the schematic; no voltage suits both.`,
      );
    if (supplies.length + grounds.length === 0) continue;
    const rail = supplies.length > 0 ? 'supply' : 'ground';
    for (const pin of joined.filter(({ pad }) => pad.kind === 'io')) {
      const fight = driverAgainst(facts, pin.pad, rail);
      if (fight)
        report(
          [pin],
          `${pinText(schematic, pin)} is tied to the ${rail} \`${net}\` in the schematic, and ${fight.text}.`,
          fight.drivers,
        );
    }
    for (const pin of rail === 'ground' ? joined.filter(({ pad }) => pad.kind === 'reset') : [])
      report(
        [pin],
        `${pinText(schematic, pin)}, the reset pin, is on \`${net}\` in the schematic: the part never starts.`,
      );
  }
  return faults;
}

/** Two supplies on one net whose ranges do not meet. */
function farApart(device: Device, pins: readonly DrawnPin[]): [Supply, Supply] | undefined {
  const supplies = [...new Set(pins.flatMap(({ pad }) => supplyOf(device, pad) ?? []))];
  for (const a of supplies)
    for (const b of supplies) if (rangeOf(a).highest < rangeOf(b).lowest) return [a, b];
  return undefined;
}

/** What drives a pad against a rail that it is tied to: a planned output, or what becomes of it while nobody plans it. */
function driverAgainst(
  { device, pkg, plan, byPad }: Facts,
  pad: Pad,
  rail: 'supply' | 'ground',
): { text: string; drivers: Net[] } | undefined {
  for (const { net, planned, fn } of byPad.get(pad.id) ?? []) {
    const values = planned?.settings.values;
    const line = fn && values?.mode === 'function' ? device.lineOf(fn.signal) : undefined;
    if (values?.mode !== 'output' && line?.direction !== 'out') continue;
    // An output of one side can only fight the rail of the other side.
    if (values?.outputType === 'open-drain' && rail === 'ground') continue;
    if (values?.outputType === 'open-source' && rail === 'supply') continue;
    return { text: `the plan drives \`${net.name}\` there`, drivers: [net] };
  }
  const left = unusedPads(device, pkg, plan, (id) => (byPad.get(id) ?? []).length > 0).find(
    (each) => each.pad.id === pad.id,
  );
  return left?.policy === 'output-low' && 'planned' in left.result && rail === 'supply'
    ? { text: 'the plan makes unused pads outputs that are low', drivers: [] }
    : undefined;
}

/** Pads that are connected to nothing inside, or must be left open, and are on a net with others. */
function connectedOpenPins(schematic: Schematic, pins: readonly DrawnPin[]): SupplyFault[] {
  return pins
    .filter(({ pad, net }) => net !== undefined && (pad.kind === 'no-connect' || pad.kind === 'no-bond'))
    .map((pin) => ({
      ...faultOn('not-left-open', [pin]),
      message: `${pinText(schematic, pin)} is to be left open, and is on \`${pin.net}\` in the schematic.`,
      remedies: [redraw(schematic, [pin], undefined)],
    }));
}

const sameNet = (a: string | undefined, b: string | undefined): boolean =>
  a !== undefined && b !== undefined && plainNetName(a) === plainNetName(b);

/** The net that most of some pins are on. */
function commonNet(pins: readonly DrawnPin[]): string | undefined {
  const counts = new Map<string, { net: string; count: number }>();
  for (const { net } of pins) {
    if (net === undefined) continue;
    const entry = counts.get(plainNetName(net));
    if (entry) entry.count++;
    else counts.set(plainNetName(net), { net, count: 1 });
  }
  return [...counts.values()].sort((a, b) => b.count - a.count)[0]?.net;
}

/** Marks in the plan what the schematic is to change. */
function redraw(
  schematic: Schematic,
  members: readonly DrawnPin[],
  net: string | undefined,
): { label: string; edit: Edit } {
  const numbers = members.map(({ pin }) => pin);
  const rest = schematic.pins.filter((row) => !numbers.includes(row.pin));
  const subject = numbers.map((pin) => `${schematic.designator}-${pin}`).join(', ');
  return {
    label: `the schematic is to change: ${subject} ${numbers.length > 1 ? 'are' : 'is'} ${net ?? 'not connected'}`,
    edit: {
      kind: 'schematic.set',
      from: schematic,
      to: {
        ...schematic,
        pins: [...rest, ...(net === undefined ? [] : numbers.map((pin) => ({ pin, net })))],
      },
    },
  };
}

const kindText = ({ pad }: DrawnPin): string => (pad.kind === 'ground' ? 'ground' : 'supply');

const pinText = ({ designator }: Schematic, { pin, pad }: DrawnPin): string =>
  `${designator}-${pin} (\`${pad.id}\`)`;

const pinsText = ({ designator }: Schematic, pins: readonly DrawnPin[]): string =>
  [...groupBy(pins, ({ pad }) => pad.id)]
    .map(([pad, same]) => `\`${pad}\` (${same.map(({ pin }) => `${designator}-${pin}`).join(', ')})`)
    .join(', ');
