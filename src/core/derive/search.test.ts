import { corvane, deriveOn, frostGuard, on, planOf } from '@/testing/frost-guard';
import { search } from './search';

const idsOf = (text: string, derived = deriveOn(planOf([]))) => search(derived, text).map((one) => one.id);

test('a signal leads first to where it can be had for nothing, to pads with a duty at boot after that', () => {
  for (const fn of corvane().description.functions) {
    const [first] = idsOf(fn.signal);
    const alternatives = corvane().description.functions.filter((one) => one.signal === fn.signal);
    const easy = alternatives.filter((one) => {
      const pad = corvane().pads.get(one.pad);
      return !pad?.boot && corvane().pinsOf.get('q100')?.has(one.pad);
    });
    if (easy.length > 0)
      expect([fn.signal, easy.map((one) => one.pad)]).toEqual([fn.signal, expect.arrayContaining([first])]);
  }
});

test('a signal that a net carries leads to that net', () => {
  const plan = planOf([
    { name: 'MAST_TX', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on('D4', 'UART1.TX') },
  ]);
  expect(idsOf('UART1.TX', deriveOn(plan)).slice(0, 1)).toEqual(['n0']);
});

test('whole names come before beginnings, and these before parts of names', () => {
  const derived = deriveOn(frostGuard());
  expect(idsOf('B7', derived)[0]).toBe('B7');
  expect(idsOf('fan_1', derived)[0]).toBe('fan-1');
  expect(idsOf('', derived)).toEqual([]);
  expect(idsOf('no such thing', derived)).toEqual([]);
});
