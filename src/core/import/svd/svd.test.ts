import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { LIMITS } from '../../base/limits';
import { printSvd } from '../../output/registers/print-svd';
import { readSvd } from './read-svd';
import { readXml } from './xml';

const device = (peripherals: string, head = ''): string =>
  `<?xml version="1.0"?>\n<device><name>X1</name><description>two\n words</description>${head}<peripherals>${peripherals}</peripherals></device>`;
const read = (text: string) => readSvd('x.svd', text);
const problem = (text: string): string => {
  const result = read(text);
  if (result.ok) throw new Error('was read');
  return result.problems.map((one) => `${one.place}: ${one.message}`).join('\n');
};
const register = (name: string, offset: number, rest = ''): string =>
  `<register><name>${name}</name><addressOffset>${offset}</addressOffset>${rest}</register>`;

describe('a register description', () => {
  test('gives names, addresses and inherited sizes, access and reset values', () => {
    const file = expectOk(
      read(
        device(
          `<peripheral><name>PA</name><baseAddress>0x1000</baseAddress><access>read-only</access><registers>
             ${register('A', 0)}
             ${register('B', 4, '<size>16</size><access>write-only</access><resetValue>#101x</resetValue>')}
           </registers></peripheral>`,
          '<cpu><endian>big</endian></cpu><size>8</size><resetValue>0xFF</resetValue>',
        ),
      ),
    );
    expect(file).toMatchObject({ name: 'X1', description: 'two words', endian: 'big' });
    expect(file.peripherals[0]).toMatchObject({ name: 'PA', base: 0x1000 });
    expect(file.peripherals[0]?.registers).toMatchObject([
      { name: 'A', offset: 0, bits: 8, access: 'read-only', reset: 0xff },
      { name: 'B', offset: 4, bits: 16, access: 'write-only', reset: 0b1010 },
    ]);
  });

  test('works out arrays with numbers, lists and ranges, of registers, clusters and fields', () => {
    const file = expectOk(
      read(
        device(`<peripheral><name>P</name><baseAddress>0</baseAddress><registers>
          <register><dim>2</dim><dimIncrement>4</dimIncrement><dimIndex>A,C</dimIndex><name>DIR_%s</name><addressOffset>0</addressOffset>
            <fields><field><dim>3</dim><dimIncrement>2</dimIncrement><name>M%s</name><bitRange>[1:0]</bitRange></field></fields></register>
          <cluster><dim>2</dim><dimIncrement>0x20</dimIncrement><name>BANK[%s]</name><addressOffset>0x40</addressOffset>
            ${register('SET', 8)}</cluster>
          <register><dim>2</dim><dimIncrement>1</dimIncrement><dimIndex>5-6</dimIndex><name>R%s</name><addressOffset>0x100</addressOffset><size>8</size></register>
        </registers></peripheral>`),
      ),
    );
    const registers = file.peripherals[0]?.registers ?? [];
    expect(registers.map((one) => [one.name, one.offset])).toEqual([
      ['DIR_A', 0],
      ['DIR_C', 4],
      ['BANK0.SET', 0x48],
      ['BANK1.SET', 0x68],
      ['R5', 0x100],
      ['R6', 0x101],
    ]);
    expect(registers[1]?.fields.map((one) => [one.name, one.low, one.bits])).toEqual([
      ['M0', 0, 2],
      ['M1', 2, 2],
      ['M2', 4, 2],
    ]);
  });

  test('derives peripherals and registers, over several steps', () => {
    const file = expectOk(
      read(
        device(`
          <peripheral derivedFrom="PB"><name>PC</name><baseAddress>0x300</baseAddress></peripheral>
          <peripheral><name>PA</name><description>port</description><baseAddress>0x100</baseAddress><registers>
            ${register('MODE', 0, '<description>mode</description><size>16</size>')}
            <register derivedFrom="MODE"><name>PULL</name><addressOffset>2</addressOffset></register>
          </registers></peripheral>
          <peripheral derivedFrom="PA"><name>PB</name><baseAddress>0x200</baseAddress></peripheral>`),
      ),
    );
    for (const one of file.peripherals) {
      expect(one.description).toBe('port');
      expect(one.registers.map((each) => [each.name, each.offset, each.bits])).toEqual([
        ['MODE', 0, 16],
        ['PULL', 2, 16],
      ]);
    }
    expect(file.peripherals.map((one) => one.base)).toEqual([0x300, 0x100, 0x200]);
  });

  test('fields in the three ways of writing their place', () => {
    const file = expectOk(
      read(
        device(
          `<peripheral><name>P</name><baseAddress>0</baseAddress><registers>${register(
            'R',
            0,
            `<fields>
            <field><name>A</name><bitOffset>3</bitOffset><bitWidth>2</bitWidth></field>
            <field><name>B</name><lsb>8</lsb><msb>11</msb></field>
            <field><name>C</name><bitRange>[31:30]</bitRange></field>
            <field><name>D</name><bitOffset>5</bitOffset></field>
          </fields>`,
          )}</registers></peripheral>`,
        ),
      ),
    );
    const fields = file.peripherals[0]?.registers[0]?.fields ?? [];
    expect(fields.map((one) => [one.name, one.low, one.bits])).toEqual([
      ['A', 3, 2],
      ['B', 8, 4],
      ['C', 30, 2],
      ['D', 5, 1],
    ]);
  });
});

