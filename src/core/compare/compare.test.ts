import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Derived } from '@/core/derive/derive';
import { perform } from '@/core/derive/machine/perform';
import { bitsOf, createMachine } from '@/core/derive/machine/state';
import { fullMask, heldBits } from '@/core/device/registers/types';
import type { Net, Plan } from '@/core/plan/model/types';
import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn, frostGuard, netOf, withNets } from '@/testing/frost-guard';
import { changedByChance } from '@/testing/plan-changes';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { generateFiles } from '../output/generate';
import { targetById } from '../output/targets';
import { applicationNames } from './application';
import { comparePlans } from './compare';
import { comparisonMarkdown, comparisonText } from './print';

const plan = frostGuard();
const derived = deriveOn(plan);
const changed = (seed: number, changes = 6): Derived =>
  deriveOn(changedByChance(plan, randomFrom(seed), changes));

test('a plan and itself: nothing differs, in any language', () => {
  for (const target of ['c', 'rust', 'devicetree']) {
    const one = comparePlans(derived, deriveOn(structuredClone(plan)), target);
    expect(one).toMatchObject({
      same: true,
      findings: { fresh: [], cured: [] },
      registers: [],
      code: { files: [] },
    });
    expect(one.application).toMatchObject({ compiles: true, gone: [], declared: [], values: [], added: [] });
    expect(comparisonText(one)).toMatch(/nothing differs$/);
    expect(comparisonMarkdown(one)).toContain('Nothing differs.');
  }
});

test('from there to here is the opposite of from here to there', () => {
  for (let seed = 1; seed <= Math.max(2, fuzzBudget(5)); seed++) {
    const [there, here] = [changed(seed), changed(seed + 1000)];
    const [one, back] = [comparePlans(there, here), comparePlans(here, there)];
    const names = (list: readonly { name: string }[]): string[] => list.map(({ name }) => name).sort();
    expect(names(one.nets.added)).toEqual(names(back.nets.gone));
    expect(one.nets.moved.map(({ from, to }) => [from, to]).sort()).toEqual(
      back.nets.moved.map(({ from, to }) => [to, from]).sort(),
    );
    expect(one.findings.fresh.map(({ rule }) => rule).sort()).toEqual(
      back.findings.cured.map(({ rule }) => rule).sort(),
    );
    const bits = (list: typeof one.registers) =>
      list?.flatMap(({ name, bits: all }) => all.map((bit) => `${name} ${bit.bits}`)).sort();
    expect(bits(one.registers)).toEqual(bits(back.registers));
    expect(names(one.application.gone)).toEqual(
      [...names(back.application.added), ...names(back.application.handlers)].sort(),
    );
    expect(one.same).toBe(back.same);
    // The counts of findings add up.
    const count = (of: Derived): number => of.findings.length;
    expect(count(there) + one.findings.fresh.length - one.findings.cured.length).toBe(count(here));
  }
});

describe('registers', () => {
  /** What registers hold after the code ran from reset. */
  const heldAfter = ({ device, lowered }: Derived): Map<string, number> => {
    const machine = createMachine(device.registers);
    for (const operation of lowered.operations) perform(machine, operation);
    return new Map(
      device.registers.all.flatMap((register) => {
        const { known, value } = bitsOf(machine, register);
        const mask = fullMask(heldBits(register));
        return known === mask && register.access.kind === 'read-write' ? [[register.name, value]] : [];
      }),
    );
  };
  test('a register of which no bit is said to differ ends the same when both codes run', () => {
    for (let seed = 1; seed <= fuzzBudget(4); seed++) {
      const other = changed(seed, 8);
      const said = new Map(comparePlans(derived, other).registers?.map((one) => [one.name, one]));
      const [was, is] = [heldAfter(derived), heldAfter(other)];
      let differing = 0;
      for (const [name, value] of was) {
        if (is.get(name) === undefined || said.has(name)) continue;
        expect([name, is.get(name)]).toEqual([name, value]);
        differing++;
      }
      expect(differing).toBeGreaterThan(0);
    }
  });
  test('bits with their field, pad and nets', () => {
    const moved = deriveOn(withNets(plan, { LAMP_RED: { placement: { pad: 'A4', locked: false } } }));
    const bits = comparePlans(derived, moved).registers?.flatMap(({ bits: all }) => all) ?? [];
    expect(bits.some((bit) => bit.pad === 'A4' && bit.nets.includes('LAMP_RED') && bit.from === '')).toBe(
      true,
    );
    expect(bits.some((bit) => bit.pad === 'A5' && bit.circuits.length > 0 && bit.to === '')).toBe(true);
  });
  test('of parts with other registers nothing is said', () => {
    const [one, two] = FAMILIES.filter((name) => name !== 'corvane-c40').map((name) => {
      const device = family(name);
      return deriveOn(familyPlan(device), device);
    }) as [Derived, Derived];
    const across = comparePlans(one, two);
    expect(across.registers).toBeNull();
    expect(comparisonText(across)).toContain('The parts have other registers.');
  });
});

