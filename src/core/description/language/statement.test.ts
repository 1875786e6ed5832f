import { ExpressionError } from './expression';
import {
  parseAccess,
  parseAlways,
  parseFollows,
  parseGuard,
  parseStatement,
  parseWritableWhere,
} from './statement';

describe('steps of a stage', () => {
  test('assign a register, a bit, and a range of bits', () => {
    expect(parseStatement('PORT.SEAL := 0x00C40C40')).toEqual({
      kind: 'assign',
      target: { block: 'PORT', register: 'SEAL' },
      value: { kind: 'number', value: 0xc40c40 },
    });
    expect(parseStatement('GATE.ON bit port.gate := 1')).toMatchObject({
      target: { low: { kind: 'variable', name: 'port.gate' }, high: { kind: 'variable', name: 'port.gate' } },
    });
    expect(parseStatement('MODE.SEL bits 4*b to 4*b + 3 := m')).toMatchObject({
      kind: 'assign',
      target: { low: { operator: '*' }, high: { operator: '+' } },
      value: { name: 'm' },
    });
  });
  test('await a bit with a bound, and wait', () => {
    expect(parseStatement('await GATE.READY bit 3 = 1 within 2*8')).toMatchObject({
      kind: 'await',
      value: { value: 1 },
      withinCycles: { operator: '*' },
    });
    expect(parseStatement('wait 12 cycles')).toEqual({ kind: 'wait', cycles: { kind: 'number', value: 12 } });
  });
  test.each([
    ['', 1],
    ['GATE := 1', 1],
    ['GATE.ON.X := 1', 1],
    ['GATE.ON = 1', 9],
    ['GATE.ON bit := 1', 13],
    ['GATE.ON bits 0 := 1', 16],
    ['GATE.ON := 1 2', 14],
    ['await GATE.READY bit 1 = 1', 27],
    ['wait 12', 8],
    ['5 := 1', 1],
  ])('%j is refused at column %i', (text, column) => {
    expect(() => parseStatement(text)).toThrow(expect.objectContaining({ column }));
  });
  test('a guard is a register bit that is 1 or 0, and nothing more', () => {
    expect(parseGuard('GATE.READY bit port.gate')).toMatchObject({
      ref: { block: 'GATE', register: 'READY' },
      openAt: 1,
    });
    expect(parseGuard('HOLD.ON bit 3 = 0')).toMatchObject({ openAt: 0 });
    expect(() => parseGuard('GATE.READY bit 1 = 2')).toThrow(expect.objectContaining({ column: 20 }));
    expect(() => parseGuard('GATE.READY bit 1 = 1 1')).toThrow(expect.objectContaining({ column: 22 }));
  });
});

describe('words of access', () => {
  test.each([
    [undefined, { kind: 'read-write' }],
    ['read', { kind: 'read' }],
    ['write', { kind: 'write' }],
    ['masked', { kind: 'masked' }],
    ['set of OUT', { kind: 'set', of: 'OUT' }],
    ['clear of OUT', { kind: 'clear', of: 'OUT' }],
    ['toggle of OUT', { kind: 'toggle', of: 'OUT' }],
    ['internal', { kind: 'internal' }],
    ['act copies NEXT to NOW', { kind: 'act', from: 'NEXT', to: 'NOW' }],
    ['key 0x55 opens A', { kind: 'key', keys: [0x55], opens: ['A'], unbroken: false }],
    [
      'key 0x55 then 0xAA opens A, B',
      { kind: 'key', keys: [0x55, 0xaa], opens: ['A', 'B'], unbroken: false },
    ],
    [
      'key 7 opens PORT.*, CM once',
      { kind: 'key', keys: [7], opens: ['PORT.*', 'CM'], writes: 1, unbroken: false },
    ],
    [
      'key 1 then 2 opens A for 3 writes unbroken',
      { kind: 'key', keys: [1, 2], opens: ['A'], writes: 3, unbroken: true },
    ],
    ['clear and set of OUT, both toggle', { kind: 'set-clear', of: 'OUT', setting: 'upper', both: 'toggle' }],
  ])('%s', (text, access) => {
    expect(parseAccess(text)).toEqual(access);
  });
  test.each(['often', 'set OUT', 'key opens A', 'key blue opens A', 'key 1 opens', 'act copies A'])(
    '%j is refused',
    (text) => {
      expect(() => parseAccess(text)).toThrow(ExpressionError);
    },
  );
  test('reserved bits and commit bits', () => {
    expect(parseAlways('0x8000 in 0xC000')).toEqual({ value: 0x8000, mask: 0xc000 });
    expect(() => parseAlways('0x8000 in 0x4000')).toThrow(ExpressionError);
    expect(() => parseAlways('1')).toThrow(ExpressionError);
    expect(parseWritableWhere('CM')).toEqual({ register: 'CM', from: 0, bitsEach: 1, openAt: 1 });
    expect(parseWritableWhere('CM by 4')).toEqual({ register: 'CM', from: 0, bitsEach: 4, openAt: 1 });
    expect(parseWritableWhere('CM from 8 by 2 = 0')).toEqual({
      register: 'CM',
      from: 8,
      bitsEach: 2,
      openAt: 0,
    });
    expect(() => parseWritableWhere('CM by 0')).toThrow(ExpressionError);
  });
  test('follows', () => {
    expect(parseFollows('pads')).toEqual({ kind: 'pads' });
    expect(parseFollows('ON after 3 cycles')).toMatchObject({
      kind: 'register',
      register: 'ON',
      afterCycles: 3,
    });
    expect(parseFollows('ON')).toMatchObject({ kind: 'register', register: 'ON', afterCycles: 0 });
    expect(parseFollows('ON inverted after unknown cycles')).toEqual({
      kind: 'register',
      register: 'ON',
      inverted: true,
      afterCycles: Number.POSITIVE_INFINITY,
    });
    expect(() => parseFollows('ON soon')).toThrow(ExpressionError);
  });
});
