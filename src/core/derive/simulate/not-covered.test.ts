import { family, familyPlan } from '@/testing/families';
import { deriveOn, frostGuard, on, planOf } from '@/testing/frost-guard';
import { planOn as planOnShape, shapeDevice } from '@/testing/shape';
import { loadSmall } from '@/testing/small-part';
import { cTarget } from '../../output/code/c/target';
import { generateFiles } from '../../output/generate';
import { generateReport } from '../../output/reports/reports';
import type { Derived } from '../derive';
import { notCovered } from './not-covered';

const textsOf = ({ device, planned, lowered }: Derived): string[] =>
  notCovered(device, planned, lowered).map(({ text }) => text);

/** A port with a direction and nothing else. */
const bare = {
  settings: { mode: ['input', 'output'] },
  applies: { input: [], output: [], function: [], analog: [] },
  registers: {
    blocks: [
      {
        id: 'PORT',
        each: 'port' as const,
        base: '0x1000 + 0x40*p',
        name: 'P{port}',
        registers: [{ id: 'DIR', offset: '0', bits: 8 as const }],
      },
    ],
  },
  fields: { dir: { in: 'PORT.DIR', at: 'b', bits: 1 } },
  encode: [{ field: 'dir', from: ['mode' as const], table: { output: 1, input: 0 } }],
  stages: [{ id: 'direction', fields: ['dir'] }],
};
const oneOutput = planOf([{ name: 'FAN', role: { kind: 'output' }, placement: on('A0') }], {
  device: 'shape',
  package: 'q16',
});

test('where all is decided by bits of the plan, nothing is left out', () => {
  const derived = deriveOn(oneOutput, loadSmall(bare));
  expect(textsOf(derived)).toEqual([]);
  expect(generateFiles(cTarget, derived)[0]?.text).toContain(
    ' * not covered: that the description of the part is true;\n *           of what it says, nothing is left out\n',
  );
});

test('settings that no bit tells apart are named with their pads and the reason', () => {
  const device = loadSmall({
    ...bare,
    settings: { mode: ['input', 'output'], drive: ['2mA', '8mA'] },
    applies: { input: [], output: ['drive'], function: [], analog: [] },
    alike: [{ settings: { drive: '2mA|8mA' }, why: 'a fuse decides' }],
  });
  const derived = deriveOn(oneOutput, device);
  expect(notCovered(derived.device, derived.planned, derived.lowered)).toEqual([
    {
      kind: 'alike',
      pads: ['A0'],
      text: 'A0: drive 2mA or 8mA, which no register bit tells apart (a fuse decides)',
    },
  ]);
});

test('a function that takes its pad by itself is said not to be set up', () => {
  const nets = [{ name: 'TALK', role: { kind: 'signal' as const, signal: 'UART1.TX' }, placement: on('A0') }];
  expect(textsOf(planOnShape(shapeDevice(15), nets))).toContain(
    'A0 (UART1.TX): no register selects the function; the pad is left a plain input, and what direction, output type or speed the function needs is not set up',
  );
});

test('steps, keys, waits, and what may be for a moment are said, in the head of the files and in the report', () => {
  const velm = deriveOn(familyPlan(family('velm-v3')), family('velm-v3'));
  expect(textsOf(velm)).toEqual([
    'values that steps of the recipe write, and no pad plans: SYS.RUN (bits 2, 3), SYS.HELD (bits 2, 3), PC.COMMIT (bit 2), PD.COMMIT (bits 4, 5, 6)',
    expect.stringContaining('SYS.PROTECT, PC.UNSEAL, PD.UNSEAL'),
    "times, which are the document's word: at most 20 reads of SYS.RUNS; 2 cycles in stage release; SYS.RUNS shows SYS.RUN after 5 cycles",
    'C2: whether an old flag interrupts at once when the interrupt is enabled; the description does not name the field that enables an interrupt, and that is its flag',
  ]);
  const pellin = deriveOn(familyPlan(family('pellin-p8')), family('pellin-p8'));
  expect(textsOf(pellin)).toContain(
    'what pads may be for a moment on the way, as the description allows it: mode function',
  );
  const demo = deriveOn(frostGuard());
  const files = generateFiles(cTarget, demo);
  for (const text of textsOf(demo)) expect(files[0]?.text).toContain(text);
  expect(generateReport(demo, files).proof.notCovered).toEqual(
    notCovered(demo.device, demo.planned, demo.lowered),
  );
});
