import { SaxesParser } from 'saxes';
import { parsePlan } from '@/core/plan/file/plan-file';
import { printPlan } from '@/core/plan/file/print-plan';
import type { Plan, Trial } from '@/core/plan/model/types';
import { expectOk } from '@/testing/expect-ok';
import { deriveOn, frostGuard, withNets } from '@/testing/frost-guard';
import { coverage, faultsOf, faultText, withFault } from '../faults/faults';
import { linesOn, newRecording, playLine, replayed, trialLines } from '../recording/recording';
import { junitReport, trialReport, trialText } from './report';
import { runTrial, whyFailed } from './run-trial';

const plan = frostGuard();
const derived = deriveOn(plan);
const trial = (lines: string[], name = 'a trial'): Trial => ({ id: 'x', name, lines });
const results = (of = derived) => (of.plan.trials ?? []).map((one) => runTrial(of, one));

describe('trials of the demo', () => {
  test('all pass, and say which nets they watch', () => {
    expect(results().map((one) => whyFailed(one))).toEqual((plan.trials ?? []).map(() => undefined));
    const button = results().find((one) => one.trial.id === 'button');
    expect([...(button?.nets ?? [])]).toEqual([
      ['service-btn', true],
      ['lamp-red', true],
    ]);
  });
  test('they are kept in the file, a step a line, by the ids of nets', () => {
    const text = printPlan(plan);
    expect(text).toContain('      "press {service-btn} 30 ms bounce",\n');
    expect(expectOk(parsePlan('x', text))).toEqual(plan);
  });
  test('they change nothing about the code', () => {
    const { trials: _trials, ...bare } = plan;
    expect(deriveOn(bare as Plan).fingerprint).toBe(derived.fingerprint);
  });
  test('other names and other pads make no difference to them', () => {
    const moved = deriveOn(
      withNets(plan, {
        SERVICE_BTN: { name: 'DOOR_KEY', placement: { pad: 'A3', locked: false } },
        LAMP_RED: { name: 'press', placement: { pad: 'B9', locked: false } },
        FAN_1: { name: 'on 1' },
      }),
    );
    expect(results(moved).map((one) => whyFailed(one))).toEqual((plan.trials ?? []).map(() => undefined));
  });
  test('a change that breaks what is expected is noticed', () => {
    const wrong = deriveOn(
      withNets(plan, { FAN_2: { settings: { active: 'low', start: 'asserted', drive: '4mA' } } }),
    );
    const failed = results(wrong).filter((one) => !one.passed);
    expect(failed.map((one) => one.trial.id)).toContain('quiet-start');
    expect(failed.map((one) => whyFailed(one))[0]).toMatch(/^line 2, expect FAN_2 off always: it was on/);
  });
});

describe('what wakes the part', () => {
  test('is waited for, expected, and expected not to come', () => {
    const lines = [
      'expect no wake {wake-up} for 2 ms',
      '{wake-up} high for 1 ms',
      'wait for wake {wake-up} within 1 ms',
      'expect no wake {wake-up} for 2 ms',
      '{wake-up} high',
      'expect wake {wake-up}',
    ];
    expect(whyFailed(runTrial(derived, trial(lines)))).toBeUndefined();
    expect(whyFailed(runTrial(derived, trial([...lines, 'expect no wake {wake-up} always'])))).toMatch(
      /line 7, expect no wake WAKE_UP always: it did wake the part/,
    );
  });
  test('nothing else wakes it', () => {
    expect(whyFailed(runTrial(derived, trial(['expect wake {service-btn}'])))).toMatch(
      /SERVICE_BTN does not wake the part/,
    );
  });
});

