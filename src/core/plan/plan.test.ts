import fc from 'fast-check';
import { expectOk } from '@/testing/expect-ok';
import { corvane, deriveOn, frostGuard, netOf, on, planOf } from '@/testing/frost-guard';
import { candidatesFor } from '../derive/candidates/candidates';
import { search } from '../derive/search';
import { applyEdit, describeEdit, type Edit, invertEdit } from './edits/edits';
import {
  addNets,
  placeNet,
  removeNet,
  renameNet,
  setCircuit,
  setNote,
  setRole,
  setSetting,
} from './edits/make-edits';
import type { Plan } from './model/types';
import { parseTypedNets } from './typed-nets/typed-nets';

const demo = frostGuard();

/** A net that is there already cannot be added, and equal seeds give equal ids. */
const unusedId = (plan: Plan, id: string): string =>
  plan.nets.some((net) => net.id === id) ? unusedId(plan, `${id}x`) : id;

/** Any edit that applies to a plan. */
function anyEdit(plan: Plan): fc.Arbitrary<Edit> {
  const net = plan.nets.length > 0 ? fc.constantFrom(...plan.nets) : undefined;
  const pad = fc.constantFrom('A0', 'B7', 'F7', 'G3', 'XI');
  const text = fc.string({ minLength: 1, maxLength: 20 });
  const adding = fc.record({ id: fc.uuid(), name: text, at: fc.nat(80) }).map(
    ({ id, name, at }): Edit => ({
      kind: 'net.add',
      at: Math.min(at, plan.nets.length),
      net: {
        id: unusedId(plan, id),
        name,
        circuit: plan.circuits[0]?.id ?? '',
        role: { kind: 'input' },
        placement: null,
        settings: {},
      },
    }),
  );
  const revising = text.map((to): Edit => ({ kind: 'plan.set', field: 'revision', from: plan.revision, to }));
  if (!net) return fc.oneof(adding, revising);
  return fc.oneof(
    adding,
    revising,
    net.map((one) => removeNet(plan, one)),
    fc.tuple(net, text).map(([one, to]) => renameNet(one, to)),
    fc.tuple(net, text).map(([one, to]) => setNote(one, to)),
    fc
      .tuple(net, fc.option(pad))
      .map(([one, to]) => placeNet(one, to === null ? null : { pad: to, locked: false })),
    fc.tuple(net, fc.constantFrom(...plan.circuits)).map(([one, to]) => setCircuit(one, to.id)),
    net.map((one) => setRole(one, { kind: 'analog' })),
    fc.tuple(net, fc.option(fc.constantFrom('up', 'down'))).map(([one, to]) => setSetting(one, 'pull', to)),
  );
}

describe('edits', () => {
  test('any sequence of edits is taken back by the inverses in reverse order', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(), { minLength: 1, maxLength: 12 }), (seeds) => {
        let plan = demo;
        const done: Edit[] = [];
        for (const seed of seeds) {
          const edit = fc.sample(anyEdit(plan), { numRuns: 1, seed })[0] as Edit;
          plan = expectOk(applyEdit(plan, edit));
          done.push(edit);
          expect(describeEdit(plan, edit)).not.toBe('');
        }
        for (const edit of done.reverse()) plan = expectOk(applyEdit(plan, invertEdit(edit)));
        expect(plan).toEqual(demo);
      }),
      { numRuns: 80 },
    );
  });

  test('edits of different nets do not disturb each other, whichever comes first', () => {
    const a = placeNet(netOf(demo, 'FAN_1'), { pad: 'E8', locked: true });
    const b = setSetting(netOf(demo, 'FAN_2'), 'pull', 'up');
    const ab = expectOk(applyEdit(expectOk(applyEdit(demo, a)), b));
    const ba = expectOk(applyEdit(expectOk(applyEdit(demo, b)), a));
    expect(ab).toEqual(ba);
  });

  test('an edit of something that changed meanwhile is refused with what it is now', () => {
    const first = expectOk(applyEdit(demo, placeNet(netOf(demo, 'FAN_3'), { pad: 'E8', locked: false })));
    const late = applyEdit(first, placeNet(netOf(demo, 'FAN_3'), { pad: 'E9', locked: false }));
    expect(late).toMatchObject({
      ok: false,
      problems: [{ message: 'FAN_3: placement was changed meanwhile (now on E8)' }],
    });
  });

  test('a batch applies as a whole or not at all', () => {
    const good = renameNet(netOf(demo, 'FAN_1'), 'FAN_A');
    const bad: Edit = { kind: 'net.set', id: 'nobody', field: 'name', from: 'a', to: 'b' };
    const result = applyEdit(demo, { kind: 'batch', label: 'both', edits: [good, bad] });
    expect(result.ok).toBe(false);
    expect(netOf(demo, 'FAN_1').name).toBe('FAN_1');
  });

  test('removing the last net of a circuit takes the circuit along, and undo brings both back', () => {
    const plan = planOf([{ name: 'X', role: { kind: 'input' } }]);
    const edit = removeNet(plan, netOf(plan, 'X'));
    const empty = expectOk(applyEdit(plan, edit));
    expect(empty).toMatchObject({ nets: [], circuits: [] });
    expect(expectOk(applyEdit(empty, invertEdit(edit)))).toEqual(plan);
  });
});

