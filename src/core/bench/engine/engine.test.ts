import type { Derived } from '@/core/derive/derive';
import { bitsOf } from '@/core/derive/machine/state';
import { sameSettings } from '@/core/description/settings';
import { compileDevice } from '@/core/device/compile/compile';
import { decodePad } from '@/core/device/decode';
import type { Device } from '@/core/device/device';
import type { Attachment } from '@/core/plan/model/attachments';
import type { Net, Plan } from '@/core/plan/model/types';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn, frostGuard, on, planOf } from '@/testing/frost-guard';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { goBack, newRecording, playLine, runTo } from '../recording/recording';
import { namesIn } from '../script/names';
import { parseScript } from '../script/parse';
import { playScript } from '../script/run';
import { byOf, CONTENTION, HIGH, LOW, levelOf } from '../trace/lanes';
import { isInitialised, stepOperation, switchOn } from './engine';
import { accessorFor, call } from './firmware';
import type { SetupOptions } from './setup';
import type { StartFrom } from './start';
import type { Bench } from './sync';

function initialised(
  derived: Derived,
  from: StartFrom = { kind: 'reset' },
  options: SetupOptions = {},
): Bench {
  const bench = switchOn(derived, from, options);
  while (stepOperation(bench)) {
    // One after the other.
  }
  return bench;
}

const output = (name: string, pad: string, more: Partial<Net> = {}) => ({
  name,
  role: { kind: 'output' as const },
  placement: on(pad),
  ...more,
});
const input = (name: string, pad: string, more: Partial<Net> = {}) => ({
  name,
  role: { kind: 'input' as const },
  placement: on(pad),
  ...more,
});

/** Plays a script on nets and what is attached to them; gives what failed. */
function failures(
  nets: Parameters<typeof planOf>[0],
  attachments: Attachment[],
  text: string,
  change: Partial<Plan> = {},
  device?: ReturnType<typeof family>,
): string[] {
  const plan = planOf(nets, { ...change, ...(attachments.length > 0 ? { attachments } : {}) });
  const derived = deriveOn(plan, device);
  const script = parseScript(text.split('\n'), namesIn(derived));
  expect(script.problems).toEqual([]);
  const play = playScript(derived, script);
  return [
    ...play.faults.map((one) => `${one.text}: ${one.message}`),
    ...play.checks.filter((one) => !one.passed).map((one) => `${one.text}: ${one.message}`),
  ];
}

