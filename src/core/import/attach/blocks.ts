import { smallest } from '../../base/lists';
import { freeName } from '../../base/text/free-name';
import { hexText } from '../../base/text/hex';
import type { BlockSource, RegisterSource, ResetSource } from '../../description/recipe';
import type { Pad } from '../../description/types';
import type { FieldPlace } from './places';
import type { Member, RegisterFamily } from './port-registers';

/** Registers gathered into blocks: those whose addresses keep the same distance for all ports (or pads) share one. */
export class Blocks {
  private readonly blocks: {
    source: BlockSource;
    each: 'port' | 'pad';
    bases: Map<string, number>;
    column: string;
  }[] = [];
  private readonly entered = new Map<string, string>();

  constructor(
    private readonly ports: readonly string[],
    private readonly pads: readonly Pad[],
  ) {}

  sources(): BlockSource[] {
    return this.blocks.map((one) => one.source);
  }

  padColumns(): Record<string, Record<string, number>> {
    const columns: Record<string, Record<string, number>> = {};
    for (const { each, column, bases } of this.blocks) {
      if (each !== 'pad' || column === '') continue;
      for (const [pad, base] of bases) columns[pad] = { ...columns[pad], [column]: base };
    }
    return columns;
  }

  columnsOf(port: string): Record<string, number> {
    return Object.fromEntries(
      this.blocks
        .filter((one) => one.each === 'port' && one.column !== '')
        .map((one) => [one.column, one.bases.get(port) ?? 0]),
    );
  }

  /** The register of a place, as a field names it; entered into a block when it is new. */
  enter(place: FieldPlace, access?: string): string {
    const first = place.families[0] as RegisterFamily;
    const key = place.families.map((one) => one.template).join(' ');
    const known = this.entered.get(key);
    if (known !== undefined) return known;
    const block = this.blockFor(first);
    const base = block.bases;
    const [anyKey, anyMember] = [...first.members][0] as [string, Member];
    const offset = anyMember.address - (base.get(anyKey) ?? 0);
    const stem =
      place.families.length > 1
        ? first.id.replace(/_(L|H|LOW|HIGH|LO|HI)$|_?\d+$/, '') || first.id
        : first.id;
    const id = freeName(stem, (name) => block.source.registers.some((one) => one.id === name));
    const step = stepOf(place.families);
    const source: RegisterSource = {
      id,
      offset:
        place.families.length > 1
          ? `${hexText(offset, 8)} ${step < 0 ? '-' : '+'} ${Math.abs(step)}*i`
          : hexText(offset, 8),
      bits: first.bits,
      ...(place.families.length > 1 ? { count: place.families.length, index: place.index ?? '0' } : {}),
      ...resetOf(place.families),
      ...((access ?? accessOf(first)) ? { access: access ?? accessOf(first) } : {}),
      ...(first.access === 'read-only' && !place.setBy ? { follows: 'pads' } : {}),
      ...(first.description ? { title: first.description.slice(0, 400) } : {}),
    };
    block.source.registers.push(source);
    const name = `${block.source.id}.${id}`;
    this.entered.set(key, name);
    return name;
  }

  /** Says of an entered register that one of its bits shows something. */
  show(register: string, text: string): void {
    const [block, id] = register.split('.');
    const source = this.blocks
      .find((one) => one.source.id === block)
      ?.source.registers.find((one) => one.id === id);
    if (source) source.shows = [...(source.shows ?? []), text];
  }

  /** Whether a place would come to stand in the block of a register that is entered already. */
  besides(place: FieldPlace, register: string): boolean {
    const block = this.blocks.find((one) => one.source.id === register.split('.')[0]);
    return block !== undefined && this.fits(block, place.families[0] as RegisterFamily);
  }

  private fits(block: (typeof this.blocks)[number], family: RegisterFamily): boolean {
    if (block.each !== family.each) return false;
    const distances = new Set(
      [...family.members].map(([key, one]) => one.address - (block.bases.get(key) ?? Number.NaN)),
    );
    const [only] = distances;
    return distances.size === 1 && only !== undefined && only >= 0 && only < 0x10000;
  }

