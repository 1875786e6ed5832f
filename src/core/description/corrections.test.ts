import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { corvane } from '@/testing/frost-guard';
import { loadDevice } from '../device/compile/load';
import { applyCorrections, readDatum, whatText, whyNotValue, writeDatum } from './corrections';
import { fingerprintOfDescription } from './fingerprint';
import type { Correction } from './types';

const part = corvane().original;
const correct = (what: string[], from: string | null, to: string | null): Correction => ({
  id: what.join('-'),
  what,
  from,
  to,
  why: 'erratum 2.3',
  who: 'R. Lind',
  when: '2026-11-25T08:00:00Z',
});

/** One correction for each kind of datum, with what the shipped part says. */
const EACH: [string[], string | null, string | null][] = [
  [['pin', 'q100', '34'], 'C0', 'B8'],
  [['pin', 'q100', '34'], 'C0', null],
  [['function', 'D4', 'UART1.TX'], '2', '9'],
  [['function', 'D4', 'UART1.TX'], '2', null],
  [['function', 'B7', 'UART1.TX'], null, '5'],
  [['pad', 'B7', 'class'], 'tol5', 'std'],
  [['pad', 'B7', 'supply'], 'VDD', null],
  [['pad', 'B7', 'bit'], '7', '6'],
  [['pad', 'B7', 'alias'], null, 'LAMP'],
  [['class', 'std', 'toleratesVolts'], null, '5.5'],
  [['peripheral', 'UART1', 'highestHertz'], null, '2000000'],
  [['supply', 'VDD', 'nominalVolts'], '3.3', '3'],
];

describe('a datum', () => {
  test.each(EACH)('%j is read, written, and read again', (what, from, to) => {
    const before = readDatum(part, what);
    if (from !== null) expect(before).toBe(from);
    expect(whyNotValue(part, what, to)).toBeUndefined();
    const changed = writeDatum(part, what, to);
    expect(readDatum(changed, what)).toBe(to);
    expect(fingerprintOfDescription(changed)).not.toBe(fingerprintOfDescription(part));
    expect(fingerprintOfDescription(writeDatum(changed, what, before ?? null))).toBe(
      fingerprintOfDescription(part),
    );
  });

  test('of registers, recipe fields and notes', () => {
    const block = part.recipe.registers.blocks[0];
    const register = block?.registers[0];
    const name = `${block?.id}.${register?.id}`;
    const [field] = Object.entries(part.recipe.fields).find(([, one]) => !one.parts) ?? [''];
    const [note] = Object.keys(part.notes);
    for (const [what, to] of [
      [['register', name, 'offset'], '0x44'],
      [['register', name, 'reset'], '0x1'],
      [['field', field, 'at'], 'b + 1'],
      [['note', note ?? ''], 'as in revision 7'],
    ] as const) {
      expect(whyNotValue(part, what, to)).toBeUndefined();
      expect(readDatum(writeDatum(part, what, to), what)).toBe(to);
    }
  });

  test.each([
    [['pin', 'q100', '34'], 'Z9', 'there is no pad Z9'],
    [['pin', 'q999', '34'], 'B7', 'there is no pin 34 of q999'],
    [['function', 'D4', 'UART1.TX'], 'seven', '"seven" is no mux code'],
    [['function', 'D4', 'UART9.TX'], '3', 'the part has no signal UART9.TX'],
    [['function', 'Z9', 'UART1.TX'], '3', 'there is no UART1.TX on Z9'],
    [['pad', 'B7', 'kind'], 'lamp', /a pad's kind is one of io, supply/],
    [['pad', 'B7', 'class'], 'nope', 'there is no pad class nope'],
    [['pad', 'B7', 'port'], 'Q', 'the recipe has no port Q'],
    [['pad', 'B7', '__proto__'], 'x', 'there is no pad B7, __proto__'],
    [['note', '__proto__'], 'x', 'there is no note __proto__'],
    [['class', 'std', 'toleratesVolts'], 'much', '"much" is no number'],
    [['supply', 'VDD', 'nominalVolts'], null, 'a supply needs a voltage'],
    [['register', 'PORT.NOPE', 'offset'], '4', /there is no register/],
    [['nonsense'], 'x', /there is no/],
  ])('%j cannot become %j: %s', (what, value, why) => {
    expect(whyNotValue(part, what, value)).toEqual(
      typeof why === 'string' ? why : expect.stringMatching(why),
    );
  });
});

describe('corrections', () => {
  const moved = correct(['function', 'D4', 'UART1.TX'], '2', '9');

  test('are laid over when the part is loaded; the original stays', () => {
    const device = expectOk(loadDevice({ ...part, corrections: [moved] }));
    const code = (functions: typeof part.functions) =>
      functions.find((fn) => fn.pad === 'D4' && fn.signal === 'UART1.TX')?.mux;
    expect(code(device.description.functions)).toBe(9);
    expect(code(device.original.functions)).toBe(2);
    expect(device.unapplied).toEqual([]);
    expect(device.fingerprint).not.toBe(corvane().fingerprint);
  });

  test('that find something else are reported and change nothing', () => {
    const cases: [Correction, string, RegExp][] = [
      [correct(['pad', 'B7', 'class'], 'std', 'hc'), 'changed', /says "\w+" now, no longer "std"/],
      [correct(['pad', 'Z9', 'class'], 'std', 'weak'), 'gone', /no pad Z9, class any more/],
      [correct(['supply', 'VDD', 'nominalVolts'], '5', '3.3'), 'settled', /itself says "3.3" now/],
      [correct(['pin', 'q100', '34'], 'C0', 'Z9'), 'refused', /there is no pad Z9/],
    ];
    for (const [correction, kind, why] of cases) {
      const { description, unapplied } = applyCorrections(part, [correction]);
      expect(unapplied).toEqual([{ correction, kind, why: expect.stringMatching(why) }]);
      expect(description).toBe(part);
    }
  });

  test('build on each other in order', () => {
    const second = correct(['function', 'D4', 'UART1.TX'], '9', '10');
    expect(applyCorrections(part, [moved, second]).unapplied).toEqual([]);
    expect(applyCorrections(part, [second, moved]).unapplied.map((one) => one.kind)).toEqual(['changed']);
  });

  test('survive a re-import of the same tables', () => {
    const again = family('corvane-c40').original;
    expect(applyCorrections(structuredClone(again), [moved]).unapplied).toEqual([]);
  });

  test('who and when do not change what the part is; what and to do', () => {
    const withOne = (one: Correction) => expectOk(loadDevice({ ...part, corrections: [one] })).fingerprint;
    expect(withOne({ ...moved, who: 'somebody else', why: 'x' })).toBe(withOne(moved));
    expect(withOne({ ...moved, to: '10' })).not.toBe(withOne(moved));
  });

  test('that make the part unusable are problems with a place', () => {
    const [field] = Object.entries(part.recipe.fields).find(([, one]) => !one.parts) ?? [''];
    const from = readDatum(part, ['field', field, 'at']) ?? null;
    const bad = loadDevice({ ...part, corrections: [correct(['field', field, 'at'], from, 'b +')] });
    expect(bad).toMatchObject({ ok: false });
    expect(JSON.stringify(bad)).toContain(`field ${field}`);
  });
});

test('paths read well', () => {
  expect(EACH.map(([what]) => whatText(what)).slice(0, 6)).toEqual([
    'pin 34 of q100',
    'pin 34 of q100',
    'UART1.TX on D4',
    'UART1.TX on D4',
    'UART1.TX on B7',
    'pad B7, class',
  ]);
});
