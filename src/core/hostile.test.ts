import fc from 'fast-check';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { corvane } from '@/testing/frost-guard';
import { ALL, fuzzBudget, share } from '@/testing/random';
import { applyCorrections, readDatum, whyNotValue, writeDatum } from './description/corrections';
import { propose } from './import/attach/propose';
import { readBsdl } from './import/bsdl/read-bsdl';
import { parseDevice } from './import/compose/device-files';
import { EMPTY_REST, type PartDraft, readDraft, withCell } from './import/compose/draft';
import { readSvd } from './import/svd/read-svd';
import type { Grid } from './import/tables/grid';
import { guessMapping } from './import/tables/guess';
import type { TableKind } from './import/tables/mapping';
import { readText } from './import/tables/read-text';
import { countFates } from './import/tables/records';
import { printSvd } from './output/registers/print-svd';
import { CARRY_BY, previewChange } from './part-change/change-part';
import { applyEdit, invertEdit } from './plan/edits/edits';
import { emptyPlan, type Net } from './plan/model/types';

/** Whatever comes from outside: no exception, an answer with a place, and nothing lost. Seeds are fixed. */
const RUNS = { numRuns: fuzzBudget(60), seed: 20261125 };

const cell = fc.oneof(
  fc.constantFrom(
    'A0',
    'B7/WAKE2',
    'VDD',
    'VSS(1)',
    '-',
    '',
    '1',
    '12 13',
    'A1',
    'UART1.TX',
    'UART1_TX SPI1_SCK',
    'I/O',
    'S',
    '0x1F',
    'AF7',
  ),
  fc.constantFrom(
    '"',
    ',',
    '<script>',
    '__proto__',
    'constructor',
    "'; drop table parts",
    '../../x',
    '\u0000',
    'ü'.repeat(5),
    '=1+1',
    '(1',
    ')',
  ),
  fc.string({ maxLength: 12 }),
);
const table = fc.array(fc.array(cell, { minLength: 1, maxLength: 8 }), { minLength: 1, maxLength: 25 });
const textOf = (rows: string[][], divider: string): string =>
  rows.map((row) => row.map((one) => `"${one.replaceAll('"', '""')}"`).join(divider)).join('\n');

const draftOf = (pinout: Grid, functions: Grid | null): PartDraft => {
  const draft = (kind: TableKind, grid: Grid) => ({
    grid,
    mapping: guessMapping(kind, grid, { unknown: 'ignore' as const }),
    source: { document: kind },
  });
  return {
    pinout: draft('pinout', pinout),
    functions: functions && draft('functions', functions),
    device: { id: 'x', name: 'X', maker: '', summary: '' },
    rest: EMPTY_REST,
    corrections: [],
    padColumns: {},
  };
};

describe('tables', () => {
  test('of anything are read, or refused; every row that is read has a fate', () => {
    fc.assert(
      fc.property(table, table, fc.constantFrom(',', '\t', ';'), (pins, fns, divider) => {
        const pinout = readText('p', textOf(pins, divider));
        const functions = readText('f', textOf(fns, divider));
        if (!pinout.ok) return;
        const reading = readDraft(draftOf(pinout.value, functions.ok ? functions.value : null));
        if (reading.pinout.mapping.length === 0) {
          const counts = Object.values(countFates(reading.pinout.fates));
          expect(counts.reduce((a, b) => a + b, 0)).toBe(pinout.value.rows.length);
          for (const one of reading.pinout.problems) expect(one.message.length).toBeGreaterThan(3);
        }
        const pads = new Set(reading.pads.map((pad) => pad.id));
        expect(pads.size).toBe(reading.pads.length);
        for (const fn of reading.functions) expect(fn.pad === '*' || pads.has(fn.pad)).toBe(true);
      }),
      RUNS,
    );
  });

  test('a problem leads to a cell that is there, and mending the cell changes only it', () => {
    fc.assert(
      fc.property(table, (rows) => {
        const made = readText('p', textOf(rows, ','));
        if (!made.ok) return;
        const { problems } = readDraft(draftOf(made.value, null)).pinout;
        for (const { line, column } of problems) {
          if (line === undefined) continue;
          const row = made.value.rows.find((one) => one.line === line);
          expect(row).toBeDefined();
          if (column === undefined) continue;
          const mended = withCell(made.value, line, column, 'X1');
          expect(mended.rows.filter((one, index) => one !== made.value.rows[index])).toHaveLength(1);
        }
      }),
      RUNS,
    );
  });

  test('text that is no table at all is read or refused, never thrown at', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 400 }), (text) => {
        for (const kind of ['pinout', 'functions'] as const) {
          const made = readText('t', text);
          if (made.ok) guessMapping(kind, made.value, { unknown: 'number' });
        }
        readBsdl('t', text);
        readSvd('t', text);
        parseDevice('t', text);
      }),
      RUNS,
    );
  });
});

