import vcdParser from 'vcd-parser';
import { deriveOn, frostGuard } from '@/testing/frost-guard';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { signalsOf } from '../recording/signals';
import { namesIn } from '../script/names';
import { parseScript } from '../script/parse';
import { playScript } from '../script/run';
import { differences, joined, offsetBetween } from './compare';
import {
  addChange,
  FLOATING,
  HIGH,
  type Lane,
  LOW,
  levelOf,
  newLane,
  OUTSIDE,
  stateCode,
  UNKNOWN,
} from './lanes';
import { doublesIn, laidOver } from './lay-over';
import { readVcd, type Vcd } from './vcd-read';
import { vcdText } from './vcd-write';

const read = (text: string | Uint8Array): Vcd => {
  const work = readVcd(typeof text === 'string' ? new TextEncoder().encode(text) : text);
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value;
};

const laneOf = (changes: readonly (readonly [time: number, level: number])[]): Lane => {
  const lane = newLane();
  for (const [time, level] of changes) addChange(lane, time, stateCode(level, OUTSIDE), 0, 0);
  return lane;
};
const changesOf = ({ times, codes, length }: Lane): [number, number][] =>
  Array.from({ length }, (_, at) => [times[at] as number, levelOf(codes[at] as number)]);

interface Parsed {
  signal: { name: string; wave: [time: string, value: string][] }[];
}

const derived = deriveOn(frostGuard());
function played(text: string) {
  const script = parseScript(text.split('\n'), namesIn(derived));
  expect(script.problems).toEqual([]);
  return playScript(derived, script).bench;
}

describe('the lanes as a value change dump', () => {
  const bench = played(
    'Fans = 0x5\nwait 3 ms\npress SERVICE_BTN 5 ms bounce\nwait 20 ms\nFans = 0xA\nwait 1 ms',
  );
  const text = vcdText(signalsOf(bench), bench.state.time, 'test', '2026-11-27');
  test('an independent reader finds the same changes', async () => {
    const parsed = await new Promise<Parsed>((done, fail) =>
      vcdParser.parse(text, (error: unknown, result: Parsed) => (error ? fail(error) : done(result))),
    );
    const button = parsed.signal.find((one) => one.name.includes('SERVICE_BTN'));
    const lane = bench.state.lanes[bench.setup.byNet.get('service-btn') ?? -1] as Lane;
    const own = changesOf(lane).map(([time, level]) => [
      Math.round(time),
      level === HIGH ? '1' : level === LOW ? '0' : 'z',
    ]);
    const theirs = button?.wave.map(([time, value]) => [Number(time), String(value)]);
    expect(theirs?.length).toBeGreaterThan(10);
    // Its times are those of the file; equal values one after the other may be left out by either.
    const plain = (list: unknown[][]): unknown[][] =>
      list.filter((one, at) => at === 0 || list[at - 1]?.[1] !== one[1]);
    expect(plain(theirs ?? [])).toEqual(plain(own));
  });
  test('our own reader as well, buses as their bits', () => {
    const vcd = read(text);
    expect(vcd.problems).toEqual([]);
    expect(vcd.end).toBe(Math.round(bench.state.time));
    const fans = vcd.variables.find((one) => one.name === 'Fans');
    expect(fans?.lanes).toHaveLength(4);
    expect(fans?.lanes.map((lane) => levelOf(lane.codes[lane.length - 1] ?? 9))).toEqual([
      LOW,
      HIGH,
      LOW,
      HIGH,
    ]);
    const leaf = vcd.variables.find((one) => one.name === 'LEAF_T1');
    expect(leaf?.real).toBe(true);
    expect(leaf?.lanes[0]?.volts[0]).toBeCloseTo(1.5, 3);
  });
  test('names of any kind do not leave their place', () => {
    const lane = laneOf([[0, HIGH]]);
    const names = ['$end', 'a b', 'x\n#5', '', '𝕏', '$dumpvars $end'];
    const hostile = vcdText(
      names.map((name) => ({ name, scope: `s ${name}`, lanes: [lane] })),
      10,
      '$end\n#1',
      '$end',
    );
    const vcd = read(hostile);
    expect(vcd.problems).toEqual([]);
    expect(vcd.variables).toHaveLength(names.length);
    for (const { lanes } of vcd.variables) expect(changesOf(lanes[0] as Lane)).toEqual([[0, HIGH]]);
  });
});