describe('what was played, on another state of the plan', () => {
  const lines = [
    'Fans = 0x3',
    'press SERVICE_BTN 5 ms',
    'wait 10 ms',
    'expect {lamp-red} off',
    '"LEAF_T1" = 1.2 V',
  ];
  const before = replayed(derived, undefined, lines);
  test('nets keep their ids, whatever they are called', () => {
    const after = deriveOn(
      withNets(plan, {
        SERVICE_BTN: { name: 'press' },
        LAMP_RED: { name: 'LAMP 2' },
        LEAF_T1: { name: 'SERVICE_BTN' },
      }),
    );
    const there = linesOn(lines, derived, after);
    expect(there).toEqual([
      'Fans = 0x3',
      'press "press" 5 ms',
      'wait 10 ms',
      'expect "LAMP 2" off',
      'SERVICE_BTN = 1.2 V',
    ]);
    const played = replayed(after, undefined, there);
    expect([before.refused, played.refused]).toEqual([[], []]);
    expect(played.play.bench.state.lanes).toEqual(before.play.bench.state.lanes);
    expect(linesOn(there, after, derived).join()).toBe(
      lines.join().replace('{lamp-red}', 'LAMP_RED').replaceAll('"', ''),
    );
  });
  test('what is not there is said, with the line, and comes back with its net', () => {
    const gone = deriveOn({ ...plan, nets: plan.nets.filter((net) => net.id !== 'service-btn'), trials: [] });
    const there = linesOn(lines, derived, gone);
    expect(replayed(gone, undefined, there).refused).toEqual([
      { line: 'press {service-btn} 5 ms', message: expect.stringContaining('service-btn') },
    ]);
    expect(linesOn(there, gone, derived)[1]).toBe('press SERVICE_BTN 5 ms');
  });
});

describe('why a trial does not pass', () => {
  test.each<[string, string[], RegExp]>([
    ['what is expected does not come', ['expect {lamp-red} on'], /line 1, expect LAMP_RED on: it is off/],
    [
      'it comes later, and when is said',
      ['{service-btn} on for 20 ms', 'expect {service-btn} off within 5 ms'],
      /took 20 ms/,
    ],
    ['it never comes', ['expect {lamp-red} on within 5 ms'], /it is off/],
    ['it does not last', ['press {service-btn} 3 ms', 'expect {service-btn} on for 10 ms'], /it is off/],
    [
      'a line cannot be read',
      ['expect {lamp-red} off', 'expect {gone} on'],
      /line 2: "gone" is not understood/,
    ],
    [
      'a step cannot be done',
      ['press {wake-up} 1 ms', 'press {radio-busy} {wake-up}', 'expect {lamp-red} off'],
      /line 2: RADIO_BUSY and WAKE_UP are not of one keypad/,
    ],
    [
      'a wait is in vain',
      ['wait for {lamp-red} on within 1 ms', 'expect {lamp-red} off'],
      /waited 1 ms in vain: it is off/,
    ],
    ['nothing is expected', ['{lamp-red} on'], /it expects nothing/],
    [
      'a value does not fit',
      ['Fans = 99', 'expect {lamp-red} off'],
      /99 does not fit into the 4 bits of Fans/,
    ],
    [
      'numbers that cannot be worked out',
      ['repeat 1 with i: Fans = 1 / i', 'expect {lamp-red} off'],
      /division by zero/,
    ],
  ])('%s', (_what, lines, message) => {
    expect(whyFailed(runTrial(derived, trial(lines)))).toMatch(message);
  });
  test('one that goes on for ever ends', () => {
    const lines = ['repeat 1000000: repeat 1000000: Fans = 1; Fans = 0', 'expect {lamp-red} off'];
    const result = runTrial(derived, trial(lines), { mostSteps: 20_000 });
    expect(whyFailed(result)).toMatch(/goes on for too long: the play ends here/);
  });
  test('one that starts from another starts with its registers', () => {
    const withTrials: Plan = {
      ...plan,
      trials: [
        { id: 'first', name: 'first', lines: ['{lamp-red} on', 'expect {lamp-red} on'] },
        // Before anything is initialised anew the latch is as the other left it.
        {
          id: 'then',
          name: 'then',
          lines: ['start from trial {first}', 'expect {lamp-red} on', 'initialise', 'expect {lamp-red} off'],
        },
        {
          id: 'loop',
          name: 'loop',
          lines: ['start from trial {loop}', 'initialise', 'expect {lamp-red} off'],
        },
      ],
    };
    expect(results(deriveOn(withTrials)).map((one) => whyFailed(one))).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
  });
});

