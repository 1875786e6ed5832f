import { append } from '../../base/lists';
import type { FileField, FileValue } from '../../description/register-file';
import type { RegisterFamily } from './port-registers';

/** Where a field of every pad could be: so many bits at a regular distance in a register of the port, or of the pad. */
export interface FieldPlace {
  id: string;
  /** One register, or those of an array in order. */
  families: RegisterFamily[];
  /** Lowest bit, as an expression in `b`. */
  low: string;
  /** Which register of the array, as an expression in `b`; absent for a single one. */
  index?: string;
  bits: number;
  /** "16 fields of 2 bits": what speaks for it, by its shape alone. */
  shape: string;
  /** Whether the file says the shape, or it is only possible. */
  told: boolean;
  /** One register for each bit of the field, lowest first: a code whose bits stand in registers of their own. */
  sliced?: true;
  /** It may be one of those. */
  sliceOf?: true;
  /** Registers by which its bits are set and cleared, where the one it is read in can only be read. */
  setBy?: RegisterFamily;
  clearedBy?: RegisterFamily;
  /** Pads whose register has no such bits, by the file's own fields. */
  missing?: readonly { port: string; bit: number }[];
  /** What the file says that its numbers mean. */
  values?: readonly FileValue[];
  /** What the file says of it: of the field where the register is the pad's own, else of the register. */
  words: { name: string; text: string };
}

/** All places that registers of ports and pads offer. `width` is the number of bits of the widest port. */
export function placesOf(families: readonly RegisterFamily[], width: number): FieldPlace[] {
  const places: FieldPlace[] = [];
  for (const family of families) {
    if (family.each === 'pad') append(places, padPlaces(family));
    else append(places, portPlaces(family, width));
  }
  for (const array of arraysOf(families)) append(places, arrayPlaces(array, width));
  append(places, triplePlaces(families, width));
  const slices = new Set(places.flatMap((one) => (one.sliced ? one.families : [])));
  for (const one of places)
    if (!one.sliced && one.families.length === 1 && one.families.some((family) => slices.has(family)))
      one.sliceOf = true;
  return places;
}

/** What a field's numbers mean, where the file says the same of all pads that have it. */
const valuesOf = (fields: readonly FileField[]): FieldPlace['values'] =>
  fields.find((one) => one.values !== undefined)?.values;

/** Pads for which the file lists no field where the shape would put one: bits that the register has not. */
function missingBits(family: RegisterFamily, shape: Uniform, width: number): FieldPlace['missing'] {
  if (family.each !== 'port') return [];
  return [...family.members].flatMap(([port, { register }]) =>
    register.fields.length === 0
      ? []
      : Array.from({ length: width }, (_, bit) => bit)
          .filter((bit) => !register.fields.some((one) => one.low === shape.first + bit * shape.stride))
          .map((bit) => ({ port, bit })),
  );
}

/** How registers are called that set, clear and show what a third one holds, and the stem that they have in common. */
const TRIPLE: readonly (readonly [RegExp, RegExp, RegExp])[] = [
  [/_?(ENABLE|EN|ON)$/i, /_?(DISABLE|DIS|OFF)$/i, /_?(STATUS|STATE|STAT|ST)$/i],
  [/_?(SET|S)$/i, /_?(CLEAR|CLR|C)$/i, /_?(STATUS|STATE|STAT|ST|R|)$/i],
];

/** Three registers that do one thing: writing 1 to one enables, to another disables, and the third one shows what holds. */
function triplePlaces(families: readonly RegisterFamily[], width: number): FieldPlace[] {
  const written = families.filter((one) => one.access === 'write-only');
  const shown = families.filter((one) => one.access === 'read-only' && !one.readActs);
  return TRIPLE.flatMap(([on, off, status]) =>
    written.flatMap((setBy): FieldPlace[] => {
      const stem = on.test(setBy.template) ? setBy.template.replace(on, '') : undefined;
      const withStem = (one: RegisterFamily, ending: RegExp): boolean =>
        one.each === setBy.each && ending.test(one.template) && one.template.replace(ending, '') === stem;
      if (stem === undefined || stem.endsWith('.')) return [];
      const clearedBy = written.find((one) => one !== setBy && withStem(one, off));
      const family = shown.find((one) => withStem(one, status));
      if (!clearedBy || !family) return [];
      return portPlaces(family, width).map((place) => ({
        ...place,
        id: `${setBy.template} ${place.id}`,
        shape: `${place.shape}, set by ${setBy.id}, cleared by ${clearedBy.id}, shown by ${family.id}`,
        told: true,
        setBy,
        clearedBy,
        words: {
          name: `${family.id} ${setBy.id}`,
          text: `${family.description} ${setBy.description} ${clearedBy.description}`,
        },
      }));
    }),
  );
}

