import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { commandIn } from './testing/command';

const CLEAN = resolve('examples/frost-guard.plan.json');
const { mavrek, file } = commandIn('mavrek-trial-');

/** The demo with one more trial. */
const withTrial = (name: string, lines: string[]): string => {
  const plan = JSON.parse(readFileSync(CLEAN, 'utf8'));
  plan.trials.push({ id: 'more', name, lines });
  return file('more.plan.json', JSON.stringify(plan));
};

describe('mavrek trial', () => {
  test('exit 0 when all pass, 1 when one fails, with what came instead', async () => {
    expect(await mavrek('trial', CLEAN)).toMatchObject({
      status: 0,
      stderr: '',
      stdout: expect.stringContaining('5 of 5 trials passed'),
    });
    const failing = await mavrek('trial', withTrial('the lamp is lit', ['expect {lamp-red} on within 2 ms']));
    expect(failing.status).toBe(1);
    expect(failing.stdout).toMatch(
      /FAILED {2}the lamp is lit[\s\S]*line 1: expect LAMP_RED on within 2 ms\n {10}it is off/,
    );
  });
  test('one trial by its name, as JSON and as JUnit XML', async () => {
    const one = await mavrek('trial', CLEAN, '--only', 'each fan runs alone', '--format', 'json');
    expect(JSON.parse(one.stdout)).toMatchObject({
      plan: { name: 'Frost guard', device: 'corvane-c40-80' },
      counts: { passed: 1, failed: 0 },
      trials: [{ id: 'fans-run', passed: true }],
    });
    const { stdout } = await mavrek('trial', CLEAN, '--only', 'each fan runs alone', '--format', 'junit');
    expect(stdout).toMatch(/^<\?xml[^\n]*\n<testsuites tests="1" failures="0"/);
  });
  test('a plan without trials passes', async () => {
    const plan = JSON.parse(readFileSync(CLEAN, 'utf8'));
    delete plan.trials;
    expect(await mavrek('trial', file('none.plan.json', JSON.stringify(plan)))).toMatchObject({
      status: 0,
      stdout: 'the plan has no trials\n',
    });
  });
  test.each([
    ['no such trial', ['--only', 'nonsense'], /there is no trial "nonsense"; the plan has "contactors/],
    ['an unknown format', ['--format', 'sarif'], /Allowed choices are text, json, junit/],
  ])('exit 2 on %s', async (_name, args, message) => {
    const { status, stderr, stdout } = await mavrek('trial', CLEAN, ...args);
    expect({ status, stdout }).toEqual({ status: 2, stdout: '' });
    expect(stderr).toMatch(message);
  });
  test.each<[string, object, RegExp]>([
    [
      'two trials of one name',
      {
        trials: [
          { id: 'a', name: 'x', lines: [] },
          { id: 'b', name: 'x', lines: [] },
        ],
      },
      /two trials are called "x"/,
    ],
    ['a line that ends in the middle', { trials: [{ id: 'a', name: 'x', lines: ['a\nb'] }] }, /trials/],
    [
      'something that is not known',
      { attachments: [{ id: 'a', kind: 'rocket', nets: ['fan-1'] }] },
      /attachments/,
    ],
    [
      'a figure out of bounds',
      { attachments: [{ id: 'a', kind: 'led', nets: ['fan-1'], figures: { ohms: 0 } }] },
      /attachments/,
    ],
    ['too many nets', { attachments: [{ id: 'a', kind: 'led', nets: ['fan-1', 'fan-2'] }] }, /attachments/],
    [
      'a net that is not there',
      { attachments: [{ id: 'a', kind: 'led', nets: ['gone'] }] },
      /there is no net "gone"/,
    ],
  ])('exit 2, with the place, on %s', async (_name, change, message) => {
    const plan = { ...JSON.parse(readFileSync(CLEAN, 'utf8')), ...change };
    const { status, stderr } = await mavrek('trial', file('wrong.plan.json', JSON.stringify(plan, null, 1)));
    expect(status).toBe(2);
    expect(stderr).toMatch(message);
    expect(stderr).toMatch(/wrong\.plan\.json/);
  });
});
