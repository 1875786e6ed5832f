import type { Derived } from '@/core/derive/derive';
import type { Plan } from '@/core/plan/model/types';
import { family } from '@/testing/families';
import { deriveOn, frostGuard, on, planOf } from '@/testing/frost-guard';
import { namesIn } from './names';
import { parseScript } from './parse';
import type { Play } from './play';
import { playScript } from './run';

/** Plays a script; its problems fail the test. */
function played(derived: Derived, text: string): Play {
  const script = parseScript(text.split('\n'), namesIn(derived));
  expect(script.problems).toEqual([]);
  const play = playScript(derived, script);
  expect(play.faults).toEqual([]);
  return play;
}

const verdicts = (play: Play): string[] =>
  play.checks.map(
    ({ text, passed, message }) => `${passed ? 'passed' : 'failed'}: ${text}${passed ? '' : ` — ${message}`}`,
  );

/** Eight lamps in a row, active high, on one port. */
const lampRow = (change: Partial<Plan> = {}): Plan =>
  planOf(
    Array.from({ length: 8 }, (_, bit) => ({
      name: `LAMP${bit}`,
      role: { kind: 'output' as const },
      placement: on(`B${bit}`),
      demands: { load: { kind: 'led' as const, volts: 3.3, dropVolts: 2, ohms: 330 } },
    })),
    {
      constraints: [{ id: 'row', kind: 'bus', nets: Array.from({ length: 8 }, (_, bit) => `n${bit}`) }],
      ...change,
    },
  );

describe('eight lamps that run up and down', () => {
  test('each is lit alone, and the bus shows which', () => {
    const play = played(
      deriveOn(lampRow()),
      `
repeat 8 with i: LAMP = 1 << i; wait 10 ms; expect LAMP = 1 << i; expect LAMP reads 1 << i
repeat 7 with i:
  LAMP = 64 >> i
  wait 10 ms
  expect LAMP = 64 >> i
expect LAMP0 on
expect LAMP7 off
expect LAMP1 off for 5 ms
expect no findings
`,
    );
    expect(play.checks).toHaveLength(16 + 7 + 4);
    expect(verdicts(play).filter((one) => one.startsWith('failed'))).toEqual([]);
    // 15 values, each 10 ms.
    expect(play.bench.state.time / 1e6).toBeCloseTo(155, 0);
  });
  test('a circuit whose outputs are a bus is called by its own name as well', () => {
    const plan = lampRow({ circuits: [{ id: 'board', name: 'Display' }] });
    const play = played(
      deriveOn(plan),
      'display = 0x3C\nexpect display = 0x3C\nexpect Display reads 60\nexpect LAMP2 reads on',
    );
    expect(verdicts(play).filter((one) => one.startsWith('failed'))).toEqual([]);
  });
  test('what is expected wrongly fails, and says what is instead', () => {
    const play = played(
      deriveOn(lampRow()),
      'LAMP = 0x3C\nexpect LAMP = 0x3D\nexpect LAMP2 off\nexpect LAMP2 on never',
    );
    expect(verdicts(play)).toEqual([
      'failed: expect LAMP = 0x3D — it is 0x3C',
      'failed: expect LAMP2 off — it is on',
      'failed: expect LAMP2 on never — it was on',
    ]);
  });
});

describe('a bouncing button', () => {
  const velm = family('velm-v3');
  const plan = (pull: string): Plan =>
    planOf(
      [
        {
          name: 'BUTTON',
          role: { kind: 'input' },
          placement: on('C2'),
          settings: { active: 'low', pull, trigger: 'falling' },
          far: { part: 'button' },
        },
        {
          name: 'LAMP',
          role: { kind: 'output' },
          placement: on('D6'),
          settings: { active: 'low' },
          demands: { load: { kind: 'led', volts: 3.3, dropVolts: 2, ohms: 330 } },
        },
      ],
      { device: velm.description.id, package: velm.description.packages[0]?.id ?? '' },
    );
  test('with the pull it reads, and interrupts once for each bounce', () => {
    const play = played(
      deriveOn(plan('up'), velm),
      `
expect BUTTON reads 0
press BUTTON 30 ms bounce
wait for interrupt BUTTON within 1 ms
wait 10 ms
expect BUTTON reads 1
LAMP on
expect LAMP on within 1 ms
wait 50 ms
expect BUTTON off
LAMP off
expect LAMP off
`,
    );
    expect(verdicts(play).filter((one) => one.startsWith('failed'))).toEqual([]);
    const lane = play.bench.state.lanes[play.bench.setup.byNet.get('n0') ?? -1];
    // Closed and let go, with five bounces each.
    expect(lane?.length).toBeGreaterThan(20);
  });
  test('without it the open contact floats, which is found and cannot be read', () => {
    const play = played(
      deriveOn(plan('none'), velm),
      'expect BUTTON floating\nexpect BUTTON reads 0\nexpect no findings',
    );
    expect(verdicts(play)).toEqual([
      'passed: expect BUTTON floating',
      'failed: expect BUTTON reads 0 — it is not known',
      'failed: expect no findings — BUTTON is an input, and nothing gives it a level',
    ]);
  });
});

describe('a contactor that must not pulse at start-up', () => {
  const script = 'expect FAN_1 off always\ninitialise\nwait 20 ms\nexpect FAN_1 high';
  test('from reset it stays open', () => {
    expect(verdicts(played(deriveOn(frostGuard()), script))).toEqual([
      'passed: expect FAN_1 high',
      'passed: expect FAN_1 off always',
    ]);
  });
  test('it is seen to pulse when nothing holds it and the latch comes too late', () => {
    const derived = deriveOn(frostGuard());
    const operations = [...derived.lowered.operations];
    const latch = operations.filter((one) => one.stage === 'latch');
    const late = [...operations.filter((one) => one.stage !== 'latch'), ...latch];
    const names = namesIn(derived);
    const play = playScript(derived, parseScript(script.split('\n'), names), { operations: late });
    expect(verdicts(play)[1]).toBe('failed: expect FAN_1 off always — it was on');
    expect(play.bench.state.findings.some((one) => one.kind === 'guard-broken')).toBe(true);
  });
});
