import { hexText } from '../../base/text/hex';
import {
  type FileField,
  type FileRegister,
  type FileValue,
  type PeripheralRegisters,
  type RegisterFile,
  resetOfField,
  type SvdAccess,
  type WriteEffect,
} from '../../description/register-file';
import type { Device } from '../../device/device';
import { registerFileOf } from './register-file-of';

/** The part's registers as SystemRDL 2.0. */
export const printRdl = (device: Device): string =>
  printRdlFile(
    registerFileOf(device),
    `Registers of ${device.description.name}, description ${device.fingerprint}`,
  );

/**
 * Registers as SystemRDL 2.0 (Accellera): a register file for each peripheral in one address map, side effects as properties of fields,
 * guards as `swwe` or `swwel`, meanings of numbers as enumerations. What the language cannot say stands at the head.
 */
export function printRdlFile(file: RegisterFile, head: string): string {
  return [
    `// ${singleLine(head)}`,
    ...[...(file.notCarried ?? []), ...notInRdl(file)].map(
      (line) => `// Not said here, only in descriptions: ${singleLine(line)}`,
    ),
    `addrmap ${identifier(file.name)} {`,
    `  desc = ${quoted(file.description)};`,
    ...(file.endian === 'big' ? ['  bigendian;'] : ['  littleendian;']),
    ...file.peripherals.flatMap((peripheral) => printPeripheral(file.name, peripheral)),
    ...file.peripherals.flatMap((peripheral) => printEnables(file.name, peripheral)),
    '};',
    '',
  ].join('\n');
}

const notInRdl = ({ peripherals }: RegisterFile): string[] =>
  peripherals.some(({ registers }) => registers.some(({ fields }) => fields.some(({ allowed }) => allowed)))
    ? ['values that may be written']
    : [];

const singleLine = (text: string): string => text.replace(/[^\P{C}]+/gu, ' ').trim();
const quoted = (text: string): string => `"${singleLine(text).replace(/[\\"]/g, (mark) => `\\${mark}`)}"`;
/** Words of the language are names with a backslash before them. */
const WORDS = new Set(
  'abstract accesstype addressingtype addrmap alias all arbiter boolean bothedge byte component componentwidth constraint default encode enum external false field hw inside internal level longint mem na negedge nonsticky number onreadtype onwritetype posedge precedence property r rclr ref reg regfile rset ruser rw rw1 signal string struct sw this true type unsigned w w1 wclr woclr woset wot wr wset wuser wzc wzs wzt'.split(
    ' ',
  ),
);
const identifier = (text: string): string => {
  const word = text.replace(/\W+/g, '_').replace(/^(?=\d|$)/, '_');
  return WORDS.has(word) ? `\\${word}` : word;
};
const hex = (value: number): string => hexText(value, 0);

const SW: Readonly<Record<SvdAccess, string>> = {
  'read-write': 'rw',
  'read-only': 'r',
  'write-only': 'w',
  writeOnce: 'w1',
  'read-writeOnce': 'rw1',
};

const ON_WRITE: Readonly<Record<Exclude<WriteEffect, 'modify'>, string>> = {
  oneToClear: 'woclr',
  oneToSet: 'woset',
  oneToToggle: 'wot',
  zeroToClear: 'wzc',
  zeroToSet: 'wzs',
  zeroToToggle: 'wzt',
  clear: 'wclr',
  set: 'wset',
};

const ON_READ = { clear: 'rclr', set: 'rset', modify: 'ruser' } as const;

/** Registers right in the map are in a peripheral of its name. */
function printPeripheral(map: string, { name, registers, base }: PeripheralRegisters): string[] {
  // A register is defined before the one that is another name of it.
  const sorted = [...registers].sort(
    (a, b) => Number(a.aliasOf !== undefined) - Number(b.aliasOf !== undefined),
  );
  if (name === map) return sorted.flatMap((register) => printRegister(name, register, base));
  return [
    '  regfile {',
    ...sorted.flatMap((register) => printRegister(name, register, 0)),
    `  } ${identifier(name)} @ ${hex(base)};`,
  ];
}

function printRegister(block: string, register: FileRegister, base: number): string[] {
  const name = identifier(register.name);
  const type = `${block}_${register.name}_r`.replace(/\W+/g, '_');
  const body = [
    `      desc = ${quoted(register.description)};`,
    `      regwidth = ${register.bits};`,
    ...register.fields.flatMap((field, at) =>
      field.values ? [`      ${printValues(field.values, at)}`] : [],
    ),
    ...register.fields.map((field, at) => `      ${printField(register, field, at)}`),
  ];
  // Another name is an instance of a type that has one.
  return register.aliasOf !== undefined
    ? [
        `    reg ${type} {`,
        ...body,
        '    };',
        `    alias ${identifier(register.aliasOf)} ${type} ${name} @ ${hex(base + register.offset)};`,
      ]
    : ['    reg {', ...body, `    } ${name} @ ${hex(base + register.offset)};`];
}

const printValues = (values: readonly FileValue[], at: number): string =>
  `enum e${at} { ${values.map(({ name, description, value }) => `${identifier(name)} = ${value}${description ? ` { desc = ${quoted(description)}; }` : ''};`).join(' ')} };`;

function printField(register: FileRegister, field: FileField, at: number): string {
  const { low, bits, description, writes, reads, pulse, hardware, values } = field;
  const reset = resetOfField(register, field);
  const properties = [
    `sw = ${SW[field.access ?? register.access]};`,
    ...(description ? [`desc = ${quoted(description)};`] : []),
    ...(values ? [`encode = e${at};`] : []),
    `hw = ${hardware === 'writes' ? 'w' : 'r'};`,
    ...(writes !== undefined && writes !== 'modify' ? [`onwrite = ${ON_WRITE[writes]};`] : []),
    ...(reads === undefined ? [] : [`onread = ${ON_READ[reads]};`]),
    ...(pulse ? ['singlepulse;'] : []),
    ...(hardware === 'sets' ? ['hwset;'] : hardware === 'clears' ? ['hwclr;'] : []),
  ];
  return `field { ${properties.join(' ')} } ${identifier(field.name)}[${low + bits - 1}:${low}]${reset === undefined ? '' : ` = ${hex(reset)}`};`;
}

/** Guards are of other registers, and assigned when all are there. */
const printEnables = (map: string, { name, registers }: PeripheralRegisters): string[] =>
  registers.flatMap((register) =>
    register.fields.flatMap(({ name: field, enabledBy }) =>
      enabledBy
        ? [
            `  ${path(map, [name, register.name, field])}->${enabledBy.openAt === 1 ? 'swwe' : 'swwel'} = ${path(map, enabledBy.field.split('.'))};`,
          ]
        : [],
    ),
  );

/** From within the map on. */
const path = (map: string, names: readonly string[]): string =>
  (names[0] === map ? names.slice(1) : names).map(identifier).join('.');
