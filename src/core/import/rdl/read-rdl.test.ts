import { expectOk } from '@/testing/expect-ok';
import { randomFrom, rounds } from '@/testing/random';
import { openRegisters } from '../attach/open-registers';
import { readFile } from '../files/read-file';
import { readRdl } from './read-rdl';

/** The port hardware of the frost guard's controller as its maker would write it. */
const GUARD = `// registers of the pads
enum pull_e { none = 2'd0; up = 2'd1 { desc = "to the supply"; }; down = 2'd2; };
field flag_f { sw = rw; hw = w; onwrite = woclr; };

reg word_r #(longint unsigned WIDTH = 16) {
  regwidth = 32;
  field { sw = rw; } data[WIDTH - 1:0] = 0;
};

regfile port_f {
  default sw = rw;
  reg { regwidth = 8; field { desc = "1 = output"; } dir[8] = 8'h3C; } DIR;
  reg { regwidth = 8; field {} latch[7:0]; } LATCH @0x2;
  reg { regwidth = 8; field { sw = w; woset; singlepulse; } ones[7:0] = 0; } RAISE;
  reg { regwidth = 8; field { sw = r; onread = rclr; } seen[7:0] = 0; } SEEN;
  reg { field { encode = pull_e; } p0[1:0] = 1; field {} p1[2] = 2; } PULL[2] @0x8 += 0x8;
  LATCH->desc = "what outputs drive";
};

addrmap guard {
  name = "frost guard";
  bigendian;
  port_f P[2] @0x100 += 0x40;
  word_r #(.WIDTH(8)) KEY @0x200;
  word_r COUNT;
  reg { flag_f up[1], down[1]; } FLAGS;
};
`;

const guard = () => expectOk(readRdl('guard.rdl', GUARD));
const register = (block: string, name: string) => {
  const peripheral = guard().peripherals.find((each) => each.name === block);
  const match = peripheral?.registers.find((each) => each.name === name);
  if (!peripheral || !match) throw new Error(`no ${block}.${name}`);
  return { ...match, address: peripheral.base + match.offset };
};

test('addresses, arrays, parameters and what is given out by itself', () => {
  const file = guard();
  expect(file).toMatchObject({ name: 'guard', description: 'frost guard', endian: 'big' });
  expect(file.peripherals.map(({ name, base }) => [name, base])).toEqual([
    ['P0', 0x100],
    ['P1', 0x140],
    ['guard', 0x200],
  ]);
  const addresses = file.peripherals.flatMap(({ base, registers }) =>
    registers.map(({ name, offset }) => `${name} ${(base + offset).toString(16)}`),
  );
  expect(addresses.slice(0, 6)).toEqual([
    'DIR 100',
    'LATCH 102',
    'RAISE 103',
    'SEEN 104',
    'PULL0 108',
    'PULL1 110',
  ]);
  expect(addresses.slice(-3)).toEqual(['KEY 200', 'COUNT 204', 'FLAGS 208']);
  expect(register('guard', 'KEY').fields).toMatchObject([{ name: 'data', low: 0, bits: 8 }]);
  expect(register('guard', 'COUNT').fields).toMatchObject([{ low: 0, bits: 16 }]);
});

test('reset values, where there are some, and what fields mean', () => {
  expect(register('P1', 'DIR')).toMatchObject({
    bits: 8,
    reset: 0x3c,
    fields: [{ description: '1 = output', bits: 8 }],
  });
  expect(register('P1', 'LATCH')).toMatchObject({ description: 'what outputs drive', resetMask: 0 });
  expect(register('P0', 'PULL1')).toMatchObject({
    reset: 0b1001,
    fields: [
      {
        name: 'p0',
        low: 0,
        bits: 2,
        values: [
          { name: 'none', value: 0 },
          { name: 'up', value: 1, description: 'to the supply' },
          { value: 2 },
        ],
      },
      { name: 'p1', low: 2, bits: 2 },
    ],
  });
});