describe.each(FAMILIES)('%s', (folder) => {
  const device = family(folder);
  const derived = deriveOn(familyPlan(device), device);
  test('initialisation ends with every proven pad as planned, from reset and from states by chance', () => {
    const unproven = new Set(derived.proof.failures.map((one) => one.pad));
    const starts: StartFrom[] =
      derived.lowered.style === 'from-reset'
        ? [{ kind: 'reset' }]
        : [
            { kind: 'reset' },
            ...Array.from({ length: fuzzBudget(5) }, (_, seed): StartFrom => ({ kind: 'random', seed })),
          ];
    for (const from of starts) {
      const bench = initialised(derived, from);
      expect(isInitialised(bench)).toBe(true);
      for (const planned of derived.planned) {
        if (unproven.has(planned.pad.id)) continue;
        const found = decodePad(
          device,
          planned.pad,
          (register) => bitsOf(bench.state.machine, register).value,
        );
        expect(found.some((one) => sameSettings(one, planned.settings))).toBe(true);
        const pad = bench.setup.pads[bench.setup.byPad.get(planned.pad.id) ?? -1];
        const state = bench.state.states[pad?.index ?? -1];
        expect(state?.use).toBe(planned.settings.values.mode);
        const { level } = planned.settings.values;
        if (state?.use === 'output' && level !== undefined) expect(state.output).toBe(level);
      }
    }
  });
  test('what the code drives is the level, and the level from outside is what the code reads', () => {
    for (const { action, nets, fault } of derived.accessors.list) {
      const [net] = nets;
      const one = derived.byNet.get(net ?? '');
      if (fault !== undefined || nets.length > 1 || !one || (action !== 'set' && action !== 'read')) continue;
      const bench = initialised(derived);
      const pad = bench.setup.pads[bench.setup.byNet.get(net ?? '') ?? -1];
      const level = (): number => levelOf(bench.state.codes[pad?.index ?? -1] as number);
      const activeHigh = one.net.settings.active !== 'low';
      if (action === 'set') {
        for (const way of ['set', 'clear', 'toggle'] as const) {
          const before = level();
          call(bench, accessorFor(bench, way, [net ?? '']) as never, 0, way);
          expect([way, level()]).toEqual([
            way,
            way === 'toggle' ? 1 - before : (way === 'set') === activeHigh ? 1 : 0,
          ]);
        }
      } else if (one.planned?.settings.values.mode === 'input') {
        for (const high of [true, false, true]) {
          const held = switchOn(
            derived,
            { kind: 'reset' },
            { held: [{ pad: pad?.pad.id ?? '', level: high ? 'high' : 'low', until: 'never' }] },
          );
          while (stepOperation(held)) {
            // One after the other.
          }
          const given = call(held, accessorFor(held, 'read', [net ?? '']) as never, 0, 'read');
          expect(given).toEqual({ known: 1, value: high === activeHigh ? 1 : 0 });
        }
      }
    }
  });
  test('nothing that was known in every state is otherwise in one of them', () => {
    const every = initialised(derived, { kind: 'any' });
    const one = initialised(derived, { kind: 'random', seed: 3 });
    for (const register of device.registers.all) {
      if (!register.storage || register.follows) continue;
      const [all, now] = [bitsOf(every.state.machine, register), bitsOf(one.state.machine, register)];
      const shown = register.levels.reduce((mask, { bit }) => mask | (1 << bit), 0);
      expect((all.known & now.known & ~shown & (all.value ^ now.value)) >>> 0).toBe(0);
    }
  });
});

describe('the demo', () => {
  const derived = deriveOn(frostGuard());
  test('its circuits are attached as its nets demand', () => {
    const { setup } = switchOn(derived, { kind: 'reset' });
    const at = (name: string): string[] => {
      const net = derived.plan.nets.find((one) => one.name === name);
      return (setup.partsAt.get(net?.id ?? '') ?? []).map((part) => setup.parts[part]?.attachment.kind ?? '');
    };
    expect(at('FAN_1')).toEqual(['pull-up', 'contactor']);
    expect(at('LAMP_RED')).toEqual(['led']);
    expect(at('SERVICE_BTN')).toEqual(['button']);
    expect(at('RAIN_TIP')).toEqual(['tipping-contact']);
    expect(at('LEAF_T1')).toEqual(['analog-source']);
    expect(at('SET_SDA')).toEqual(['pull-up', 'bus-partner']);
    expect(at('RADIO_BUSY')).toEqual(['driven-line']);
  });
  test('going back is as if it had not been done', () => {
    const recording = newRecording(derived);
    const fresh = newRecording(derived);
    const lines = [
      'step 20',
      'initialise',
      'press SERVICE_BTN 30 ms bounce',
      'LAMP_RED on',
      'wait 7 ms',
      'LEAF_T1 sine 50 Hz 1 V around 1.5 V',
      'wait 30 ms',
    ];
    for (const line of lines) playLine(recording, line);
    const end = snapshot(recording.play.bench);
    for (let at = 0; at < 4; at++) goBack(recording);
    for (const line of lines.slice(0, 3)) playLine(fresh, line);
    expect(snapshot(recording.play.bench)).toEqual(snapshot(fresh.play.bench));
    // And forth again.
    for (const line of lines.slice(3)) playLine(recording, line);
    expect(snapshot(recording.play.bench)).toEqual(end);
    expect(recording.lines).toEqual(lines);
  });
  test('it steps to a stage, to the first change of a net, of a register', () => {
    const recording = newRecording(derived);
    const { bench } = recording.play;
    runTo(recording, { kind: 'stage', stage: 'direction' });
    expect(bench.setup.operations[bench.state.operation]?.stage).toBe('direction');
    expect(recording.lines).toEqual([`step ${bench.state.operation}`]);
    runTo(recording, { kind: 'net', net: 'lamp-red' });
    expect(bench.setup.operations[bench.state.operation - 1]).toMatchObject({ stage: 'direction' });
    expect(bench.state.states[bench.setup.byNet.get('lamp-red') ?? -1]?.use).toBe('output');
    const again = newRecording(derived);
    const count = runTo(again, { kind: 'register', register: 'PA.OUT', mask: 0xffff });
    expect(again.play.bench.setup.operations[count - 1]).toMatchObject({ stage: 'latch' });
  });
});

