import { readFileSync } from 'node:fs';
import { Bench } from 'tinybench';
import { fingerprintOf } from '@/core/base/fingerprint';
import { formatProblems, type Result } from '@/core/base/result';
import { accessorsOf } from '@/core/derive/accessors/accessors';
import { derive } from '@/core/derive/derive';
import { lower } from '@/core/derive/lower/lower';
import { prove } from '@/core/derive/simulate/proof';
import { compileDevice } from '@/core/device/compile/compile';
import { loadDevice } from '@/core/device/compile/load';
import { readDraft } from '@/core/import/compose/draft';
import { readSvd } from '@/core/import/svd/read-svd';
import { cTarget } from '@/core/output/code/c/target';
import { generateFiles } from '@/core/output/generate';
import { parsePlan } from '@/core/plan/file/plan-file';
import type { Plan } from '@/core/plan/model/types';
import { readDeviceFolder } from '@/files/devices';
import { filterRows, matrixRows } from '@/ui/functions/matrix';
import { editAfterEdit } from './edits';
import { largePlan, largeRegisterFile, parseOnly } from './large';
import { planPageScripts } from './page-size';
import { benchPlacing } from './placing';
import { benchTrying } from './trying';

/**
 * `npm run bench`: what the user waits for. This machine may be noisy; compare the figures of one run with each other.
 * Derivations from scratch get a plan of their own, so that nothing is remembered of its nets; those after an edit are measured as they
 * are in the page.
 */
const must = <T>(result: Result<T>): T => {
  if (!result.ok) throw new Error(formatProblems(result.problems));
  return result.value;
};

const device = must(readDeviceFolder('devices/corvane-c40'));
const read = (name: string): Plan => must(parsePlan(name, readFileSync(`examples/${name}`, 'utf8')));
const clean = read('frost-guard.plan.json');
const faulty = read('frost-guard-faulty.plan.json');
const large = largePlan(must);
const registers = largeRegisterFile(5_000_000);
let revision = 0;
const edited = (plan: Plan): Plan => ({
  ...plan,
  revision: String(++revision),
  nets: plan.nets.map((net) => ({ ...net })),
});

const whole = (plan: Plan) => {
  const derived = must(derive(device, edited(plan)));
  generateFiles(cTarget, derived);
};
const settled = must(derive(device, clean));

const bench = new Bench({ time: 1500, warmupTime: 500 });
bench
  .add('derive + C, demo plan (100 pins, 50 nets)', () => whole(clean))
  .add('derive + C, the same with 11 findings', () => whole(faulty))
  .add('  of it: derive', () => must(derive(device, edited(clean))))
  .add('  of it: lower', () => lower(device, settled.planned, 'preserving'))
  .add('  of it: prove', () => prove(device, settled.planned, settled.lowered))
  .add('  of it: accessors, worked out and proven', () =>
    accessorsOf(device, settled.plan, settled.byPad, settled.lowered),
  )
  .add('  of it: print C', () => generateFiles(cTarget, settled))
  .add('  of it: fingerprint', () => fingerprintOf(edited(clean)))
  .add('compile the description (in the browser, once)', () => must(compileDevice(device.original)))
  .add('compile and check it (on the server, once)', () => must(loadDevice(device.original)))
  .add('after one edit, 100 pins (aim 2 ms)', editAfterEdit(must, device, clean))
  .add('after one edit, 361 balls, 200 nets (aim 5 ms)', editAfterEdit(must, large.device, large.plan))
  .add('derive from scratch, 361 balls, 200 nets', () => must(derive(large.device, edited(large.plan))))
  .add('derive + C, the same', () => {
    generateFiles(cTarget, must(derive(large.device, edited(large.plan))));
  })
  .add('function matrix, 361 balls', () => filterRows(matrixRows(large.derived), 'uart', 'all'))
  .add('tables of 361 balls → description', () => readDraft(large.draft))
  .add('5 MB register file: the XML parser alone', () => parseOnly(registers))
  .add('5 MB register file: import (aim 1.5 × the parser)', () => must(readSvd('large.svd', registers)));

bench.runSync();
console.table(
  bench.tasks.map((task) => {
    const { result } = task;
    if (!('latency' in result)) return { task: task.name, 'median ms': 'failed' };
    const { latency } = result;
    return {
      task: task.name,
      'median ms': latency.p50.toFixed(2),
      'min ms': latency.min.toFixed(2),
      'p99 ms': latency.p99.toFixed(2),
      runs: latency.samplesCount,
    };
  }),
);

const medianOf = (name: string): number => {
  const result = bench.tasks.find((task) => task.name.startsWith(name))?.result;
  return result && 'latency' in result ? result.latency.p50 : Number.NaN;
};
const [alone, whole5] = [medianOf('5 MB register file: the XML'), medianOf('5 MB register file: import')];
console.log(
  `register file: import takes ${(whole5 / alone).toFixed(2)} × what the XML parser alone takes (aim 1.50)`,
);

benchTrying(settled);

const scripts = planPageScripts();
if (scripts) {
  const total = scripts.reduce((sum, one) => sum + one.compressed, 0);
  console.log(
    `first-load JavaScript of the plan page: ${(total / 1000).toFixed(0)} kB compressed (${scripts.length} files; aim 250 kB)`,
  );
} else console.log('first-load JavaScript of the plan page: no build yet, run ./mavrek start once');

benchPlacing().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