test('side effects are those of the other formats; what has no word there is listed', () => {
  expect(register('P0', 'RAISE')).toMatchObject({ access: 'write-only', fields: [{ writes: 'oneToSet' }] });
  expect(register('P0', 'SEEN')).toMatchObject({ access: 'read-only', fields: [{ reads: 'clear' }] });
  expect(register('guard', 'FLAGS').fields).toMatchObject([
    { name: 'up', low: 0, writes: 'oneToClear' },
    { name: 'down', low: 1, writes: 'oneToClear' },
  ]);
  expect(register('P0', 'RAISE').fields).toMatchObject([{ pulse: true }]);
  expect(register('guard', 'FLAGS').fields[0]).toMatchObject({ hardware: 'writes' });
  // What a proposal for pads has no word for is listed.
  expect(openRegisters(guard(), []).notCarried).toEqual([
    'written bits that are back at 0 at once: P0.RAISE.ones, P1.RAISE.ones',
  ]);
});

test('a file is known by what it says, too', () => {
  const bytes = (text: string) => new TextEncoder().encode(text);
  expect(readFile('x.rdl', bytes(GUARD))).toMatchObject({ ok: true, value: { kind: 'registers' } });
  expect(readFile('x.txt', bytes(`/* a */ ${GUARD.slice(GUARD.indexOf('enum'))}`))).toMatchObject({
    value: { kind: 'registers' },
  });
});

test.each([
  ['addrmap a { reg { field {} x[2]; } R }', 'x.rdl:1:38: expected ";", found "}"'],
  ['addrmap a { wrong R; };', 'x.rdl:1:13: there is no component wrong'],
  ['addrmap a { reg { field {} x[40]; } R; };', 'field x is outside its register of 32 bits'],
  ['regfile f { f x; };\naddrmap a { f y; };', 'nested deeper than 40 levels'],
  [
    'regfile e {};\nregfile f { e x[100000]; };\naddrmap a { f y[100000]; };',
    'at most 200,000 registers are taken',
  ],
  ['addrmap a { reg { field {} x; } R[0x7FFFFFFF]; };', 'an array of 2147483647 cannot be'],
  ['addrmap a { reg r #(longint N) { field {} x[N]; }; r R; };', 'parameter N has no value'],
  ['addrmap a { reg { field {} x[1/0]; } R; };', 'is no number'],
  ['addrmap a { reg { field {} x; } R %= 0; };', 'an address, step or alignment of 0 cannot be'],
  ['`include "b.rdl"', 'x.rdl:1:1: preprocessor directives are not followed'],
  ['addrmap a { /* ', 'x.rdl:1:13: this comment has no end'],
  ['reg r { field {} x; };', 'there is no address map'],
])('%j is refused at its place', (text, message) => {
  const read = readRdl('x.rdl', text);
  expect(read.ok ? '' : read.problems.map((each) => `${each.place}: ${each.message}`).join()).toContain(
    message,
  );
});

test('a mutated text is read, or refused: never anything else', () => {
  for (const round of rounds('mutated SystemRDL', { seconds: 3, least: 200 })) {
    const random = randomFrom(61_000 + round);
    let text = GUARD;
    for (let change = random.int(4); change >= 0; change--) {
      const at = random.int(text.length);
      const piece = random.pick([
        '',
        '{',
        '}',
        ';',
        '[',
        '@',
        '->',
        '#(',
        '"',
        '9999999999',
        'reg',
        '~',
        "8'h",
        '::',
      ]);
      text = text.slice(0, at) + piece + text.slice(at + random.int(6));
    }
    const read = readRdl('m.rdl', text);
    if (!read.ok) for (const { place } of read.problems) expect(place).toMatch(/^m\.rdl(:\d+:\d+)?$/);
    else
      for (const { registers } of read.value.peripherals)
        for (const each of registers) expect(Number.isSafeInteger(each.offset)).toBe(true);
  }
});
