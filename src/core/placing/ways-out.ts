import type { Package } from '../device/types';
import type { Edit } from '../plan/edit';
import {
  placeNet,
  removeNet,
  removeNets,
  removeTie,
  setDemands,
  setRole,
  setSetting,
} from '../plan/make-edits';
import type { Demands, Plan, Role } from '../plan/types';
import { roleText } from '../plan/types';
import { examine } from './examine';
import { kindOfRole, lineOfRole } from './groups';
import { type Element, type Model, modelOf } from './model';
import type { PlaceOptions } from './place';
import { shrink, startOf } from './shrink';
import { allBut, type Trial } from './trial';

/** Something to give up; each was tried, and the rest can then be placed. */
export interface Suggestion {
  label: string;
  edit: Edit;
}

/** What each element of a conflict would be given up by; only what was tried and works. */
export function suggestionsFor(
  model: Model,
  elements: readonly Element[],
  trial: Trial,
  options: PlaceOptions,
): Suggestion[] {
  const { plan } = model;
  const found: Suggestion[] = [];
  for (const element of elements) {
    const suggestion = giveUp(plan, element);
    if (suggestion && trial.without(element.index)) found.push(suggestion);
  }
  for (const suggestion of openings(model, elements, trial)) found.push(suggestion);
  if (found.length === 0) found.push(...together(model, elements));
  if (found.length === 0 || !found.some((one) => one.edit.kind !== 'net.remove'))
    found.push(...otherPackages(model, options));
  return found.sort((a, b) => rankOf(a) - rankOf(b));
}

const rankOf = ({ edit }: Suggestion): number =>
  edit.kind === 'net.remove' ? 2 : edit.kind === 'batch' ? 3 : 1;

function giveUp(plan: Plan, element: Element): Suggestion | undefined {
  const [net] = element.nets;
  switch (element.kind) {
    case 'held':
      return net?.placement
        ? {
            label: `release \`${net.name}\` from \`${net.placement.pad}\``,
            edit: placeNet(net, { ...net.placement, held: false }),
          }
        : undefined;
    case 'setting':
      return net && element.setting
        ? {
            label: `drop ${element.setting} ${net.settings[element.setting]} of \`${net.name}\``,
            edit: setSetting(net, element.setting, null),
          }
        : undefined;
    case 'demand':
      return net && element.demand
        ? {
            label: `give up that ${element.words}`,
            edit: setDemands(net, withoutDemand(net.demands ?? {}, element.demand)),
          }
        : undefined;
    case 'tie':
      return element.tie
        ? { label: `give up that ${element.words}`, edit: removeTie(plan, element.tie) }
        : undefined;
    case 'net':
      return net ? { label: `leave out \`${net.name}\``, edit: removeNet(plan, net) } : undefined;
  }
}

function withoutDemand(demands: Demands, key: string): Demands {
  const { [key as keyof Demands]: _gone, ...rest } = demands;
  // The current follows from the load; both go.
  if (key !== 'milliamps') return rest;
  const { load: _load, ...bare } = rest as Demands;
  return bare;
}

/** Roles that name an instance, with the instance left open. */
function openings(model: Model, elements: readonly Element[], trial: Trial): Suggestion[] {
  const { plan, device, pkg } = model;
  return elements.flatMap((element): Suggestion[] => {
    const [net] = element.nets;
    if (element.kind !== 'net' || net?.role.kind !== 'signal') return [];
    const kind = kindOfRole(device, net.role);
    const line = lineOfRole(net.role);
    if (kind === undefined || line === undefined) return [];
    const role: Role = { kind: 'open-signal', peripheral: kind, line };
    const next = { ...plan, nets: plan.nets.map((one) => (one === net ? { ...net, role } : one)) };
    if (!trial.ask(undefined, modelOf(device, pkg, next))) return [];
    return [{ label: `let \`${net.name}\` be ${roleText(role)}`, edit: setRole(net, role) }];
  });
}

/** When giving up one thing is not enough: several, one conflict after the other. */
function together(model: Model, first: readonly Element[]): Suggestion[] {
  let left = new Set(model.elements.keys());
  const given: Element[] = [];
  let elements = first;
  for (let round = 0; round < 6; round++) {
    // The last net of a conflict goes: what was there first stays.
    const victim = elements.filter((one) => one.kind === 'net').at(-1) ?? elements.at(-1);
    if (!victim) return [];
    given.push(victim);
    left = allBut(model, [victim.index], left);
    const result = examine(model, left);
    if (result.possible === true) {
      const nets = given.flatMap((one) => (one.kind === 'net' ? one.nets : []));
      if (nets.length < given.length) return [];
      const names = nets.map((net) => `\`${net.name}\``).join(', ');
      return [{ label: `leave out ${names}`, edit: removeNets(model.plan, nets) }];
    }
    if (result.possible === undefined) return [];
    const start = startOf(model, [...left], result.stuck);
    elements = shrink(model, start, start, () => undefined).map((index) => model.elements[index] as Element);
  }
  return [];
}

/** Other packages of the part in which everything finds a pad. */
function otherPackages(model: Model, options: PlaceOptions): Suggestion[] {
  const { device, plan, pkg } = model;
  const others: readonly Package[] = options.packages ?? device.description.packages;
  return others.flatMap((other): Suggestion[] => {
    if (other.id === pkg.id) return [];
    if (examine(modelOf(device, other, plan), undefined, { nodes: 300 }).possible !== true) return [];
    return [
      {
        label: `take the package ${other.name}`,
        edit: { kind: 'plan.set', field: 'package', from: plan.package, to: other.id },
      },
    ];
  });
}
