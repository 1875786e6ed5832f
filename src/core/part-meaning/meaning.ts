import { hexText } from '../base/text/hex';
import { listed } from '../base/text/listed';
import { figureOf, meantBy, titleOf, valueSays } from '../description/meanings';
import { type SettingKey, meaningOf as usualMeaning } from '../description/settings';
import { sourceText } from '../description/source';
import { clauseLines } from '../device/clauses/clause-lines';
import type { Device } from '../device/device';
import { eachFieldPlace, fieldPlaces } from '../device/field-places';
import { addressTexts, behaviourText } from '../device/registers/register-text';
import { heldBits, type Register } from '../device/registers/types';

/**
 * What a name in a part's text means, worked out from the part that the text describes: for people who look from the text to the data sheet.
 * Plain data, so that it can be worked out in a worker.
 */
export interface Meaning {
  heading: string;
  /** In the words of the document. */
  says?: string;
  facts: { name: string; value: string }[];
  /** Line by line, in the part's own language. */
  lines: string[];
  /** The bits of one register, from the highest on. */
  bits?: { register: string; cells: BitCell[] };
  /** Registers whose writes can be tried. */
  registers: string[];
}

export interface BitCell {
  bit: number;
  reset: '0' | '1' | '?';
  /** Field and pad that the bit belongs to; several where it is shared. */
  field?: string;
  pads?: string;
}

const MOST = 6;

const instancesOf = (device: Device, block: string, id: string): Register[] =>
  device.registers.all.filter((register) => register.block === block && register.id === id);

function cellsOf(device: Device, register: Register): BitCell[] {
  const places = fieldPlaces(device).get(register) ?? [];
  const pads = new Map<number, Set<string>>();
  for (const { pad, slot } of eachFieldPlace(device))
    if (slot.register === register)
      for (let bit = slot.low; bit < slot.low + slot.bits; bit++)
        pads.set(bit, (pads.get(bit) ?? new Set<string>()).add(pad));
  return Array.from({ length: heldBits(register) }, (_, at) => {
    const bit = heldBits(register) - 1 - at;
    const place = places.find(({ slot }) => slot.low <= bit && bit < slot.low + slot.bits);
    const isUnknown = ((register.unknownReset >>> bit) & 1) === 1;
    return {
      bit,
      reset: isUnknown ? '?' : ((register.reset >>> bit) & 1) === 1 ? '1' : '0',
      ...(place ? { field: place.field, pads: listed([...(pads.get(bit) ?? [])], 3) } : {}),
    };
  });
}

function ofRegister(device: Device, block: string, id: string): Meaning | undefined {
  const instances = instancesOf(device, block, id);
  const [first] = instances;
  if (!first) return undefined;
  const { recipe } = device.description;
  const source = recipe.registers.blocks
    .find((each) => each.id === block)
    ?.registers.find((each) => each.id === id);
  const addresses = addressTexts(first, recipe).map(({ view, hex, decimal }) => ({
    name: view,
    value: `${hex} (${decimal})`,
  }));
  const lines = first.clauses
    ? clauseLines(device.registers, first)
    : [behaviourText({ ...first, title: '' }), ...clauseLines(device.registers, first)];
  return {
    heading: `${block}.${id}`,
    ...(first.title ? { says: first.title } : {}),
    facts: [
      {
        name: 'is',
        value:
          instances.length === 1
            ? first.name
            : `${listed(
                instances.map(({ name }) => name),
                MOST,
              )}`,
      },
      ...addresses,
      { name: 'width', value: `${first.width ?? first.bits} bits` },
      {
        name: 'reset',
        value:
          first.unknownReset === 0
            ? hexText(first.reset, first.bits)
            : `${hexText(first.reset, first.bits)}, unknown in ${hexText(first.unknownReset, first.bits)}`,
      },
      ...(source?.source ? [{ name: 'source', value: sourceText(source.source) }] : []),
    ],
    lines: [...new Set(lines.filter(Boolean))],
    bits: { register: first.name, cells: cellsOf(device, first) },
    registers: instances.slice(0, 40).map(({ name }) => name),
  };
}

function ofField(device: Device, id: string): Meaning | undefined {
  const { recipe } = device.description;
  const source = Object.hasOwn(recipe.fields, id) ? recipe.fields[id] : undefined;
  if (!source) return undefined;
  const places: string[] = [];
  let first: Register | undefined;
  let count = 0;
  for (const { field, pad, fn, slot } of eachFieldPlace(device)) {
    if (field !== id) continue;
    count++;
    first ??= slot.register;
    const high = slot.low + slot.bits - 1;
    const bits = slot.bits === 1 ? `bit ${slot.low}` : `bits ${high} to ${slot.low}`;
    if (places.length < MOST)
      places.push(`${pad}${fn ? ` as ${fn.signal}` : ''}: ${slot.register.name} ${bits}`);
  }
  const tables = recipe.encode.filter(({ field }) => field === id);
  const rows = tables.flatMap(({ from, table }) =>
    Object.entries(table).map(([words, value]) => `${from.join(' ')} = ${words} → ${value}`),
  );
  const stages = recipe.stages.filter(({ fields }) => fields?.includes(id)).map((stage) => stage.id);
  const roles = Object.entries(recipe.access).filter(([, field]) => field === id);
  return {
    heading: `field ${id}`,
    facts: [
      { name: 'written in', value: stages.length === 0 ? 'no stage' : `stage ${stages.join(', ')}` },
      ...(roles.length === 0 ? [] : [{ name: 'for code', value: roles.map(([role]) => role).join(', ') }]),
      { name: 'places', value: count === 0 ? 'none' : `${count}` },
    ],
    lines: [...places, ...(count > MOST ? [`… and ${count - MOST} more`] : []), ...rows],
    ...(first ? { bits: { register: first.name, cells: cellsOf(device, first) } } : {}),
    registers: first ? [first.name] : [],
  };
}

