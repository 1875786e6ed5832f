import { hexText } from '../../base/text/hex';
import {
  type FileField,
  type FileRegister,
  type FileValue,
  type PeripheralRegisters,
  type RegisterFile,
  resetOfField,
  sizeOf,
} from '../../description/register-file';
import type { Device } from '../../device/device';
import { registerFileOf } from './register-file-of';
import { notCarriedComment, tag } from './xml';

const x = (name: string, text: string): string => tag(`ipxact:${name}`, text);
const hex = (value: number): string => `'h${hexText(value, 0).slice(2)}`;

/** The part's registers as an IP-XACT component. */
export const printIpXact = (device: Device): string =>
  printIpXactFile(registerFileOf(device), device.description.maker, device.fingerprint);

/**
 * Registers as an IP-XACT component (IEEE 1685-2014): a memory map with an address block for each peripheral. Fields have the reset
 * values; a field of which a bit has none has none. What the standard cannot say stands in the descriptions and at the head.
 */
export function printIpXactFile(file: RegisterFile, vendor: string, version: string): string {
  return [
    '<?xml version="1.0" encoding="utf-8"?>',
    ...notCarriedComment(file, notInIpXact(file)),
    '<ipxact:component xmlns:ipxact="http://www.accellera.org/XMLSchema/IPXACT/1685-2014">',
    `  ${x('vendor', vendor)}`,
    `  ${x('library', 'registers')}`,
    `  ${x('name', file.name)}`,
    `  ${x('version', version)}`,
    '  <ipxact:memoryMaps>',
    '    <ipxact:memoryMap>',
    `      ${x('name', 'registers')}`,
    ...file.peripherals.flatMap(printBlock),
    `      ${x('addressUnitBits', '8')}`,
    '    </ipxact:memoryMap>',
    '  </ipxact:memoryMaps>',
    `  ${x('description', file.description)}`,
    '</ipxact:component>',
    '',
  ].join('\n');
}

/** Nor does IP-XACT say these. */
const notInIpXact = ({ endian, peripherals }: RegisterFile): string[] => [
  ...(endian === 'big' ? ['the order of bytes, which is big-endian'] : []),
  ...(peripherals.some(({ registers }) => registers.some(({ aliasOf }) => aliasOf !== undefined))
    ? ['which registers are other names of registers']
    : []),
];

const printBlock = (peripheral: PeripheralRegisters): string[] => [
  '      <ipxact:addressBlock>',
  `        ${x('name', peripheral.name)}`,
  `        ${x('baseAddress', hex(peripheral.base))}`,
  `        ${x('range', hex(sizeOf(peripheral)))}`,
  `        ${x('width', '32')}`,
  ...peripheral.registers.flatMap(printRegister),
  '      </ipxact:addressBlock>',
];

const printRegister = (register: FileRegister): string[] => [
  '        <ipxact:register>',
  `          ${x('name', register.name)}`,
  `          ${x('description', register.description)}`,
  `          ${x('addressOffset', hex(register.offset))}`,
  `          ${x('size', String(register.bits))}`,
  `          ${x('access', register.access)}`,
  ...register.fields.map((field) => `          ${printField(field, register)}`),
  '        </ipxact:register>',
];

function printField(field: FileField, register: FileRegister): string {
  const { name, description, low, bits, access, writes, reads, values, allowed } = field;
  const reset = resetOfField(register, field);
  return [
    '<ipxact:field>',
    x('name', name),
    description ? x('description', description) : '',
    x('bitOffset', String(low)),
    reset === undefined
      ? ''
      : `<ipxact:resets><ipxact:reset>${x('value', hex(reset))}</ipxact:reset></ipxact:resets>`,
    x('bitWidth', String(bits)),
    access === undefined || access === register.access ? '' : x('access', access),
    values === undefined ? '' : printValues(values),
    writes === undefined ? '' : x('modifiedWriteValue', writes),
    allowed === undefined ? '' : printAllowed(allowed),
    reads === undefined ? '' : x('readAction', reads),
    '</ipxact:field>',
  ].join('');
}

const printValues = (values: readonly FileValue[]): string =>
  `<ipxact:enumeratedValues>${values
    .map(
      ({ name, description, value }) =>
        `<ipxact:enumeratedValue>${x('name', name)}${description ? x('description', description) : ''}${x('value', String(value))}</ipxact:enumeratedValue>`,
    )
    .join('')}</ipxact:enumeratedValues>`;

const printAllowed = (allowed: NonNullable<FileField['allowed']>): string =>
  `<ipxact:writeValueConstraint>${
    allowed === 'listed'
      ? x('useEnumeratedValues', 'true')
      : `${x('minimum', String(allowed.from))}${x('maximum', String(allowed.to))}`
  }</ipxact:writeValueConstraint>`;
