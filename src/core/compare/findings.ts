import type { Derived } from '../derive/derive';
import type { Finding } from '../derive/rules/types';
import type { Aligned } from './align';

/** A finding as it is told. */
export interface FindingLine {
  rule: string;
  severity: Finding['severity'];
  message: string;
  circuits: string[];
  waived: boolean;
}

/** Findings that only one of two plans has. What is the same about the same nets is one finding, wherever they are now. */
export function findingChanges(
  from: Derived,
  to: Derived,
  { idFrom }: Aligned,
): { fresh: FindingLine[]; cured: FindingLine[] } {
  const keyOf = (one: Finding, ids: ReadonlyMap<string, string>): string =>
    JSON.stringify([
      one.rule,
      one.waived !== undefined,
      one.nets.map((id) => ids.get(id) ?? id).sort(),
      one.about ?? '',
      // Without nets it is about pads.
      one.nets.length === 0 ? [...one.pads].sort() : [],
      one.nets.length === 0 && one.pads.length === 0 ? one.message : '',
    ]);
  const left = new Map<string, Finding[]>();
  for (const one of from.findings) {
    const key = keyOf(one, new Map());
    left.set(key, [...(left.get(key) ?? []), one]);
  }
  const fresh: FindingLine[] = [];
  for (const one of to.findings) {
    const before = left.get(keyOf(one, idFrom));
    if (before && before.length > 0) before.shift();
    else fresh.push(lineOf(to, one));
  }
  return { fresh, cured: [...left.values()].flat().map((one) => lineOf(from, one)) };
}

function lineOf({ plan, byNet }: Derived, one: Finding): FindingLine {
  const circuits = new Set(one.nets.flatMap((id) => byNet.get(id)?.net.circuit ?? []));
  return {
    rule: one.rule,
    severity: one.severity,
    message: one.message.replaceAll('`', ''),
    circuits: plan.circuits.flatMap(({ id, name }) => (circuits.has(id) ? [name] : [])),
    waived: one.waived !== undefined,
  };
}
