import { canonicalJson } from '../base/fingerprint';
import { applicationNames } from '../compare/application';
import { openRole } from '../derive/candidates/groups';
import type { Derived } from '../derive/derive';
import { factsOf } from '../plan/changes/facts';
import type { Edit } from '../plan/edits/edits';
import {
  addNets,
  renameNet,
  setDemands,
  setFar,
  setNote,
  setRole,
  setSetting,
} from '../plan/edits/make-edits';
import {
  CIRCUIT_SETTING_KEYS,
  isCircuitSetting,
  type Net,
  type NetSettingKey,
  type Plan,
  roleText,
} from '../plan/model/types';

/**
 * Variants: one application on several boards, each with a plan of its own. They share circuits, known by their names: what a net of
 * a shared circuit is to the application is the same in all of them. Where it sits, and what the pad is set to in the part's own
 * words, is each board's.
 */

/** A property of a net that variants do not agree on. */
export interface SharedDifference {
  circuit: string;
  net: string;
  /** A field as facts name it: `role`, `settings.active`, `demands.rateHertz`. */
  field: string;
  /** In words, one for each variant; null where it has no such net. */
  values: (string | null)[];
}

/** A net that some variants lack. */
export interface Lack {
  circuit: string;
  net: string;
  has: boolean[];
}

/** A name of the generated headers, without the prefix, that not all variants have, or declare alike. */
export interface NameDifference {
  name: string;
  circuit: string;
  declarations: (string | null)[];
}

export interface VariantReport {
  variants: { name: string; revision: string; part: string; package: string; prefix: string }[];
  /** Circuits that are shared. */
  circuits: string[];
  lacks: Lack[];
  differences: SharedDifference[];
  names: NameDifference[];
  /** All headers have names that begin alike, so that one application includes any of them. */
  onePrefix: boolean;
}

/** Plans of several boards for one application. */
export interface Family {
  /** The plan that is asked about first, then the others by name. */
  plans: string[];
  circuits: string[];
}

/** A family, and what its plans do not agree on. */
export interface FoundVariants {
  family: Family;
  /** Circuits that all of them have. */
  all: string[];
  report: VariantReport;
}

/** Names stand for the same, however they are written. */
const key = (name: string): string => name.toLowerCase();

interface Shared {
  derived: Derived;
  /** By circuit and name. */
  nets: Map<string, Net>;
  /** Plans that come from one have the same ids: a net that was renamed in one of them is still known by it. */
  byId: Map<string, Net>;
}

/** The net of a variant that is another variant's: of the same name, or else of the same id, where that has no name of its own there. */
function counterpart(place: string, net: Net, source: Shared, there: Shared): Net | undefined {
  const own = there.nets.get(place);
  if (own) return own;
  const renamed = there.byId.get(net.id);
  const name = renamed && placeIn(there.derived.plan, renamed);
  return name !== undefined && !source.nets.has(name) ? renamed : undefined;
}

const placeIn = (plan: Plan, net: Net): string =>
  placeOf(plan.circuits.find(({ id }) => id === net.circuit)?.name ?? '', net.name);

const placeOf = (circuit: string, net: string): string => JSON.stringify([key(circuit), key(net)]);

function sharedOf(derived: Derived, circuits: ReadonlySet<string>): Shared {
  const { plan } = derived;
  const names = new Map(plan.circuits.map(({ id, name }) => [id, name]));
  const nets = new Map<string, Net>();
  const byId = new Map<string, Net>();
  for (const net of plan.nets) {
    const circuit = names.get(net.circuit) ?? '';
    if (!circuits.has(key(circuit))) continue;
    nets.set(placeOf(circuit, net.name), net);
    byId.set(net.id, net);
  }
  return { derived, nets, byId };
}

