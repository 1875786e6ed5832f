import { candidatesFor } from '@/core/placing/candidates';
import { applyEdit } from '@/core/plan/edit';
import { corvane, deriveOn, frostGuard, netOf, on, planOf, withNets } from '@/testing/frost-guard';
import { highlightLines } from './code/highlight';
import { changedOnly, shownLines } from './code/lines';
import { sidesOf } from './package/sides';
import { dropStep, placeStep } from './workspace/place';
import { readAddress, sameSelection, writeAddress } from './workspace/selection';

/** What views compute, without a browser. */

describe('the package unfolded', () => {
  const pkg = (id: string) => {
    const found = corvane().packages.get(id);
    if (!found) throw new Error(id);
    return found;
  };
  test.each([
    ['q100', 25],
    ['q144', 36],
    ['q64', 16],
  ])('%s has four edges of %i terminals, in order', (id, length) => {
    const sides = sidesOf(pkg(id));
    expect(sides.map((side) => side.terminals.length)).toEqual([length, length, length, length]);
    const numbers = sides.flatMap((side) => side.terminals.map((one) => Number(one.terminal)));
    expect(numbers).toEqual(numbers.map((_, index) => index + 1));
    expect(sides[1]?.title).toBe(`Bottom ${length + 1}–${2 * length}`);
  });
  test('a dual row has two edges, a ball grid its rows, missing balls left out', () => {
    const dual = sidesOf({
      id: 'd8',
      name: 'd8',
      shape: { kind: 'dual-row', terminals: 8 },
      terminals: Object.fromEntries([1, 2, 3, 4, 5, 6, 7, 8].map((n) => [n, `A${n}`])),
    });
    expect(dual.map((side) => side.title)).toEqual(['Left 1–4', 'Right 5–8']);
    const balls = sidesOf({
      id: 'b',
      name: 'b',
      shape: { kind: 'ball-grid', rows: ['A', 'B'], columns: 12 },
      terminals: { A10: 'P1', A2: 'P2', B1: 'P3' },
    });
    expect(balls.map((side) => side.terminals.map((one) => one.terminal))).toEqual([['A2', 'A10'], ['B1']]);
  });
});

describe('the address', () => {
  test.each([
    [{ view: 'package', selection: null }],
    [{ view: 'code', selection: { kind: 'net', id: 'fan-1' } }],
    [{ view: 'package', selection: { kind: 'pad', id: 'A4' } }],
    [{ view: 'package', selection: { kind: 'finding', id: 'two-nets:a+b:F7#2' } }],
  ] as const)('%j is read back from what is written', (address) => {
    expect(readAddress(writeAddress(address))).toEqual(address);
  });
  test.each(['', '?view=nothing', '?select=', '?select=net:', '?select=circuit:x', '?view=<script>'])(
    '%j opens the package',
    (search) => {
      expect(readAddress(search)).toEqual({ view: 'package', selection: null });
    },
  );
  test('selections are compared by what they mean', () => {
    expect(sameSelection({ kind: 'pad', id: 'A' }, { kind: 'pad', id: 'A' })).toBe(true);
    expect(sameSelection({ kind: 'pad', id: 'A' }, { kind: 'net', id: 'A' })).toBe(false);
    expect(sameSelection(null, null)).toBe(true);
  });
});

describe('code as shown', () => {
  test('lines added and removed stand in their places', () => {
    const lines = shownLines('a\nB\nc\nd\n', 'a\nb\nc\n');
    expect(lines.map((line) => `${line.kind} ${line.number} ${line.text}`)).toEqual([
      'same 1 a',
      'removed null b',
      'added 2 B',
      'same 3 c',
      'added 4 d',
    ]);
  });
  test('without a file to compare with, nothing is marked', () => {
    expect(shownLines('a\nb\n', undefined).map((line) => line.kind)).toEqual(['same', 'same']);
  });
  test('only what changed keeps a little around it', () => {
    const text = (x: string) => ['1', '2', '3', '4', x, '6', '7', '8'].join('\n');
    const shown = changedOnly(shownLines(text('five'), text('5')), 1);
    expect(shown.map((line) => line?.text ?? null)).toEqual([null, '4', '5', 'five', '6', null]);
    expect(changedOnly(shownLines('a', 'a'), 3)).toEqual([null]);
  });
  test('highlighting escapes all text and closes what it opens on every line', () => {
    const lines = highlightLines('/* one\n<script>alert(1)</script> */\nint x = 0x1u; /* & "q" */', 'c');
    expect(lines).toHaveLength(3);
    for (const line of lines) {
      expect(line.match(/<span/g)?.length ?? 0).toBe(line.match(/<\/span>/g)?.length ?? 0);
      expect(line.replace(/<\/?span[^>]*>/g, '')).not.toMatch(/[<>]/);
    }
    expect(lines[1]).toContain('hljs-comment');
  });
});

describe('placing by hand', () => {
  const demo = frostGuard();
  test('on a pad in use: the net there moves to a free pad in the same edit', () => {
    const derived = deriveOn(demo);
    const net = netOf(demo, 'RADIO_SCK');
    const taken = candidatesFor(derived.occupancy, net).find((one) =>
      one.takenBy.some((other) => other.name === 'RADIO_CS'),
    );
    if (!taken) throw new Error('D6 is not offered');
    const step = placeStep(derived.occupancy, net, taken);
    expect(step.moves.map((move) => move.net.name)).toEqual(['RADIO_CS']);
    const after = applyEdit(demo, step.edit);
    expect(after.ok && deriveOn(after.value).counts.error).toBe(0);
    expect(after.ok && netOf(after.value, 'RADIO_SCK').placement?.pad).toBe('D6');
  });
  test('a held net does not make room', () => {
    const held = withNets(demo, { RADIO_CS: { placement: { pad: 'D6', held: true } } });
    const derived = deriveOn(held);
    const taken = candidatesFor(derived.occupancy, netOf(held, 'RADIO_SCK')).find((one) => one.pad === 'D6');
    expect(taken && placeStep(derived.occupancy, netOf(held, 'RADIO_SCK'), taken).moves).toEqual([]);
  });
  test('dropped on any pad, an open signal takes the line that the pad has', () => {
    const plan = planOf([
      { name: 'TX', role: { kind: 'open-signal', peripheral: 'UART', line: 'TX' } },
      { name: 'USED', role: { kind: 'input' }, placement: on('B7') },
    ]);
    const { occupancy } = deriveOn(plan);
    expect(dropStep(occupancy, netOf(plan, 'TX'), 'D4')).toMatchObject({
      to: { pad: 'D4', held: false, signal: 'UART1.TX' },
    });
    expect(dropStep(occupancy, netOf(plan, 'TX'), 'B7')).toMatchObject({ to: { pad: 'B7', held: false } });
  });
});
