import { addChange, type Lane, newLane } from '@/core/bench/trace/lanes';
import { fuzzBudget, randomFrom } from '@/testing/random';
import {
  ChangeTimes,
  changesAxis,
  linearAxis,
  onAxis,
  panned,
  type TimeAxis,
  whole,
  zoomed,
} from './time-axis';

const lane = (...times: number[]): Lane => {
  const made = newLane();
  for (const time of times) addChange(made, time, 0, 0, 0);
  return made;
};

const changeTimes = (lanes: readonly Lane[], end: number) => new ChangeTimes().upTo({}, lanes, end);

test('each time at which something changes stands once, from power-up to the end', () => {
  const times = changeTimes([lane(0, 5, 900), lane(5, 70, 1e9), lane()], 1e6);
  expect([...times]).toEqual([0, 5, 70, 900, 1e6]);
  expect([...changeTimes([], 0)]).toEqual([0]);
});

test('what is gathered while time runs is what is gathered at once, also after going back', () => {
  const random = randomFrom(5);
  for (let run = 0; run < fuzzBudget(60); run++) {
    const lanes = [lane(), lane(), lane()];
    const kept = new ChangeTimes();
    let [now, play] = [0, {}];
    for (let turn = 0; turn < 30; turn++) {
      if (random.int(6) === 0) {
        [now, play] = [Math.floor(now / 2), {}];
        for (const one of lanes)
          one.length = [...one.times.subarray(0, one.length)].filter((time) => time <= now).length;
      }
      for (let more = random.int(5); more > 0; more--) {
        now += random.int(100);
        addChange(random.pick(lanes), now, 0, 0, 0);
      }
      now += random.int(20);
      expect([...kept.upTo(play, lanes, now)]).toEqual([...changeTimes(lanes, now)]);
    }
  }
});

test('by change, microseconds of initialisation are as wide as seconds of a play', () => {
  const axis = changesAxis(Float64Array.of(0, 1000, 2000, 3e9, 9e9));
  expect([0, 1000, 2000, 3e9, 9e9].map(axis.at)).toEqual([0, 1, 2, 3, 4]);
  expect(axis.at(6e9)).toBe(3.5);
  expect(axis.ticks(whole(axis), 10)).toEqual([0, 1, 2, 3, 4]);
  expect(linearAxis(9e9).ticks({ from: 0, to: 9e9 }, 4)).toEqual([0, 5e9]);
});

describe.each<[string, (random: ReturnType<typeof randomFrom>) => TimeAxis]>([
  ['as time goes', (random) => linearAxis(random.int(1e9))],
  [
    'by change',
    (random) => {
      const times = Array.from({ length: 1 + random.int(40) }, () =>
        random.int(random.pick([100, 1e5, 1e10])),
      );
      return changesAxis(changeTimes([lane(...times.sort((a, b) => a - b))], random.int(2e9)));
    },
  ],
])('%s', (_name, make) => {
  test('places and times are each other’s inverse, the later the further', () => {
    const random = randomFrom(7);
    for (let run = 0; run < fuzzBudget(300); run++) {
      const axis = make(random);
      let before = Number.NEGATIVE_INFINITY;
      for (const time of Array.from({ length: 20 }, () => random.int(3e9) - 1e8).sort((a, b) => a - b)) {
        const at = axis.at(time);
        expect(at).toBeGreaterThanOrEqual(before);
        expect(Math.abs(axis.time(at) - time)).toBeLessThanOrEqual(1e-6 * Math.abs(time) + 1e-3);
        before = at;
      }
    }
  });
  test('however it is zoomed and moved, something of the recording stays in sight', () => {
    const random = randomFrom(8);
    for (let run = 0; run < fuzzBudget(300); run++) {
      const axis = make(random);
      let shown = whole(axis);
      for (let turn = 0; turn < 20; turn++) {
        shown =
          random.int(2) === 0
            ? zoomed(shown, random.pick([0.3, 0.8, 1.5, 9]), random.int(100) / 100, axis)
            : panned(shown, random.int(400) / 100 - 2, axis);
        expect(shown.to - shown.from).toBeGreaterThanOrEqual(axis.closest * 0.999);
        expect(shown.to).toBeGreaterThan(0);
        expect(shown.from).toBeLessThanOrEqual(axis.end);
      }
    }
  });
});

test('another axis shows the same times', () => {
  const [time, changes] = [linearAxis(9e9), changesAxis(Float64Array.of(0, 1000, 2000, 3e9, 9e9))];
  expect(onAxis({ from: 1000, to: 3e9 }, time, changes)).toEqual({ from: 1, to: 3 });
  expect(onAxis({ from: 1, to: 3 }, changes, time)).toEqual({ from: 1000, to: 3e9 });
  // Never closer than can be looked at.
  expect(onAxis({ from: 3.1e9, to: 3.2e9 }, time, changes).to).toBeGreaterThan(5);
});