/** What of a net is the application's: the name, the role without its instance, circuit settings, demands, far end, note. */
export function sharedFields(derived: Derived, net: Net): Map<string, string> {
  const fields = new Map<string, string>();
  const facts = factsOf({ ...derived.plan, nets: [net] }).lists.nets[0]?.fields ?? new Map<string, unknown>();
  for (const [field, value] of facts) {
    const setting = /^settings\.(.+)$/.exec(field)?.[1];
    if (['name', 'circuit', 'placement', 'role'].includes(field)) continue;
    if (setting !== undefined && !isCircuitSetting(setting as NetSettingKey)) continue;
    // Where a net must not sit, and on which side, is about a package.
    if (field === 'demands.notPads' || field === 'demands.side') continue;
    fields.set(
      field,
      typeof value === 'string' || typeof value === 'number' ? String(value) : canonicalJson(value),
    );
  }
  fields.set('name', net.name);
  fields.set('role', roleText(openRole(derived.device, net.role)));
  return fields;
}

/** Circuits that every one of several plans has, by name. */
export function commonCircuits(plans: readonly Plan[]): string[] {
  const [first, ...rest] = plans;
  return (first?.circuits ?? []).flatMap(({ name }) =>
    rest.every((plan) => plan.circuits.some((one) => key(one.name) === key(name))) ? [name] : [],
  );
}

/** What variants do not agree on in the circuits that they share, and which lacks what. */
export function variantReport(deriveds: readonly Derived[], circuits: readonly string[]): VariantReport {
  const wanted = new Set(circuits.map(key));
  const sides = deriveds.map((one) => sharedOf(one, wanted));
  // Each net once, with what it is in every variant.
  const rows: { circuit: string; net: string; own: (Net | undefined)[] }[] = [];
  const told = sides.map(() => new Set<Net>());
  sides.forEach((side, at) => {
    for (const [place, net] of side.nets) {
      if (told[at]?.has(net)) continue;
      const own = sides.map((other, index) => (index === at ? net : counterpart(place, net, side, other)));
      own.forEach((one, index) => {
        if (one) told[index]?.add(one);
      });
      const circuit = side.derived.plan.circuits.find(({ id }) => id === net.circuit)?.name ?? '';
      rows.push({ circuit, net: net.name, own });
    }
  });
  const lacks: Lack[] = [];
  const differences: SharedDifference[] = [];
  for (const { circuit, net, own } of rows) {
    const has = own.map((one) => one !== undefined);
    if (has.includes(false)) lacks.push({ circuit, net, has });
    const fields = sides.map(({ derived }, at) => {
      const one = own[at];
      return one && sharedFields(derived, one);
    });
    for (const field of new Set(fields.flatMap((one) => [...(one?.keys() ?? [])]))) {
      const values = fields.map((one) => (one ? (one.get(field) ?? '') : null));
      if (new Set(values.filter((one) => one !== null)).size > 1)
        differences.push({ circuit, net, field, values });
    }
  }
  const prefixes = deriveds.map((one) => prefixIn(one));
  return {
    variants: deriveds.map(({ plan, device, pkg }, at) => ({
      name: plan.name,
      revision: plan.revision,
      part: device.description.name,
      package: pkg.name,
      prefix: prefixes[at] ?? '',
    })),
    circuits: [...circuits],
    lacks,
    differences,
    names: nameDifferences(deriveds, prefixes, wanted),
    onePrefix: new Set(prefixes).size <= 1,
  };
}

/** What the names of a header begin with: what stands before `_init` in the one that every header has. */
const prefixIn = (derived: Derived): string =>
  [...applicationNames(derived).keys()].find((name) => name.endsWith('_init'))?.slice(0, -'_init'.length) ??
  '';

function nameDifferences(
  deriveds: readonly Derived[],
  prefixes: readonly string[],
  wanted: ReadonlySet<string>,
): NameDifference[] {
  const found = new Map<string, NameDifference>();
  deriveds.forEach((derived, at) => {
    const prefix = prefixes[at] ?? '';
    for (const { name, declaration, circuit } of applicationNames(derived).values()) {
      if (circuit === '' || !wanted.has(key(circuit))) continue;
      // Constants are capitals.
      const plain = name.slice(prefix.length + 1);
      const one = found.get(plain) ?? { name: plain, circuit, declarations: deriveds.map(() => null) };
      one.declarations[at] = declaration.replace(name, plain);
      found.set(plain, one);
    }
  });
  return [...found.values()].filter(({ declarations }) => new Set(declarations).size > 1);
}

