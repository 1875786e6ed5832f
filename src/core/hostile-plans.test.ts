import fc from 'fast-check';
import { SaxesParser } from 'saxes';
import { expectOk } from '@/testing/expect-ok';
import { corvane, deriveOn, frostGuard, on, planOf } from '@/testing/frost-guard';
import { fuzzBudget } from '@/testing/random';
import { crossCheck } from './derive/board/cross-check';
import { supplyFaults } from './derive/board/supply-pins';
import { candidatesFor } from './derive/candidates/candidates';
import { parseFigure } from './derive/electrical/figures';
import type { Package } from './description/types';
import { likelyParts } from './import/netlist/netlist';
import { readNetlist } from './import/netlist/read-netlist';
import { packageSvg } from './output/board/package-svg';
import { scheduleCsv, scheduleMarkdown } from './output/board/schedule';
import { cTarget } from './output/code/c/target';
import { generateFiles } from './output/generate';
import { sarifReport } from './output/reports/sarif';
import { placePlan } from './place/place';
import { applyEdit, invertEdit } from './plan/edits/edits';
import { addConstraint, addNets, addWaiver, setDemands, setEntry, setFar } from './plan/edits/make-edits';
import { parsePlan } from './plan/file/plan-file';
import { printPlan } from './plan/file/print-plan';
import { CONSTRAINT_KINDS, type Demands, emptyPlan, type Plan } from './plan/model/types';
import { parseTypedNets } from './plan/typed-nets/typed-nets';

/** Plans with whatever users and other programs may put into them. Seeds are fixed. */
const RUNS = { numRuns: fuzzBudget(50), seed: 20261125 };

const nasty = fc.oneof(
  fc.constantFrom(
    '*/ int x; /*',
    '</text><script>alert(1)</script>',
    '=cmd|x',
    '`rm`',
    '| a | b |',
    '"quoted"',
    "'; drop table plans; --",
    '__proto__',
    'constructor',
    '\u0000\u0007',
    '\ud800',
    '../../etc',
    'line\nbreak',
    '%s%n',
    'é'.repeat(10),
  ),
  fc.string({ maxLength: 30 }),
);
const figure = fc.double({ min: 0.001, max: 1e9, noNaN: true });
const demands: fc.Arbitrary<Demands> = fc.record(
  {
    rateHertz: figure,
    milliamps: figure,
    farVolts: figure,
    farPull: fc.constantFrom('up' as const, 'down' as const, 'driven' as const),
    farPullOhms: figure,
    beforeInit: fc.constantFrom('high' as const, 'low' as const),
    side: fc.constantFrom('left', 'bottom', 'right', 'top'),
    notPads: fc.uniqueArray(fc.constantFrom('A0', 'B7', 'C0', 'D4', 'E12'), { minLength: 1, maxLength: 4 }),
    load: fc.oneof(
      fc.record({ kind: fc.constant('led' as const), volts: figure, dropVolts: figure, ohms: figure }),
      fc.record({ kind: fc.constant('coil' as const), volts: figure, ohms: figure }),
    ),
  },
  { requiredKeys: [] },
);

describe('demands, constraints, waivers, labels and far ends', () => {
  const names = ['A', 'B', 'C', 'D'];
  const base = planOf(
    names.map((name, at) => ({
      name,
      role: { kind: at % 2 ? 'output' : 'input' } as const,
      placement: at < 2 ? on(['B7', 'E12'][at] ?? '') : null,
    })),
  );
  const changed = fc
    .record({
      demands: fc.array(demands, { minLength: 4, maxLength: 4 }),
      text: fc.array(nasty, { minLength: 6, maxLength: 6 }),
      kind: fc.constantFrom(...CONSTRAINT_KINDS),
      nets: fc.uniqueArray(fc.constantFrom('n0', 'n1', 'n2', 'n3'), { minLength: 2, maxLength: 4 }),
    })
    .map(({ demands: all, text, kind, nets }) => ({
      edits: (plan: Plan) => {
        const [reason = '', author = '', label = '', part = '', connector = '', note = ''] = text;
        const net = plan.nets[0];
        if (!net) throw new Error('no net');
        return [
          ...plan.nets.map((one, at) => setDemands(one, all[at] ?? {})),
          setFar(net, { part, connector, label: note }),
          addConstraint(plan, { id: 't', kind, nets: kind === 'pair' ? nets.slice(0, 2) : nets }),
          addWaiver(plan, {
            id: 'w',
            rule: 'floating-input',
            nets: ['n0'],
            pads: [],
            reason: reason || 'x',
            author: author || 'x',
            date: '2026-11-25',
          }),
          setEntry(plan, 'label', 'B7', label || null),
        ];
      },
    }));
  const applied = (make: (plan: Plan) => ReturnType<typeof setDemands>[]): Plan => {
    const edit = { kind: 'batch' as const, label: 'x', edits: make(base) };
    const after = expectOk(applyEdit(base, edit));
    expect(expectOk(applyEdit(after, invertEdit(edit)))).toEqual(base);
    return after;
  };

  test('come back from the file as they were, and are taken back by undo', () => {
    fc.assert(
      fc.property(changed, ({ edits }) => {
        const plan = applied(edits);
        const read = parsePlan('x', printPlan(plan));
        // What cannot be stored (a control character, a half of a pair) is refused with its place, never half taken.
        if (read.ok) expect(read.value).toEqual(JSON.parse(JSON.stringify(plan)));
        else for (const { place } of read.problems) expect(place).toMatch(/^x/);
      }),
      RUNS,
    );
  });

  test('are checked, weighed and placed without an exception, and break no output', () => {
    fc.assert(
      fc.property(changed, ({ edits }) => {
        const plan = applied(edits);
        const derived = deriveOn(plan);
        for (const net of plan.nets) candidatesFor(derived.occupancy, net);
        const placing = placePlan(corvane(), derived.pkg, plan, { nodes: 200 });
        expect(['optimal', 'feasible', 'infeasible']).toContain(placing.status);
        if (placing.status !== 'infeasible') {
          const moves = placing.moves.map(({ net, to }) => ({
            kind: 'net.set' as const,
            id: net.id,
            field: 'placement' as const,
            from: net.placement,
            to,
          }));
          const after = deriveOn(expectOk(applyEdit(plan, { kind: 'batch', label: 'x', edits: moves })));
          const hard = [
            'two-nets',
            'constraint-broken',
            'wrong-side',
            'ruled-out-pad',
            'before-init',
            'too-many-volts',
            'pad-current',
          ];
          expect(after.findings.filter((one) => hard.includes(one.rule)).map((one) => one.message)).toEqual(
            [],
          );
        }
        const parser = new SaxesParser({ xmlns: true });
        parser.on('error', (error) => {
          throw error;
        });
        parser.write(packageSvg(derived)).close();
        for (const line of scheduleCsv(derived).split(/\r?\n/)) expect(line).not.toMatch(/(^|,)[=+@]/);
        expect(scheduleMarkdown(derived)).not.toMatch(/<script/i);
        JSON.parse(JSON.stringify(sarifReport(derived, 'x', printPlan(plan))));
        for (const file of generateFiles(cTarget, derived)) expect(file.text).not.toContain('*/ int x; /*');
      }),
      { ...RUNS, numRuns: fuzzBudget(25) },
    );
  });
});

