import { type Plan, tableOf } from './model/types';

/**
 * A board's fixed wiring as a plan of its own: the locked nets with their circuits, far ends and demands, labels and policies for
 * unused pads. Starting a plan from it is copying it under another name.
 */
export function profileOf(plan: Plan): Plan {
  const nets = plan.nets.filter((net) => net.placement?.locked);
  const ids = new Set<string>(nets.map((net) => net.id));
  const constraints = (plan.constraints ?? []).filter((constraint) =>
    constraint.nets.every((id) => ids.has(id)),
  );
  const kept = (['label', 'unused'] as const).flatMap((table) =>
    Object.keys(tableOf(plan, table)).length > 0 ? [[table, tableOf(plan, table)] as const] : [],
  );
  const attachments = (plan.attachments ?? []).filter((one) => one.nets.every((id) => ids.has(id)));
  const {
    constraints: _ties,
    waivers: _waivers,
    tables: _tables,
    schematic: _schematic,
    attachments: _attachments,
    trials: _trials,
    ...rest
  } = plan;
  return {
    ...rest,
    circuits: plan.circuits.filter((circuit) => nets.some((net) => net.circuit === circuit.id)),
    nets,
    ...(constraints.length > 0 ? { constraints } : {}),
    ...(attachments.length > 0 ? { attachments } : {}),
    ...(kept.length > 0 ? { tables: Object.fromEntries(kept) } : {}),
  };
}

/** A new plan on a board. */
export const planFromProfile = (profile: Plan, name: string): Plan => ({ ...profile, name, revision: 'A' });
