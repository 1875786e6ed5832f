import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { corvane } from '@/testing/frost-guard';
import { randomFrom } from '@/testing/random';
import { loadSmall } from '@/testing/small-part';
import type { Device } from '../device/device';
import { fullMask, type Register } from '../device/registers/types';
import { type Dump, type DumpOptions, readDump } from './dump';

const hex = (value: number, digits: number): string =>
  (value >>> 0).toString(16).toUpperCase().padStart(digits, '0');

/** Registers with memory of their own, no two at one address, with values by chance. */
function sample(device: Device, seed: number): [Register, number][] {
  const random = randomFrom(seed);
  const taken = new Set<number>();
  return device.registers.all.flatMap((register): [Register, number][] => {
    const own = register.access.kind !== 'internal' && register.storage !== undefined;
    const bytes = Array.from({ length: register.bits / 8 }, (_, k) => register.address + k);
    if (!own || bytes.some((byte) => taken.has(byte)) || random.int(3) === 0) return [];
    for (const byte of bytes) taken.add(byte);
    const value = (random.int(0x10000) * 0x10000 + random.int(0x10000)) >>> 0;
    return [[register, (value & fullMask(register.bits)) >>> 0]];
  });
}

const bytesIn = (device: Device, [register, value]: [Register, number]): [number, number][] =>
  Array.from({ length: register.bits / 8 }, (_, k) => {
    const place = device.description.recipe.endian === 'big' ? register.bits / 8 - 1 - k : k;
    return [register.address + k, Math.floor(value / 2 ** (8 * place)) % 256];
  });

const record = (bytes: readonly number[], complement: (sum: number) => number): string =>
  [...bytes, complement(bytes.reduce((sum, byte) => sum + byte, 0) % 256) & 0xff]
    .map((byte) => hex(byte, 2))
    .join('');

/** Writers of the forms, apart from what reads them. */
const FORMS: [Dump['form'], (device: Device, values: [Register, number][]) => string][] = [
  ['values', (_, values) => values.map(([one, value]) => `${one.name} = 0x${hex(value, 2)}`).join('\n')],
  [
    'values',
    (_, values) =>
      values.map(([one, value]) => `0x${hex(one.address, 4)}: ${value} // ${one.title}`).join('\r\n'),
  ],
  [
    'memory',
    (_, values) =>
      values
        .map(([one, value]) => `0x${hex(one.address, 8)} <${one.name}>:\t0x${hex(value, one.bits / 4)} 0x`)
        .map((line) => line.replace(/ 0x$/, ''))
        .join('\n'),
  ],
  [
    'intel-hex',
    (device, values) => {
      const lines = values.flatMap((one) =>
        bytesIn(device, one).flatMap(([address, byte]) => {
          const [high, low] = [address >>> 16, address & 0xffff];
          return [
            `:${record([2, 0, 0, 4, high >> 8, high & 0xff], (sum) => -sum)}`,
            `:${record([1, low >> 8, low & 0xff, 0, byte], (sum) => -sum)}`,
          ];
        }),
      );
      return [...lines, ':00000001FF'].join('\n');
    },
  ],
  [
    's-record',
    (device, values) =>
      values
        .flatMap((one) =>
          bytesIn(device, one).map(([address, byte]) => {
            const places = [24, 16, 8, 0].map((by) => (address >>> by) & 0xff);
            return `S3${record([6, ...places, byte], (sum) => ~sum)}`;
          }),
        )
        .join('\n'),
  ],
];

describe.each(FAMILIES)('%s', (folder) => {
  const device = family(folder);
  test.each(FORMS)('what is written as %s reads back register by register', (form, print) => {
    const values = sample(device, 7);
    expect(values.length).toBeGreaterThan(10);
    const dump = expectOk(readDump(device, print(device, values), { form }));
    expect(dump.unread).toEqual([]);
    for (const [register, value] of values) {
      expect([register.name, dump.values.get(register)]).toEqual([register.name, value]);
    }
  });
});

const read = (text: string | Uint8Array, options: DumpOptions = {}): Dump =>
  expectOk(readDump(corvane(), text, options));
const found = ({ values }: Dump): Record<string, number> =>
  Object.fromEntries([...values].map(([{ name }, value]) => [name, value]));