test('what is written is read again, whatever it is', () => {
  const levels = [LOW, HIGH, FLOATING, UNKNOWN];
  for (let run = 0; run < fuzzBudget(30); run++) {
    const random = randomFrom(run + 7);
    const lane = (): Lane => {
      let time = 0;
      let last = -1;
      return laneOf(
        Array.from({ length: 1 + random.int(30) }, () => {
          const level = random.pick(levels.filter((one) => one !== last));
          last = level;
          const at = time;
          time += 1 + random.int(1000);
          return [at, level] as const;
        }),
      );
    };
    const signals = Array.from({ length: 1 + random.int(120) }, (_, at) => ({
      name: `N${at}`,
      scope: 'b',
      lanes: [lane()],
    }));
    const vcd = read(vcdText(signals, 40_000, 't', 'd'));
    expect(vcd.problems).toEqual([]);
    signals.forEach((signal, at) => {
      expect(changesOf(vcd.variables[at]?.lanes[0] as Lane)).toEqual(changesOf(signal.lanes[0] as Lane));
    });
  }
});

describe('dumps from elsewhere', () => {
  const head = (scale: string, vars: string): string =>
    `$timescale ${scale} $end\n$scope module top $end\n${vars}\n$upscope $end\n$enddefinitions $end\n`;
  test.each([
    ['10 us', 1e4],
    ['1ps', 1e-3],
    ['100 ms', 1e8],
    ['1 s', 1e9],
  ])('a time scale of %s', (scale, factor) => {
    const { variables, problems } = read(`${head(scale, '$var wire 1 ! A $end')}#0\n0!\n#7\n1!\n`);
    expect(problems).toEqual([]);
    expect(changesOf(variables[0]?.lanes[0] as Lane)).toEqual([
      [0, LOW],
      [7 * factor, HIGH],
    ]);
  });
  test('short vectors are filled up: zeros before 0 and 1, x before x', () => {
    const { variables } = read(
      `${head('1 ns', '$var wire 4 # D [3:0] $end')}#0\nb1 #\n#1\nbx1 #\n#2\nb1z0 #\n`,
    );
    const at = (time: number): number[] =>
      (variables[0]?.lanes ?? []).map(
        (lane) =>
          changesOf(lane)
            .filter(([when]) => when <= time)
            .at(-1)?.[1] ?? -1,
      );
    expect(at(0)).toEqual([HIGH, LOW, LOW, LOW]);
    expect(at(1)).toEqual([HIGH, UNKNOWN, UNKNOWN, UNKNOWN]);
    expect(at(2)).toEqual([LOW, FLOATING, HIGH, LOW]);
  });
  test('several names for one signal, scopes in scopes, comments, dumps on and off', () => {
    const text = `$comment x $var $end\n$timescale 1 ns $end\n$scope module a $end\n$scope module b $end\n$var wire 1 ! X $end\n$upscope $end\n$var reg 1 ! Y $end\n$upscope $end\n$enddefinitions $end\n$dumpvars\nx!\n$end\n#3\n$dumpoff\n1!\n$end\n`;
    const { variables, problems } = read(text);
    expect(problems).toEqual([]);
    expect(variables.map((one) => one.path)).toEqual(['a.b.X', 'a.Y']);
    expect(changesOf(variables[1]?.lanes[0] as Lane)).toEqual([
      [0, UNKNOWN],
      [3, HIGH],
    ]);
  });
  test('a mark of the byte order, levels of more kinds, signals without lanes', () => {
    const text = `\ufeff${head('1 us', '$var wire 1 ! A $end\n$var string 1 s state $end\n$var wire 99 w wide $end')}#0\nL!\nsIDLE s\nb101 w\n#2\nh!\n#3\nU!\n#4\n-!\n`;
    const { variables, problems } = read(text);
    expect(problems).toEqual([]);
    expect(variables.map(({ lanes }) => lanes.map(changesOf))).toEqual([
      [
        [
          [0, LOW],
          [2000, HIGH],
          [3000, UNKNOWN],
        ],
      ],
    ]);
  });
  test('numbers of bits behind names, with a blank or without', () => {
    const declared = ['A [7:0]', 'B[7:0]', 'C [3]', 'D[3]', 'E [0:7]', 'F [9:0]'];
    const { variables } = read(
      head(
        '1 ns',
        declared.map((name, at) => `$var wire ${/[CD]/.test(name) ? 1 : 8} ${at} ${name} $end`).join('\n'),
      ),
    );
    expect(variables.map(({ name, range }) => [name, range?.first])).toEqual([
      ['A', 7],
      ['B', 7],
      ['C[3]', 3],
      ['D[3]', 3],
      ['E', 0],
      // No eight bits: what stands there is part of the name.
      ['F [9:0]', undefined],
    ]);
  });
  test.each([
    ['nothing', '', /there is no \$var/],
    ['another kind of file', 'time,A\n0,1\n', /^there is no \$var/],
    [
      'no scale',
      '$var wire 1 ! A $end\n#0\n1!\n',
      /there is no \$timescale: its times are taken for nanoseconds/,
    ],
    [
      'a signal that was not declared',
      `${head('1 ns', '$var wire 1 ! A $end')}#0\n1?\n`,
      /"1\?" is no change/,
    ],
    [
      'a time that goes back',
      `${head('1 ns', '$var wire 1 ! A $end')}#5\n1!\n#3\n0!\n`,
      /lies before the one above/,
    ],
    [
      'a time that is no number',
      `${head('1 ns', '$var wire 1 ! A $end')}#x\n1!\n`,
      /a time is a whole number/,
    ],
    ['a scale of its own', `${head('3 fortnights', '$var wire 1 ! A $end')}#0\n1!\n`, /\$timescale is not/],
    ['a declaration without a name', '$var wire 1 ! $end\n', /\$var needs/],
  ])('%s is told with its line', (_what, text, message) => {
    const { problems } = read(text);
    expect(problems.some((one) => message.test(one.message) && one.line > 0)).toBe(true);
  });
  test('bytes by chance break nothing', () => {
    const random = randomFrom(3);
    for (let run = 0; run < fuzzBudget(200); run++) {
      const bytes = Uint8Array.from({ length: random.int(400) }, () =>
        random.pick([35, 36, 98, 33, 49, 48, 32, 10, random.int(256)]),
      );
      read(bytes);
    }
  });
  test('it is read in pieces, so that it can be stopped', () => {
    const text = `${head('1 ns', '$var wire 1 ! A $end')}${Array.from({ length: 300_000 }, (_, at) => `#${at}\n${at % 2}!\n`).join('')}`;
    const bytes = new TextEncoder().encode(text);
    const steps: number[] = [];
    const work = readVcd(bytes);
    let step = work.next();
    while (!step.done) {
      steps.push(step.value.bytes);
      step = work.next();
    }
    expect(steps.length).toBeGreaterThan(2);
    expect(steps.at(-1)).toBe(bytes.length);
    expect(step.value.variables[0]?.lanes[0]?.length).toBe(300_000);
  });
});

