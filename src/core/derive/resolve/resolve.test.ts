import { corvane, deriveOn, on, planOf } from '@/testing/frost-guard';
import { identifierFrom } from '../../base/text/identifier';
import type { Package } from '../../description/types';
import { lackOf, valuesOn } from '../../device/available';
import { type Net, type Role, roleText } from '../../plan/model/types';
import { functionsFor, latchLevel, prefixOf, settingKeysFor, whyNot } from './resolve';

const device = corvane();
const q100 = device.packages.get('q100') as Package;
const pad = (id: string) => {
  const found = device.pads.get(id);
  if (!found) throw new Error(id);
  return found;
};
const open = (peripheral: string, line: string): Role => ({ kind: 'open-signal', peripheral, line });

describe('what a pad can be', () => {
  test.each<[string, Role, string | undefined]>([
    ['B7', { kind: 'output' }, undefined],
    ['B7', { kind: 'input' }, undefined],
    ['B7', { kind: 'analog' }, 'B7 has no analog channel'],
    ['B0', { kind: 'analog' }, undefined],
    ['D11', { kind: 'input' }, undefined],
    ['D11', { kind: 'output' }, 'note 5: this pad has no output stage'],
    ['D4', { kind: 'signal', signal: 'UART1.TX' }, undefined],
    ['D4', { kind: 'signal', signal: 'UART2.TX' }, 'D4 does not offer UART2.TX'],
    ['D4', open('UART', 'TX'), undefined],
    ['D4', open('SPI', 'SCK'), 'D4 does not offer SPI SCK'],
    ['D4', open('NOPE', 'TX'), 'D4 does not offer NOPE TX'],
    ['VDD', { kind: 'input' }, 'VDD is a supply pad'],
    ['XI', { kind: 'analog' }, 'XI is a clock pad'],
  ])('%s as %j: %s', (id, role, why) => {
    expect(whyNot(device, q100, role, pad(id))).toBe(why);
  });

  test('an open role takes the line of any instance, and only that line', () => {
    const found = functionsFor(device, q100, open('UART', 'TX'), pad('D6'));
    expect(found.map((fn) => fn.signal)).toEqual(['UART3.TX', 'UART5.TX']);
    expect(functionsFor(device, q100, { kind: 'output' }, pad('D6'))).toEqual([]);
  });
});

describe('settings of a pad', () => {
  test('by class, in the order of the part', () => {
    expect(valuesOn(device, pad('F7'), 'drive')).toEqual(['2mA', '4mA', '8mA', '12mA']);
    expect(valuesOn(device, pad('A5'), 'drive')).toEqual(['2mA', '4mA', '8mA']);
    expect(valuesOn(device, pad('B7'), 'drive')).toEqual(['2mA', '4mA']);
    expect(valuesOn(device, pad('D11'), 'pull')).toEqual(['none']);
    expect(valuesOn(device, pad('A5'), 'speed')).toEqual([]);
  });
  test('what is missing has a reason', () => {
    expect(lackOf(device, pad('A5'), 'drive', '12mA')).toBe('12 mA is offered by fast pads only (table 9)');
    expect(lackOf(device, pad('A5'), 'drive', '40mA')).toBe('the Corvane C40-80 offers 2mA, 4mA, 8mA, 12mA');
    expect(lackOf(device, pad('A5'), 'speed', 'fast')).toBe('the Corvane C40-80 has no such setting');
    expect(lackOf(device, pad('A5'), 'drive', '8mA')).toBeUndefined();
  });
  test('only those that mean something for the role are asked for', () => {
    const keys = (role: Role, placement: Net['placement']) => {
      const [resolved] = deriveOn(planOf([{ name: 'X', role, placement }])).resolved;
      return resolved && settingKeysFor(device, resolved);
    };
    expect(keys({ kind: 'input' }, on('B7'))).toEqual(['pull', 'inputBuffer']);
    expect(keys({ kind: 'output' }, on('B7'))).toEqual(['level', 'outputType', 'pull', 'drive']);
    expect(keys({ kind: 'analog' }, on('B0'))).toEqual([]);
    expect(keys({ kind: 'signal', signal: 'UART1.TX' }, on('D4'))).toEqual([
      'outputType',
      'pull',
      'drive',
      'inputBuffer',
    ]);
  });
  test('a line brings the defaults that are right for it, and the plan may say otherwise', () => {
    const outputType = (settings: Net['settings']) =>
      deriveOn(
        planOf([
          { name: 'SDA', role: { kind: 'signal', signal: 'I2C2.SDA' }, placement: on('C0'), settings },
        ]),
      ).planned[0]?.settings.values.outputType;
    expect(outputType({})).toBe('open-drain');
    expect(outputType({ outputType: 'push-pull' })).toBe('push-pull');
  });
  test('an analog pad is planned with everything else at rest', () => {
    const [planned] = deriveOn(
      planOf([{ name: 'T', role: { kind: 'analog' }, placement: on('B0'), settings: { pull: 'up' } }]),
    ).planned;
    expect(planned?.settings).toEqual({
      values: {
        mode: 'analog',
        outputType: 'push-pull',
        pull: 'none',
        drive: '2mA',
        inputBuffer: 'Schmitt',
        level: 'low',
      },
      mux: null,
    });
  });
});

test.each([
  [{}, 'low'],
  [{ active: 'low' }, 'high'],
  [{ start: 'asserted' }, 'high'],
  [{ active: 'low', start: 'asserted' }, 'low'],
] as const)('%j begins with latch %s', (settings, level) => {
  expect(latchLevel(settings)).toBe(level);
});

test.each([
  ['Frost guard', 'Frost_guard'],
  ['  3 fans!', 'n_3_fans'],
  ['Öfen & Lüfter', 'Ofen_Lufter'],
  ['*/', ''],
  ['a--b__c', 'a_b_c'],
])('%j as an identifier is %j', (text, identifier) => {
  expect(identifierFrom(text)).toBe(identifier);
});

test('the prefix is the option, the name, or a last resort', () => {
  expect(prefixOf(planOf([], { code: { prefix: 'FG', style: 'preserving' } }))).toBe('fg');
  expect(prefixOf(planOf([]))).toBe('frost_guard');
  expect(prefixOf(planOf([], { name: '…' }))).toBe('plan');
});

test('roles in a few words', () => {
  expect([
    roleText({ kind: 'input' }),
    roleText({ kind: 'signal', signal: 'UART2.TX' }),
    roleText(open('UART', 'TX')),
  ]).toEqual(['input', 'UART2.TX', 'any UART · TX']);
});
