import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { answered, columnsRight, differences, draftFrom, tableFrom } from '@/testing/documents/compare';
import {
  ballMatrix,
  boundaryScan,
  divided,
  encoded,
  ibis,
  listed,
  openDocument,
  workbook,
} from '@/testing/documents/forms';
import { pdfOf } from '@/testing/documents/pdf';
import { functionTable, pinoutTable } from '@/testing/documents/tables';
import { type TruePart, truePart } from '@/testing/documents/truth';
import { expectOk } from '@/testing/expect-ok';
import { fuzzBudget, type Random, randomFrom } from '@/testing/random';
import type { TableDraft } from './compose/draft';
import { offerTables, readDocument } from './pdf/offer-tables';
import { readDocumentTable } from './pdf/read-tables';
import { startTable } from './tables/choose-table';
import type { TableKind } from './tables/mapping';

const PLAIN = { merged: false, raised: false, wrapped: true };
const RICH = { merged: true, raised: true, wrapped: true };

interface Form {
  /** Tables of a part as a file holds them; functions where the form can hold them. */
  print(random: Random, part: TruePart): { pinout: TableDraft; functions: TableDraft | null; only?: string };
}

const text = (divider: string, name: string): Form => ({
  print: (random, part) => {
    const encoding = random.pick(['utf-8', 'utf-16', 'windows-1252'] as const);
    const blank = random.int(2) === 0 ? '\u00a0' : ' ';
    const bytes = (table: ReturnType<typeof pinoutTable>) =>
      encoded(divided(table, divider).replace(/ \(/g, `${blank}(`), encoding);
    return {
      pinout: tableFrom('pinout', `pins${name}`, bytes(pinoutTable(random, part, PLAIN))),
      functions: tableFrom('functions', `functions${name}`, bytes(functionTable(random, part, PLAIN))),
    };
  },
});

const FORMS: Record<string, Form> = {
  'commas, in any encoding': text(',', '.csv'),
  'semicolons, in any encoding': text(';', '.csv'),
  'tabs, as spreadsheets are pasted': text('\t', '.txt'),
  bars: text('|', '.md'),
  'positions of characters': {
    print: (random, part) => ({
      pinout: tableFrom('pinout', 'pins.txt', encoded(listed(pinoutTable(random, part, PLAIN)), 'utf-8')),
      functions: tableFrom(
        'functions',
        'functions.txt',
        encoded(listed(functionTable(random, part, PLAIN)), 'utf-8'),
      ),
    }),
  },
  'a workbook (XLSX)': {
    print: (random, part) => {
      const book = workbook(random, {
        Pins: pinoutTable(random, part, RICH),
        'Alternate functions': functionTable(random, part, RICH),
      });
      return {
        pinout: tableFrom('pinout', 'part.xlsx', book),
        functions: tableFrom('functions', 'part.xlsx', book),
      };
    },
  },
  'an OpenDocument spreadsheet': {
    print: (random, part) => {
      const book = openDocument({
        Pins: pinoutTable(random, part, RICH),
        Functions: functionTable(random, part, RICH),
      });
      return {
        pinout: tableFrom('pinout', 'part.ods', book),
        functions: tableFrom('functions', 'part.ods', book),
      };
    },
  },
  'a boundary-scan description': {
    print: (random, part) => ({
      pinout: tableFrom('pinout', 'part.bsd', encoded(boundaryScan(random, part), 'utf-8')),
      functions: null,
    }),
  },
  'an IBIS model': {
    print: (_random, part) => ({
      pinout: tableFrom('pinout', 'part.ibs', encoded(ibis(part), 'utf-8')),
      functions: null,
    }),
  },
  'a ball grid as a matrix': {
    print: (_random, part) => {
      const only = part.packages.find((one) => one.balls)?.id ?? '';
      return {
        pinout: tableFrom('pinout', 'balls.txt', encoded(ballMatrix(part, only), 'utf-8')),
        functions: null,
        only,
      };
    },
  },
};

/** Figures of one form over many documents. */
interface Figures {
  documents: number;
  ready: number;
  asked: number;
  columns: { right: number; all: number };
  silent: string[];
  /** What stood in the way of the others. */
  open: string[];
}

function measure(
  name: string,
  form: Form,
  runs: number,
  size: (random: Random) => Parameters<typeof truePart>[1],
): Figures {
  const figures: Figures = {
    documents: 0,
    ready: 0,
    asked: 0,
    columns: { right: 0, all: 0 },
    silent: [],
    open: [],
  };
  for (let run = 0; run < runs; run++) {
    const random = randomFrom(seedOf(name, run));
    const part = truePart(random, size(random));
    if (name.includes('matrix') && !part.packages.some((one) => one.balls)) continue;
    const { pinout, functions, only } = form.print(random, part);
    const { reading, asked } = answered(draftFrom(pinout, functions), part);
    figures.documents++;
    figures.asked += asked.length;
    const sides = [
      [pinout, reading.pinout] as const,
      ...(functions ? [[functions, reading.functionTable] as const] : []),
    ];
    for (const [table, state] of sides) {
      // Every row has a fate, whatever it is.
      if (state.mapping.length === 0) expect(state.fates.size).toBe(table.grid.rows.length);
    }
    for (const [table, kind] of [[pinout, 'pinout'], ...(functions ? [[functions, 'functions']] : [])] as [
      TableDraft,
      'pinout' | 'functions',
    ][]) {
      if (only !== undefined) continue;
      const { right, all } = columnsRight(table, kind, part);
      figures.columns.right += right;
      figures.columns.all += all;
    }
    if (reading.errors + reading.questions > 0) {
      const all = [...reading.pinout.mapping, ...reading.functionTable.mapping].map((message) => ({
        message,
        line: 0,
      }));
      const open = [...reading.pinout.problems, ...reading.functionTable.problems].filter(
        (one) => one.severity !== 'warning',
      );
      figures.open.push(
        [...all, ...open]
          .slice(0, 2)
          .map((one) => `document ${run}, row ${one.line}: ${one.message}`)
          .join('; '),
      );
      continue;
    }
    figures.ready++;
    const wrong = differences(part, reading, functions !== null, only);
    if (wrong.length > 0) figures.silent.push(`document ${run}: ${wrong.slice(0, 3).join('; ')}`);
  }
  return figures;
}

/** Documents of one look: their pages are read by the library in a process of its own, all at once. */
async function pdfForm(
  look: Parameters<typeof pdfOf>[2],
  runs: number,
  size: (random: Random) => TruthSize,
): Promise<Form> {
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-pdf-'));
  const paths: string[] = [];
  for (let run = 0; run < runs; run++) {
    const random = randomFrom(seedOf(PDF, run));
    const part = truePart(random, size(random));
    const tables = [pinoutTable(random, part, RICH), functionTable(random, part, RICH)];
    paths.push(join(folder, `${run}.pdf`));
    writeFileSync(paths.at(-1) ?? '', await pdfOf(random, tables, look));
  }
  const ran = spawnSync(process.execPath, ['--import', 'tsx', 'src/testing/documents/extract.ts', ...paths], {
    encoding: 'utf8',
  });
  expect(ran.stderr).toBe('');
  let next = 0;
  return {
    print: () => {
      const path = paths[next++] ?? '';
      const document = readDocument(JSON.parse(readFileSync(`${path}.json`, 'utf8')));
      const take = (kind: TableKind): TableDraft => {
        const offered = offerTables('part.pdf', document, kind);
        const best = offered.reduce((most, one) => (one.likeness > most.likeness ? one : most));
        const read = expectOk(readDocumentTable('part.pdf', best, document.pages, document.running));
        const { grid, mapping } = startTable(kind, read);
        return { grid, mapping, source: { document: 'part.pdf' } };
      };
      return { pinout: take('pinout'), functions: take('functions') };
    },
  };
}

const PDF = 'PDF';
const seedOf = (name: string, run: number): number => 1000 + run * 7919 + name.length;
type TruthSize = Parameters<typeof truePart>[1];

describe.each([
  ['lines around all cells', { rules: 'all', turned: false }],
  ['lines under rows', { rules: 'rows', turned: true }],
  ['no lines', { rules: 'none', turned: false }],
] as const)('a PDF document with %s', (title, look) => {
  test('tables are found and read over all pages, and nothing wrong goes in without a word', async () => {
    const size = (random: Random): TruthSize => ({ pads: 40 + random.int(80), packages: 3, codes: 8 });
    const runs = fuzzBudget(5);
    const figures = measure(PDF, await pdfForm(look, runs, size), runs, size);
    if (process.env.SHOW)
      writeFileSync(`/tmp/fig-pdf-${title.replace(/\W+/g, '-')}.json`, JSON.stringify(figures, null, 1));
    expect(figures.silent).toEqual([]);
    expect(figures.columns.right).toBeGreaterThanOrEqual(0.95 * figures.columns.all);
    expect(figures.ready).toBeGreaterThanOrEqual(0.8 * figures.documents);
  });
});

describe.each(Object.entries(FORMS))('%s', (name, form) => {
  test('columns are guessed, rows accounted for, and nothing wrong goes in without a word', () => {
    const figures = measure(name, form, fuzzBudget(5), (random) => ({
      pads: 40 + random.int(200),
      packages: 3 + random.int(3),
      codes: 8 + random.int(9),
    }));
    if (process.env.SHOW)
      writeFileSync(`/tmp/fig-${name.replace(/\W+/g, '-')}.json`, JSON.stringify(figures, null, 1));
    expect(figures.silent).toEqual([]);
    expect(figures.columns.right).toBeGreaterThanOrEqual(0.95 * figures.columns.all);
    // A reader that asks about everything would be right too: most documents go through.
    expect(figures.ready).toBeGreaterThanOrEqual(0.8 * figures.documents);
  });
});

describe.each(Object.entries(FORMS).filter(([name]) => /commas|positions|XLSX|OpenDocument/.test(name)))(
  '%s, of the largest parts',
  (name, form) => {
    test('nothing wrong goes in without a word', () => {
      // About 900 balls in five packages, and some thousand functions. Questions are no fault.
      const figures = measure(`${name}, large`, form, fuzzBudget(1), () => ({
        pads: 800,
        packages: 5,
        codes: 16,
      }));
      expect(figures.silent).toEqual([]);
      expect(figures.columns.right).toBeGreaterThanOrEqual(0.95 * figures.columns.all);
    });
  },
);