describe('two lanes compared', () => {
  const options = { offset: 0, tolerance: 0, from: 0, to: 100 };
  test.each<[string, [number, number][], [number, number][], Partial<typeof options>, [number, number][]]>([
    [
      'equal',
      [
        [0, LOW],
        [10, HIGH],
      ],
      [
        [0, LOW],
        [10, HIGH],
      ],
      {},
      [],
    ],
    [
      'later',
      [
        [0, LOW],
        [10, HIGH],
      ],
      [
        [0, LOW],
        [15, HIGH],
      ],
      {},
      [[10, 15]],
    ],
    [
      'later, within the tolerance',
      [
        [0, LOW],
        [10, HIGH],
      ],
      [
        [0, LOW],
        [15, HIGH],
      ],
      { tolerance: 5 },
      [],
    ],
    [
      'shifted',
      [
        [0, LOW],
        [10, HIGH],
      ],
      [
        [0, LOW],
        [15, HIGH],
      ],
      { offset: -5 },
      [],
    ],
    [
      'to the end',
      [[0, LOW]],
      [
        [0, LOW],
        [60, HIGH],
      ],
      {},
      [[60, 100]],
    ],
    [
      'where one floats nothing is said',
      [
        [0, FLOATING],
        [10, HIGH],
      ],
      [
        [0, LOW],
        [20, HIGH],
      ],
      {},
      [[10, 20]],
    ],
    ['before it begins nothing is said', [[0, LOW]], [[50, HIGH]], {}, [[50, 100]]],
  ])('%s', (_what, one, other, change, wanted) => {
    const found = differences(laneOf(one), laneOf(other), { ...options, ...change });
    expect(found.map(({ from, to }) => [from, to])).toEqual(wanted);
  });
  test('the first edges are laid on each other', () => {
    expect(
      offsetBetween(
        laneOf([
          [0, FLOATING],
          [5, LOW],
          [40, HIGH],
        ]),
        laneOf([
          [0, HIGH],
          [1000, LOW],
        ]),
      ),
    ).toBe(-960);
    expect(
      offsetBetween(
        laneOf([[0, LOW]]),
        laneOf([
          [0, HIGH],
          [1000, LOW],
        ]),
      ),
    ).toBeUndefined();
  });
});

