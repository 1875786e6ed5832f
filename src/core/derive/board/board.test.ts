import { SaxesParser } from 'saxes';
import { expectOk } from '@/testing/expect-ok';
import { family, familyPlan } from '@/testing/families';
import { corvane, deriveOn, frostGuard, on, planOf, withNets } from '@/testing/frost-guard';
import { suppliesDrawn } from '@/testing/rules';
import { packageSvg } from '../../output/board/package-svg';
import { scheduleCsv, scheduleMarkdown, scheduleRows } from '../../output/board/schedule';
import { applyEdit } from '../../plan/edits/edits';
import type { Plan } from '../../plan/model/types';
import { crossCheck } from './cross-check';
import { sameNetName } from './net-names';

describe('cross-check', () => {
  const pinOf = (pad: string): string => corvane().pinsOf.get('q100')?.get(pad)?.[0] ?? '';
  const drawn = (plan: Plan, change: Record<string, string> = {}): Plan => ({
    ...plan,
    schematic: {
      file: 'board.ipc',
      designator: 'U1',
      pins: [
        ...deriveOn(plan).resolved.map(({ net, pad }) => ({
          pin: pinOf(pad?.id ?? ''),
          net: change[net.name] ?? net.name,
        })),
        ...Object.entries(suppliesDrawn()).map(([pin, net]) => ({ pin, net })),
      ],
    },
  });
  test('names differ in case, path and separators only', () => {
    expect(sameNetName('/mast/tx-en', 'TX_EN')).toBe(true);
    expect(sameNetName('TX1', 'TX_1')).toBe(false);
  });
  test('a schematic drawn from the plan agrees with it', () => {
    const plan = drawn(frostGuard());
    expect(crossCheck(deriveOn(plan))).toEqual([]);
    expect(deriveOn(plan).findings).toEqual([]);
  });
  test('two nets swapped: following the netlist swaps them back, both at once', () => {
    const before = frostGuard();
    const swapped = {
      ...withNets(before, { FAN_3: { placement: on('E14') }, FAN_4: { placement: on('E13') } }),
    };
    const plan = { ...swapped, schematic: drawn(before).schematic ?? null };
    const differences = crossCheck(deriveOn(plan));
    expect(differences.map((one) => [one.netlistNet, one.planned?.name])).toEqual([
      ['FAN_3', 'FAN_4'],
      ['FAN_4', 'FAN_3'],
    ]);
    const [step] = differences[0]?.followNetlist ?? [];
    const after = expectOk(applyEdit(plan, step?.edit as never));
    expect(crossCheck(deriveOn(after))).toEqual([]);
    expect(deriveOn(after).findings).toEqual([]);
  });
  test('the other way, the schematic is marked to change', () => {
    const plan = drawn(frostGuard(), { FAN_3: 'HEATER' });
    const [difference] = crossCheck(deriveOn(plan));
    const [step] = difference?.followPlan ?? [];
    expect(step?.label).toBe(`the schematic is to change: U1-${pinOf('E13')} is FAN_3`);
    expect(crossCheck(deriveOn(expectOk(applyEdit(plan, step?.edit as never))))).toEqual([]);
  });
});

describe('the pin schedule', () => {
  const hostile = planOf([
    { name: '=HYPERLINK("x")', role: { kind: 'output' }, placement: on('B7'), note: '<b>|`_*' },
  ]);
  test('has every pin once, in order', () => {
    const rows = scheduleRows(deriveOn(frostGuard()));
    expect(rows.map((row) => row.pin)).toEqual(Object.keys(corvane().packages.get('q100')?.pins ?? {}));
    expect(rows.find((row) => row.pad === 'B7')).toMatchObject({
      pin: '27',
      net: 'FAN_1',
      circuit: expect.any(String),
    });
    expect(rows.find((row) => row.pad === 'VDD')?.what).toBe('supply');
  });
  test('a spreadsheet runs nothing out of it, Markdown shows what was written', () => {
    expect(scheduleCsv(deriveOn(hostile))).toContain(`"'=HYPERLINK(""x"")"`);
    expect(scheduleMarkdown(deriveOn(hostile))).toContain('| &lt;b&gt;\\|\\`\\_\\* |');
  });
  test('the drawing is XML for every shape of package, whatever nets are called', () => {
    const check = (text: string): number => {
      const parser = new SaxesParser({ xmlns: true });
      let texts = 0;
      parser.on('opentag', (tag) => {
        if (tag.name === 'text') texts++;
      });
      parser.on('error', (error) => {
        throw error;
      });
      parser.write(text).close();
      return texts;
    };
    for (const folder of ['corvane-c40', 'pellin-p8', 'hadrik-h7']) {
      const device = family(folder);
      const derived = deriveOn(familyPlan(device), device);
      expect(check(packageSvg(derived))).toBeGreaterThan(Object.keys(derived.pkg.pins).length);
    }
    check(
      packageSvg(
        deriveOn(
          planOf([{ name: '</text><script>\u0000&"', role: { kind: 'output' }, placement: on('B7') }]),
        ),
      ),
    );
  });
});
