import { deriveOn, on } from '@/testing/frost-guard';
import { type Case, onFamily } from '@/testing/rules';
import { board, gateless, lamp, START_UP_CASES } from './start-up.cases';

test('one signal on two pads is one error', () => {
  const [{ plan, device }] = START_UP_CASES['shared-bits'] as [Case];
  const errors = deriveOn(plan, device).findings.filter((one) => one.severity === 'error');
  expect(errors.map((one) => one.rule)).toEqual(['signal-twice']);
});

test('what the proof found says where it is', () => {
  const [finding] = deriveOn(board([lamp]), gateless).findings.filter((one) => one.rule === 'unproven');
  expect(finding?.place).toEqual({ operation: 2, register: 'PA.DIR', mask: 0xff });
});

test('a pull is no remedy where the pad has none for what it is used as', () => {
  const { plan, device } = onFamily('ketter-k2', 'q64', [
    { name: 'BUS', role: { kind: 'open-drain' }, placement: on('B2') },
  ]);
  const [finding] = deriveOn(plan, device).findings.filter((one) => one.rule === 'open-drain-no-pull');
  expect(finding?.remedies.map((one) => one.label)).toEqual(['the board has a pull-up of 4.7 kΩ']);
});
