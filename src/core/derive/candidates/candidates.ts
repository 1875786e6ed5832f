import { settingTitle } from '../../description/settings';
import type { Pad, PadFunction, PadId, PinNumber } from '../../description/types';
import { splitSignal } from '../../description/types';
import { distanceBetween, sideOf } from '../../device/geometry';
import { takenAlong } from '../../device/offers';
import { sharedFields } from '../../device/shared-fields';
import type { Net, Placement } from '../../plan/model/types';
import { shortfalls } from '../electrical/limits';
import { functionsFor, isAnalog, type UnmetSetting, whyNot } from '../resolve/resolve';
import { unmetFinder } from './fitting';
import { InstanceUse } from './instance-use';
import { type Breach, carries, constraintBreaches, lineBreaches, type Occupancy } from './occupancy';
import { PadTerms } from './pad-terms';
import { DEFAULT_WEIGHTS, FAULTS, TERMS, type Term, type Terms, weigh } from './terms';

/** A pad that could carry a net, with what the choice costs. */
export interface Candidate {
  pad: PadId;
  pins: PinNumber[];
  fn?: PadFunction;
  /** Nets that sit there already. */
  takenBy: Net[];
  /** Sum of the weighted terms, and of {@link FAULTS}: lower is better. */
  cost: number;
  terms: Terms;
  /** What speaks for and against it, most telling first. */
  reasons: string[];
  /** What of its settings, demands and constraints the net would not get there, in words. */
  lacks: string[];
  /** All that is asked for holds there: the placer could choose it with the other nets where they are. */
  holds: boolean;
  /** It holds, and the pad has no duty at boot: fit to be proposed as a move. */
  clean: boolean;
}

/** The placement a candidate stands for. */
export const placementAt = (net: Net, candidate: Candidate): Placement => ({
  pad: candidate.pad,
  // Whoever moves a locked net by hand has not said that it is to be free.
  locked: net.placement?.locked === true,
  ...(net.role.kind === 'open-signal' && candidate.fn ? { signal: candidate.fn.signal } : {}),
});

/**
 * All pads of the package that can carry a net, best first, by the table of terms by which the placer chooses; where something
 * asked for would not hold, last.
 */
export function candidatesFor(occupancy: Occupancy, net: Net): Candidate[] {
  const { device, pkg } = occupancy;
  const pins = device.pinsOf.get(pkg.id);
  const found: Candidate[] = [];
  if (!pins) return found;
  const unmet = unmetFinder(device, pkg, net);
  for (const [id, numbers] of pins) {
    const pad = device.pads.get(id);
    if (!pad || whyNot(device, pkg, net.role, pad) !== undefined) continue;
    const functions = functionsFor(device, pkg, net.role, pad);
    const options = functions.length === 0 ? [undefined] : functions;
    const ranked = options
      .map((fn) => weighPad(occupancy, net, pad, fn, unmet))
      .filter((one) => one !== undefined)
      .sort((a, b) => a.cost - b.cost);
    const best = ranked[0];
    if (best) found.push({ pad: id, pins: numbers, ...best });
  }
  return found.sort(
    (a, b) => a.cost - b.cost || (occupancy.pinOrder.get(a.pad) ?? 0) - (occupancy.pinOrder.get(b.pad) ?? 0),
  );
}

/** Something to be said of a pad; the telling first. */
interface Reason {
  words: string;
  tells: number;
}

/** Cost and reasons of one pad and function; undefined when another net already carries the signal. */
function weighPad(
  occupancy: Occupancy,
  net: Net,
  pad: Pad,
  fn: PadFunction | undefined,
  unmetOn: (pad: Pad, fn: PadFunction | undefined) => UnmetSetting | undefined,
): Omit<Candidate, 'pad' | 'pins'> | undefined {
  const { device, pkg } = occupancy;
  const others = (list: readonly { net: Net }[] | undefined): Net[] =>
    (list ?? []).flatMap((one) => (one.net.id === net.id ? [] : [one.net]));
  if (fn && !isAnalog(net.role) && others(occupancy.bySignal.get(fn.signal)).length > 0) return undefined;
  const takenBy = others(occupancy.byPad.get(pad.id));
  const breaches: Breach[] = [];
  if (takenBy.length > 0)
    breaches.push({ fault: 'taken', words: `taken by ${takenBy.map((one) => one.name).join(', ')}` });
  breaches.push(...alongBreaches(occupancy, net, pad, fn), ...sharedBreaches(occupancy, net, fn));
  const uses = usesOf(occupancy);
  const use = fn && !isAnalog(net.role) ? uses.of(net, fn) : undefined;
  if (use?.breach) breaches.push({ fault: 'instance', words: use.breach });
  const unmet = unmetOn(pad, fn);
  if (unmet)
    breaches.push({ fault: 'setting', words: `no ${unmet.wanted} ${settingTitle(unmet.key)}`, lack: true });
  const side = sideOf(pkg, device.pinsOf.get(pkg.id)?.get(pad.id)?.[0] ?? '');
  for (const { why } of net.demands ? shortfalls(device, pkg, net, pad, fn, side) : [])
    breaches.push({ fault: 'demand', words: why, lack: true });
  breaches.push(...constraintBreaches(occupancy, net, pad, fn), ...lineBreaches(occupancy, net, pad));

  const known = termsOf(occupancy);
  const near = distanceOf(occupancy, known, net, pad, fn);
  const terms: Terms = { ...known.of(net, pad, fn), ...(near ? { near } : {}) };
  const reasons: Reason[] = breaches.map(({ fault, words }) => ({ words, tells: FAULTS[fault] }));
  if (use?.words) reasons.push({ words: use.words, tells: use.telling });
  for (const [term, words] of termWords(occupancy, known, net, pad, fn, terms))
    reasons.push({ words, tells: TERMS[term].weight * (terms[term] ?? 0) });
  return {
    fn,
    takenBy,
    terms,
    cost: weigh(DEFAULT_WEIGHTS, terms) + breaches.reduce((sum, { fault }) => sum + FAULTS[fault], 0),
    reasons: reasons.sort((a, b) => b.tells - a.tells).map((one) => one.words),
    lacks: breaches.flatMap((one) => (one.lack ? [one.words] : [])),
    holds: breaches.length === 0,
    clean: breaches.length === 0 && terms.special === undefined,
  };
}