const fieldsOf = (family: RegisterFamily): FileField[] => {
  // The port with the most pads tells the shape best.
  const lists = [...family.members.values()].map((one) => one.register.fields);
  return lists.sort((a, b) => b.length - a.length)[0] ?? [];
};

interface Uniform {
  bits: number;
  stride: number;
  first: number;
}

/** Fields of one width at equal distances; undefined when they are not. */
function uniform(fields: readonly FileField[]): Uniform | undefined {
  const sorted = [...fields].sort((a, b) => a.low - b.low);
  const bits = sorted[0]?.bits;
  if (bits === undefined || sorted.length < 2 || sorted.some((one) => one.bits !== bits)) return undefined;
  let stride = 0;
  for (let i = 1; i < sorted.length; i++)
    stride = gcd(stride, (sorted[i]?.low ?? 0) - (sorted[i - 1]?.low ?? 0));
  if (stride < bits) return undefined;
  return { bits, stride, first: (sorted[0]?.low ?? 0) % stride };
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

const times = (stride: number, what: string, first: number): string => {
  const product = stride === 1 ? what : `${stride}*${what}`;
  return first === 0 ? product : `${product} + ${first}`;
};

const fieldWords = (count: number, bits: number): string =>
  `${count} field${count === 1 ? '' : 's'} of ${bits} bit${bits === 1 ? '' : 's'}`;

/** What the file says of the fields beyond their places. */
function withSaid(
  family: RegisterFamily,
  shape: Uniform,
  width: number,
): Pick<FieldPlace, 'values' | 'missing'> {
  const values = valuesOf(fieldsOf(family));
  const missing = missingBits(family, shape, width) ?? [];
  return { ...(values ? { values } : {}), ...(missing.length > 0 ? { missing } : {}) };
}

const wordsOf = (family: RegisterFamily): FieldPlace['words'] => ({
  name: family.id,
  text: family.description,
});

function portPlaces(family: RegisterFamily, width: number): FieldPlace[] {
  const shape = uniform(fieldsOf(family));
  if (shape) {
    const { bits, stride, first } = shape;
    const room = Math.floor((family.bits - first - bits) / stride) + 1;
    // Too few for the port: a part of an array, which is looked at as a whole.
    if (room < width && fieldsOf(family).length < width) return [];
    return [
      {
        id: `${family.template} ${bits}`,
        families: [family],
        low: times(stride, 'b', first),
        bits,
        shape: fieldWords(Math.min(room, width), bits),
        told: true,
        ...withSaid(family, shape, width),
        words: wordsOf(family),
      },
    ];
  }
  if (fieldsOf(family).length > 1) return [];
  return [1, 2, 4].flatMap((bits): FieldPlace[] =>
    width * bits > family.bits
      ? []
      : [
          {
            id: `${family.template} ${bits}`,
            families: [family],
            low: times(bits, 'b', 0),
            bits,
            shape: `room for ${fieldWords(width, bits)}`,
            told: false,
            words: wordsOf(family),
          },
        ],
  );
}

/** One register a pad: each of its fields is a place. */
function padPlaces(family: RegisterFamily): FieldPlace[] {
  return fieldsOf(family).map((field) => ({
    id: `${family.template} ${field.name}`,
    families: [family],
    low: String(field.low),
    bits: field.bits,
    shape: `${field.name}, ${field.bits} bit${field.bits === 1 ? '' : 's'} in a register of the pad`,
    told: true,
    ...(field.values ? { values: field.values } : {}),
    words: { name: field.name, text: field.description },
  }));
}

/** The last word of an array's register, that counts: a number, or low and high. */
const COUNTING = /_?(?:\[?(\d+)\]?|(L|H)|(LOW|HIGH|LO|HI))$/;

/** Families whose names differ in a last number only, which counts up from 0 or 1, or in low and high: a register array. */
function arraysOf(families: readonly RegisterFamily[]): RegisterFamily[][] {
  const groups = new Map<string, { index: number; family: RegisterFamily }[]>();
  for (const family of families) {
    const match = COUNTING.exec(family.template);
    const stem = match ? family.template.slice(0, match.index) : '';
    if (!match || family.each !== 'port' || stem === '' || stem.endsWith('.') || stem.endsWith('{}'))
      continue;
    const word = match[2] ?? match[3];
    const index = word === undefined ? Number(match[1]) : word.startsWith('L') ? 0 : 1;
    const key = `${stem} ${word === undefined ? '' : 'by half'}`;
    const group = groups.get(key) ?? [];
    group.push({ index, family });
    groups.set(key, group);
  }
  return [...groups.values()].flatMap((group) => {
    const sorted = group.sort((a, b) => a.index - b.index);
    const first = sorted[0]?.index ?? 0;
    const runs = sorted.every((one, i) => one.index === first + i);
    const same = sorted.every((one) => one.family.bits === sorted[0]?.family.bits);
    return runs && same && sorted.length > 1 && first <= 1 ? [sorted.map((one) => one.family)] : [];
  });
}

function arrayPlaces(array: RegisterFamily[], width: number): FieldPlace[] {
  const first = array[0] as RegisterFamily;
  const stem = first.template.replace(COUNTING, '');
  const shape = uniform(fieldsOf(first));
  // Each of the registers reaches all pads: every one holds one bit of a code.
  const whole = shape ? shape.bits === 1 && fieldsOf(first).length >= width : first.bits < 2 * width;
  if (whole && first.bits >= width && array.length <= 4) {
    return [
      {
        id: `${stem}… slices`,
        families: array,
        low: times(shape?.stride ?? 1, 'b', shape?.first ?? 0),
        bits: array.length,
        sliced: true,
        shape: `${array.length} bits, one in each of ${array.length} registers`,
        told: shape !== undefined,
        words: wordsOf(first),
      },
    ];
  }
  if (shape) {
    const each = Math.floor((first.bits - shape.first - shape.bits) / shape.stride) + 1;
    if (each * array.length < width) return [];
    return [
      {
        id: `${stem}… ${shape.bits}`,
        families: array,
        low: times(shape.stride, `(b%${each})`, shape.first),
        index: `b/${each}`,
        bits: shape.bits,
        shape: `${fieldWords(each, shape.bits)} in each of ${array.length} registers`,
        told: true,
        ...(valuesOf(fieldsOf(first)) ? { values: valuesOf(fieldsOf(first)) } : {}),
        words: wordsOf(first),
      },
    ];
  }
  const fields = fieldsOf(first);
  // As many registers as pads: one configuration word a pad.
  if (array.length >= width && fields.length > 0) {
    return fields.map((field) => ({
      id: `${stem}… ${field.name}`,
      families: array,
      low: String(field.low),
      index: 'b',
      bits: field.bits,
      shape: `${field.name}, ${field.bits} bit${field.bits === 1 ? '' : 's'} in a register of the pad`,
      told: true,
      ...(field.values ? { values: field.values } : {}),
      words: { name: field.name, text: field.description },
    }));
  }
  return [2, 3, 4, 8].flatMap((bits): FieldPlace[] => {
    const each = Math.floor(first.bits / bits);
    if (each * array.length < width || fields.length > 1) return [];
    return [
      {
        id: `${stem}… ${bits}`,
        families: array,
        low: times(bits, `(b%${each})`, 0),
        index: `b/${each}`,
        bits,
        shape: `room for ${fieldWords(each, bits)} in each of ${array.length} registers`,
        told: false,
        words: wordsOf(first),
      },
    ];
  });
}

/** Name of a place for people: `PORT{}.MODE` → `PORT*.MODE`. */
export function placeTitle(place: FieldPlace): string {
  const first = place.families[0]?.template ?? '';
  const name = first.replace('{}', '*');
  const shown = place.families.length > 1 ? `${name} … ${place.families.length} registers` : name;
  return `${shown}: ${place.shape}`;
}