describe('a register description with pieces cut out, doubled or changed', () => {
  const svd = printSvd(family('pellin-p8'));
  test('is read or refused with its line; what is read can be looked at for roles', () => {
    fc.assert(
      fc.property(
        fc.nat(svd.length),
        fc.nat(400),
        fc.constantFrom('', '<', '>', '&', '</register>', '<register>', '-1', '0xZZ', '99999999999999', '"'),
        (start, length, instead) => {
          const text = svd.slice(0, start) + instead + svd.slice(start + length);
          const result = readSvd('x.svd', text);
          if (!result.ok) {
            expect(result.problems[0]?.place).toMatch(/^x\.svd/);
            return;
          }
          const proposal = propose(result.value, { K: 8, L: 6, M: 8 }, ['K0', 'L0']);
          for (const { place } of proposal.choices)
            expect(place === null || proposal.places.some((one) => one.id === place)).toBe(true);
        },
      ),
      RUNS,
    );
  });
});

describe('a pin map with pieces cut out', () => {
  const bsdl = `entity T is\nport (A0, A1 : inout bit; VDD : linkage bit_vector(1 to 2));\nconstant D4 : PIN_MAP_STRING := "A0 : 1, A1 : 2, " &\n"VDD : (3, 4)";\nend T;`;
  test('is read or refused', () => {
    fc.assert(
      fc.property(fc.nat(bsdl.length), fc.nat(60), (start, length) => {
        const result = readBsdl('x.bsd', bsdl.slice(0, start) + bsdl.slice(start + length));
        if (result.ok)
          expect(new Set(result.value.rows.map((row) => row.line)).size).toBe(result.value.rows.length);
        else expect(result.problems[0]?.message.length).toBeGreaterThan(5);
      }),
      RUNS,
    );
  });
});

describe('corrections of anything', () => {
  const part = corvane().original;
  const word = fc.constantFrom(
    'pad',
    'function',
    'pin',
    'class',
    'note',
    'register',
    'field',
    'B7',
    'D4',
    'q100',
    '34',
    'UART1.TX',
    'class',
    'bit',
    'PORT.USE',
    'use',
    'at',
    '__proto__',
    '',
  );
  const value = fc.option(
    fc.oneof(fc.constantFrom('9', 'B8', 'analog', 'std', '{', '0x4', ''), fc.string({ maxLength: 8 })),
    { nil: null },
  );
  test('are applied where they fit and reported where not; what was allowed is what is read back', () => {
    fc.assert(
      fc.property(fc.array(word, { minLength: 1, maxLength: 4 }), value, value, (what, from, to) => {
        const correction = { id: 'x', what, from, to, why: 'w', who: '', when: '' };
        const { description, unapplied } = applyCorrections(part, [correction]);
        if (unapplied.length > 0) expect(description).toBe(part);
        if (readDatum(part, what) === undefined || whyNotValue(part, what, to) !== undefined) return;
        const changed = writeDatum(part, what, to);
        const read = readDatum(changed, what);
        // Lists lose spaces they do not need, numbers the digits that say nothing.
        if (to === null || /^[A-Za-z0-9.]+$/.test(to))
          expect([what, read ?? '']).toEqual([what, expectedText(what, to)]);
      }),
      { ...RUNS, numRuns: fuzzBudget(150) },
    );
  });
  const expectedText = (what: string[], to: string | null): unknown =>
    to === null
      ? ''
      : /^\d+(\.\d+)?$/.test(to) && what[0] !== 'note'
        ? expect.anything()
        : expect.stringContaining(to);
});

describe('a plan taken to any package of any part', () => {
  const devices = FAMILIES.map(family);
  const plans = devices.map((device) => {
    const pkg = device.description.packages[0];
    const pads = [...(device.pinsOf.get(pkg?.id ?? '')?.keys() ?? [])].filter(
      (id) => device.pads.get(id)?.kind === 'io',
    );
    const nets = pads.slice(0, 30).map((id, index): Net => {
      const fn = (device.functionsByPad.get(id) ?? []).find((one) => one.mux !== null);
      const role: Net['role'] =
        fn && index % 2 ? { kind: 'signal', signal: fn.signal } : { kind: index % 3 ? 'input' : 'output' };
      return {
        id: `n${index}`,
        name: `N${index}`,
        circuit: 'c',
        role,
        placement: { pad: id, locked: index % 7 === 0 },
        settings: {},
      };
    });
    return {
      ...emptyPlan('P', device.description.id, pkg?.id ?? '', device.fingerprint),
      circuits: [{ id: 'c', name: 'C' }],
      nets,
    };
  });
  test('each net has one outcome, no pad is given twice, and undo brings all of it back', () => {
    let tried = 0;
    devices.forEach((from, index) => {
      const plan = plans[index];
      if (!plan) return;
      for (const to of share(devices, 3, index))
        for (const pkg of to.description.packages)
          for (const { id: by } of CARRY_BY) {
            const preview = previewChange(plan, from, to, pkg.id, by);
            if (!preview) throw new Error('no preview');
            expect(preview.rows).toHaveLength(plan.nets.length);
            const pads = preview.rows.flatMap((row) => row.to?.pad ?? []);
            expect(new Set(pads).size).toBe(pads.length);
            for (const row of preview.rows) {
              if (row.outcome === 'breaks') expect(row.why[0]).toMatch(/\w/);
              else expect(to.pinsOf.get(pkg.id)?.has(row.to?.pad ?? '')).toBe(true);
            }
            const next = expectOk(applyEdit(plan, preview.edit));
            expect(expectOk(applyEdit(next, invertEdit(preview.edit)))).toEqual(plan);
            tried++;
          }
    });
    expect(tried).toBeGreaterThan(ALL ? 300 : 100);
  });
});
