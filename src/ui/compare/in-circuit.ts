import type { Comparison } from '@/core/compare/compare';

/** Circuits that something differs in, in alphabetical order. */
export function circuitsOf({ nets, others, findings, registers, application }: Comparison): string[] {
  const found = new Set<string>([
    ...[...nets.added, ...nets.gone, ...nets.moved, ...nets.changed].map(({ circuit }) => circuit),
    ...others.flatMap(({ circuits }) => circuits),
    ...[...findings.fresh, ...findings.cured].flatMap(({ circuits }) => circuits),
    ...(registers ?? []).flatMap(({ bits }) => bits.flatMap(({ circuits }) => circuits)),
    ...[...application.gone, ...application.added, ...application.declared].map(({ circuit }) => circuit),
  ]);
  found.delete('');
  return [...found].sort((a, b) => a.localeCompare(b));
}

/** What of a comparison is about a circuit. Code is of the whole plan: it is left out. */
export function inCircuit(comparison: Comparison, circuit: string): Comparison {
  const { nets, others, findings, registers, application, code } = comparison;
  const own = <T extends { circuit: string }>(list: readonly T[]): T[] =>
    list.filter((one) => one.circuit === circuit);
  const touched = <T extends { circuits: readonly string[] }>(list: readonly T[]): T[] =>
    list.filter((one) => one.circuits.includes(circuit));
  return {
    ...comparison,
    nets: {
      added: own(nets.added),
      gone: own(nets.gone),
      moved: own(nets.moved),
      changed: own(nets.changed),
    },
    others: touched(others),
    findings: { fresh: touched(findings.fresh), cured: touched(findings.cured) },
    registers:
      registers?.flatMap((one) => {
        const bits = touched(one.bits);
        return bits.length > 0 ? [{ ...one, bits }] : [];
      }) ?? null,
    application: {
      ...application,
      gone: own(application.gone),
      declared: own(application.declared),
      values: own(application.values),
      added: own(application.added),
      handlers: own(application.handlers),
      levels: own(application.levels),
    },
    code: { ...code, files: [] },
  };
}