describe('reports', () => {
  const failing: Plan = {
    ...plan,
    name: 'A <plan> & "more"',
    trials: [...(plan.trials ?? []), trial(['expect {lamp-red} on', 'nonsense <&>'], 'a "bad" <one>')],
  };
  const of = deriveOn(failing);
  const all = results(of);
  test('as JSON: what was expected, what came, by line', () => {
    const report = trialReport(of, all) as {
      counts: object;
      trials: { passed: boolean; faults: object[]; expectations: object[] }[];
    };
    expect(report.counts).toEqual({ passed: 5, failed: 1 });
    expect(report.trials.at(-1)).toMatchObject({
      passed: false,
      expectations: [{ line: 1, passed: false, message: 'it is off' }],
      faults: [{ line: 2 }],
    });
  });
  test('as JUnit XML that a parser takes, whatever names hold', () => {
    const seen: { name: string; attributes: Record<string, string> }[] = [];
    const parser = new SaxesParser();
    parser.on('opentag', (node) =>
      seen.push({ name: node.name, attributes: node.attributes as Record<string, string> }),
    );
    parser.on('error', (error) => {
      throw error;
    });
    parser.write(junitReport(of, all)).close();
    expect(seen[0]).toMatchObject({ name: 'testsuites', attributes: { tests: '6', failures: '1' } });
    expect(seen.filter((one) => one.name === 'testcase').map((one) => one.attributes.name)).toContain(
      'a "bad" <one>',
    );
    expect(seen.find((one) => one.name === 'failure')?.attributes.message).toMatch(
      /"nonsense" is not understood/,
    );
  });
  test('as text', () => {
    expect(trialText(all)).toMatch(
      /FAILED {2}a "bad" <one>[\s\S]*line 1: expect LAMP_RED on\n {10}it is off, at [\s\S]*5 of 6 trials passed/,
    );
    expect(trialText([])).toBe('the plan has no trials');
  });
});

describe('what was played becomes a trial that does the same', () => {
  const played = (lines: string[], start?: string) => {
    const recording = newRecording(derived, start);
    for (const line of lines) playLine(recording, line);
    return recording;
  };
  test('a play on a part that is not initialised stays without: what floated then floats in the trial', () => {
    const recording = played(['LAMP_RED on', 'expect LAMP_RED floating']);
    expect(recording.play.checks.map(({ passed }) => passed)).toEqual([true]);
    const lines = trialLines(recording);
    expect(lines).toEqual(['step 0', 'LAMP_RED on', 'expect LAMP_RED floating']);
    expect(whyFailed(runTrial(derived, trial(lines)))).toBeUndefined();
    // Without that line the trial begins with initialisation, where something else was seen.
    expect(runTrial(derived, trial(lines.slice(1))).passed).toBe(false);
  });
  test('a start stays the first line; a play that initialises says so by itself; nothing played is nothing', () => {
    expect(trialLines(played(['LAMP_RED on'], 'start from random 7'))).toEqual([
      'start from random 7',
      'step 0',
      'LAMP_RED on',
    ]);
    expect(trialLines(played(['initialise', 'LAMP_RED on']))).toEqual(['initialise', 'LAMP_RED on']);
    expect(trialLines(played(['step 3', 'LAMP_RED on']))).toEqual(['step 3', 'LAMP_RED on']);
    expect(trialLines(played([]))).toEqual([]);
  });
});

