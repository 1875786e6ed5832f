import type { Derived } from '../derive';
import { identifierFrom } from '../plan/resolve';
import type { NetId } from '../plan/types';

/**
 * Names of nets in generated code: lower case, unique. A plan without findings keeps all its names; one with findings
 * still gives code that compiles, by repairing and numbering.
 */
export function netIdentifiers(derived: Derived): Map<NetId, string> {
  const names = new Map<NetId, string>();
  const taken = new Set(['init', 'init_done']);
  for (const net of derived.plan.nets) {
    const stem = identifierFrom(net.name).toLowerCase().slice(0, 48) || 'net';
    let name = stem;
    for (let n = 2; taken.has(name); n++) name = `${stem}_${n}`;
    taken.add(name);
    names.set(net.id, name);
  }
  return names;
}
