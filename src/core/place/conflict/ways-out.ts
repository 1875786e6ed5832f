import { append } from '../../base/lists';
import { kindOfRole, lineOfRole } from '../../derive/candidates/groups';
import type { Package } from '../../description/types';
import {
  placeNet,
  removeConstraint,
  removeNet,
  removeNets,
  setDemands,
  setRole,
  setSetting,
} from '../../plan/edits/make-edits';
import type { Demands, Plan, Role } from '../../plan/model/types';
import { roleText } from '../../plan/model/types';
import type { PlaceOptions, Suggestion } from '../model/answer';
import { modelOf } from '../model/build';
import type { Model, Requirement } from '../model/model';
import { examine } from './examine';
import { allBut, type Question } from './question';
import { shrink, startOf } from './shrink';

/** What each requirement of a conflict would be given up by; only what was tried and works. */
export function suggestionsFor(
  model: Model,
  requirements: readonly Requirement[],
  trial: Question,
  options: PlaceOptions,
): Suggestion[] {
  const { plan } = model;
  const found: Suggestion[] = [];
  for (const requirement of requirements) {
    const suggestion = giveUp(plan, requirement);
    if (suggestion && trial.without(requirement.index)) found.push(suggestion);
  }
  for (const suggestion of openings(model, requirements, trial)) found.push(suggestion);
  if (found.length === 0) append(found, together(model, requirements));
  if (found.length === 0 || !found.some((one) => one.edit.kind !== 'net.remove'))
    append(found, otherPackages(model, options));
  return found.sort((a, b) => rankOf(a) - rankOf(b));
}

const rankOf = ({ edit }: Suggestion): number =>
  edit.kind === 'net.remove' ? 2 : edit.kind === 'batch' ? 3 : 1;

function giveUp(plan: Plan, requirement: Requirement): Suggestion | undefined {
  const [net] = requirement.nets;
  switch (requirement.kind) {
    case 'locked':
      return net?.placement
        ? {
            label: `unlock \`${net.name}\` from \`${net.placement.pad}\``,
            edit: placeNet(net, { ...net.placement, locked: false }),
          }
        : undefined;
    case 'setting':
      return net && requirement.setting
        ? {
            label: `drop ${requirement.setting} ${net.settings[requirement.setting]} of \`${net.name}\``,
            edit: setSetting(net, requirement.setting, null),
          }
        : undefined;
    case 'demand':
      return net && requirement.demand
        ? {
            label: `give up that ${requirement.words}`,
            edit: setDemands(net, withoutDemand(net.demands ?? {}, requirement.demand)),
          }
        : undefined;
    case 'constraint':
      return requirement.constraint
        ? { label: `give up that ${requirement.words}`, edit: removeConstraint(plan, requirement.constraint) }
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

/** All nets take part in these questions: one that has no answer soon is left. */
const OPENING_NODES = 40;

/** Roles that name an instance, with the instance left open. */
function openings(model: Model, requirements: readonly Requirement[], trial: Question): Suggestion[] {
  const { plan, device, pkg } = model;
  return requirements.flatMap((requirement): Suggestion[] => {
    const [net] = requirement.nets;
    if (requirement.kind !== 'net' || net?.role.kind !== 'signal') return [];
    const kind = kindOfRole(device, net.role);
    const line = lineOfRole(net.role);
    if (kind === undefined || line === undefined) return [];
    const role: Role = { kind: 'open-signal', peripheral: kind, line };
    const next = { ...plan, nets: plan.nets.map((one) => (one === net ? { ...net, role } : one)) };
    if (!trial.ask(undefined, modelOf(device, pkg, next), OPENING_NODES)) return [];
    return [{ label: `let \`${net.name}\` be ${roleText(role)}`, edit: setRole(net, role) }];
  });
}

/** When giving up one thing is not enough: several, one conflict after the other. */
function together(model: Model, first: readonly Requirement[]): Suggestion[] {
  let left = new Set(model.requirements.keys());
  const given: Requirement[] = [];
  let requirements = first;
  for (let round = 0; round < 6; round++) {
    // The last net of a conflict goes: what was there first stays.
    const victim = requirements.filter((one) => one.kind === 'net').at(-1) ?? requirements.at(-1);
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
    requirements = shrink(model, start, start, () => undefined).map(
      (index) => model.requirements[index] as Requirement,
    );
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