describe('forms as they are met', () => {
  test('names of other spellings, with comments, separators and suffixes', () => {
    const text = `
# from the bench
PA.USE = 0xFFFF17C6;
PB_USE: 0xFFFF5FFFul
FROST_GUARD_PC_OUT  8   // WP
pd->out\t0b0100_0000`;
    expect(found(read(text))).toEqual({
      'PA.USE': 0xffff17c6,
      'PB.USE': 0xffff5fff,
      'PC.OUT': 8,
      'PD.OUT': 64,
    });
  });
  test('a debugger’s words and bytes, with characters beside them', () => {
    expect(found(read('0x50020000:\t0xffff17c6\t0x00004012\n0x50020008 <ports+8>:\t0x00000000'))).toEqual({
      'PA.USE': 0xffff17c6,
      'PA.PULL': 0x4012,
      'PA.BUF': 0,
      'PA.PLAIN': 0,
    });
    expect(found(read('50020000: c6 17 ff ff 12 40 00 00  ....@...\n'))).toEqual({
      'PA.USE': 0xffff17c6,
      'PA.PULL': 0x4012,
    });
  });
  test('raw bytes at an address', () => {
    expect(found(read(Uint8Array.from([0xc6, 0x17, 0xff, 0xff, 1]), { at: 0x50020000 }))).toEqual({
      'PA.USE': 0xffff17c6,
    });
    expect(readDump(corvane(), Uint8Array.from([1]))).toMatchObject({
      problems: [{ place: 'address', message: expect.stringMatching(/at which address/) }],
    });
  });
});

describe('what is wrong is told by line, and the rest is read', () => {
  test.each([
    ['PA.USE = 1\nnonsense here and there', 'line 2', /is not a register and its value/],
    ['PA.USE = 1\nQX.USE = 1', 'line 2', /no register "QX.USE"/],
    ['PA.USE = 1\nUSE = 1', 'line 2', /may be PA.USE, PB.USE/],
    ['PA.USE = 1\nPA.OUT = 0x10000', 'line 2', /does not fit into the 16 bits/],
    ['PA.USE = 1\n0x12345678 = 1', 'line 2', /no register at 0x12345678/],
    ['PA.USE = 1\nPA.USE = 2', 'line 2', /another value before/],
  ])('%j', (text, place, message) => {
    const { unread, values } = read(text);
    expect(unread).toEqual([{ place, message: expect.stringMatching(message) }]);
    expect(values.size).toBeGreaterThan(0);
  });
  test('a record with a wrong checksum is left out', () => {
    const good = `:${record([2, 0, 0, 4, 0x50, 0x02], (sum) => -sum)}\n:${record([4, 0, 0, 0, 1, 2, 3, 4], (sum) => -sum)}`;
    const dump = read(`${good}\n:${record([4, 0, 4, 0, 1, 2, 3, 4], (sum) => -sum + 1)}`);
    expect(found(dump)).toEqual({ 'PA.USE': 0x04030201 });
    expect(dump.unread).toEqual([{ place: 'line 3', message: expect.stringMatching(/checksum/) }]);
  });
  test('a text without any register is refused', () => {
    expect(readDump(corvane(), 'hello\nworld')).toMatchObject({ ok: false });
    expect(readDump(corvane(), '')).toMatchObject({ ok: false });
  });
});

test('what clauses show of state is read through them; what they do not show is left out', () => {
  const device = loadSmall({
    registers: {
      blocks: [
        {
          id: 'PORT',
          each: 'port',
          base: '0x1000 + 0x40*p',
          name: 'P{port}',
          registers: [
            { id: 'LATCH', offset: '0', bits: 8, access: 'internal' },
            { id: 'SIDE', offset: '0', bits: 8, access: 'internal' },
            { id: 'TURNED', offset: '0', bits: 8, read: '~this', write: 'this := v' },
            { id: 'LOOK', offset: '2', bits: 16, read: 'LATCH << 4 | SIDE & 0xF' },
            { id: 'PLAIN', offset: '4', bits: 8 },
          ],
        },
      ],
    },
  });
  const { values } = expectOk(readDump(device, 'PA.TURNED = 0x0F\nPA.LOOK = 0xA5C\nPB.PLAIN = 0x12'));
  expect(Object.fromEntries([...values].map(([register, value]) => [register.name, value]))).toEqual({
    'PA.LATCH': 0xa5,
    'PA.TURNED': 0xf0,
    'PB.PLAIN': 0x12,
  });
});
