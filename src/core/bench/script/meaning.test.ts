import { deriveOn, frostGuard } from '@/testing/frost-guard';
import { FORMS } from './forms';
import { meaningInScript } from './meaning';

const derived = deriveOn(frostGuard());
const LINES = [
  'start from random 7',
  'press SERVICE_BTN 30 ms; expect LAMP_RED on within 5 ms # press',
  'repeat 4 with i: Fans = 1 << i; wait 20 ms',
  'repeat 2 with step_of:',
  '  repeat 3 with i:',
  '    "FAN_1" toggle',
  '    Fans = i + step_of',
  '  wait 1 ms',
  'expect FAN_1 reads on',
];
/** The word at the nth place of a piece of the text. */
const at = (line: number, piece: string) =>
  meaningInScript(derived, LINES, line, (LINES[line] as string).indexOf(piece) + 1);

test('a net says where it is and what the code can do with it; several say of what they are', () => {
  const net = at(1, 'SERVICE_BTN');
  expect(net?.heading).toBe('SERVICE_BTN');
  expect(net?.facts.join('; ')).toMatch(/^input; pad \w+, pin \w+; read by the code$/);
  expect(at(5, 'FAN_1')?.facts.join()).toContain('output');
  expect(at(8, 'FAN_1')?.heading).toBe('FAN_1');
  expect(at(2, 'Fans')?.facts[0]).toMatch(/^4 bits: FAN_1, FAN_2, FAN_3, FAN_4$/);
});

test('a word that begins a step says what the step does', () => {
  expect(at(1, 'press')).toMatchObject({ from: 0, to: 5, heading: 'press' });
  expect(at(2, 'wait')?.facts[0]).toBe('Lets time pass.');
  for (const { slots, example } of FORMS) {
    if (slots[0]?.slot !== 'word') continue;
    expect(meaningInScript(derived, [example], 0, 1)?.facts.at(-1)).toBe(`example: ${example}`);
  }
});

test('what a repetition counts is found within it, and nowhere else', () => {
  expect(at(2, 'i:')?.uses).toEqual([
    { line: 2, from: 14, to: 15 },
    { line: 2, from: 29, to: 30 },
  ]);
  expect(at(6, 'i +')?.uses?.map(({ line }) => line)).toEqual([4, 6]);
  expect(at(6, 'step_of')?.uses?.map(({ line }) => line)).toEqual([3, 6]);
  expect(meaningInScript(derived, ['wait 1 ms', 'Fans = i'], 1, 7)).toBeUndefined();
});

test('numbers, units, comments and what is not there mean nothing', () => {
  for (const [line, piece] of [
    [1, '30'],
    [1, 'ms'],
    [1, '# press'],
    [2, '<<'],
  ] as const)
    expect([piece, at(line, piece)]).toEqual([piece, undefined]);
  expect(meaningInScript(derived, LINES, 40, 0)).toBeUndefined();
  expect(meaningInScript(derived, ['NOBODY on'], 0, 2)).toBeUndefined();
});