describe('what the application sees', () => {
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-compare-'));
  /** A C file that uses every name that a plan gives, as it is declared there; handlers are defined. */
  const using = (of: Derived): string => {
    const names = [...applicationNames(of).values()];
    const uses = names.flatMap(({ name, declaration, value, handler }) => {
      if (handler) return [];
      if (value !== undefined) return [`_Static_assert(${name} >= 0, "");`];
      const [, type, parameters] = /^(\S+) \S+\((.*)\)$/.exec(declaration) ?? [];
      return [`${type} (*use_${name})(${parameters}) = ${name};`];
    });
    const handlers = names.flatMap(({ handler, declaration }) => (handler ? [`${declaration} {}`] : []));
    return ['#include "board.h"', ...uses, ...handlers].join('\n');
  };
  const compiles = (application: string, against: Derived): boolean => {
    const target = targetById('c');
    const [header] = target ? generateFiles(target, against) : [];
    writeFileSync(join(folder, 'board.h'), header?.text ?? '');
    writeFileSync(join(folder, 'app.c'), application);
    try {
      execFileSync('gcc', ['-std=c11', '-Werror', '-fsyntax-only', 'app.c'], { cwd: folder, stdio: 'pipe' });
      return true;
    } catch {
      return false;
    }
  };
  const fan = netOf(plan, 'FAN_1');
  const lamp = netOf(plan, 'LAMP_RED');
  const cases: [string, Plan][] = [
    ['nothing', plan],
    ['a net that moves', withNets(plan, { FAN_1: { placement: { pad: 'B11', locked: false } } })],
    ['another active level', withNets(plan, { FAN_1: { settings: { ...fan.settings, active: 'high' } } })],
    ['another name', withNets(plan, { LAMP_RED: { name: 'LAMP_AMBER' } })],
    ['an input that was an output', withNets(plan, { LAMP_RED: { role: { kind: 'input' } } })],
    ['a net that is gone', { ...plan, nets: plan.nets.filter((net) => net !== lamp) }],
    [
      'a net that is new',
      {
        ...plan,
        nets: [
          ...plan.nets,
          {
            id: 'more',
            name: 'MORE',
            circuit: fan.circuit,
            role: { kind: 'output' },
            placement: { pad: 'B11', locked: false },
            settings: {},
          },
        ],
      },
    ],
    ['another prefix', { ...plan, code: { ...plan.code, prefix: 'guard' } }],
    ['a function for each circuit', { ...plan, code: { ...plan.code, functions: 'circuits' } }],
    [
      'another rate',
      withNets(plan, { MAST_TX: { demands: { ...netOf(plan, 'MAST_TX').demands, rateHertz: 9600 } } }),
    ],
    ['a net that is not placed', withNets(plan, { SENSE_EN: { placement: null } })],
  ];
  const whole = using(derived);
  test('the file that uses everything compiles against its own header', () => {
    expect(compiles(whole, derived)).toBe(true);
  });
  test.each(cases)('the verdict is the compiler’s: %s', (_, other) => {
    const to = deriveOn(other);
    expect(comparePlans(derived, to).application.compiles).toBe(compiles(whole, to));
  });
  test('of changes by chance, too', () => {
    const verdicts = new Set<boolean>();
    for (let seed = 1; seed <= Math.max(2, fuzzBudget(5)); seed++) {
      const [from, to] = [changed(seed, 2), changed(seed + 500, 2)];
      const verdict = comparePlans(from, to).application.compiles;
      expect([seed, verdict]).toEqual([seed, compiles(using(from), to)]);
      verdicts.add(verdict);
    }
    expect(verdicts.size).toBe(2);
  });
  test('levels and constants that changed are told, though it compiles', () => {
    const to = deriveOn(
      withNets(plan, {
        FAN_1: { settings: { ...fan.settings, active: 'high' }, placement: { pad: 'B11', locked: false } },
      }),
    );
    expect(comparePlans(derived, to).application).toMatchObject({
      compiles: true,
      levels: [{ name: 'FAN_1', circuit: 'Fans', from: 'low', to: 'high' }],
    });
    const text = comparisonText(comparePlans(derived, to));
    expect(text).toContain('FAN_1 is active high, was active low');
    expect(text).toContain('FAN_1 (Fans): B7, pin 27 → B11, pin 31');
  });
});

test('plans that were made apart are compared by the names of their nets', () => {
  // A word that is an id as well would be exchanged with it.
  const base = withNets(plan, { BUZZER: { far: {} } });
  const apart: Plan = structuredClone(base);
  const ids = new Map(apart.nets.map((net, at): [string, string] => [net.id, `other-${at}`]));
  const renamed = JSON.parse(
    JSON.stringify(apart).replaceAll(/"([^"]+)"/g, (whole, text: string) =>
      ids.has(text) ? `"${ids.get(text)}"` : whole,
    ),
  ) as Plan;
  // Trials speak of nets by their ids within lines.
  const { trials: _own, ...withoutTrials } = base;
  const { trials: _other, ...other } = renamed;
  const one = comparePlans(deriveOn(withoutTrials), deriveOn(other));
  expect(comparisonText(one)).toMatch(/nothing differs$/);
  expect(one.registers).toEqual([]);
});

test('another description of the part is a difference, though the plans say the same', () => {
  const other = comparePlans(derived, deriveOn({ ...plan, deviceFingerprint: '0'.repeat(64) }));
  expect(other).toMatchObject({ same: false, others: [{ what: 'description of the part' }] });
});

test('hostile names stand for themselves in Markdown', () => {
  const name = 'x|y`<img src=x>[a](b)**c**';
  const hostile = withNets({ ...plan, name }, { LAMP_RED: { note: name } as Partial<Net> });
  const text = comparisonMarkdown(comparePlans(derived, deriveOn(hostile)));
  const prose = text.replaceAll(/^(`{3,})[\s\S]*?^\1$/gm, '');
  expect(prose).not.toMatch(/(?<!\\)[<[|]img|(?<!\\)<|(?<!\\)\*\*c/);
  expect(prose).toContain('&lt;img src=x&gt;');
  for (const row of prose.split('\n').filter((line) => line.startsWith('| from') || line.startsWith('| to')))
    expect(row.match(/(?<!\\)\|/g)).toHaveLength(8);
});
