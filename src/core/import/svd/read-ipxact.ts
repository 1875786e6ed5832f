import { LIMITS, limitText } from '../../base/limits';
import { collectProblems, type Problems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import {
  type FileField,
  type FileRegister,
  type FileValue,
  maskOfBits,
  type PeripheralRegisters,
  type RegisterFile,
  readEffectOf,
  type SvdAccess,
  WRITE_EFFECTS,
} from '../../description/register-file';
import type { Leafy, XmlElement, XmlReading } from './xml';

const ACCESS: Readonly<Record<string, SvdAccess>> = {
  'read-only': 'read-only',
  'write-only': 'write-only',
  'read-write': 'read-write',
  writeOnce: 'writeOnce',
  'read-writeOnce': 'read-writeOnce',
};

interface Reader {
  name: string;
  problems: Problems;
  registers: number;
}

/** Names of elements without their prefix, which the versions of the standard spell differently. */
const local = (name: string): string => name.slice(name.indexOf(':') + 1);
const children = (element: XmlElement | undefined, name: string): XmlElement[] =>
  element?.children.filter((one) => local(one.name) === name) ?? [];
const child = (element: XmlElement | undefined, name: string): XmlElement | undefined =>
  children(element, name)[0];

/** Text of a child, with any prefix; attributes of the child are of no interest. */
function text(element: XmlElement, name: string): string | undefined {
  for (let i = 0; i < element.used; i += 2)
    if (local(element.texts[i] ?? '') === name) return element.texts[i + 1]?.trim();
  return undefined;
}

/** `0x1F`, `'h1F`, `8'b101`, `31`, `1K`; undefined where nothing is said; a problem where it is no number. */
function number(element: XmlElement, name: string, reader: Reader): number | undefined {
  const given = text(element, name);
  if (given === undefined || given === '') return undefined;
  const based = /^\d*'s?([hbdo])([0-9a-fA-F_]+)$/i.exec(given);
  const radix: Readonly<Record<string, number>> = { h: 16, b: 2, d: 10, o: 8 };
  const unit: Readonly<Record<string, number>> = { K: 1024, M: 1024 ** 2, G: 1024 ** 3 };
  const scaled = /^(\d+)([KMG])$/i.exec(given);
  const value = based
    ? Number.parseInt((based[2] ?? '').replace(/_/g, ''), radix[(based[1] ?? 'h').toLowerCase()])
    : scaled
      ? Number(scaled[1]) * (unit[(scaled[2] ?? 'K').toUpperCase()] ?? 1)
      : /^(0x[0-9a-f]+|\d+)$/i.test(given)
        ? Number(given)
        : Number.NaN;
  if (Number.isSafeInteger(value)) return value;
  complain(reader, element, `"${given.slice(0, 40)}" is no number`);
  return undefined;
}

const complain = (reader: Reader, element: Leafy, message: string): void =>
  reader.problems.push({ place: `${reader.name}:${element.line}:1`, message });

/** The elements of an IP-XACT component (IEEE 1685) → its registers: each address block is a peripheral. */
export function readIpXact(name: string, reading: Pick<XmlReading, 'result'>): Result<RegisterFile> {
  const root = reading.result();
  if (!root.ok) return root;
  const component = root.value;
  if (local(component.name) !== 'component')
    return fail({
      place: `${name}:${component.line}:1`,
      message: `this is no register description: the outermost element is "${component.name}"`,
    });
  const reader: Reader = { name, problems: collectProblems(), registers: 0 };
  const peripherals: PeripheralRegisters[] = [];
  for (const map of children(child(component, 'memoryMaps'), 'memoryMap')) {
    const blocks = [...children(map, 'addressBlock'), ...children(child(map, 'bank'), 'addressBlock')];
    for (const block of blocks) {
      const registers: FileRegister[] = [];
      const width = number(block, 'width', reader) ?? 32;
      const access = ACCESS[text(block, 'access') ?? ''] ?? 'read-write';
      registersOf(block, '', 0, { width, access }, registers, reader);
      const base = number(block, 'baseAddress', reader);
      if (base === undefined)
        complain(reader, block, `${text(block, 'name') ?? 'an address block'} has no baseAddress`);
      peripherals.push({
        name: text(block, 'name') ?? text(map, 'name') ?? '',
        description: words(text(block, 'description')),
        group: text(map, 'name') ?? '',
        base: base ?? 0,
        registers,
      });
    }
  }
  if (reader.problems.length > 0) return failWith(reader.problems.list());
  if (peripherals.length === 0)
    return fail({ place: name, message: 'the component has no address blocks with registers' });
  return ok({
    name: text(component, 'name') ?? '',
    description: words(text(component, 'description')),
    width: 32,
    endian: 'little',
    peripherals,
  });
}

const words = (given: string | undefined): string => (given ?? '').replace(/\s+/g, ' ').trim();

interface Level {
  width: number;
  access: SvdAccess;
}

function registersOf(
  container: XmlElement,
  prefix: string,
  base: number,
  level: Level,
  found: FileRegister[],
  reader: Reader,
): void {
  for (const element of container.children) {
    const kind = local(element.name);
    if (kind !== 'register' && kind !== 'registerFile') continue;
    const name = text(element, 'name') ?? '';
    const offset = number(element, 'addressOffset', reader);
    if (name === '' || offset === undefined) {
      complain(reader, element, `${name || `a ${kind}`} has no ${name === '' ? 'name' : 'addressOffset'}`);
      continue;
    }
    const bits = number(element, 'size', reader) ?? level.width;
    const step = kind === 'register' ? Math.ceil(bits / 8) : (number(element, 'range', reader) ?? 0);
    // Dimensions stand directly in the element, or in an array of their own.
    const dims = [...element.texts].flatMap((one, i, all) =>
      i % 2 === 0 && local(one) === 'dim' ? [Number(all[i + 1])] : [],
    );
    const array = child(element, 'array');
    const own = array ? number(array, 'dim', reader) : undefined;
    const count = own ?? (dims.length > 0 ? dims.reduce((product, one) => product * one, 1) : 1);
    if (!Number.isInteger(count) || count < 1 || reader.registers + count > LIMITS.fileRegisters) {
      complain(
        reader,
        element,
        `an array of ${count} cannot be: at most ${limitText('fileRegisters')} are taken`,
      );
      return;
    }
    const stride = (array && number(array, 'stride', reader)) ?? step;
    const access = ACCESS[text(element, 'access') ?? ''] ?? level.access;
    for (let at = 0; at < count; at++) {
      const title = prefix + name + (own !== undefined || dims.length > 0 ? String(at) : '');
      const place = base + offset + at * stride;
      if (kind === 'registerFile')
        registersOf(element, `${title}.`, place, { ...level, access }, found, reader);
      else {
        reader.registers++;
        const { fields, reset, unknown } = fieldsOf(element, reader);
        const whole = resetOf(element, reader);
        found.push({
          name: title,
          description: words(text(element, 'description') ?? text(element, 'displayName')),
          offset: place,
          bits,
          access,
          reset: whole ?? reset,
          ...(whole === undefined && unknown !== 0
            ? { resetMask: (maskOfBits(0, bits) & ~unknown) >>> 0 }
            : {}),
          fields,
          line: element.line,
        });
      }
    }
  }
}

/** `writeValueConstraint`: the only values that may be written. */
function allowedIn(field: XmlElement, reader: Reader): FileField['allowed'] {
  const constraint = child(field, 'writeValueConstraint');
  if (!constraint) return undefined;
  if (text(constraint, 'useEnumeratedValues') === 'true') return 'listed';
  const [from, to] = [number(constraint, 'minimum', reader), number(constraint, 'maximum', reader)];
  return from === undefined || to === undefined ? undefined : { from, to };
}

/** Reset of the whole register, as older versions of the standard have it. */
function resetOf(element: XmlElement, reader: Reader): number | undefined {
  const reset = child(element, 'reset') ?? child(child(element, 'resets'), 'reset');
  return reset && number(reset, 'value', reader);
}

/** `unknown`: bits of fields for which no reset value is given. */
function fieldsOf(
  register: XmlElement,
  reader: Reader,
): { fields: FileField[]; reset: number; unknown: number } {
  let reset = 0;
  let unknown = 0;
  const fields = children(register, 'field').flatMap((field): FileField[] => {
    const low = number(field, 'bitOffset', reader);
    const bits = number(field, 'bitWidth', reader) ?? 1;
    const name = text(field, 'name') ?? '';
    if (low === undefined) {
      complain(reader, field, `field ${name} says not where it is`);
      return [];
    }
    const value = resetOf(field, reader);
    reset += (value ?? 0) * 2 ** low;
    if (value === undefined) unknown = (unknown | maskOfBits(low, bits)) >>> 0;
    const access = ACCESS[text(field, 'access') ?? ''];
    const values = children(child(field, 'enumeratedValues'), 'enumeratedValue').flatMap(
      (one): FileValue[] => {
        const number = Number(text(one, 'value')?.replace(/^'h/, '0x'));
        const called = text(one, 'name');
        return called === undefined || !Number.isSafeInteger(number)
          ? []
          : [{ name: called, description: words(text(one, 'description')), value: number }];
      },
    );
    const given = text(field, 'modifiedWriteValue');
    const writes = given === undefined ? undefined : WRITE_EFFECTS.find((effect) => effect === given);
    const reads = readEffectOf(text(field, 'readAction'));
    const allowed = allowedIn(field, reader);
    return [
      {
        name,
        description: words(text(field, 'description')),
        low,
        bits,
        ...(access ? { access } : {}),
        ...(writes && writes !== 'modify' ? { writes } : {}),
        ...(reads ? { reads } : {}),
        ...(allowed ? { allowed } : {}),
        ...(values.length > 0 ? { values } : {}),
      },
    ];
  });
  return { fields, reset, unknown };
}
