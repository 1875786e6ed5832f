import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { deriveOn, on, planOf } from '@/testing/frost-guard';
import { loadDevice } from '../../device/compile/load';

/** A part whose UART takes its pads by itself: no register selects it. */
const part = () => {
  const description = family('corvane-c40').original;
  const functions = description.functions.map((fn) =>
    fn.signal.startsWith('UART1.') ? { ...fn, mux: null, itself: true as const } : fn,
  );
  return expectOk(loadDevice({ ...description, functions }));
};

test('a function that no register selects is planned as its owner, and its pad is left a plain input', () => {
  const device = part();
  const fn = device.description.functions.find((one) => one.signal === 'UART1.TX');
  const pad = fn?.pad ?? '';
  const plan = planOf([
    { name: 'TALK', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on(pad) },
    { name: 'LAMP', role: { kind: 'output' }, placement: on('B7') },
  ]);
  const derived = deriveOn(plan, device);
  expect(derived.findings.filter((one) => one.severity === 'error')).toEqual([]);
  const net = derived.resolved.find((one) => one.net.name === 'TALK');
  expect(net?.fn?.signal).toBe('UART1.TX');
  expect(net?.planned?.settings.values.mode).toBe('input');
  expect(derived.proof.proven).toBe(2);
});

test('it is no analog channel', () => {
  const device = part();
  const fn = device.description.functions.find((one) => one.signal === 'UART1.TX');
  const derived = deriveOn(
    planOf([{ name: 'PROBE', role: { kind: 'analog' }, placement: on(fn?.pad ?? '') }]),
    device,
  );
  const own = device.functionsByPad.get(fn?.pad ?? '') ?? [];
  const analog = own.some((one) => one.mux === null && !one.itself);
  expect(derived.findings.some((one) => one.severity === 'error')).toBe(!analog);
});