const snapshot = ({ state, setup }: Bench) => ({
  time: state.time,
  operation: state.operation,
  known: [...state.machine.known],
  value: [...state.machine.value],
  codes: [...state.codes],
  volts: [...state.volts],
  lanes: state.lanes.map(({ times, codes, length }) => [
    [...times.slice(0, length)],
    [...codes.slice(0, length)],
  ]),
  findings: state.findings,
  parts: setup.parts.map(({ attached }) => [...attached.state]),
  log: state.log.entries.length,
});

describe('what is found', () => {
  const codeOf = (bench: Bench, name: string): number => {
    const pad = bench.setup.pads.find((one) => one.net?.name === name);
    return bench.state.codes[pad?.index ?? -1] ?? -1;
  };
  test('contention, with the current that flows and when it began', () => {
    const derived = deriveOn(
      planOf([output('LINE', 'B7')], {
        attachments: [{ id: 'x', kind: 'driven-line', nets: ['n0'], figures: { starts: 1 } }],
      }),
    );
    const bench = initialised(derived);
    expect(byOf(codeOf(bench, 'LINE'))).toBe(CONTENTION);
    const [contention, over] = bench.state.findings;
    expect(contention).toMatchObject({ kind: 'contention', until: undefined });
    expect(contention?.message).toMatch(/`LINE` is driven low against another output/);
    expect(over).toMatchObject({ kind: 'over-current' });
    expect(contention?.from).toBeGreaterThan(0);
  });
  test('shorted neighbours, one high and one low', () => {
    const derived = deriveOn(
      planOf([output('A', 'B6', { settings: { start: 'asserted' } }), output('B', 'B7')]),
    );
    const bench = switchOn(derived, { kind: 'reset' }, { shorts: [['B6', 'B7']] });
    while (stepOperation(bench)) {
      // One after the other.
    }
    expect(bench.state.findings.map((one) => one.kind)).toContain('contention');
  });
  test('an output that is open-drain does not fight with a partner', () => {
    const nets = [
      {
        name: 'BUS',
        role: { kind: 'open-drain' as const },
        placement: on('B7'),
        demands: { farPull: 'up' as const, farPullOhms: 4700 },
      },
    ];
    expect(
      failures(
        nets,
        [],
        'BUS low\nexpect BUS low within 2 ms\nBUS high\nexpect BUS high within 2 ms\nexpect no findings',
      ),
    ).toEqual([]);
  });
  test('an input that floats, one between its thresholds, and the end of both', () => {
    const potentiometer: Attachment = { id: 'p', kind: 'potentiometer', nets: ['n0'] };
    const nets = [input('LEVEL', 'B7')];
    const derived = deriveOn(planOf(nets, { attachments: [potentiometer] }));
    const play = playScript(
      derived,
      parseScript(['wait 1 ms', 'LEVEL = 100 %', 'wait 1 ms'], namesIn(derived)),
    );
    expect(play.faults).toEqual([]);
    const [between] = play.bench.state.findings;
    expect(between).toMatchObject({ kind: 'between' });
    expect(between?.until).toBeGreaterThan(1e6);
    expect(levelOf(codeOf(play.bench, 'LEVEL'))).toBe(HIGH);
  });
  test('a net that must keep its level until it is used', () => {
    const derived = deriveOn(frostGuard());
    const bench = switchOn(
      derived,
      { kind: 'reset' },
      { held: [{ pad: 'B7', level: 'low', until: 'never' }] },
    );
    expect(bench.state.findings).toMatchObject([{ kind: 'guard-broken', from: 0 }]);
  });
  test('an operation that the hardware does not take', () => {
    const derived = deriveOn(frostGuard());
    const operations = derived.lowered.operations.filter((one) => one.stage !== 'unlock');
    const bench = switchOn(derived, { kind: 'reset' }, { operations });
    while (stepOperation(bench)) {
      // One after the other.
    }
    expect(bench.state.findings.find((one) => one.kind === 'lost')?.message).toMatch(
      /is lost: PA\.SEAL is shut/,
    );
  });
});

