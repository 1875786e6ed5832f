import { expectOk } from '@/testing/expect-ok';
import { on } from '@/testing/frost-guard';
import { planOn, shapeDevice } from '@/testing/shape';
import { applyEdit, invertEdit } from './edits/edits';
import { setSetting } from './edits/make-edits';
import { parsePlan } from './file/plan-file';
import { printPlan } from './file/print-plan';
import { readEdit } from './file/read-edit';
import { parseTypedNets } from './typed-nets/typed-nets';

/** Settings that a part has of its own, in plans: stored, printed, edited, and refused where their names are none. */

const device = shapeDevice(18);
const nets = [
  { name: 'KEY', role: { kind: 'input' } as const, settings: { 'own.filter': 'on' }, placement: on('A0') },
];

test('a plan with one is printed, read again, and means the same', () => {
  const derived = planOn(device, nets);
  expect(derived.resolved[0]?.planned?.settings.values['own.filter']).toBe('on');
  const again = expectOk(parsePlan('plan', printPlan(derived.plan)));
  expect(again).toEqual(derived.plan);
});

test('it is set and taken back by an edit', () => {
  const { plan } = planOn(device, nets);
  const [net] = plan.nets;
  if (!net) throw new Error('no net');
  const edit = setSetting(net, 'own.inverted', 'yes');
  expect(expectOk(readEdit(JSON.parse(JSON.stringify(edit))))).toEqual(edit);
  const next = expectOk(applyEdit(plan, edit));
  expect(next.nets[0]?.settings).toEqual({ 'own.filter': 'on', 'own.inverted': 'yes' });
  expect(expectOk(applyEdit(next, invertEdit(edit)))).toEqual(plan);
});

test.each(['own.', 'own.Big', 'own.a b', 'own.__proto__', 'other.filter', `own.${'x'.repeat(40)}`])(
  'a setting called %j is refused',
  (key) => {
    const { plan } = planOn(device, nets);
    const edit = { kind: 'net.setting', id: plan.nets[0]?.id, key, from: null, to: 'on' };
    expect(readEdit(edit).ok).toBe(false);
    const text = printPlan(plan).replace('own.filter', key);
    expect(parsePlan('plan', text).ok).toBe(false);
  },
);

test('one that the part has not, and a value that it has not, are told', () => {
  const derived = planOn(device, [
    { ...(nets[0] as never as object), settings: { 'own.filter': 'loud' } } as never,
    {
      name: 'LAMP',
      role: { kind: 'input' },
      settings: { 'own.unheard': 'on' },
      placement: on('A1'),
    },
  ]);
  const messages = derived.findings.map((one) => `${one.rule}: ${one.message}`).join('\n');
  expect(messages).toMatch(/setting-not-here: `KEY` asks for input filter loud.*offers off, on/);
  expect(messages).toMatch(/setting-idle: `LAMP` asks for unheard on.*has no such setting/);
});

test('the words of a part can be typed with its nets', () => {
  const { plan } = planOn(device, []);
  const typed = (text: string) => {
    let next = 0;
    const read = parseTypedNets(text, plan, device.description, undefined, () => `id${++next}`);
    return [read.nets.map((net) => net.settings), read.marks.map((one) => one.message)];
  };
  expect(typed('key in up22k filter=on low')).toEqual([
    [{ pull: 'up22k', 'own.filter': 'on', active: 'low' }],
    [],
  ]);
  expect(typed('key in hold own.inverted=YES')).toEqual([[{ pull: 'hold', 'own.inverted': 'yes' }], []]);
  // What the part has not is no word of it.
  expect(typed('key in filter=loud')[1]).toEqual([expect.stringMatching(/filter=loud/)]);
});
