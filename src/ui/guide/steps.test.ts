import { deriveOn, frostGuard, planOf } from '@/testing/frost-guard';
import { GUIDE, keepGuide, nextStep, readGuide } from './steps';

const state = (derived: ReturnType<typeof deriveOn>, ...seen: string[]) => ({
  derived,
  seen: new Set(seen) as never,
});

describe('the guide knows what is done', () => {
  test('nothing of an empty plan', () => {
    const empty = deriveOn(planOf([]));
    expect(GUIDE.filter((one) => one.done(state(empty))).map((one) => one.id)).toEqual([]);
    expect(nextStep(state(empty))).toBe(0);
    expect(nextStep(state(empty, 'package'))).toBe(1);
  });
  test('all of a whole one, once its views have been seen', () => {
    const whole = deriveOn(frostGuard());
    expect(nextStep(state(whole, 'package', 'registers', 'bench', 'code'))).toBe(GUIDE.length);
    expect(GUIDE[nextStep(state(whole, 'package'))]?.id).toBe('registers');
  });
});

test('it is taken up where it was left, and what is kept otherwise counts for nothing', () => {
  const store = new Map<string, string>();
  const storage = {
    getItem: (key: string) => store.get(key) ?? null,
    setItem: (key: string, value: string) => void store.set(key, value),
  };
  expect(readGuide('p', storage)).toBeUndefined();
  keepGuide('p', { on: true, step: 3, seen: ['package'] }, storage);
  expect(readGuide('p', storage)).toEqual({ on: true, step: 3, seen: ['package'] });
  for (const wrong of ['{', '7', '{"on":1}', '{"on":true,"step":"x","seen":[]}', 'null']) {
    store.set('mavrek:guide:p', wrong);
    expect(readGuide('p', storage)).toBeUndefined();
  }
  store.set('mavrek:guide:p', '{"on":true,"step":99,"seen":[]}');
  expect(readGuide('p', storage)?.step).toBe(GUIDE.length);
});
