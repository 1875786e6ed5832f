import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn, frostGuard } from '@/testing/frost-guard';
import { removeFolders } from '@/testing/run-c';
import { type Cpu, emulate, linkFor, runC, runCpp, runRust, type Trace } from '@/testing/run-targets';
import type { Derived } from '../../derive/derive';
import type { Plan } from '../../plan/model/types';
import { armTarget, avrTarget, riscvTarget } from './asm/target';
import { cTableTarget, cTarget } from './c/target';
import { cppTarget } from './cpp/target';
import { rustTarget } from './rust/target';
import type { Target } from './types';

afterAll(removeFolders);

const STYLES: Plan['code']['style'][] = ['preserving', 'from-reset'];
const CHANCE = 20261126;

/**
 * C is held to the second machine elsewhere. Every other target makes the same accesses in the same order, from the same state: the
 * same registers, widths and values, and its functions give the same.
 */
const plans: [string, (style: Plan['code']['style']) => Derived][] = [
  ['the demo', (style) => deriveOn({ ...frostGuard(), code: { prefix: '', style } })],
  ...FAMILIES.map((folder): [string, (style: Plan['code']['style']) => Derived] => [
    folder,
    (style) => {
      const plan = familyPlan(family(folder));
      return deriveOn({ ...plan, code: { ...plan.code, style } }, family(folder));
    },
  ]),
];

const ASSEMBLY: [Cpu, Target][] = [
  ['arm', armTarget],
  ['riscv', riscvTarget],
  ['avr', avrTarget],
];

describe.each(plans)('%s', (_name, deriving) => {
  test.each(STYLES)('every target does the same on its processor (%s)', (style) => {
    const derived = deriving(style);
    const start = style === 'preserving' ? { chance: CHANCE } : {};
    const trace: Trace = runC(cTarget, derived, start);
    expect(trace.length).toBeGreaterThan(10);
    expect(runC(cTableTarget, derived, start)).toEqual(trace);
    expect(runCpp(cppTarget, derived, start)).toEqual(trace);
    expect(runRust(rustTarget, derived, start)).toEqual(trace);
    for (const [cpu, target] of ASSEMBLY) {
      if (target.lacks?.(derived) !== undefined) continue;
      for (const one of [cTarget, cTableTarget, target]) {
        expect([cpu, one.id, emulate(linkFor(cpu, one, derived), trace)]).toEqual([cpu, one.id, '']);
      }
    }
  });
});