test('a pin that is held at power-up is let go when initialisation is done, and held again by who goes back', () => {
  const held = { pad: 'B7', level: 'low', until: 'initialised' } as const;
  const derived = deriveOn(frostGuard());
  const levels = (recording: ReturnType<typeof newRecording>): number[] => {
    const { setup, state } = recording.play.bench;
    return [levelOf(state.codes[setup.byPad.get('B7') ?? -1] as number), setup.holds[0]?.element.ohms ?? 0];
  };
  const recording = newRecording(derived, undefined, { held: [held] });
  expect(levels(recording)).toEqual([LOW, 1e-4]);
  playLine(recording, 'initialise');
  expect(levels(recording)).toEqual([HIGH, Number.POSITIVE_INFINITY]);
  goBack(recording);
  expect(levels(recording)).toEqual([LOW, 1e-4]);
  const stuck = initialised(derived, { kind: 'reset' }, { held: [{ ...held, until: 'never' }] });
  expect(levelOf(stuck.state.codes[stuck.setup.byPad.get('B7') ?? -1] as number)).toBe(LOW);
});

describe('things at the far end', () => {
  test('a capacitor charges through a pull: 63 % after its time constant', () => {
    // 10 kΩ and 100 nF: 1 ms. From 0 V to 0.7 × 3.3 V takes −ln 0.3 of it.
    const nets = [input('SLOW', 'B7', { demands: { farPull: 'up', farPullOhms: 10_000 } })];
    const derived = deriveOn(
      planOf(nets, {
        attachments: [
          { id: 'r', kind: 'pull-up', nets: ['n0'], figures: { ohms: 10_000 } },
          { id: 'c', kind: 'capacitor', nets: ['n0'], figures: { nanofarads: 100 } },
          { id: 's', kind: 'button', nets: ['n0'] },
        ],
      }),
    );
    const play = playScript(derived, parseScript(['wait 20 ms', 'wait 1 ms'], namesIn(derived)));
    const lane = play.bench.state.lanes[play.bench.setup.byNet.get('n0') ?? -1];
    const rise = Array.from({ length: lane?.length ?? 0 }, (_, at) => at).find(
      (at) => levelOf(lane?.codes[at] ?? 9) === HIGH,
    );
    const threshold =
      play.bench.setup.pads[play.bench.setup.byNet.get('n0') ?? -1]?.thresholds.highAbove ?? 0;
    expect((lane?.times[rise ?? -1] ?? 0) / 1e6).toBeCloseTo(-Math.log(1 - threshold / 3.3), 3);
  });
  test('a keypad’s key joins its row and its column, and no other', () => {
    const nets = [
      output('ROW1', 'B8', { settings: { active: 'low' } }),
      output('ROW2', 'B9', { settings: { active: 'low' } }),
      input('COL1', 'C0', { settings: { active: 'low', pull: 'up' } }),
      input('COL2', 'C1', { settings: { active: 'low', pull: 'up' } }),
    ];
    const keypad: Attachment = {
      id: 'k',
      kind: 'keypad',
      nets: ['n0', 'n1', 'n2', 'n3'],
      figures: { rows: 2 },
    };
    expect(
      failures(
        nets,
        [keypad],
        'press ROW2 COL1\nexpect COL1 off\nROW2 on\nexpect COL1 on within 1 ms\nexpect COL2 off\nrelease ROW2 COL1\nexpect COL1 off within 1 ms\nexpect no contention',
      ),
    ).toEqual([]);
  });
  test('a digit shows what its segments say', () => {
    const pads = ['B0', 'B1', 'B2', 'B3', 'B4', 'B5', 'B6'];
    const plan = planOf(
      pads.map((pad, at) => output(`SEG${at}`, pad)),
      {
        constraints: [{ id: 'd', kind: 'bus', nets: pads.map((_, at) => `n${at}`) }],
        attachments: [
          { id: 's', kind: 'seven-segments', nets: pads.map((_, at) => `n${at}`), figures: { segments: 7 } },
        ],
      },
    );
    const derived = deriveOn(plan);
    const play = playScript(derived, parseScript(['SEG = 0x5B'], namesIn(derived)));
    expect(play.faults).toEqual([]);
    const part = play.bench.setup.parts.find((one) => one.attachment.id === 's');
    expect(part?.attached.look(play.bench.amperes).word).toBe('shows 2');
  });
  test('an encoder turns either way, its contacts a quarter apart', () => {
    const nets = [
      input('KNOB_A', 'C0', { settings: { active: 'low', pull: 'up' } }),
      input('KNOB_B', 'C1', { settings: { active: 'low', pull: 'up' } }),
    ];
    const encoder: Attachment = { id: 'e', kind: 'encoder', nets: ['n0', 'n1'] };
    const text = (clicks: number, first: string, second: string): string =>
      `turn KNOB_A ${clicks}\nwait for ${first} on within 10 ms\nexpect ${second} off\nwait for ${second} on within 10 ms\nexpect ${first} on\nwait 100 ms\nexpect KNOB_A off\nexpect KNOB_B off`;
    expect(failures(nets, [encoder], text(1, 'KNOB_A', 'KNOB_B'))).toEqual([]);
    expect(failures(nets, [encoder], text(-1, 'KNOB_B', 'KNOB_A'))).toEqual([]);
  });
  test('a contactor closes after its time, and not for a pulse that is shorter', () => {
    const nets = [output('FAN', 'B7', { demands: { milliamps: 3 } })];
    const derived = deriveOn(planOf(nets));
    const closed = (text: string): string | undefined => {
      const play = playScript(derived, parseScript(text.split('\n'), namesIn(derived)));
      return play.bench.setup.parts[0]?.attached.look(play.bench.amperes).word;
    };
    expect(closed('FAN on\nwait 5 ms')).toBe('closing');
    expect(closed('FAN on\nwait 20 ms')).toBe('closed');
    expect(closed('FAN on for 5 ms\nwait 30 ms')).toBe('open');
  });
  test('a sine goes where it shall, and back', () => {
    const nets = [{ name: 'T', role: { kind: 'analog' as const }, placement: on('B0') }];
    expect(
      failures(
        nets,
        [],
        'T sine 10 Hz 1 V around 1.5 V\nwait for T > 2.4 V within 60 ms\nwait for T < 0.6 V within 110 ms\nT = 0.2 V\nexpect T < 0.25 V',
      ),
    ).toEqual([]);
  });
});

