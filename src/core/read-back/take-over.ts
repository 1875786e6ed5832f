import { ok, type Result } from '../base/result';
import { freeName } from '../base/text/free-name';
import { applyEdit, type Edit } from '../plan/edits/edits';
import type { Plan } from '../plan/model/types';

/**
 * Several edits that were each made of the same plan, as one. Circuits that more than one of them adds are added once, and nets
 * that would have one name are numbered.
 */
export function joined(
  plan: Plan,
  label: string,
  edits: readonly Edit[],
): Result<{ edit: Edit; plan: Plan }> {
  let after = plan;
  const list: Edit[] = [];
  const circuits = new Map<string, string>();
  const add = (edit: Edit): Result<Plan> => {
    if (edit.kind === 'batch') {
      for (const inner of edit.edits) {
        const done = add(inner);
        if (!done.ok) return done;
      }
      return ok(after);
    }
    if (edit.kind === 'circuit.add') {
      const known = after.circuits.find((one) => one.name === edit.circuit.name);
      if (known) {
        circuits.set(edit.circuit.id, known.id);
        return ok(after);
      }
    }
    const own =
      edit.kind === 'net.add'
        ? {
            ...edit,
            at: after.nets.length,
            net: {
              ...edit.net,
              circuit: circuits.get(edit.net.circuit) ?? edit.net.circuit,
              name: freeName(edit.net.name, (name) => after.nets.some((net) => net.name === name)),
            },
          }
        : edit;
    const applied = applyEdit(after, own);
    if (!applied.ok) return applied;
    after = applied.value;
    list.push(own);
    return ok(after);
  };
  for (const edit of edits) {
    const done = add(edit);
    if (!done.ok) return done;
  }
  return ok({ edit: { kind: 'batch', label, edits: list }, plan: after });
}
