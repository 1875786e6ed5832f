import type { Net, Plan } from '@/core/plan/model/types';
import type { Random } from './random';

/** A plan with some changes by chance, each of which leaves it one that can be read. `tag` keeps new things of two sides apart. */
export function changedByChance(plan: Plan, random: Random, changes: number, tag = 'x'): Plan {
  let next = plan;
  for (let at = 0; at < changes; at++) next = oneChange(next, random, `${tag}${at}`);
  return next;
}

const without = <T extends object>(value: T, key: keyof T): T => {
  const { [key]: _gone, ...rest } = value;
  return rest as T;
};

function oneChange(plan: Plan, random: Random, id: string): Plan {
  const net = random.pick(plan.nets);
  const withNet = (change: Partial<Net>): Plan => ({
    ...plan,
    nets: plan.nets.map((one) => (one === net ? { ...one, ...change } : one)),
  });
  const ways: (() => Plan)[] = [
    () => withNet({ name: `${net.name.slice(0, 20)}_${id}` }),
    () => withNet({ placement: net.placement ? null : { pad: `B${random.int(9)}`, locked: true } }),
    () => withNet({ circuit: random.pick(plan.circuits).id }),
    () => withNet({ settings: { ...net.settings, pull: random.pick(['none', 'up', 'down']) } }),
    () => withNet({ settings: {} }),
    () => withNet({ demands: { ...net.demands, rateHertz: 1000 + random.int(5) } }),
    () => withNet({ note: `note ${random.int(5)}` }),
    () => ({ ...plan, nets: plan.nets.map((one) => (one === net ? without(one, 'far') : one)) }),
    () => removed(plan, net),
    () => {
      const at = random.int(plan.nets.length + 1);
      const fresh: Net = {
        id: `net-${id}`,
        name: `NET_${id}`,
        circuit: net.circuit,
        role: { kind: 'input' },
        placement: null,
        settings: {},
      };
      return { ...plan, nets: [...plan.nets.slice(0, at), fresh, ...plan.nets.slice(at)] };
    },
    () => {
      const others = plan.nets.filter((one) => one !== net);
      const at = random.int(others.length + 1);
      return { ...plan, nets: [...others.slice(0, at), net, ...others.slice(at)] };
    },
    () => ({ ...plan, circuits: [...plan.circuits].sort(() => random.int(3) - 1) }),
    () => ({ ...plan, circuits: [{ id: `circuit-${id}`, name: `Circuit ${id}` }, ...plan.circuits] }),
    () => ({
      ...plan,
      circuits: plan.circuits.map((one, at) => (at === 0 ? { ...one, name: `First ${id}` } : one)),
    }),
    () => ({ ...plan, revision: `R${random.int(9)}` }),
    () => ({ ...plan, code: { ...plan.code, prefix: `p_${id}` } }),
    () => ({ ...plan, code: random.int(2) ? { ...plan.code, hooks: true } : without(plan.code, 'hooks') }),
    () => ({
      ...plan,
      tables: {
        ...plan.tables,
        label: { ...plan.tables?.label, [`B${random.int(4)}`]: `J${random.int(4)}` },
      },
    }),
    () => ({
      ...plan,
      waivers: [
        ...(plan.waivers ?? []),
        {
          id: `w-${id}`,
          rule: 'unplaced',
          nets: [net.id],
          pads: [],
          reason: 'later',
          author: 'mk',
          date: '2026-11-20',
        },
      ],
    }),
    () => {
      const other = random.pick(plan.nets);
      if (other === net) return plan;
      return {
        ...plan,
        constraints: [
          ...(plan.constraints ?? []),
          { id: `c-${id}`, kind: 'apart', nets: [net.id, other.id] },
        ],
      };
    },
    () => ({ ...plan, trials: (plan.trials ?? []).slice(1) }),
    () => ({
      ...plan,
      trials: [{ id: `t-${id}`, name: `trial ${id}`, lines: ['wait 1 ms'] }, ...(plan.trials ?? [])],
    }),
    () => ({
      ...plan,
      attachments: [{ id: `a-${id}`, kind: 'led', nets: [net.id] }, ...(plan.attachments ?? [])],
    }),
    () => ({ ...plan, schematic: { file: `${id}.csv`, designator: 'U1', pins: [] } }),
  ];
  return tidy(random.pick(ways)());
}

/** Without a net, and without what needs it. */
function removed(plan: Plan, net: Net): Plan {
  if (plan.nets.length < 3) return plan;
  const goes = (one: { nets: readonly string[] }): boolean => one.nets.includes(net.id);
  return {
    ...plan,
    nets: plan.nets.filter((one) => one !== net),
    constraints: (plan.constraints ?? []).filter((one) => !goes(one)),
    attachments: (plan.attachments ?? []).filter((one) => !goes(one)),
  };
}

/** What is empty is not there. */
function tidy(plan: Plan): Plan {
  let next = plan;
  for (const key of ['constraints', 'attachments', 'trials', 'waivers'] as const)
    if (next[key]?.length === 0) next = without(next, key);
  return next;
}