const knownTerms = new WeakMap<Occupancy, PadTerms>();
const knownUses = new WeakMap<Occupancy, InstanceUse>();

/** The cost of pads, given where all nets lie. */
function termsOf(occupancy: Occupancy): PadTerms {
  let terms = knownTerms.get(occupancy);
  if (!terms) {
    const { device, pkg, resolved } = occupancy;
    terms = new PadTerms(
      device,
      pkg,
      resolved.map((one) => one.net),
      resolved,
    );
    knownTerms.set(occupancy, terms);
  }
  return terms;
}

function usesOf(occupancy: Occupancy): InstanceUse {
  let uses = knownUses.get(occupancy);
  if (!uses) {
    uses = new InstanceUse(occupancy.device, occupancy.resolved);
    knownUses.set(occupancy, uses);
  }
  return uses;
}

/** Pins between a pad and the middle of the net's circuit. */
function distanceOf(
  { pinOrder }: Occupancy,
  terms: PadTerms,
  net: Net,
  pad: Pad,
  fn: PadFunction | undefined,
): number {
  const here = pinOrder.get(pad.id);
  const centre = terms.centreFor(net, fn);
  return here === undefined || centre === undefined ? 0 : terms.distance(here, centre);
}

/** The terms in words. */
function termWords(
  occupancy: Occupancy,
  known: PadTerms,
  net: Net,
  pad: Pad,
  fn: PadFunction | undefined,
  terms: Terms,
): [Term, string][] {
  const found: [Term, string][] = [];
  const instance = fn ? splitSignal(fn.signal)[0] : '';
  if (terms.special) found.push(['special', `${pad.boot?.kind} pad`]);
  if (terms.split) found.push(['split', `${known.apartFrom(net, instance)?.name} names another instance`]);
  if (terms.complete)
    found.push(['complete', `${instance} lacks ${terms.complete} of its lines in this package`]);
  const { most } = known.scarcity(net, pad.id, fn);
  found.push([
    'scarce',
    most === undefined
      ? 'gives nothing up'
      : most.alternatives === 1
        ? `takes the last free pad for ${most.signal}`
        : `also ${most.signal}, ${most.alternatives} alternatives left`,
  ]);
  const where = nearWords(occupancy, known, net, pad);
  if (where) found.push(['near', where]);
  return found;
}

/** Where a pad lies in relation to the other nets of the circuit. */
function nearWords(
  { device, pkg, pinOrder }: Occupancy,
  known: PadTerms,
  net: Net,
  pad: Pad,
): string | undefined {
  const here = pinOrder.get(pad.id);
  const middle = known.middleSeat(net);
  if (here === undefined || !middle) return undefined;
  const beside = known.seatsOf(net).find((one) => known.distance(here, one.place) <= 1);
  if (beside) return `beside ${beside.net.name}`;
  // As far as it is, not only as far as it matters.
  const pins = distanceBetween(pkg, here, middle.place);
  if (pins <= 4) return `near ${middle.net.name}`;
  const side = sideOf(pkg, device.pinsOf.get(pkg.id)?.get(pad.id)?.[0] ?? '');
  return `${side === undefined ? '' : `${side} side, `}${pins} pins from ${middle.net.name}`;
}

/** A pad that goes along with a function in use, and a function that takes along pads in use. */
function alongBreaches(occupancy: Occupancy, net: Net, pad: Pad, fn: PadFunction | undefined): Breach[] {
  const { device, byPad } = occupancy;
  const found: Breach[] = [];
  const along = takenAlong(device, pad.id, (signal, on) => carries(occupancy, signal, on, net))[0];
  if (along) found.push({ fault: 'along', words: `taken along by ${along.signal} on ${along.pad}` });
  if (!fn) return found;
  for (const forced of device.description.forced ?? []) {
    if (forced.signal !== fn.signal || forced.pad !== pad.id) continue;
    for (const taken of forced.takes) {
      const other = byPad.get(taken)?.find((one) => one.net.id !== net.id);
      if (other) found.push({ fault: 'along', words: `takes along ${taken}, where ${other.net.name} is` });
    }
  }
  return found;
}

/** Bits that a function of another net decides otherwise. */
function sharedBreaches(
  { device, pkg, resolved }: Occupancy,
  net: Net,
  fn: PadFunction | undefined,
): Breach[] {
  const modes = fn && sharedFields(device, pkg).get(fn);
  if (!modes) return [];
  const other = resolved.find(
    (one) =>
      one.net.id !== net.id &&
      one.fn &&
      sharedFields(device, pkg)
        .get(one.fn)
        ?.some((theirs) => modes.some((own) => own.mode === theirs.mode && own.value !== theirs.value)),
  );
  return other ? [{ fault: 'shared', words: `would move ${other.net.name} to another pad` }] : [];
}