describe('text from people and other programs', () => {
  const word = fc.oneof(
    nasty,
    fc.constantFrom(
      'uart',
      'tx',
      'spi2',
      'sck',
      'out',
      'low',
      'irq',
      '@B7',
      '@',
      '8mA',
      'ch*',
      'pace',
      '·',
      ',',
      ':',
      '\t',
      '\n',
      'mast:',
      'net\tis\tpad\n',
    ),
  );
  test('typed as nets: what comes of it can be added, stored and read', () => {
    fc.assert(
      fc.property(fc.array(word, { maxLength: 14 }), (words) => {
        const plan = emptyPlan('Typed', 'corvane-c40-80', 'q100', '');
        let next = 0;
        const typed = parseTypedNets(
          words.join(' '),
          plan,
          corvane().description,
          undefined,
          () => `id${++next}`,
        );
        const after = expectOk(applyEdit(plan, addNets(plan, typed.circuits, typed.nets)));
        expect(after.nets).toHaveLength(typed.nets.length);
        const read = parsePlan('x', printPlan(after));
        if (read.ok) expect(read.value.nets).toHaveLength(after.nets.length);
        deriveOn(after);
      }),
      { ...RUNS, numRuns: fuzzBudget(150) },
    );
  });

  test('read as a netlist: an answer, or a problem with its place; and it can be compared', () => {
    const row = fc.array(
      fc.oneof(nasty, fc.constantFrom('U1', 'FAN_1', '27', 'U1-27', 'net', 'part', 'pin')),
      { maxLength: 5 },
    );
    fc.assert(
      fc.property(fc.array(row, { maxLength: 12 }), fc.constantFrom(',', '\t', ';'), (rows, divider) => {
        const result = readNetlist('n', rows.map((cells) => cells.join(divider)).join('\n'));
        if (!result.ok) {
          for (const problem of result.problems) expect(problem.place).toMatch(/^n/);
          return;
        }
        for (const { designator, pins, problems } of likelyParts(
          result.value,
          corvane().description,
          corvane().packages.get('q100') as Package,
        )) {
          if (problems.length > 0) continue;
          const plan = { ...frostGuard(), schematic: { file: 'n', designator, pins } };
          for (const { remedies } of supplyFaults(deriveOn(plan)))
            for (const { edit } of remedies) expectOk(applyEdit(plan, edit));
          for (const difference of crossCheck(deriveOn(plan)))
            for (const { edit } of [...difference.followNetlist, ...difference.followPlan])
              expectOk(applyEdit(plan, edit));
        }
      }),
      RUNS,
    );
  });

  test('read as fixed test records', () => {
    const line = fc
      .tuple(fc.constantFrom('317', '327', 'P  NNAME1 ', 'C', '367', '999'), fc.string({ maxLength: 40 }))
      .map(([code, rest]) => code + rest);
    fc.assert(
      fc.property(fc.array(line, { maxLength: 12 }), (lines) => {
        const result = readNetlist('n', ['327FAN_1            U1    -27', ...lines].join('\n'));
        if (result.ok) expect(result.value.parts.size).toBeGreaterThan(0);
        else expect(result.problems.length).toBeGreaterThan(0);
      }),
      RUNS,
    );
  });

  test('read as figures: a positive number or nothing', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.string({ maxLength: 12 }), fc.stringMatching(/^\d{1,6}[kKMm.]?\d{0,3} ?[a-zA-ZΩ]{0,3}$/)),
        (text) => {
          const value = parseFigure(text, ['Hz', 'Ω', 'V']);
          if (value !== undefined) expect(value).toBeGreaterThanOrEqual(0);
          if (value !== undefined) expect(Number.isFinite(value)).toBe(true);
        },
      ),
      { ...RUNS, numRuns: 500 },
    );
  });
});
