import { readFileSync, writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { pdfOf } from '@/testing/documents/pdf';
import { functionTable, pinoutTable } from '@/testing/documents/tables';
import { truePart } from '@/testing/documents/truth';
import { randomFrom } from '@/testing/random';
import { offerTables, readDocument } from '@/core/import/pdf/offer-tables';
import { readDocumentTable } from '@/core/import/pdf/read-tables';
const RICH = { merged: true, raised: true, wrapped: true };
async function main() {
  const [run, rules, turned, kind, filter] = process.argv.slice(2);
  const random = randomFrom(1000 + Number(run) * 7919 + 3);
  const part = truePart(random, { pads: 40 + random.int(80), packages: 3, codes: 8 });
  const tables = [pinoutTable(random, part, RICH), functionTable(random, part, RICH)];
  writeFileSync('/tmp/zz.pdf', await pdfOf(random, tables, { rules: rules as 'none', turned: turned === '1' }));
  execFileSync(process.execPath, ['--import', 'tsx', 'src/testing/documents/extract.ts', '/tmp/zz.pdf']);
  const doc = readDocument(JSON.parse(readFileSync('/tmp/zz.pdf.json', 'utf8')));
  const offered = offerTables('p', doc, kind as 'pinout');
  for (const o of offered) console.log(o.title, o.areas.map((a) => `${a.page}: ${a.columns.map(Math.round).join(' ')} | ${Math.round(a.box.top)}-${Math.round(a.box.bottom)} ${a.ruled} ${a.drawn}`), o.rows, o.likeness.toFixed(1));
  const best = offered.reduce((m, o) => (o.likeness > m.likeness ? o : m));
  const g = readDocumentTable('p', best, doc.pages, doc.running);
  if (g.ok) for (const r of g.value.rows) if (JSON.stringify(r.cells).match(filter ?? '.')) console.log(r.line, JSON.stringify(r.cells), r.above ?? '', r.covered ?? '');
}
void main();