  private blockFor(family: RegisterFamily) {
    const addresses = new Map([...family.members].map(([key, one]) => [key, one.address]));
    const fits = this.blocks.find((block) => this.fits(block, family));
    if (fits) return fits;
    const number = this.blocks.length;
    const id = number === 0 ? 'PORT' : `PORT${number + 1}`;
    const low = baseOf(family);
    const keys = family.each === 'port' ? this.ports : this.pads.map((pad) => pad.id);
    const bases = new Map(
      keys
        .map((key) => [key, (addresses.get(key) ?? 0) - low] as const)
        .filter(([key]) => addresses.has(key)),
    );
    const regular = regularBase(keys, bases, family.each === 'port' ? 'p' : 'n');
    const column = regular === undefined ? `base${number || ''}` : '';
    const source: BlockSource = {
      id: family.each === 'pad' ? `PAD${number || ''}` : id,
      each: family.each,
      base: regular ?? `${family.each}.${column}`,
      name:
        number === 0 ? `${family.each === 'port' ? 'P{port}' : '{pad}'}` : `P${number + 1}_{${family.each}}`,
      registers: [],
    };
    const block = { source, each: family.each, bases, column };
    this.blocks.push(block);
    return block;
  }
}

/** Where a block begins: the family's own address rounded down, so that registers in front of it fit as well. */
const baseOf = (family: RegisterFamily): number => {
  const addresses = [...family.members.values()].map((one) => one.address);
  return smallest(addresses.map((one) => one % 0x100));
};

/** `0x5000 + 0x100*p` when the bases follow a rule; undefined when they do not. */
function regularBase(
  keys: readonly string[],
  bases: ReadonlyMap<string, number>,
  counter: 'p' | 'n',
): string | undefined {
  const first = bases.get(keys[0] ?? '');
  if (first === undefined) return undefined;
  if (keys.length === 1) return hexText(first, 32);
  const step = (bases.get(keys[1] ?? '') ?? Number.NaN) - first;
  const regular = keys.every((key, index) => bases.get(key) === first + index * step);
  // `n` counts pads with a port, in table order; `p` counts ports.
  return regular && step > 0 ? `${hexText(first, 32)} + ${hexText(step, 8)}*${counter}` : undefined;
}

function stepOf(families: readonly RegisterFamily[]): number {
  const [a, b] = families;
  const key = [...(a?.members.keys() ?? [])][0] ?? '';
  return (b?.members.get(key)?.address ?? 0) - (a?.members.get(key)?.address ?? 0) || 4;
}

/** Reset values: one when all are the same, else by port with the most common for the rest. */
function resetOf(families: readonly RegisterFamily[]): { reset?: ResetSource } {
  const first = families[0] as RegisterFamily;
  // Bits of which the file gives no reset value; the mask of the first register speaks for all.
  const given = [...first.members.values()][0]?.register.resetMask;
  const unknown = given === undefined ? 0 : (~given & (first.bits === 32 ? -1 : 2 ** first.bits - 1)) >>> 0;
  const text = (value: number): string =>
    unknown === 0
      ? hexText(value, first.bits)
      : `${hexText((value & ~unknown) >>> 0, first.bits)} unknown in ${hexText(unknown, first.bits)}`;
  const lists = new Map<string, number[]>();
  for (const key of first.members.keys())
    lists.set(
      key,
      families.map((one) => one.members.get(key)?.reset ?? 0),
    );
  const distinct = new Set([...lists.values()].map((list) => list.join()));
  const any = [...lists.values()][0] ?? [0];
  if (distinct.size === 1) {
    if (any.every((value) => value === any[0]))
      return any[0] === 0 && unknown === 0 ? {} : { reset: text(any[0] ?? 0) };
    return { reset: { '*': any.map(text) } };
  }
  const one = families.length === 1;
  return {
    reset: {
      ...Object.fromEntries(
        [...lists].map(([key, list]) => [key, one ? text(list[0] ?? 0) : list.map(text)]),
      ),
      '*': one ? text(0) : families.map(() => text(0)),
    },
  };
}

function accessOf(family: RegisterFamily): string | undefined {
  switch (family.access) {
    case 'read-only':
      return 'read';
    case 'write-only':
      return 'write';
    default:
      return undefined;
  }
}
