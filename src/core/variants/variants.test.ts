import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expectOk } from '@/testing/expect-ok';
import { deriveOn, frostGuard, netOf, withNets } from '@/testing/frost-guard';
import { changedByChance } from '@/testing/plan-changes';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { applicationNames } from '../compare/application';
import type { Derived } from '../derive/derive';
import { generateFiles } from '../output/generate';
import { targetById } from '../output/targets';
import { applyEdit } from '../plan/edits/edits';
import { parsePlan } from '../plan/file/plan-file';
import { printPlan } from '../plan/file/print-plan';
import { isAgreed, variantText } from './print';
import { commonCircuits, shareEdit, variantReport } from './variants';

const plan = frostGuard();
const north = deriveOn(plan);
const circuits = plan.circuits.map(({ name }) => name);
let ids = 0;
const newId = (): string => `new-${ids++}`;

test('a plan and its copy agree, wherever nets sit and whatever their pads are set to', () => {
  const south = deriveOn({
    ...plan,
    name: 'Frost guard south',
    code: { ...plan.code, prefix: 'frost_guard' },
    nets: plan.nets.map((net) =>
      net.name === 'FAN_1'
        ? { ...net, placement: { pad: 'B11', locked: true }, settings: { ...net.settings, drive: '4mA' } }
        : net,
    ),
  });
  const report = variantReport([north, south], circuits);
  expect(report).toMatchObject({ lacks: [], differences: [], names: [], onePrefix: true });
  expect(variantText(report)).toMatch(/all variants agree$/);
  expect(variantReport([north, deriveOn({ ...plan, name: 'South' })], circuits).onePrefix).toBe(false);
});

test('says which variant lacks what, what differs, and which names not all headers have', () => {
  const south = deriveOn(
    withNets(
      { ...plan, nets: plan.nets.filter(({ name }) => name !== 'LAMP_RED') },
      {
        FAN_1: { settings: { ...netOf(plan, 'FAN_1').settings, active: 'high' } },
        MAST_TX: { demands: { ...netOf(plan, 'MAST_TX').demands, rateHertz: 9600 } },
      },
    ),
  );
  const report = variantReport([north, south], circuits);
  expect(report.lacks).toEqual([{ circuit: 'Panel', net: 'LAMP_RED', has: [true, false] }]);
  expect(report.differences).toEqual([
    { circuit: 'Fans', net: 'FAN_1', field: 'settings.active', values: ['low', 'high'] },
    { circuit: 'Mast link', net: 'MAST_TX', field: 'demands.rateHertz', values: ['115200', '9600'] },
  ]);
  expect(report.names.map(({ name }) => name)).toContain('lamp_red_set');
  // Only what is shared counts.
  expect(variantReport([north, south], ['Valves'])).toMatchObject({ lacks: [], differences: [], names: [] });
  expect(variantText(report)).toContain('LAMP_RED (Panel): not in Frost guard C (2)');
});

test('taking everything over makes variants agree; what is each board’s stays', () => {
  for (let seed = 1; seed <= fuzzBudget(10); seed++) {
    const changed = changedByChance(plan, randomFrom(seed), 8, 's');
    let south = deriveOn(changed);
    const shared = commonCircuits([plan, changed]);
    const places = variantReport([north, south], shared);
    for (const { circuit, net } of [...places.lacks.filter(({ has }) => has[0]), ...places.differences]) {
      const edit = shareEdit(north, south, { circuit, net }, newId);
      if (!edit) continue;
      const after = expectOk(applyEdit(south.plan, edit));
      expectOk(parsePlan('south', printPlan(after)));
      const sits = new Map(south.plan.nets.map((one) => [one.id, [one.placement, one.settings.pull]]));
      for (const one of after.nets)
        if (sits.has(one.id)) expect([one.placement, one.settings.pull]).toEqual(sits.get(one.id));
      south = deriveOn(after);
    }
    const { lacks, differences } = variantReport([north, south], shared);
    expect([seed, lacks.filter(({ has }) => has[0]), differences]).toEqual([seed, [], []]);
  }
});

test('a net that was renamed in a plan that comes from the other is one net, and its name is taken over either way', () => {
  const south = deriveOn(withNets(plan, { LAMP_RED: { name: 'LAMP_AMBER' } }));
  const report = variantReport([north, south], circuits);
  expect(report.lacks).toEqual([]);
  expect(report.differences).toEqual([
    { circuit: 'Panel', net: 'LAMP_RED', field: 'name', values: ['LAMP_RED', 'LAMP_AMBER'] },
  ]);
  const place = { circuit: 'Panel', net: 'LAMP_RED' };
  for (const [from, to, name] of [
    [north, south, 'LAMP_RED'],
    [south, north, 'LAMP_AMBER'],
  ] as const) {
    const after = expectOk(applyEdit(to.plan, shareEdit(from, to, place, newId, 'name') as never));
    expect(after.nets.find(({ id }) => id === 'lamp-red')?.name).toBe(name);
  }
  // Where both names are there, they are two nets.
  const both = deriveOn({
    ...south.plan,
    nets: [...south.plan.nets, { ...netOf(plan, 'LAMP_RED'), id: 'other', placement: null }],
  });
  expect(variantReport([north, both], circuits).lacks).toMatchObject([
    { net: 'LAMP_AMBER', has: [false, true] },
  ]);
});

test('one field is taken over by itself', () => {
  const fan = netOf(plan, 'FAN_1');
  const south = deriveOn(
    withNets(plan, {
      FAN_1: { settings: { ...fan.settings, active: 'high' }, demands: { milliamps: 9 }, note: 'south' },
    }),
  );
  const place = { circuit: 'Fans', net: 'FAN_1' };
  const edit = shareEdit(north, south, place, newId, 'settings.active');
  const after = netOf(expectOk(applyEdit(south.plan, edit as never)), 'FAN_1');
  expect(after).toMatchObject({ settings: { active: 'low' }, demands: { milliamps: 9 }, note: 'south' });
  expect(shareEdit(north, north, place, newId)).toBeUndefined();
  expect(shareEdit(north, south, { circuit: 'Fans', net: 'NOTHING' }, newId)).toBeUndefined();
});

test('when variants agree, an application of all shared names compiles against each header', () => {
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-variants-'));
  const target = targetById('c');
  const compiles = (names: Derived, header: Derived): boolean => {
    const [file] = target ? generateFiles(target, header) : [];
    writeFileSync(join(folder, 'board.h'), file?.text ?? '');
    const uses = [...applicationNames(names).values()].flatMap(({ name, value, circuit, handler }) =>
      circuit === '' || handler
        ? []
        : [
            value === undefined
              ? `void (*u_${name})(void) = (void (*)(void))${name};`
              : `_Static_assert(${name} >= 0, "");`,
          ],
    );
    writeFileSync(join(folder, 'app.c'), ['#include "board.h"', ...uses].join('\n'));
    try {
      execFileSync('gcc', ['-std=c11', '-fsyntax-only', 'app.c'], { cwd: folder, stdio: 'pipe' });
      return true;
    } catch {
      return false;
    }
  };
  const moved = deriveOn(withNets(plan, { FAN_1: { placement: { pad: 'B11', locked: false } } }));
  expect(isAgreed(variantReport([north, moved], circuits))).toBe(true);
  expect(compiles(north, moved)).toBe(true);
  const other = deriveOn(withNets(plan, { FAN_1: { name: 'FAN_A' } }));
  expect(isAgreed(variantReport([north, other], circuits))).toBe(false);
  expect(compiles(north, other)).toBe(false);
});
