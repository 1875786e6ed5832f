import { kindOfRole, lineOfRole } from '../../derive/candidates/groups';
import type { Net } from '../../plan/model/types';
import { roleText } from '../../plan/model/types';
import type { Conflict, PlaceOptions } from '../model/answer';
import type { Model, NetItem, Requirement } from '../model/model';
import { Question } from './question';
import { orders, shrink, startOf } from './shrink';
import { smallest } from './smallest';
import { suggestionsFor } from './ways-out';

/** Finds a smallest conflict, or where that takes too long one of which nothing can be left out; and ways out of it. */
export function explain(model: Model, options: PlaceOptions, stuck?: readonly NetItem[]): Conflict {
  const all = model.requirements.map((one) => one.index);
  const start = startOf(model, all, stuck);
  let rough = false;
  const gaveUp = (): void => {
    rough = true;
  };
  let best: number[] | undefined;
  for (const order of orders(model, start)) {
    const other = shrink(model, start, order, gaveUp);
    if (!best || other.length < best.length) best = other;
    if (best.length <= 2) break;
  }
  const first = best ?? start;
  const { requirements: least, proven, trial } = smallest(model, first, new Question(model, first), gaveUp);
  const requirements = least.map((index) => model.requirements[index] as Requirement);
  return {
    requirements,
    message: messageOf(model, requirements),
    suggestions: suggestionsFor(model, requirements, trial, options),
    smallest: proven,
    rough: rough && !proven,
  };
}

function messageOf(model: Model, requirements: readonly Requirement[]): string {
  const nets = requirements.filter((one) => one.kind === 'net').flatMap((one) => one.nets);
  const name = (net: Net): string => `\`${net.name}\``;
  if (nets.length === 1 && nets[0]) {
    const item = model.items.find((one) => one.net === nets[0]);
    if (requirements.length === 1 && item?.choices.length === 0)
      return `No pad of ${model.pkg.name} offers ${roleText(nets[0].role)} for ${name(nets[0])}.`;
    return `No pad of ${model.pkg.name} is what ${name(nets[0])} asks for, all of it together.`;
  }
  const signals = new Set(nets.map((net) => (net.role.kind === 'signal' ? net.role.signal : '')));
  const [signal] = signals;
  if (nets.length > 1 && signals.size === 1 && signal)
    return `\`${signal}\` is one signal, and ${nets.length} nets want it.`;
  const ids = new Set(nets.map((net) => net.id));
  const pads = new Set(
    model.items
      .filter((item) => ids.has(item.net.id))
      .flatMap((item) =>
        item.choices.filter((one) => !forbidden(one.forbidden, requirements)).map((one) => one.pad),
      ),
  );
  const list = [...pads]
    .slice(0, 6)
    .map((pad) => `\`${pad}\``)
    .join(', ');
  if (pads.size < nets.length)
    return `${nets.length} nets want the same ${pads.size} ${pads.size === 1 ? 'pad' : 'pads'} (${list}${pads.size > 6 ? ', …' : ''}).`;
  const kinds = new Set(nets.map((net) => kindOfRole(model.device, net.role)));
  const [kind] = kinds;
  if (kinds.size === 1 && kind !== undefined) {
    const instances = model.device.description.peripherals.filter((one) => one.kind === kind);
    const circuits = new Set(nets.map((net) => net.circuit)).size;
    if (circuits > 1)
      return `${circuits} circuits want ${kind} lines, and an instance serves one circuit; the part has ${instances.map((one) => one.id).join(', ')}, and not every one brings out all lines.`;
    return `No ${kind} instance has a free pad for all of ${nets.map((net) => lineOfRole(net.role) ?? net.name).join(', ')} at once.`;
  }
  return `${nets.length} nets cannot all have a pad: what they ask for leaves too few.`;
}

const forbidden = (by: readonly number[], requirements: readonly Requirement[]): boolean =>
  by.some((index) => requirements.some((one) => one.index === index));
