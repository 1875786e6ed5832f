import type { Plan } from '@/core/plan/model/types';

/** A circuit's flag: eight muted colours in turn, by its place in the plan. Never the only sign of anything. */
export function circuitColour(plan: Plan, circuitId: string): string {
  const index = plan.circuits.findIndex((circuit) => circuit.id === circuitId);
  return index < 0 ? 'transparent' : `var(--c${index % 8})`;
}
