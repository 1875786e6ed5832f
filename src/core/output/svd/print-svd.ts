import { largest, smallest } from '../../base/lists';
import { escapeXml } from '../../base/text/escape-xml';
import { hexText } from '../../base/text/hex';
import type { Device } from '../../device/device';
import { type FieldPlace, fieldPlaces } from '../../device/field-places';
import { behaviourText } from '../../device/registers/register-text';
import { canRead, canWrite, type Register } from '../../device/registers/types';

const hex = (value: number): string => hexText(value, 0);

const tag = (name: string, text: string): string => `<${name}>${escapeXml(text)}</${name}>`;

const ACCESS: Partial<Record<Register['access']['kind'], string>> = {
  read: 'read-only',
  write: 'write-only',
  set: 'write-only',
  clear: 'write-only',
  toggle: 'write-only',
  'set-clear': 'write-only',
  strobe: 'write-only',
  act: 'write-only',
  key: 'write-only',
};

function accessOf(register: Register): string {
  if (register.access.kind !== 'clauses') return ACCESS[register.access.kind] ?? 'read-write';
  if (!canWrite(register)) return 'read-only';
  return canRead(register) ? 'read-write' : 'write-only';
}

/**
 * The part's registers as CMSIS-SVD: one peripheral for each block instance, fields named after the pad they belong to. What
 * the format cannot say (keys, guards, commit bits) stands in the descriptions.
 */
export function printSvd(device: Device): string {
  const { description } = device;
  const fields = fieldPlaces(device);
  const peripherals = new Map<string, Register[]>();
  for (const register of device.registers.all) {
    if (register.access.kind === 'internal') continue;
    const name = register.name.split('.')[0] ?? '';
    peripherals.set(name, [...(peripherals.get(name) ?? []), register]);
  }
  const lines = [
    '<?xml version="1.0" encoding="utf-8"?>',
    '<device schemaVersion="1.3">',
    `  ${tag('vendor', description.maker)}`,
    `  ${tag('name', description.id)}`,
    `  ${tag('version', device.fingerprint)}`,
    `  ${tag('description', description.summary || description.name)}`,
    `  <cpu>${tag('name', 'other')}${tag('revision', 'r0p0')}${tag('endian', description.recipe.endian)}<mpuPresent>false</mpuPresent><fpuPresent>false</fpuPresent><nvicPrioBits>0</nvicPrioBits><vendorSystickConfig>false</vendorSystickConfig></cpu>`,
    '  <addressUnitBits>8</addressUnitBits>',
    '  <width>32</width>',
    '  <peripherals>',
  ];
  for (const [name, registers] of peripherals) {
    const base = smallest(registers.map((one) => one.address));
    const end = largest(registers.map((one) => one.address + one.bits / 8));
    lines.push(
      '    <peripheral>',
      `      ${tag('name', name)}`,
      `      ${tag('groupName', registers[0]?.block ?? name)}`,
      `      ${tag('baseAddress', hex(base))}`,
      `      <addressBlock><offset>0x0</offset><size>${hex(end - base)}</size><usage>registers</usage></addressBlock>`,
      '      <registers>',
      ...registers.flatMap((register) => printRegister(register, base, fields.get(register) ?? [])),
      '      </registers>',
      '    </peripheral>',
    );
  }
  lines.push('  </peripherals>', '</device>', '');
  return lines.join('\n');
}

function printRegister(register: Register, base: number, fields: readonly FieldPlace[]): string[] {
  const name = register.name.split('.').slice(1).join('_');
  return [
    '        <register>',
    `          ${tag('name', name)}`,
    `          ${tag('description', behaviourText(register) || name)}`,
    `          ${tag('addressOffset', hex(register.address - base))}`,
    `          ${tag('size', String(register.bits))}`,
    `          ${tag('access', accessOf(register))}`,
    `          ${tag('resetValue', hex(register.reset))}`,
    ...(fields.length === 0
      ? []
      : [
          '          <fields>',
          ...fields.map(
            ({ field, pad, fn, slot }) =>
              `            <field>${tag('name', `${field}_${fn?.signal ?? pad}`.replace(/[^A-Za-z0-9_]+/g, '_'))}${tag('bitOffset', String(slot.low))}${tag('bitWidth', String(slot.bits))}</field>`,
          ),
          '          </fields>',
        ]),
    '        </register>',
  ];
}
