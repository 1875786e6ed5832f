import { candidatesFor } from '@/core/derive/candidates/candidates';
import { applyEdit } from '@/core/plan/edits/edits';
import { family } from '@/testing/families';
import { corvane, deriveOn, frostGuard, netOf, on, planOf, withNets } from '@/testing/frost-guard';
import { highlightLines } from './code/highlight';
import { changedOnly, shownLines } from './code/lines';
import { filterRows, matrixCodes, matrixRows } from './functions/matrix';
import { sidesOf } from './package/sides';
import { maskTexts, portRows } from './ports/masks';
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
  ])('%s has four edges of %i pins, in order', (id, length) => {
    const sides = sidesOf(pkg(id));
    expect(sides.map((side) => side.pins.length)).toEqual([length, length, length, length]);
    const numbers = sides.flatMap((side) => side.pins.map((one) => Number(one.pin)));
    expect(numbers).toEqual(numbers.map((_, index) => index + 1));
    expect(sides[1]?.title).toBe(`Bottom ${length + 1}–${2 * length}`);
  });
  test('a dual row has two edges, a ball grid its rows, missing balls left out', () => {
    const dual = sidesOf({
      id: 'd8',
      name: 'd8',
      shape: { kind: 'dual-row', pins: 8 },
      pins: Object.fromEntries([1, 2, 3, 4, 5, 6, 7, 8].map((n) => [n, `A${n}`])),
    });
    expect(dual.map((side) => side.title)).toEqual(['Left 1–4', 'Right 5–8']);
    const balls = sidesOf({
      id: 'b',
      name: 'b',
      shape: { kind: 'ball-grid', rows: ['A', 'B'], columns: 12 },
      pins: { A10: 'P1', A2: 'P2', B1: 'P3' },
    });
    expect(balls.map((side) => side.pins.map((one) => one.pin))).toEqual([['A2', 'A10'], ['B1']]);
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
  test('a locked net does not make room', () => {
    const locked = withNets(demo, { RADIO_CS: { placement: { pad: 'D6', locked: true } } });
    const derived = deriveOn(locked);
    const taken = candidatesFor(derived.occupancy, netOf(locked, 'RADIO_SCK')).find(
      (one) => one.pad === 'D6',
    );
    expect(taken && placeStep(derived.occupancy, netOf(locked, 'RADIO_SCK'), taken).moves).toEqual([]);
  });
  test('dropped on any pad, an open signal takes the line that the pad has', () => {
    const plan = planOf([
      { name: 'TX', role: { kind: 'open-signal', peripheral: 'UART', line: 'TX' } },
      { name: 'USED', role: { kind: 'input' }, placement: on('B7') },
    ]);
    const { occupancy } = deriveOn(plan);
    expect(dropStep(occupancy, netOf(plan, 'TX'), 'D4')).toMatchObject({
      to: { pad: 'D4', locked: false, signal: 'UART1.TX' },
    });
    expect(dropStep(occupancy, netOf(plan, 'TX'), 'B7')).toMatchObject({ to: { pad: 'B7', locked: false } });
  });
});

describe('masks of ports', () => {
  test('a port is as wide as its highest bit asks, and bits without a pad are absent', () => {
    const rows = portRows(family('velm-v3'));
    expect(rows.map((row) => row.port)).toEqual(Object.keys(family('velm-v3').description.recipe.ports));
    expect(rows.every((row) => row.width === 8)).toBe(true);
    expect(portRows(family('hadrik-h7'))[0]).toMatchObject({ port: 'A', width: 32 });
    const c = portRows(family('ketter-k2')).find((row) => row.port === 'D');
    expect([...(c?.pads.keys() ?? [])].sort()).toEqual([0, 1, 2]);
  });
  test.each<[number[], number, string, string, string]>([
    [[], 8, '0x00', '0', '0000 0000'],
    [[0, 7], 8, '0x81', '129', '1000 0001'],
    [[14, 13, 12, 1], 16, '0x7002', '28674', '0111 0000 0000 0010'],
    [[31], 32, '0x80000000', '2147483648', '1000 0000 0000 0000 0000 0000 0000 0000'],
    [[63], 64, '0x8000000000000000', '9223372036854775808', expect.stringMatching(/^1000( 0000){15}$/)],
  ])('%j in %d bits', (bits, width, hex, decimal, binary) => {
    expect(maskTexts(bits, width)).toEqual({ hex, decimal, binary });
  });
});

describe('the function matrix', () => {
  const derived = deriveOn(frostGuard());
  const rows = matrixRows(derived);
  const entry = (pad: string, signal: string) =>
    [...(rows.find((row) => row.pad === pad)?.cells.values() ?? [])]
      .flat()
      .find((one) => one.fn.signal === signal);

  test('has a row for each I/O pad of the package and a column for each code in use', () => {
    expect(rows).toHaveLength(81);
    expect(matrixCodes(derived.device, derived.pkg).at(-1)).toBe(-1);
  });
  test('says what is carried here, carried elsewhere, and how many alternatives are left', () => {
    expect(entry('D4', 'UART1.TX')).toMatchObject({ here: { net: { name: 'MAST_TX' } }, alternatives: 0 });
    expect(entry('C4', 'UART1.TX')).toMatchObject({ elsewhere: { net: { name: 'MAST_TX' } } });
    const free = rows
      .flatMap((row) => [...row.cells.values()].flat())
      .filter((one) => !one.here && !one.elsewhere);
    for (const one of free) expect(one.alternatives).toBe(freeAlternativesOf(one.fn.signal));
  });
  const freeAlternativesOf = (signal: string): number =>
    rows.filter(
      (row) =>
        row.nets.length === 0 && [...row.cells.values()].flat().some((one) => one.fn.signal === signal),
    ).length;
  test('is filtered by signal, pad, pin and net', () => {
    const pads = (text: string) => filterRows(rows, text, 'all').map(({ row }) => row.pad);
    expect(pads('uart1.tx').sort()).toEqual(['C4', 'D0', 'D4']);
    expect(pads('B7')).toContain('B7');
    expect(pads('27')).toContain('B7');
    expect(pads('mast_tx')).toEqual(['D4']);
    expect(pads('nothing of the kind')).toEqual([]);
    expect(filterRows(rows, '', 'all')).toHaveLength(81);
  });
  test('shows what is free, scarce or taken only', () => {
    const shown = (show: 'free' | 'scarce' | 'taken') =>
      filterRows(rows, '', show).flatMap(({ row, matches }) =>
        [...row.cells.values()]
          .flat()
          .filter(matches)
          .map((one) => ({ row, one })),
      );
    expect(shown('free').every(({ row, one }) => row.nets.length === 0 && !one.elsewhere)).toBe(true);
    expect(shown('scarce').every(({ one }) => one.alternatives === 1)).toBe(true);
    expect(shown('scarce').length).toBeGreaterThan(0);
    expect(shown('taken').every(({ one }) => one.here || one.elsewhere)).toBe(true);
  });
  test('strikes out what a package note takes away', () => {
    const pellin = family('pellin-p8');
    const plan = { ...frostGuard(), device: 'pellin-p8-22', package: 'd14', nets: [], circuits: [] };
    const found = matrixRows(deriveOn(plan, pellin)).find((row) => row.pad === 'K6');
    const removed = [...(found?.cells.values() ?? [])].flat().find((one) => one.fn.signal === 'UART1.TX');
    expect(removed?.removed).toMatch(/note 5/);
  });
});
