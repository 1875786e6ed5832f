import { FAMILIES, family } from '@/testing/families';
import { hexText } from '../../base/text/hex';
import type { Mode } from '../../description/settings';
import { settingsOf } from '../../device/decode';
import { addressSentence, addressTexts, behaviourText } from '../../device/registers/register-text';
import { decodeTrial, encodeTrial, readsBack, settingsText } from './trial';

const corvane = family('corvane-c40');
const pad = (id: string, device = corvane) => {
  const found = device.pads.get(id);
  if (!found) throw new Error(id);
  return found;
};

describe('a trial on a pad', () => {
  test('says which bits of which registers, starting from reset', () => {
    const trial = encodeTrial(corvane, pad('D4'), {
      mode: 'function',
      signal: 'UART1.TX',
      values: { pull: 'up' },
    });
    expect(trial.registers.map(({ register }) => register.name)).toEqual(
      expect.arrayContaining(['PD.USE', 'PD.FN1', 'PD.PULL']),
    );
    const use = trial.registers.find(({ register }) => register.name === 'PD.USE');
    expect(use && (use.value ^ use.reset) >>> 0).toBe(((0b11 ^ 0b10) << 8) >>> 0);
    expect(readsBack(corvane, pad('D4'), trial)).toBe(true);
    expect(settingsText(corvane, pad('D4'), trial.settings)).toMatch(
      /^function UART1\.TX \(code 2\), .*pull up/,
    );
  });

  test('values the pad does not have fall back to its first', () => {
    const trial = encodeTrial(corvane, pad('B7'), { mode: 'output', values: { drive: '12mA' } });
    expect(trial.keys.find((one) => one.key === 'drive')?.value).toBe('2mA');
  });

  test('register values typed in are read as settings, or as nothing', () => {
    const on = pad('K0', family('pellin-p8'));
    const device = family('pellin-p8');
    const direction = device.registers.byName.get('PK.DR');
    if (!direction) throw new Error('no PK.DR');
    expect(decodeTrial(device, on, new Map([[direction, 1]])).words).toBe('output, initial level low');
    const use = corvane.registers.byName.get('PD.USE');
    const codes = corvane.registers.byName.get('PD.FN1');
    if (!use || !codes) throw new Error('no PD.USE');
    const nonsense = new Map([
      [use, 0b10 << 8],
      [codes, 31],
    ]);
    expect(decodeTrial(corvane, pad('D4'), nonsense).settings).toEqual([]);
  });

  test.each(FAMILIES)('on %s whatever is tried reads back', (folder) => {
    const device = family(folder);
    const first = device.description.pads.find((one) => one.kind === 'io' && one.port !== undefined);
    if (!first) throw new Error('no pad');
    let tried = 0;
    for (const { settings, fn } of settingsOf(device, first)) {
      const wish = { mode: settings.values.mode as Mode, signal: fn?.signal, values: settings.values };
      expect(readsBack(device, first, encodeTrial(device, first, wish))).toBe(true);
      if (++tried === 200) break;
    }
    expect(tried).toBeGreaterThan(5);
  });
});

describe('addresses', () => {
  test('in both views and both number bases, always labelled', () => {
    const device = family('pellin-p8');
    const register = device.registers.byName.get('PL.FL');
    if (!register) throw new Error('no PL.FL');
    expect(addressTexts(register, device.description.recipe)).toEqual([
      { view: 'I/O space', hex: '0x0B', decimal: '11' },
      { view: 'memory space', hex: '0x002B', decimal: '43' },
    ]);
    expect(addressSentence(register, device.description.recipe)).toBe(
      'I/O space hex 0x0B, decimal 11; memory space hex 0x002B, decimal 43',
    );
  });
  test('one view where document and CPU agree', () => {
    const register = corvane.registers.byName.get('PA.USE');
    if (!register) throw new Error('no PA.USE');
    expect(addressTexts(register, corvane.description.recipe)).toEqual([
      { view: 'CPU address', hex: '0x50020000', decimal: '1342308352' },
    ]);
  });
  test('numbers have the digits that their bits ask for', () => {
    expect([hexText(5, 8), hexText(5, 16), hexText(-1, 32), hexText(5, 0)]).toEqual([
      '0x05',
      '0x0005',
      '0xFFFFFFFF',
      '0x5',
    ]);
  });
  test.each([
    ['corvane-c40', 'PA.OUTS', /writing 1 sets bits of PA\.OUT; works while GATE\.READY bit 0 is 1/],
    ['corvane-c40', 'PA.SEAL', /0x00C40C40 opens FN, USE/],
    ['corvane-c40', 'PA.IN', /levels/],
    ['ketter-k2', 'ROUTE.TAKE', /writing 1 copies that bit of ROUTE\.NEXT to ROUTE\.NOW/],
    ['velm-v3', 'PA.OE', /opened by SYS\.PROTECT/],
  ])('%s %s behaves as its text says', (folder, name, text) => {
    const register = family(folder).registers.byName.get(name);
    if (!register) throw new Error(name);
    expect(behaviourText(register)).toMatch(text);
  });
});