describe('a recording from elsewhere', () => {
  const [a, b, c] = [laneOf([[0, LOW]]), laneOf([[0, LOW]]), laneOf([[0, LOW]])];
  const net = (id: string, own: Lane) => ({ id, name: id, scope: '', lanes: [own] });
  const signals = [
    net('DIGIT_A', a),
    net('DIGIT_B', b),
    net('DIGIT_C', c),
    { id: 'Digit', name: 'Digit', scope: '', lanes: [a, b, c], inverted: [false, true, false] },
  ];
  const dump = (declared: string, changes: string): Vcd =>
    read(`$timescale 1 ns $end\n${declared}$enddefinitions $end\n${changes}`);
  const levels = (vcd: Vcd): Record<string, number[][]> =>
    Object.fromEntries(
      [...laidOver(vcd, signals)].map(([id, lanes]) => [
        id,
        lanes.map((one) => changesOf(one).map(([, level]) => level)),
      ]),
    );
  test('a vector is laid over its bus and over the bus’s nets, active-low bits as levels', () => {
    const vcd = dump('$var wire 3 ! digit [2:0] $end\n', '#0\nb000 !\n#5\nb011 !\n');
    expect(levels(vcd)).toEqual({
      Digit: [[LOW, HIGH], [HIGH, LOW], [LOW]],
      DIGIT_A: [[LOW, HIGH]],
      DIGIT_B: [[HIGH, LOW]],
      DIGIT_C: [[LOW]],
    });
  });
  test('so are single bits that are numbered', () => {
    const bits = [0, 1, 2].map((bit) => `$var wire 1 ${'!"#'[bit]} DIGIT[${bit}] $end\n`).join('');
    expect(levels(dump(bits, '#0\n0!\n1"\n0#\n')).Digit).toEqual([[LOW], [LOW], [LOW]]);
  });
  test.each([
    [
      'with a blank before the number',
      '$var wire 1 ! Digit [0] $end\n$var wire 1 " Digit [1] $end\n$var wire 1 # Digit [2] $end\n',
      '#0\n0!\n1"\n0#\n',
    ],
    ['in pieces', '$var wire 1 ! Digit [2] $end\n$var wire 2 " Digit [1:0] $end\n', '#0\n0!\nb10 "\n'],
    [
      'in pieces, counted the other way',
      '$var wire 1 ! Digit [2] $end\n$var wire 2 " Digit [0:1] $end\n',
      '#0\n0!\nb01 "\n',
    ],
  ])('so are bits %s', (_what, declared, changes) => {
    expect(levels(dump(declared, changes)).Digit).toEqual([[LOW], [LOW], [LOW]]);
  });
  test('of the pieces of a wider bus the lowest one', () => {
    const declared = '$var wire 3 ! Digit [5:3] $end\n$var wire 3 " Digit [2:0] $end\n';
    expect(levels(dump(declared, '#0\nb111 !\nb000 "\n')).Digit).toEqual([[LOW], [HIGH], [LOW]]);
  });
  test('a net of one bit that is numbered all the same', () => {
    expect(levels(dump('$var wire 1 ! DIGIT_A [0] $end\n', '#0\n1!\n')).DIGIT_A).toEqual([[HIGH]]);
  });
  test('of several signals of one name the outermost is taken, and that is said', () => {
    const declared = (inner: string): string =>
      `$scope module u $end\n$var wire 1 ${inner} DIGIT_A $end\n$upscope $end\n$var wire 1 ! DIGIT_A $end\n`;
    const vcd = dump(declared('"'), '#0\n0"\n1!\n');
    expect(levels(vcd).DIGIT_A).toEqual([[HIGH]]);
    expect(doublesIn(vcd, signals)).toEqual([{ name: 'DIGIT_A', path: 'DIGIT_A' }]);
    // Two names of one signal are no doubt.
    expect(doublesIn(dump(declared('!'), '#0\n1!\n'), signals)).toEqual([]);
  });
  test('and nets of their own names, which stay as they are; a vector of another width is not taken', () => {
    const nets = ['A', 'B', 'C'].map((one, at) => `$var wire 1 ${'!"#'[at]} digit-${one} $end\n`).join('');
    const vcd = dump(`${nets}$var wire 4 $ Digit $end\n`, '#0\n1!\n0"\n1#\nb0000 $\n');
    expect(levels(vcd)).toEqual({
      Digit: [[HIGH], [LOW], [HIGH]],
      DIGIT_A: [[HIGH]],
      DIGIT_B: [[LOW]],
      DIGIT_C: [[HIGH]],
    });
  });
  test('what the bench writes comes back without a difference, buses and all', () => {
    const bench = played('Fans = 5\nwait 1 ms\nFans = 10\nwait 1 ms');
    const own = signalsOf(bench);
    const laid = laidOver(read(vcdText(own, bench.state.time, 't', 'd')), own);
    const options = { offset: 0, tolerance: 1, from: 0, to: bench.state.time };
    for (const { id, lanes, kind } of own) {
      const theirs = laid.get(id);
      if (kind === 'bus') expect(theirs).toHaveLength(lanes.length);
      theirs?.forEach((one, bit) => {
        expect(differences(lanes[bit] as Lane, one, options)).toEqual([]);
      });
    }
  });
  test('differences that overlap are one', () => {
    expect(
      joined([
        { from: 5, to: 9 },
        { from: 1, to: 2 },
        { from: 8, to: 12 },
        { from: 12, to: 13 },
      ]),
    ).toEqual([
      { from: 1, to: 2 },
      { from: 5, to: 13 },
    ]);
  });
});
