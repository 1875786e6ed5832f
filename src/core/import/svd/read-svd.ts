import { LIMITS, limitText } from '../../base/limits';
import { collectProblems, type Problems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import type { Meter } from '../../base/text/scan';
import {
  type FileField,
  type FileRegister,
  type FileValue,
  type PeripheralRegisters,
  type ReadEffect,
  type RegisterFile,
  readEffectOf,
  SVD_ACCESS,
  type SvdAccess,
  WRITE_EFFECTS,
  type WriteEffect,
} from '../../description/register-file';
import { childText, type Leafy, readXml, type XmlElement, type XmlReading } from './xml';

/** Reads a CMSIS-SVD file in one go. */
export function readSvd(name: string, text: string, meter?: Meter): Result<RegisterFile> {
  const reading = openSvd(name, text, meter);
  while (reading.step());
  return reading.result();
}

/** A CMSIS-SVD file read piece by piece: between two pieces one can say how far it is, or stop. */
export interface SvdReading extends Pick<XmlReading, 'step' | 'done'> {
  result(): Result<RegisterFile>;
}

export function openSvd(name: string, text: string, meter: Meter = { steps: 0 }): SvdReading {
  meter.steps += text.length;
  const reader: Reader = {
    name,
    problems: collectProblems(),
    registers: 0,
    copies: 0,
    fields: 0,
    read: new Map(),
    byName: new Map(),
    meter,
  };
  // Fields are most of a file; each becomes what is kept of it as soon as it has been read.
  const reading = readXml(name, text, { name: 'field', fold: (element) => fieldsFrom(element, reader) });
  return { step: reading.step, done: reading.done, result: () => registersIn(reading, reader) };
}

/** What registers inherit from the levels above them. */
interface Defaults {
  size: number;
  access: SvdAccess;
  reset: number;
  resetMask: number | undefined;
}

interface Reader {
  name: string;
  problems: Problems;
  registers: number;
  /** Copies of peripherals, clusters and registers that arrays made, also of those that are empty. */
  copies: number;
  fields: number;
  /** Registers and clusters of a container by name, for `derivedFrom`. */
  byName: Map<XmlElement, Map<string, XmlElement>>;
  meter: Meter;
  read: Map<XmlElement, { level: Defaults; registers: FileRegister[] }>;
}

/** The elements of a CMSIS-SVD file → its registers: `derivedFrom`, `dim` arrays, clusters and inherited values worked out. */
function registersIn(reading: XmlReading, reader: Reader): Result<RegisterFile> {
  const root = reading.result();
  if (!root.ok) return root;
  const device = root.value;
  if (device.name !== 'device') {
    const message = `this is no register description: the outermost element is "${device.name}", not "device"`;
    return fail({ place: `${reader.name}:${device.line}:1`, message });
  }
  const defaults = inherit(
    device,
    { size: 32, access: 'read-write', reset: 0, resetMask: undefined },
    reader,
  );
  const elements = childrenOf(device, 'peripherals', 'peripheral');
  const byName = new Map(elements.map((one) => [childText(one, 'name') ?? '', one]));
  const chains = derivations(elements, byName, reader);
  const peripherals: PeripheralRegisters[] = [];
  for (const one of elements) {
    if (reader.problems.full) break;
    for (const copy of peripheralsOf(one, chains, defaults, reader)) peripherals.push(copy);
  }
  if (reader.problems.length > 0) return failWith(reader.problems.list());
  const endian = childText(findChild(device, 'cpu') ?? device, 'endian');
  return ok({
    name: childText(device, 'name') ?? '',
    description: words(childText(device, 'description')),
    width: number(device, 'width', reader) ?? 32,
    endian: endian === 'big' ? 'big' : 'little',
    peripherals,
  });
}

const words = (text: string | undefined): string =>
  text === undefined ? '' : /[\t\n\r]|\s\s/.test(text) ? text.replace(/\s+/g, ' ') : text;

const findChild = (element: XmlElement, name: string): XmlElement | undefined =>
  element.children.find((child) => child.name === name);

const childrenOf = (element: XmlElement, group: string, name: string): XmlElement[] =>
  findChild(element, group)?.children.filter((child) => child.name === name) ?? [];

function complain(reader: Reader, element: Leafy, message: string): void {
  reader.problems.push({ place: `${reader.name}:${element.line}:1`, message });
}

/** The format's numbers: 12, 0x1F, 0b101, #101, #10xx (x: any, read as 0), with an optional plus. Undefined (and a problem) when it is none. */
function numberFrom(text: string, element: Leafy, reader: Reader): number | undefined {
  const bare = text.replace(/^\+/, '');
  const binary = /^(?:#|0[bB])([01xX]+)$/.exec(bare)?.[1];
  const plain = binary === undefined ? bare : `0b${binary.replace(/[xX]/g, '0')}`;
  const value = /^(0[xX][0-9a-fA-F]+|0[bB][01]+|\d+)$/.test(plain) ? Number(plain) : Number.NaN;
  if (Number.isSafeInteger(value)) return value;
  complain(reader, element, `"${text.slice(0, 40)}" is no number`);
  return undefined;
}

function number(element: Leafy, name: string, reader: Reader): number | undefined {
  const text = childText(element, name);
  return text === undefined || text === '' ? undefined : numberFrom(text, element, reader);
}

function inherit(element: Leafy, from: Defaults, reader: Reader): Defaults {
  const access = childText(element, 'access');
  const known = SVD_ACCESS.find((one) => one === access);
  if (access !== undefined && !known)
    complain(reader, element, `access "${access.slice(0, 40)}" is not known`);
  return {
    size: number(element, 'size', reader) ?? from.size,
    access: known ?? from.access,
    reset: number(element, 'resetValue', reader) ?? from.reset,
    resetMask: number(element, 'resetMask', reader) ?? from.resetMask,
  };
}

/** The names and steps of an array: `dim`, `dimIncrement`, `dimIndex`; a single one with its plain name otherwise. */
function copiesOf(element: Leafy, reader: Reader): { name: string; step: number }[] {
  const name = childText(element, 'name') ?? element.attributes.derivedFrom ?? '';
  if (!name) complain(reader, element, `a ${element.name} has no name`);
  const dim = number(element, 'dim', reader);
  if (dim === undefined) return [{ name, step: 0 }];
  const increment = number(element, 'dimIncrement', reader) ?? 0;
  if (dim < 1 || dim > LIMITS.fileRegisters) {
    complain(reader, element, `an array of ${dim} cannot be`);
    return [];
  }
  reader.copies += dim;
  reader.meter.steps += dim;
  if (reader.copies > 2 * LIMITS.fileRegisters) {
    complain(
      reader,
      element,
      `its arrays make too many copies: at most ${limitText('fileRegisters')} are taken`,
    );
    return [];
  }
  const indices = indicesOf(childText(element, 'dimIndex'), dim);
  if (indices.length !== dim) {
    complain(reader, element, `dimIndex names ${indices.length} of ${dim}`);
    return [];
  }
  const template = name.includes('%s') ? name : `${name}%s`;
  return indices.map((index, i) => ({
    name: template.replace('[%s]', index).replace('%s', index),
    step: i * increment,
  }));
}

function indicesOf(text: string | undefined, dim: number): string[] {
  if (!text) return Array.from({ length: dim }, (_, i) => String(i));
  const range = /^(\d+|[A-Z])-(\d+|[A-Z])$/.exec(text);
  if (!range) return text.split(',').map((one) => one.trim());
  const [first = '', last = ''] = [range[1], range[2]];
  const code = (one: string): number => (/\d/.test(one) ? Number(one) : one.charCodeAt(0));
  const count = Math.min(LIMITS.fileRegisters, code(last) - code(first) + 1);
  return Array.from({ length: Math.max(0, count) }, (_, i) =>
    /\d/.test(first) ? String(Number(first) + i) : String.fromCharCode(code(first) + i),
  );
}

function peripheralsOf(
  element: XmlElement,
  chains: ReadonlyMap<XmlElement, XmlElement[]>,
  defaults: Defaults,
  reader: Reader,
): PeripheralRegisters[] {
  const from = element.attributes.derivedFrom;
  const chain = chains.get(element) ?? [];
  reader.meter.steps += 1 + chain.length;
  const of = (name: string): string | undefined =>
    [element, ...chain].map((one) => childText(one, name)).find((text) => text !== undefined);
  const own = [...chain].reverse().reduce((level, one) => inherit(one, level, reader), defaults);
  const level = inherit(element, own, reader);
  const base = number(element, 'baseAddress', reader);
  if (base === undefined)
    complain(reader, element, `${childText(element, 'name') ?? 'a peripheral'} has no baseAddress`);
  const container = [element, ...chain].map((one) => findChild(one, 'registers')).find((one) => one);
  const registers = container ? sharedRegisters(container, level, reader) : [];
  return copiesOf(element, reader).map(({ name, step }) => ({
    name,
    description: words(of('description')),
    group: of('groupName') ?? '',
    base: (base ?? 0) + step,
    ...(from === undefined ? {} : { derivedFrom: from }),
    registers,
  }));
}

/** Peripherals that are derived without changing anything have the very registers of their model. */
function sharedRegisters(container: XmlElement, level: Defaults, reader: Reader): FileRegister[] {
  const known = reader.read.get(container);
  if (
    known &&
    known.level.size === level.size &&
    known.level.access === level.access &&
    known.level.reset === level.reset &&
    known.level.resetMask === level.resetMask
  )
    return known.registers;
  const registers = registersOf(container, '', 0, level, reader);
  reader.read.set(container, { level, registers });
  return registers;
}

/** Real files derive from a peripheral that is written out; longer chains only serve to be long. */
const LONGEST_CHAIN = 16;

/** For each peripheral those it is derived from, nearest first. */
function derivations(
  elements: readonly XmlElement[],
  byName: ReadonlyMap<string, XmlElement>,
  reader: Reader,
): Map<XmlElement, XmlElement[]> {
  const chains = new Map<XmlElement, XmlElement[]>();
  for (const element of elements) {
    if (element.attributes.derivedFrom === undefined) continue;
    const chain: XmlElement[] = [];
    for (let from: string | undefined = element.attributes.derivedFrom; from !== undefined; ) {
      reader.meter.steps++;
      const next = byName.get(from);
      const wrong = !next
        ? `there is no "${from.slice(0, 80)}" to derive from`
        : chain.includes(next) || next === element
          ? `${from.slice(0, 80)} is derived from itself`
          : chain.length >= LONGEST_CHAIN
            ? `is derived over more than ${LONGEST_CHAIN} others`
            : undefined;
      if (!next || wrong) {
        complain(reader, element, wrong ?? '');
        break;
      }
      chain.push(next);
      from = next.attributes.derivedFrom;
    }
    chains.set(element, chain);
  }
  return chains;
}

/** Registers and clusters of a container, in file order, with offsets from the peripheral's base. */
function registersOf(
  container: XmlElement,
  prefix: string,
  base: number,
  level: Defaults,
  reader: Reader,
): FileRegister[] {
  const found: FileRegister[] = [];
  for (const element of container.children) {
    reader.meter.steps++;
    if (element.name !== 'register' && element.name !== 'cluster') continue;
    if (reader.problems.full || reader.registers > LIMITS.fileRegisters) return found;
    const source = derived(element, container, reader);
    const own = inherit(element, source === element ? level : inherit(source, level, reader), reader);
    const offset = number(element, 'addressOffset', reader) ?? number(source, 'addressOffset', reader);
    if (offset === undefined)
      complain(reader, element, `${childText(element, 'name') ?? 'a register'} has no addressOffset`);
    const fields = fieldsOf(findChild(element, 'fields') ?? findChild(source, 'fields'));
    const effects = { ...effectsOf(source), ...effectsOf(element) };
    const alternate = childText(element, 'alternateRegister');
    for (const { name, step } of copiesOf(element, reader)) {
      const at = base + (offset ?? 0) + step;
      if (element.name === 'cluster') {
        // An array of clusters makes copies of what is in it; each costs a look at the elements.
        reader.copies += source.children.length;
        if (reader.copies > 8 * LIMITS.fileRegisters || reader.problems.full) {
          complain(reader, element, `more than ${limitText('fileRegisters')} in its arrays`);
          return found;
        }
        for (const one of registersOf(source, `${prefix}${name}.`, at, own, reader)) found.push(one);
        continue;
      }
      if (++reader.registers > LIMITS.fileRegisters) {
        complain(reader, element, `more than ${limitText('fileRegisters')}`);
        return found;
      }
      found.push({
        name: prefix + name,
        description: words(childText(element, 'description') ?? childText(source, 'description')),
        offset: at,
        bits: own.size,
        access: own.access,
        reset: own.reset,
        ...(own.resetMask === undefined ? {} : { resetMask: own.resetMask }),
        ...effects,
        ...(alternate === undefined ? {} : { aliasOf: alternate }),
        fields,
        line: element.line,
      });
    }
  }
  return found;
}

/** The element that one takes its missing parts from: its sibling named in `derivedFrom`, or itself. */
function derived(element: XmlElement, container: XmlElement, reader: Reader): XmlElement {
  const from = element.attributes.derivedFrom;
  if (from === undefined) return element;
  const name = from.slice(from.lastIndexOf('.') + 1);
  let named = reader.byName.get(container);
  if (!named) {
    named = new Map();
    for (const one of container.children) {
      reader.meter.steps++;
      const key = `${one.name} ${childText(one, 'name')}`;
      if (!named.has(key)) named.set(key, one);
    }
    reader.byName.set(container, named);
  }
  const found = named.get(`${element.name} ${name}`);
  if (!found || found === element) {
    complain(reader, element, `there is no "${from.slice(0, 80)}" to derive from`);
    return element;
  }
  return found;
}

const flattened = new WeakMap<XmlElement, FileField[]>();

/** The fields of a register; copies of an array and derived peripherals share them. */
function fieldsOf(container: XmlElement | undefined): FileField[] {
  if (!container) return [];
  let fields = flattened.get(container);
  if (!fields) {
    fields = [];
    for (const one of container.folded as (FileField | FileField[])[]) {
      if (Array.isArray(one)) for (const each of one) fields.push(each);
      else fields.push(one);
    }
    flattened.set(container, fields);
  }
  return fields;
}

/** What writing and reading do beside storing and showing. */
function effectsOf(element: Leafy): { writes?: WriteEffect; reads?: ReadEffect } {
  const given = childText(element, 'modifiedWriteValues');
  const writes = given === undefined ? undefined : WRITE_EFFECTS.find((effect) => effect === given);
  const reads = readEffectOf(childText(element, 'readAction'));
  return { ...(writes && writes !== 'modify' ? { writes } : {}), ...(reads ? { reads } : {}) };
}

/** `writeConstraint`: the only values that may be written. */
function allowedIn(element: XmlElement): FileField['allowed'] {
  const constraint = element.children.find(({ name }) => name === 'writeConstraint');
  if (!constraint) return undefined;
  if (childText(constraint, 'useEnumeratedValues') === 'true') return 'listed';
  const range = constraint.children.find(({ name }) => name === 'range');
  const [from, to] = ['minimum', 'maximum'].map((key) =>
    Number((range && childText(range, key)) ?? Number.NaN),
  );
  return Number.isSafeInteger(from) && Number.isSafeInteger(to)
    ? { from: from as number, to: to as number }
    : undefined;
}

/** More values than that are a table of their own, which says nothing of what a register is for. */
const MOST_VALUES = 64;

/** What the numbers of a field mean; those for reading where the file tells them apart. Values that are no numbers are left out. */
function valuesOf(element: XmlElement): FileValue[] {
  const lists = element.children.filter((one) => one.name === 'enumeratedValues');
  const list = lists.find((one) => childText(one, 'usage') !== 'write') ?? lists[0];
  return (list?.children ?? []).slice(0, MOST_VALUES).flatMap((one): FileValue[] => {
    const text = childText(one, 'value');
    const name = childText(one, 'name');
    if (one.name !== 'enumeratedValue' || text === undefined || name === undefined) return [];
    const plain = text.replace(/^\+/, '').replace(/^#/, '0b');
    if (!/^(0[xX][0-9a-fA-F]+|0[bB][01]+|\d+)$/.test(plain)) return [];
    return [{ name, description: words(childText(one, 'description')), value: Number(plain) }];
  });
}

/** One field, or those of an array. */
function fieldsFrom(element: XmlElement, reader: Reader): FileField | FileField[] {
  const place = placeOf(element, reader);
  if (!place) return [];
  const told = childText(element, 'access');
  const access = told === undefined ? undefined : SVD_ACCESS.find((one) => one === told);
  const description = words(childText(element, 'description'));
  const { writes, reads } = effectsOf(element);
  const allowed = element.children.length > 0 ? allowedIn(element) : undefined;
  const values = element.children.length > 0 ? valuesOf(element) : [];
  const make = (name: string, step: number): FileField => {
    reader.fields++;
    const field: FileField = { name, description, low: place.low + step, bits: place.bits };
    if (access) field.access = access;
    if (writes) field.writes = writes;
    if (reads) field.reads = reads;
    if (allowed) field.allowed = allowed;
    if (values.length > 0) field.values = values;
    return field;
  };
  const name = childText(element, 'name');
  if (reader.fields > LIMITS.fileFields) {
    complain(reader, element, `more than ${limitText('fileFields')}`);
    return [];
  }
  if (name && childText(element, 'dim') === undefined) return make(name, 0);
  return copiesOf(element, reader).map((one) => make(one.name, one.step));
}

/** A field's place in any of the three ways of writing it. */
function placeOf(element: Leafy, reader: Reader): { low: number; bits: number } | undefined {
  const range = childText(element, 'bitRange');
  const match = range === undefined ? null : /^\[(\d+):(\d+)\]$/.exec(range);
  if (match) return { low: Number(match[2]), bits: Number(match[1]) - Number(match[2]) + 1 };
  const lsb = number(element, 'lsb', reader);
  const msb = number(element, 'msb', reader);
  if (lsb !== undefined && msb !== undefined) return { low: lsb, bits: msb - lsb + 1 };
  const offset = number(element, 'bitOffset', reader);
  if (offset !== undefined) return { low: offset, bits: number(element, 'bitWidth', reader) ?? 1 };
  complain(reader, element, `field ${childText(element, 'name') ?? ''} says not where it is`);
  return undefined;
}
