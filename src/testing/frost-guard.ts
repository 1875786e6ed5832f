import { readFileSync } from 'node:fs';
import { type Derived, derive } from '@/core/derive/derive';
import type { Device } from '@/core/device/device';
import { parsePlan } from '@/core/plan/file/plan-file';
import type { Net, Plan } from '@/core/plan/model/types';
import { expectOk } from './expect-ok';
import { family } from './families';

/** The Corvane C40-80 out of its tables. */
export const corvane = (): Device => family('corvane-c40');

export const readExample = (name: string): string => readFileSync(`examples/${name}`, 'utf8');

/** The shipped demo plan. */
export const frostGuard = (): Plan =>
  expectOk(parsePlan('frost-guard', readExample('frost-guard.plan.json')));

export const deriveOn = (plan: Plan, on: Device = corvane()): Derived => expectOk(derive(on, plan));

/** The plan with some nets changed by name. */
export const withNets = (plan: Plan, changes: Record<string, Partial<Net>>): Plan => ({
  ...plan,
  nets: plan.nets.map((net) => ({ ...net, ...changes[net.name] })),
});

export const netOf = (plan: Plan, name: string): Net => {
  const net = plan.nets.find((one) => one.name === name);
  if (!net) throw new Error(`no net ${name}`);
  return net;
};

/** A plan with nothing in it but the given nets, all in one circuit. */
export const planOf = (
  nets: (Pick<Net, 'name' | 'role'> & Partial<Net>)[],
  change: Partial<Plan> = {},
): Plan => {
  const {
    constraints: _ties,
    tables: _tables,
    waivers: _waivers,
    attachments: _attachments,
    trials: _trials,
    ...bare
  } = frostGuard();
  return {
    ...bare,
    circuits: [{ id: 'board', name: 'Board' }],
    nets: nets.map((net, index) => ({
      id: `n${index}`,
      circuit: 'board',
      placement: null,
      settings: {},
      ...net,
    })),
    ...change,
  };
};

export const on = (pad: string, signal?: string) => ({ pad, locked: false, ...(signal ? { signal } : {}) });
