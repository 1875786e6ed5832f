import { hexText } from '../../base/text/hex';
import {
  type FileField,
  type FileRegister,
  type PeripheralRegisters,
  sizeOf,
} from '../../description/register-file';
import type { Device } from '../../device/device';
import { registerFileOf } from './register-file-of';
import { notCarriedComment, tag } from './xml';

const hex = (value: number): string => hexText(value, 0);

/** The part's registers as CMSIS-SVD. What the format cannot say (keys, guards, commit bits) stands in the descriptions and at the head. */
export function printSvd(device: Device): string {
  const { description } = device;
  const file = registerFileOf(device);
  return [
    '<?xml version="1.0" encoding="utf-8"?>',
    ...notCarriedComment(file),
    '<device schemaVersion="1.3">',
    `  ${tag('vendor', description.maker)}`,
    `  ${tag('name', file.name)}`,
    `  ${tag('version', device.fingerprint)}`,
    `  ${tag('description', file.description)}`,
    `  <cpu>${tag('name', 'other')}${tag('revision', 'r0p0')}${tag('endian', file.endian)}<mpuPresent>false</mpuPresent><fpuPresent>false</fpuPresent><nvicPrioBits>0</nvicPrioBits><vendorSystickConfig>false</vendorSystickConfig></cpu>`,
    '  <addressUnitBits>8</addressUnitBits>',
    `  <width>${file.width}</width>`,
    '  <peripherals>',
    ...file.peripherals.flatMap(printPeripheral),
    '  </peripherals>',
    '</device>',
    '',
  ].join('\n');
}

const printPeripheral = (peripheral: PeripheralRegisters): string[] => [
  '    <peripheral>',
  `      ${tag('name', peripheral.name)}`,
  `      ${tag('groupName', peripheral.group)}`,
  `      ${tag('baseAddress', hex(peripheral.base))}`,
  `      <addressBlock><offset>0x0</offset><size>${hex(sizeOf(peripheral))}</size><usage>registers</usage></addressBlock>`,
  '      <registers>',
  ...peripheral.registers.flatMap(printRegister),
  '      </registers>',
  '    </peripheral>',
];

/** Here a register may have bits of no field; those that do nothing beyond holding what is written need none. */
const isPlain = ({ name, writes, reads, access }: FileField, register: FileRegister): boolean =>
  /^bits?_\d/.test(name) &&
  writes === undefined &&
  reads === undefined &&
  (access ?? register.access) === register.access;

const printRegister = (register: FileRegister): string[] => [
  '        <register>',
  `          ${tag('name', register.name)}`,
  `          ${tag('description', register.description)}`,
  ...(register.aliasOf === undefined ? [] : [`          ${tag('alternateRegister', register.aliasOf)}`]),
  `          ${tag('addressOffset', hex(register.offset))}`,
  `          ${tag('size', String(register.bits))}`,
  `          ${tag('access', register.access)}`,
  `          ${tag('resetValue', hex(register.reset))}`,
  ...(register.resetMask === undefined ? [] : [`          ${tag('resetMask', hex(register.resetMask))}`]),
  ...fieldsWithin(
    register.fields.filter((field) => !isPlain(field, register)).map((field) => printField(field, register)),
  ),
  '        </register>',
];

const fieldsWithin = (fields: readonly string[]): string[] =>
  fields.length === 0
    ? []
    : ['          <fields>', ...fields.map((field) => `            ${field}`), '          </fields>'];

function printField(field: FileField, register: FileRegister): string {
  const { name, low, bits, access, writes, reads } = field;
  return [
    '<field>',
    tag('name', name),
    tag('bitOffset', String(low)),
    tag('bitWidth', String(bits)),
    access === undefined || access === register.access ? '' : tag('access', access),
    writes === undefined ? '' : tag('modifiedWriteValues', writes),
    reads === undefined ? '' : tag('readAction', reads),
    '</field>',
  ].join('');
}