describe('what is wrong is told with its line', () => {
  test.each([
    [
      'another format',
      '<board/>',
      /x\.svd:1:1: this is no register description: the outermost element is "board"/,
    ],
    ['no base', device('<peripheral><name>P</name></peripheral>'), /x\.svd:3:1: P has no baseAddress/],
    [
      'no offset',
      device(
        '<peripheral><name>P</name><baseAddress>0</baseAddress><registers><register><name>R</name></register></registers></peripheral>',
      ),
      /R has no addressOffset/,
    ],
    [
      'a number that is none',
      device('<peripheral><name>P</name><baseAddress>zero</baseAddress></peripheral>'),
      /x\.svd:3:1: .*zero/,
    ],
    [
      'a source that is not there',
      device('<peripheral derivedFrom="Q"><name>P</name><baseAddress>0</baseAddress></peripheral>'),
      /there is no "Q" to derive from/,
    ],
    [
      'a circle',
      device(
        '<peripheral derivedFrom="B"><name>A</name><baseAddress>0</baseAddress></peripheral><peripheral derivedFrom="A"><name>B</name><baseAddress>0</baseAddress></peripheral>',
      ),
      /derived from itself/,
    ],
    ['an open element', '<device><peripherals>', /not valid XML/],
    ['nothing', '', /x\.svd/],
  ])('%s', (_name, text, message) => {
    expect(problem(text)).toMatch(message);
  });
});

describe('XML from outside is safe', () => {
  const bomb = `<!DOCTYPE d [<!ENTITY a "aaaaaaaaaa">${Array.from({ length: 9 }, (_, i) => `<!ENTITY ${'bcdefghij'[i]} "${`&${'abcdefghi'[i]};`.repeat(10)}">`).join('')}]><device>&j;</device>`;
  test.each([
    ['an entity bomb', bomb],
    ['an outside entity', '<!DOCTYPE d [<!ENTITY x SYSTEM "file:///etc/passwd">]><device>&x;</device>'],
    ['any document type at all', '<!DOCTYPE device><device/>'],
  ])('%s is refused', (_name, text) => {
    const before = process.memoryUsage().heapUsed;
    expect(problem(text)).toMatch(/document type declarations are not read/);
    expect(process.memoryUsage().heapUsed - before).toBeLessThan(50_000_000);
  });
  test('an entity of nobody is refused', () => {
    expect(problem('<device><name>&nobody;</name></device>')).toMatch(/not valid XML/);
  });
  test('too deep and too large are refused', () => {
    expect(problem('<a>'.repeat(60))).toMatch(/nested deeper than 40/);
    expect(problem(' '.repeat(LIMITS.registerFileCharacters + 1))).toMatch(
      /larger than 40,000,000 characters/,
    );
  });
  test('reading goes in steps that tell how far it is, and can be stopped between two', () => {
    const text = device(
      `<peripheral><name>P</name><baseAddress>0</baseAddress><registers>${Array.from({ length: 4000 }, (_, i) => register(`R${i}`, i * 4)).join('')}</registers></peripheral>`,
    );
    const reading = readXml('x.svd', text);
    const told: number[] = [];
    while (reading.step()) told.push(reading.done());
    expect(told.length).toBeGreaterThan(3);
    expect([...told].sort((a, b) => a - b)).toEqual(told);
    expect(reading.done()).toBe(1);
  });
});

describe.each(FAMILIES)('the registers of %s as a register description', (folder) => {
  const part = family(folder);
  const file = expectOk(readSvd('out.svd', printSvd(part)));

  test('hold every register at its address, with size, reset value and access', () => {
    const printed = new Map(
      file.peripherals.flatMap((one) =>
        one.registers.map((register) => [one.base + register.offset, register] as const),
      ),
    );
    for (const register of part.registers.all) {
      if (register.access.kind === 'internal') continue;
      const found = printed.get(register.address);
      expect([register.name, found?.bits, found?.reset]).toEqual([
        register.name,
        register.bits,
        register.reset,
      ]);
      expect(found?.access === 'read-only').toBe(register.access.kind === 'read');
    }
    expect(file.endian).toBe(part.description.recipe.endian);
  });

  test('have fields that lie in their register and do not overlap', () => {
    for (const { registers } of file.peripherals)
      for (const register of registers) {
        let end = 0;
        for (const field of [...register.fields].sort((a, b) => a.low - b.low)) {
          expect(field.low).toBeGreaterThanOrEqual(end);
          end = field.low + field.bits;
        }
        expect(end).toBeLessThanOrEqual(register.bits);
      }
  });
});

test('texts that look like markup stay texts', () => {
  const part = family('pellin-p8');
  const evil = {
    ...part,
    description: { ...part.description, maker: '</vendor><script>&"\u0000', summary: ']]><x/>' },
  };
  const file = expectOk(readSvd('out.svd', printSvd(evil)));
  expect(file.description).toBe(']]><x/>');
});