function ofSetting(device: Device, key: SettingKey): Meaning | undefined {
  const { recipe } = device.description;
  const values = recipe.settings[key];
  if (!values) return undefined;
  const words = values.map((value) => {
    const is = meantBy(recipe, key, value);
    const figure = (['ohms', 'milliamps', 'hertz'] as const)
      .map((unit) => figureOf(recipe, key, value, unit))
      .find(Boolean);
    const says = valueSays(recipe, key, value) ?? usualMeaning(key, is ?? value);
    return [
      value,
      ...(is && is !== value ? [`is ${is}`] : []),
      ...(figure ? [String(figure)] : []),
      ...(says ? [says] : []),
    ].join(': ');
  });
  const fields = recipe.encode.filter(({ from }) => from.includes(key)).map(({ field }) => field);
  const modes = Object.entries(recipe.applies).filter(([, keys]) => keys?.includes(key));
  return {
    heading: `setting ${titleOf(recipe, key)}`,
    facts: [
      ...(modes.length === 0
        ? []
        : [{ name: 'means something as', value: modes.map(([mode]) => mode).join(', ') }]),
      { name: 'decides fields', value: fields.length === 0 ? 'none' : fields.join(', ') },
    ],
    lines: words,
    registers: [],
  };
}

function ofBlock(device: Device, id: string): Meaning | undefined {
  const block = device.description.recipe.registers.blocks.find((each) => each.id === id);
  if (!block) return undefined;
  const all = device.registers.all.filter(
    (register) => register.block === id && register.access.kind !== 'internal',
  );
  const addresses = all.map(({ address }) => address);
  return {
    heading: `block ${id}`,
    facts: [
      { name: 'for each', value: block.each ?? 'the part, once' },
      { name: 'registers', value: String(all.length) },
      ...(addresses.length === 0
        ? []
        : [
            {
              name: 'from … to',
              value: `${hexText(Math.min(...addresses), 32)} … ${hexText(Math.max(...addresses), 32)}`,
            },
          ]),
    ],
    lines: all.slice(0, 24).map((register) => `${hexText(register.address, 32)}  ${register.name}`),
    registers: [],
  };
}

function ofStage(device: Device, id: string): Meaning | undefined {
  const { stages } = device.description.recipe;
  const at = stages.findIndex((stage) => stage.id === id);
  const stage = stages[at];
  if (!stage) return undefined;
  return {
    heading: `stage ${id}`,
    ...(stage.title ? { says: stage.title } : {}),
    facts: [
      { name: 'order', value: `${at + 1} of ${stages.length}` },
      { name: 'done', value: `once for each ${stage.per ?? 'device'}`.replace('each device', 'the part') },
      ...(stage.why ? [{ name: 'because', value: stage.why }] : []),
    ],
    lines: [
      ...(stage.do ?? []),
      ...(stage.fields?.length ? [`writes ${stage.fields.join(', ')}`] : []),
      ...(stage.after ?? []).map((step) => `after: ${step}`),
    ],
    registers: [],
  };
}

function ofPad(device: Device, id: string): Meaning | undefined {
  const pad = device.pads.get(id);
  if (!pad) return undefined;
  const functions = (device.functionsByPad.get(id) ?? []).map(({ signal, mux }) => `${mux ?? '–'} ${signal}`);
  const places = [...eachFieldPlace(device)]
    .filter((place) => place.pad === id && !place.fn)
    .map(({ field, slot }) => `${field}: ${slot.register.name} bit ${slot.low}`);
  return {
    heading: `pad ${id}`,
    facts: [
      { name: 'kind', value: pad.kind },
      ...(pad.class ? [{ name: 'class', value: pad.class }] : []),
      ...(functions.length ? [{ name: 'functions', value: listed(functions, 12) }] : []),
    ],
    lines: places,
    registers: [],
  };
}

/** By the key of a name: `register PORT.OUT`, `field dir`. Undefined where nothing more is known of it. */
export function meaningOf(device: Device, key: string): Meaning | undefined {
  const blank = key.indexOf(' ');
  const [role, name] = [key.slice(0, blank), key.slice(blank + 1)];
  switch (role) {
    case 'register': {
      const dot = name.indexOf('.');
      return ofRegister(device, name.slice(0, dot), name.slice(dot + 1));
    }
    case 'field':
      return ofField(device, name);
    case 'setting':
      return ofSetting(device, name as SettingKey);
    case 'value':
      return ofSetting(device, name.slice(0, name.lastIndexOf('.')) as SettingKey);
    case 'block':
      return ofBlock(device, name);
    case 'stage':
      return ofStage(device, name);
    case 'pad':
      return ofPad(device, name);
    default:
      return undefined;
  }
}