describe('typed nets', () => {
  const read = (text: string, plan = demo) => {
    let n = 0;
    const typed = parseTypedNets(text, plan, corvane().description, undefined, () => `new${n++}`);
    return {
      ...typed,
      problems: typed.marks.map((one) => one.message),
      lines: typed.nets.map(
        (net) => `${net.name} ${JSON.stringify(net.role)} ${JSON.stringify(net.settings)}`,
      ),
    };
  };

  test('a circuit, a peripheral with any instance, and a pin', () => {
    const { lines, circuits, problems } = read('hatch: uart tx rx · de out low');
    expect(lines).toEqual([
      'HATCH_TX {"kind":"open-signal","peripheral":"UART","line":"TX"} {}',
      'HATCH_RX {"kind":"open-signal","peripheral":"UART","line":"RX"} {}',
      'HATCH_DE {"kind":"output"} {"active":"low"}',
    ]);
    expect(circuits).toMatchObject([{ name: 'Hatch' }]);
    expect(problems).toEqual([]);
  });
  test('a fixed instance, names as typed, several with one role', () => {
    expect(read('spi2 SCK sdo, PUMP_1 PUMP_2 out low on; probe analog').lines).toEqual([
      'SPI2_SCK {"kind":"signal","signal":"SPI2.SCK"} {}',
      'SPI2_SDO {"kind":"signal","signal":"SPI2.SDO"} {}',
      'PUMP_1 {"kind":"output"} {"active":"low","start":"asserted"}',
      'PUMP_2 {"kind":"output"} {"active":"low","start":"asserted"}',
      'PROBE {"kind":"analog"} {}',
    ]);
  });
  test('known circuits are found by name or first word, and names in use are numbered', () => {
    const { nets, circuits } = read('mast: de out');
    expect(circuits).toEqual([]);
    expect(nets).toMatchObject([{ name: 'MAST_DE_2', circuit: 'mast' }]);
  });
  test('of a peripheral alone it is asked which of its lines are wanted', () => {
    const [mark] = read('clock: i2c').marks;
    expect(mark?.suggestions.map((one) => one.text)).toContain('i2c sda scl');
    expect(read('clock: i2c sda scl').nets.map((net) => net.name)).toEqual(['CLOCK_SDA', 'CLOCK_SCL']);
  });
  test.each([
    ['x: uart', 'uart: name its lines: TX, RX, DE, CTS'],
    ['x: spi miso', 'SPI has no line miso; it has CS, SCK, SDO, SDI'],
    ['x:', 'name the nets of x'],
    ['lonely', 'lonely: say in, out, io, irq or analog'],
  ])('%s is answered: %s', (text, problem) => {
    expect(read(text).problems).toEqual([problem]);
  });
  test('what was typed applies as one edit', () => {
    const typed = read('hatch: uart tx rx\nlids: lid_1 lid_2 in up');
    const plan = expectOk(applyEdit(demo, addNets(demo, typed.circuits, typed.nets)));
    expect(plan.nets.length).toBe(demo.nets.length + 4);
    expect(plan.circuits.at(-1)?.name).toBe('Lids');
  });
});

describe('candidates', () => {
  const free = (plan: Plan, name: string) => candidatesFor(deriveOn(plan).occupancy, netOf(plan, name));

  test('complete the peripheral that the circuit already uses', () => {
    const plan: Plan = {
      ...demo,
      nets: demo.nets.map((net) => (net.name === 'SET_SCL' ? { ...net, placement: null } : net)),
    };
    const [best] = free(plan, 'SET_SCL');
    expect(best).toMatchObject({ pad: 'C2', fn: { signal: 'I2C2.SCL' }, clean: true });
    expect(best?.reasons[0]).toBe('completes I2C2');
  });
  test('never offer a pad that cannot be it, and rank pads in use last', () => {
    const plan = planOf([
      { name: 'OUT', role: { kind: 'output' } },
      { name: 'USED', role: { kind: 'output' }, placement: on('B7') },
    ]);
    const found = free(plan, 'OUT');
    expect(found.map((one) => one.pad)).not.toContain('D11');
    expect(found.map((one) => one.pad)).not.toContain('VDD');
    expect(found.at(-1)).toMatchObject({ pad: 'B7', clean: false });
  });
  test('leave debug and strap pads alone while others are free', () => {
    const plan = planOf([{ name: 'IN', role: { kind: 'input' } }]);
    const clean = free(plan, 'IN')
      .filter((one) => one.clean)
      .map((one) => one.pad);
    expect(clean).not.toEqual(expect.arrayContaining(['E3']));
    expect(clean).not.toEqual(expect.arrayContaining(['A4']));
  });
});

describe('search', () => {
  const titles = (text: string) => search(deriveOn(demo), text).map((hit) => `${hit.kind} ${hit.title}`);
  test.each([
    ['radio_cs', 'net RADIO_CS'],
    ['D12', 'pad D12'],
    ['93', 'pad F7'],
    ['boot1', 'pad A4'],
    ['TP1', 'pad E3'],
    ['SPI4.SCK', 'pad E6'],
    ['UART1.TX', 'net MAST_TX'],
    ['reed switch', 'net RAIN_TIP'],
  ])('%s finds %s first or among the first', (text, expected) => {
    expect(titles(text).slice(0, 3)).toContain(expected);
  });
  test('finds nothing for nothing', () => {
    expect(titles('  ')).toEqual([]);
    expect(titles('no such thing')).toEqual([]);
  });
});
