import { deriveOn, frostGuard, withNets } from '@/testing/frost-guard';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { completionsFor } from './complete';
import { FORMS } from './forms';
import { namesIn } from './names';
import { parseScript } from './parse';
import { withIds, withNames } from './rename';

const derived = deriveOn(frostGuard());
const names = namesIn(derived);
const problemOf = (text: string) => parseScript(text.split('\n'), names).problems[0];

describe('what a line can be', () => {
  test.each([
    'FAN_1 on',
    'fan_1 toggle',
    '"FAN_1" high',
    '{fan-1} off for 20 ms',
    'Fans = 0b0101',
    'LEAF_T1 = 1.2 V',
    'WIND_DIR sine 2 Hz 0.5 V around 1.6 V',
    'LEAF_T1 noise 20 mV around 1.5 V',
    'press SERVICE_BTN 30 ms bounce',
    'press SERVICE_BTN bounce',
    'release SERVICE_BTN',
    'tip RAIN_TIP',
    'read SERVICE_BTN',
    'wait 1.5 s',
    'wait for SERVICE_BTN on within 1 s',
    'wait for no contention',
    'expect LAMP_RED on within 5 ms',
    'expect LAMP_RED off for 20 µs',
    'expect FAN_1 off always',
    'expect FAN_1 on never',
    'expect Fans = 1 << 2',
    'expect SERVICE_BTN reads 1',
    'expect LEAF_T1 > 1.1 V',
    'expect no findings # nothing is wrong',
    'initialise',
    'step 5',
    'stage direction',
    'interrupts off',
    'clock 48 MHz',
    'repeat 3: LAMP_RED toggle; wait 5 ms',
    'repeat 4 with i: Fans = 1 << i; wait 20 ms; expect Fans = (1 << i) & 15',
    'repeat 2:\n  repeat 3 with k:\n    Fans = k\n  wait 1 ms\nexpect Fans = 2',
    '',
    '# only a comment',
  ])('%s', (text) => {
    expect(parseScript(text.split('\n'), names).problems).toEqual([]);
  });
  test.each([
    'start from reset',
    'start from random 7',
    'start from any state',
    'start from registers PA.USE = 0x5, PA.OUT = 3',
  ])('%s, as the first line', (text) => {
    expect(problemOf(text)).toBeUndefined();
    expect(problemOf(`initialise\n${text}`)?.message).toMatch(/first line/);
  });
  test('every example of the list of steps is one', () => {
    const own = parseScript([], names);
    expect(own.problems).toEqual([]);
    // Names stand for those of whoever reads it.
    const known: Record<string, string> = { KNOB_A: 'SERVICE_BTN', display: 'Fans' };
    for (const { id, example } of FORMS) {
      if (id === 'turn' || id === 'run' || id === 'percent' || id === 'wait-for') continue;
      const text = example.replace(/KNOB_A|display/g, (one) => known[one] ?? one);
      expect({ text, problem: problemOf(text)?.message }).toEqual({ text, problem: undefined });
    }
  });
});

describe('what cannot be read says where, and what could stand there', () => {
  test.each<[string, number, RegExp]>([
    ['FAN_9 on', 0, /"FAN_9" is not understood; here could be/],
    ['FAN_1 sideways', 6, /here could be on, off, toggle/],
    ['press LAMP_RED', 6, /LAMP_RED has no contact or line at its far end/],
    ['press SERVICE_BTN 30', 20, /something is missing; here could be ns, us/],
    ['wait 5 h', 7, /here could be ns/],
    ['wait 2000000 s', 5, /is too much/],
    ['expect', 6, /here could be no, interrupt, wake, a net/],
    ['expect FAN_1 on within', 22, /a time like 20 ms/],
    ['Fans = 1 <<', 9, /"<<" is not understood/],
    ['Fans = j', 7, /j stands for no number here/],
    ['RADIO_BUSY = 1', 11, /RADIO_BUSY is nothing that the firmware drives/],
    ['repeat 0: wait 1 ms', 7, /a whole number from 1 to 1000000/],
    ['wait for interrupt FAN_1', 19, /FAN_1 does not interrupt/],
    ['start from registers PA.NONE = 1', 21, /no register PA\.NONE/],
    ['LEAF_T1 = 1.2', 13, /V, mV/],
    ['FAN_1 on § off', 9, /no script has "§" here/],
    ['FAN_1 on off', 9, /the end of the step/],
  ])('%s', (text, from, message) => {
    const problem = problemOf(text);
    expect(problem?.message).toMatch(message);
    expect(problem?.from).toBe(from);
  });
  test('by line, and the other lines are read', () => {
    const { steps, problems } = parseScript(
      ['FAN_1 on', 'FAN_1 nowhere', '  wait 1 ms', 'repeat 2:', 'wait 1 ms'],
      names,
    );
    expect(problems.map((one) => one.line)).toEqual([1, 2, 3]);
    expect(steps.map((one) => one.form)).toEqual(['set', 'repeat', 'wait']);
  });
  test('whatever is typed, nothing breaks', () => {
    const words = [
      'FAN_1',
      'on',
      'press',
      'SERVICE_BTN',
      '30',
      'ms',
      'repeat',
      'with',
      'i',
      ':',
      ';',
      '=',
      '<<',
      '(',
      ')',
      '"',
      '{',
      '}',
      'expect',
      'always',
      '-',
      '#',
      'wait',
      'for',
      '0x',
      '\u0000',
      '𝕏',
      '  ',
      ',',
    ];
    const random = randomFrom(5);
    for (let run = 0; run < fuzzBudget(1500); run++) {
      const line = Array.from({ length: 1 + random.int(9) }, () => random.pick(words)).join(
        random.pick([' ', '']),
      );
      parseScript([line, ' x'], names);
      completionsFor(line, names);
      withNames(withIds(line, names), names);
    }
  });
});

