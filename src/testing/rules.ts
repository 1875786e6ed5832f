import type { Device } from '@/core/device/device';
import { applyEdit } from '@/core/plan/edits/edits';
import type { Constraint, Net, Plan, Waiver } from '@/core/plan/model/types';
import { expectOk } from './expect-ok';
import { family } from './families';
import { corvane, deriveOn, on, planOf } from './frost-guard';

export interface Case {
  name: string;
  plan: Plan;
  /** Another part than the frost guard's. */
  device?: Device;
  /** Parts of the messages expected, one for each finding; none when the plan is valid. */
  messages: RegExp[];
  /** The remedies of each finding, by the words on their buttons. */
  remedies?: string[][];
}

type PlannedNet = Parameters<typeof planOf>[0][number];

export const output = { kind: 'output' } as const;
export const input = { kind: 'input' } as const;
export const analog = { kind: 'analog' } as const;
export const interrupt = { kind: 'interrupt' } as const;
export const signal = (id: string) => ({ kind: 'signal', signal: id }) as const;

/** A net X on a pad of the Corvane C40-80 in quad 100. */
export const one = (pad: string, net: Partial<Net>, change: Partial<Plan> = {}): Plan =>
  planOf([{ name: 'X', role: output, placement: on(pad), ...net }], change);

export const onFamily = (folder: string, pkg: string, nets: PlannedNet[], change: Partial<Plan> = {}) => {
  const device = family(folder);
  return { device, plan: planOf(nets, { device: device.description.id, package: pkg, ...change }) };
};

export const constrained = (kind: Constraint['kind'], nets: PlannedNet[]): Plan => {
  const plan = planOf(nets);
  return { ...plan, constraints: [{ id: 't', kind, nets: plan.nets.map((net) => net.id) }] };
};

export const out = (name: string, pad: string): PlannedNet => ({ name, role: output, placement: on(pad) });
export const irq = (name: string, pad: string): PlannedNet => ({
  name,
  role: interrupt,
  placement: on(pad),
  demands: { farPull: 'driven' },
});
export const fixed = (name: string, id: string, pad: string, more: Partial<Net> = {}): PlannedNet => ({
  name,
  role: signal(id),
  placement: on(pad),
  ...more,
});

/** A netlist of the Corvane C40-80 in quad 100 whose supplies are right, but for what is given: pin → net, empty for none. */
export const netlist = (pins: Record<string, string>): Partial<Plan> => ({
  schematic: {
    file: 'board.csv',
    designator: 'U1',
    pins: Object.entries({ ...suppliesDrawn(), ...pins })
      .filter(([, net]) => net !== '')
      .map(([pin, net]) => ({ pin, net })),
  },
});

/** Supply pins of the Corvane C40-80 in quad 100 on nets called like their pads. */
export function suppliesDrawn(): Record<string, string> {
  const device = corvane();
  return Object.fromEntries(
    Object.entries(device.packages.get('q100')?.pins ?? {}).filter(([, pad]) =>
      ['supply', 'ground'].includes(device.pads.get(pad)?.kind ?? ''),
    ),
  );
}

export const waiver = (change: Partial<Waiver> = {}): Waiver => ({
  id: 'w',
  rule: 'floating-input',
  nets: ['n0'],
  pads: [],
  reason: 'the cable has a resistor',
  author: 'mk',
  date: '2026-11-20',
  ...change,
});

export function ioPads(folder: string, pkg: string): string[] {
  const device = family(folder);
  const bonded = device.pinsOf.get(pkg);
  return device.description.pads
    .filter((pad) => pad.kind === 'io' && !pad.boot && bonded?.has(pad.id) && pad.class === 'std')
    .map((pad) => pad.id);
}

/** Pads of the port that has most. */
export function portPads(folder: string, pkg: string): string[] {
  const device = family(folder);
  const pads = ioPads(folder, pkg);
  const portOf = (pad: string): string => device.pads.get(pad)?.port ?? '';
  const ports = [...new Set(pads.map(portOf))].map((port) => pads.filter((pad) => portOf(pad) === port));
  return ports.sort((a, b) => b.length - a.length)[0] ?? [];
}

/** So many outputs of a current each, on standard pads of the digital supply. */
export function loads(folder: string, count: number, milliamps: number): Plan {
  const device = family(folder);
  const pads = ioPads(folder, 'q100').filter((pad) => device.pads.get(pad)?.supply === 'VDD');
  return planOf(
    pads.slice(0, count).map((pad, at) => ({
      name: `LOAD_${at}`,
      role: output,
      placement: on(pad),
      demands: { milliamps },
    })),
  );
}

/** Tests of rules by their cases: what they find in each, and that every remedy removes its finding and adds no error. */
export function describeRules(cases: Record<string, Case[]>): void {
  describe.each(Object.entries(cases))('%s', (rule, list) => {
    test.each(list)('$name', ({ plan, device, messages, remedies }) => {
      const findings = deriveOn(plan, device).findings.filter((finding) => finding.rule === rule);
      expect(findings.map((finding) => finding.message)).toHaveLength(messages.length);
      messages.forEach((message, index) => {
        expect(findings[index]?.message).toMatch(message);
      });
      expect(findings.map((finding) => finding.remedies.map((remedy) => remedy.label))).toEqual(
        remedies ?? [],
      );
    });
  });
  test('each remedy applies, removes its finding, and adds no error', () => {
    expect(clickAll(Object.values(cases).flat())).toBeGreaterThan(0);
  });
}

/** Applies every remedy of every finding, each for itself; how many there were. */
export function clickAll(plans: readonly Pick<Case, 'plan' | 'device'>[]): number {
  let clicked = 0;
  for (const { plan, device } of plans) {
    const before = deriveOn(plan, device);
    for (const finding of before.findings) {
      for (const remedy of finding.remedies) {
        const after = deriveOn(expectOk(applyEdit(plan, remedy.edit)), device);
        const where = `${finding.message} → ${remedy.label}`;
        expect([where, after.findings.filter((other) => other.id === finding.id)]).toEqual([where, []]);
        expect([where, after.counts.error <= before.counts.error]).toEqual([where, true]);
        clicked++;
      }
    }
  }
  return clicked;
}
