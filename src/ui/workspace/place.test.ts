import { candidatesFor } from '@/core/derive/candidates/candidates';
import type { Derived } from '@/core/derive/derive';
import { answerPlaceTask } from '@/core/place/place-task';
import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import type { Net } from '@/core/plan/model/types';
import { expectOk } from '@/testing/expect-ok';
import { deriveOn, netOf, planOf } from '@/testing/frost-guard';
import { dropStep, placeStep, takePad } from './place';

const output = { kind: 'output' } as const;
const uart = { kind: 'signal', signal: 'UART1.TX' } as const;
const on = (pad: string, locked = false) => ({ pad, locked });
/** Pads that carry UART1.TX: C4, D0, D4. */
const board = (blocked: { pad: string; locked: boolean }[], d4: Partial<Net> = {}): Derived =>
  deriveOn(
    planOf([
      { name: 'TX', role: uart, placement: on('D4'), ...d4 },
      ...blocked.map((placement, at) => ({ name: `LAMP_${'AB'[at]}`, role: output, placement })),
      { name: 'NEW', role: output },
    ]),
  );

/** What taking D4 for the new net makes of the plan: pads by net, and how often it was dispatched. */
async function taken(derived: Derived): Promise<{ pads: Record<string, string>; edits: Edit[] }> {
  const net = netOf(derived.plan, 'NEW');
  const candidate = candidatesFor(derived.occupancy, net).find((one) => one.pad === 'D4');
  if (!candidate) throw new Error('D4 is no candidate');
  const edits: Edit[] = [];
  takePad(
    derived,
    net,
    candidate,
    (edit) => edits.push(edit) > 0,
    async (task) => {
      const answer = answerPlaceTask(task, () => undefined);
      return answer.kind === 'room' ? answer.moves : undefined;
    },
  );
  for (let wait = 0; wait < 100 && edits.length === 0; wait++)
    await new Promise((done) => setTimeout(done, 20));
  const plan = expectOk(applyEdit(derived.plan, edits[0] as Edit));
  return { pads: Object.fromEntries(plan.nets.map((one) => [one.name, one.placement?.pad ?? '–'])), edits };
}

test('the net that sits there goes to its own best free pad', async () => {
  const { pads, edits } = await taken(board([]));
  expect(edits).toHaveLength(1);
  expect(pads.NEW).toBe('D4');
  expect(['C4', 'D0']).toContain(pads.TX);
});

test('where it has none, others move first; all of it is one edit', async () => {
  const { pads, edits } = await taken(board([on('C4'), on('D0')]));
  expect(edits).toHaveLength(1);
  expect(edits[0]).toMatchObject({
    kind: 'batch',
    label: expect.stringMatching(/^place NEW on D4, .*TX moves to (C4|D0)/),
  });
  expect(pads.NEW).toBe('D4');
  expect(['C4', 'D0']).toContain(pads.TX);
  expect(new Set(Object.values(pads)).size).toBe(4);
});

test('locked nets move for nobody: both are on the pad, and a finding says so', async () => {
  const { pads } = await taken(board([on('C4', true), on('D0', true)]));
  expect(pads).toMatchObject({ NEW: 'D4', TX: 'D4', LAMP_A: 'C4', LAMP_B: 'D0' });
  const locked = await taken(board([], { placement: on('D4', true) }));
  expect(locked.pads).toMatchObject({ NEW: 'D4', TX: 'D4' });
});

test('a locked net that is moved by hand stays locked', () => {
  const derived = board([], { placement: on('D4', true) });
  const locked = { ...netOf(derived.plan, 'TX') };
  for (const net of derived.plan.nets.filter(({ placement }) => placement?.locked)) {
    expect(dropStep(derived.occupancy, net, 'C4')).toMatchObject({ to: { pad: 'C4', locked: true } });
    const [candidate] = candidatesFor(derived.occupancy, net);
    if (candidate)
      expect(placeStep(derived.occupancy, net, candidate).edit).toMatchObject({ to: { locked: true } });
  }
  expect(dropStep(derived.occupancy, { ...locked, placement: null }, 'C4')).toMatchObject({
    to: { locked: false },
  });
});

test('dropped where it cannot work, it lies there all the same, with the signal that is nearest to its role', () => {
  const derived = board([]);
  const net = netOf(derived.plan, 'TX');
  const plan = expectOk(applyEdit(derived.plan, dropStep(derived.occupancy, net, 'B7')));
  expect(netOf(plan, 'TX').placement).toEqual(on('B7'));
  const open = { ...net, role: { kind: 'open-signal', peripheral: 'UART', line: 'TX' } as const };
  const step = dropStep(derived.occupancy, open, 'C4');
  expect(step).toMatchObject({
    to: { pad: 'C4', locked: false, signal: expect.stringMatching(/^UART\d\.TX$/) },
  });
});