describe('single faults', () => {
  const quiet = (plan.trials ?? []).filter((one) => one.id === 'quiet-start');
  const faults = faultsOf(derived);
  test('are those of each operation, each net’s pin, each pair of neighbours', () => {
    const count = derived.lowered.operations.length;
    const of = (kind: string): number => faults.filter((one) => one.kind === kind).length;
    expect([of('dropped'), of('repeated'), of('swapped')]).toEqual([count, count, count - 1]);
    expect([of('held'), of('stuck')]).toEqual([2 * plan.nets.length, 2 * plan.nets.length]);
    expect(faults).toContainEqual({ kind: 'shorted', pads: ['A6', 'A7'] });
    expect(of('late')).toBeGreaterThan(0);
  });
  test('those that let a contactor pulse are seen by the trial that forbids it', () => {
    const chosen = faults.filter(
      (one) =>
        ((one.kind === 'held' || one.kind === 'stuck') && one.pad === 'B7') ||
        (one.kind === 'dropped' && [0, 9].includes(one.operation)) ||
        (one.kind === 'repeated' && one.operation === 0),
    );
    const work = coverage(derived, quiet, chosen);
    let step = work.next();
    while (!step.done) step = work.next();
    const said = step.value.results.map(({ fault, seenBy, matters }) => [
      faultText(derived, fault),
      seenBy.length > 0,
      matters,
    ]);
    expect(said).toEqual(
      expect.arrayContaining([
        [expect.stringMatching(/FAN_1 \(B7\) is held low from outside until/), true, true],
        [expect.stringMatching(/FAN_1 \(B7\) is stuck low/), true, true],
        // The code stops there; what holds the contactors from outside holds them on.
        [expect.stringMatching(/operation 1 .* is left out/), false, true],
        [expect.stringMatching(/operation 10 .*PB\.OUTS.* is left out/), true, true],
        // Opening a gate twice changes nothing.
        [expect.stringMatching(/operation 1 .* is done twice/), false, false],
      ]),
    );
  });
  test('a trial that fails anyway notices none', () => {
    const work = coverage(derived, [trial(['expect {lamp-red} on'])], faults.slice(0, 2));
    let step = work.next();
    while (!step.done) step = work.next();
    expect(step.value.unusable).toEqual(['x']);
    expect(step.value.results.every((one) => one.seenBy.length === 0)).toBe(true);
  });
  test('for a fault that no trial notices lines are proposed that pass without it and fail with it', () => {
    const trials = plan.trials ?? [];
    const some = faults.filter((_, at) => at % 11 === 0);
    const work = coverage(derived, trials, some);
    let step = work.next();
    while (!step.done) step = work.next();
    const proposals = step.value.results.flatMap(({ fault, proposal }) =>
      proposal ? [{ fault, proposal }] : [],
    );
    for (const { fault, proposal } of proposals) {
      const before = trials.find(({ id }) => id === proposal.trial)?.lines ?? [];
      const extended = trial([...before, ...proposal.lines]);
      expect(whyFailed(runTrial(derived, extended))).toBeUndefined();
      expect(runTrial(derived, extended, withFault(derived, fault)).passed).toBe(false);
    }
    const unnoticed = step.value.results.filter(({ seenBy, matters }) => matters && seenBy.length === 0);
    expect(proposals.length).toBeGreaterThan(unnoticed.length / 2);
  });
  test('a proposal is about the net that the fault is about, and in the words of its circuit', () => {
    const stuck = { kind: 'stuck', pad: 'F12', level: 'low' } as const;
    const work = coverage(derived, quiet, [stuck]);
    let step = work.next();
    while (!step.done) step = work.next();
    expect(step.value.results[0]?.proposal).toEqual({
      trial: 'quiet-start',
      lines: ['expect {rain-tip} off'],
    });
  });
  test('a fault leaves the plan’s own operations as they are', () => {
    const before = [...derived.lowered.operations];
    for (const fault of faults.slice(0, 200)) withFault(derived, fault);
    expect(derived.lowered.operations).toEqual(before);
  });
  test('one board for all of them says the same as a board of its own for each', () => {
    const trials = plan.trials ?? [];
    const some = faults.filter((_, at) => at % 23 === 0);
    const work = coverage(derived, trials, some);
    let step = work.next();
    while (!step.done) step = work.next();
    const alone = some.map((fault) =>
      trials
        .filter((trial) => !runTrial(derived, trial, withFault(derived, fault)).passed)
        .map(({ id }) => id),
    );
    expect(step.value.results.map(({ seenBy }) => seenBy.map(({ trial }) => trial))).toEqual(alone);
    expect(alone.some((seen) => seen.length > 0)).toBe(true);
  });
});
