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

describe('words in any order', () => {
  const derived = deriveOn(frostGuard());
  test.each([
    ['uart tx', 'tx uart'],
    ['UART1_TX', 'uart1.tx'],
    ['mast tx', 'tx mast'],
    ['lamp output', 'output lamp'],
  ])('%s is %s', (one, other) => {
    const found = idsOf(one, derived);
    expect(found.length).toBeGreaterThan(0);
    expect([...idsOf(other, derived)].sort()).toEqual([...found].sort());
  });

  test('a pin by its number, pads by their duty, registers', () => {
    const pinOf = (pad: string) => corvane().pinsOf.get('q100')?.get(pad)?.[0];
    expect(idsOf('pin 5', derived)[0]).toBe(
      corvane().description.pads.find(({ id }) => pinOf(id) === '5')?.id,
    );
    const debug = corvane()
      .description.pads.filter(({ boot }) => boot?.kind === 'debug')
      .map(({ id }) => id);
    expect(debug.length).toBeGreaterThan(0);
    expect(idsOf('debug', derived)).toEqual(expect.arrayContaining(debug));
    const [register] = derived.lowered.image;
    expect(idsOf(register?.register.name.replace('.', ' ') ?? '', derived)).toContain(
      register?.register.name,
    );
  });
});