describe('interrupts', () => {
  const velm = family('velm-v3');
  const plan: Partial<Plan> = {
    device: velm.description.id,
    package: velm.description.packages[0]?.id ?? '',
  };
  const nets = [
    input('DOOR', 'C2', {
      settings: { active: 'low', pull: 'up', trigger: 'falling' },
      far: { part: 'switch' },
    }),
  ];
  test('the edge that is planned raises it, the other does not', () => {
    expect(failures(nets, [], 'press DOOR\nrelease DOOR\nwait 1 ms', plan, velm)).toEqual([]);
    const derived = deriveOn(planOf(nets, plan), velm);
    const play = playScript(
      derived,
      parseScript(['press DOOR', 'wait 1 ms', 'release DOOR', 'wait 1 ms'], namesIn(derived)),
    );
    const raised = play.bench.state.log.entries.filter((one) => one.kind === 'interrupt');
    expect(raised).toMatchObject([{ edge: 'falling', missed: false }]);
    expect(raised[0]?.kind === 'interrupt' && raised[0].handler).toMatch(/door_handler$/);
  });
  test('while handlers wait, the first is pending, and the next is missed', () => {
    expect(
      failures(
        nets,
        [],
        'interrupts off\npress DOOR 1 ms\nwait 2 ms\nexpect no missed\npress DOOR 1 ms\nwait 2 ms\ninterrupts on',
        plan,
        velm,
      ),
    ).toEqual([]);
    expect(
      failures(
        nets,
        [],
        'interrupts off\nrepeat 2: press DOOR 1 ms; wait 2 ms\nexpect no missed',
        plan,
        velm,
      ),
    ).toEqual(['expect no missed: an interrupt of DOOR was missed']);
  });

  test.each([
    [
      'what a step brings about can be waited for behind it',
      'press DOOR 1 ms\nwait for interrupt DOOR within 1 ms',
    ],
    ['and be expected at once', 'press DOOR 1 ms\nexpect interrupt DOOR'],
    [
      'also when something was looked at between',
      'press DOOR\nread DOOR\nexpect DOOR low\nexpect interrupt DOOR',
    ],
    [
      'what came while one waited',
      'press DOOR 1 ms\nwait 5 ms\npress DOOR 1 ms\nwait 3 ms\nexpect DOOR high',
    ],
    ['what did not come', 'wait 3 ms\nexpect no interrupt DOOR for 3 ms\npress DOOR\nexpect interrupt DOOR'],
    ['not in the whole play', 'wait 3 ms\nexpect no interrupt DOOR always\nexpect interrupt DOOR never'],
    ['once met it is over', 'press DOOR\nexpect interrupt DOOR\nexpect no interrupt DOOR for 5 ms'],
  ])('%s', (_what, text) => {
    expect(failures(nets, [], text, plan, velm)).toEqual([]);
  });
  test.each([
    ['press DOOR\nexpect no interrupt DOOR', 'expect no interrupt DOOR: it did interrupt'],
    ['press DOOR\nexpect no interrupt DOOR always', 'expect no interrupt DOOR always: it did interrupt'],
    ['expect no interrupt DOOR always\npress DOOR', 'expect no interrupt DOOR always: it did interrupt'],
    ['press DOOR\nwait 1 ms\nexpect interrupt DOOR', 'expect interrupt DOOR: it did not interrupt'],
    [
      'press DOOR\nexpect interrupt DOOR\nexpect interrupt DOOR',
      'expect interrupt DOOR: it did not interrupt',
    ],
  ])('%j fails', (text, why) => {
    expect(failures(nets, [], text, plan, velm)).toEqual([why]);
  });

  const byLevel = (pad: string) => [
    input('DOOR', pad, {
      settings: { active: 'low', pull: 'up', trigger: 'low' },
      far: { part: 'switch' },
    }),
  ];
  /** One of the shipped parts with flags, as if its edges were levels. */
  const flagged = (): Device => {
    const description = structuredClone(family('ostrel-n5').description);
    description.recipe.settings.trigger = ['none', 'high', 'low'];
    for (const rule of description.recipe.encode)
      if ('field' in rule && rule.field === 'edge') rule.table = { none: 0, high: 1, low: 2 };
    return expectOk(compileDevice(description));
  };
  const raisedBy = (device: Device, lines: string[]) => {
    const { id, packages } = device.description;
    const plan = planOf(byLevel(device === velm ? 'C2' : 'P3'), {
      device: id,
      package: packages[0]?.id ?? '',
    });
    const derived = deriveOn(plan, device);
    const { bench } = playScript(derived, parseScript(lines, namesIn(derived)));
    const pad = bench.setup.pads.find(({ net }) => net?.name === 'DOOR');
    const flag = pad?.flag && bitsOf(bench.state.machine, pad.flag.register).value >>> pad.flag.bit;
    const entries = bench.state.log.entries.flatMap((one) => (one.kind === 'interrupt' ? [one] : []));
    return {
      flag: flag === undefined ? undefined : flag & 1,
      entries,
      missed: bench.state.missed[pad?.index ?? -1],
    };
  };
  test.each([
    ['without a flag', velm, undefined],
    ['with a flag', flagged(), 1],
  ])('by level, %s: the handler runs again and again until the level goes', (_, device, set) => {
    const during = raisedBy(device, ['press DOOR', 'wait 1 ms']);
    expect(during).toMatchObject({ flag: set, entries: [{ edge: 'low', lasts: true, missed: false }] });
    expect(raisedBy(device, ['press DOOR', 'wait 1 ms', 'release DOOR', 'wait 1 ms'])).toMatchObject({
      flag: set && 0,
      missed: 0,
      entries: [
        { edge: 'low', lasts: true },
        { edge: 'over', lasts: false },
      ],
    });
    // Turned off while the level lasts, it waits, and runs again afterwards.
    expect(
      raisedBy(device, ['press DOOR', 'wait 1 ms', 'interrupts off', 'wait 1 ms', 'interrupts on']).entries,
    ).toMatchObject([{ edge: 'low' }, { edge: 'waiting', lasts: true }]);
    // There before the firmware begins to listen, it is raised when it does.
    expect(raisedBy(device, ['press DOOR', 'wait 1 ms', 'initialise']).entries).toMatchObject([
      { edge: 'low', lasts: true, held: false },
    ]);
  });
  test('by level: what has gone before a handler could run is remembered by a flag, and missed without one', () => {
    const lines = ['interrupts off', 'press DOOR 1 ms', 'wait 2 ms', 'interrupts on'];
    expect(raisedBy(flagged(), lines)).toMatchObject({
      flag: 0,
      missed: 0,
      entries: [
        { edge: 'low', held: true },
        { edge: 'waiting', held: false, lasts: false },
      ],
    });
    expect(raisedBy(velm, lines)).toMatchObject({
      missed: 1,
      entries: [
        { edge: 'low', held: true },
        { edge: 'over', missed: true },
      ],
    });
  });
});

test('plays by chance come to the same whether they are gone back in or not', () => {
  const derived = deriveOn(frostGuard());
  const lines = [
    'step 3',
    'initialise',
    'press SERVICE_BTN 5 ms bounce',
    'FAN_1 toggle',
    'wait 3 ms',
    'tip RAIN_TIP bounce',
    'LAMP_GREEN on',
    'RADIO_IRQ on for 2 ms',
    'LEAF_T1 noise 0.1 V around 1 V',
    'Fans = 0x5',
  ];
  for (let run = 0; run < fuzzBudget(6); run++) {
    const random = randomFrom(run + 1);
    const chosen = Array.from({ length: 8 }, () => random.pick(lines));
    const straight = newRecording(derived);
    for (const line of chosen) playLine(straight, line);
    const crooked = newRecording(derived);
    for (const line of chosen) {
      if (random.int(2)) {
        playLine(crooked, random.pick(lines));
        goBack(crooked);
      }
      playLine(crooked, line);
    }
    expect(snapshot(crooked.play.bench)).toEqual(snapshot(straight.play.bench));
  }
});