describe('completion', () => {
  const texts = (line: string): string[] => completionsFor(line, names).list.map((one) => one.text);
  test.each<[string, string[]]>([
    ['press ', ['SERVICE_BTN']],
    ['press SER', ['SERVICE_BTN']],
    ['expect LAMP_R', ['LAMP_RED']],
    ['FAN_1 ', ['on', 'off', 'toggle']],
    ['expect LAMP_RED on ', ['within', 'for', 'always', 'never']],
    ['wait for ', ['interrupt', 'no']],
    ['start from ', ['reset', 'random', 'any', 'registers', 'trial']],
    ['stage dir', ['direction']],
    ['Fa', ['Fans']],
    ['repeat 3: LAMP_RED ', ['toggle']],
    ['LAMP_RED on; FAN_2 ', ['off']],
  ])('behind "%s"', (line, wanted) => {
    expect(texts(line)).toEqual(expect.arrayContaining(wanted));
  });
  test('each makes a line that is understood up to there', () => {
    for (const line of ['', 'expect ', 'press ', 'wait ', 'FAN_1 ', 'repeat 2: ', 'expect FAN_1 on ']) {
      const { from, list } = completionsFor(line, names);
      for (const { text } of list) {
        const whole = `${line.slice(0, from)}${text} @`;
        // What is wrong begins behind what was completed.
        const problem = problemOf(whole);
        expect({ whole, from: problem?.from }).toEqual({ whole, from: whole.length - 1 });
      }
    }
  });
});

describe('plans keep nets by their ids', () => {
  const lines = [
    'expect FAN_1 off always',
    'press SERVICE_BTN 30 ms bounce',
    'repeat 4 with i: Fans = 1 << i; expect Fans = 1 << i',
    'LEAF_T1 noise 20 mV around 1.5 V  # on_2 m of cable',
    'wait for interrupt RAIN_TIP within 1 s',
    'read SERVICE_BTN; expect SERVICE_BTN reads 1',
  ];
  test.each(lines)('%s', (line) => {
    const kept = withIds(line, names);
    expect(kept).not.toMatch(/FAN_1|SERVICE_BTN|LEAF_T1|RAIN_TIP/);
    expect(withNames(kept, names)).toBe(line);
  });
  test('so that a net can get another name, which is then shown', () => {
    const renamed = namesIn(
      deriveOn(withNets(frostGuard(), { FAN_1: { name: 'on' }, SERVICE_BTN: { name: 'press here' } })),
    );
    const kept = withIds('press SERVICE_BTN; FAN_1 on', names);
    const shown = withNames(kept, renamed);
    expect(shown).toBe('press "press here"; on on');
    expect(parseScript([shown], renamed).problems).toEqual([]);
    expect(withIds(shown, renamed)).toBe(kept);
  });
  test('a net that is gone stands as what it was, and the line says so', () => {
    expect(withNames('expect {gone} on', names)).toBe('expect {gone} on');
    expect(problemOf('expect {gone} on')?.message).toMatch(/"gone" is not understood/);
  });
});