/**
 * The edit that makes a net in one variant what it is in another: all that is shared of it, or one field. A variant that lacks the
 * net gets it, without a pad. Undefined where nothing is to be done.
 */
export function shareEdit(
  from: Derived,
  to: Derived,
  place: { circuit: string; net: string },
  newId: () => string,
  field?: string,
): Edit | undefined {
  const wanted = new Set([key(place.circuit)]);
  const [here, there] = [sharedOf(from, wanted), sharedOf(to, wanted)];
  const wantedPlace = placeOf(place.circuit, place.net);
  // The report calls a net that was renamed by what another variant calls it: it is found by that one's id.
  const source = here.nets.get(wantedPlace) ?? renamedIn(here, there, wantedPlace);
  if (!source) return undefined;
  const own = counterpart(placeIn(from.plan, source), source, here, there);
  const label = `take ${place.net} over from ${from.plan.name}`;
  if (!own) return addShared(from, to, place.circuit, source, newId, label);
  const edits = changesTo(from, to, source, own, field);
  return edits.length === 0 ? undefined : { kind: 'batch', label, edits };
}

function renamedIn(here: Shared, there: Shared, place: string): Net | undefined {
  const net = there.nets.get(place);
  return net && counterpart(place, net, there, here);
}

function addShared(
  from: Derived,
  to: Derived,
  circuit: string,
  source: Net,
  newId: () => string,
  label: string,
): Edit {
  const there = to.plan.circuits.find(({ name }) => key(name) === key(circuit));
  const home = there ?? { id: newId(), name: circuit };
  const { note, demands, far } = source;
  const { notPads: _pads, side: _side, ...shared } = demands ?? {};
  const taken = to.plan.nets.some(({ id }) => id === source.id);
  const net: Net = {
    id: taken ? newId() : source.id,
    name: source.name,
    circuit: home.id,
    role: openRole(from.device, source.role),
    placement: null,
    settings: Object.fromEntries(
      CIRCUIT_SETTING_KEYS.flatMap((one) =>
        source.settings[one] === undefined ? [] : [[one, source.settings[one]]],
      ),
    ),
    ...(Object.keys(shared).length > 0 ? { demands: shared } : {}),
    ...(far ? { far } : {}),
    ...(note ? { note } : {}),
  };
  return { ...addNets(to.plan, there ? [] : [home], [net]), label };
}

/** What makes a net what another is, in one field or in all; each step is made against the net as the one before leaves it. */
function changesTo(from: Derived, to: Derived, source: Net, own: Net, only: string | undefined): Edit[] {
  const [want, have] = [sharedFields(from, source), sharedFields(to, own)];
  const edits: Edit[] = [];
  let current = own;
  const step = (edit: Edit, next: Partial<Net>): void => {
    edits.push(edit);
    current = { ...current, ...next };
  };
  for (const field of new Set([...want.keys(), ...have.keys()])) {
    if (only !== undefined && field !== only) continue;
    if ((want.get(field) ?? '') === (have.get(field) ?? '')) continue;
    const dot = field.indexOf('.');
    const [head, entry] = dot < 0 ? [field, ''] : [field.slice(0, dot), field.slice(dot + 1)];
    switch (head) {
      case 'role': {
        const role = openRole(from.device, source.role);
        step(setRole(current, role), { role });
        break;
      }
      case 'name':
        step(renameNet(current, source.name), { name: source.name });
        break;
      case 'note':
        step(setNote(current, source.note ?? ''), { note: source.note ?? '' });
        break;
      case 'settings': {
        const setting = entry as NetSettingKey;
        const value = source.settings[setting] ?? null;
        const settings = { ...current.settings, [setting]: value ?? undefined } as Net['settings'];
        step(setSetting(current, setting, value), { settings });
        break;
      }
      case 'demands': {
        const demands = { ...current.demands, [entry]: source.demands?.[entry as 'rateHertz'] };
        step(setDemands(current, demands), { demands });
        break;
      }
      case 'far': {
        const far = { ...current.far, [entry]: source.far?.[entry as 'part'] };
        step(setFar(current, far), { far });
        break;
      }
    }
  }
  return edits;
}
