import type { Pad } from '../device/types';
import { hexText } from '../recipe/register-text';
import type {
  BlockSource,
  EncodeSource,
  FieldSource,
  RecipeSource,
  RegisterSource,
  ResetSource,
  StageSource,
} from '../recipe/types';
import type { SettingKey } from '../settings';
import type { Place } from './places';
import type { Member, RegisterFamily } from './port-registers';
import type { GateChoice, Proposal, RoleChoice, RoleId } from './roles';

export interface AttachOptions {
  endian: 'little' | 'big';
  choices: readonly RoleChoice[];
  gates: readonly GateChoice[];
}

/** A recipe, and the numbers that it needs with each pad where registers of pads follow no rule. */
export interface BuiltRecipe {
  recipe: RecipeSource;
  padColumns: Record<string, Record<string, number>>;
}

/** The user's choices → a recipe. What does not go together is found when the description is loaded. */
export function buildRecipe(
  proposal: Pick<Proposal, 'places'>,
  ports: readonly string[],
  pads: readonly Pad[],
  options: AttachOptions,
): BuiltRecipe {
  const placeOf = new Map(proposal.places.map((place) => [place.id, place]));
  const chosen = new Map<RoleId, { choice: RoleChoice; place: Place }>();
  for (const choice of options.choices) {
    const place = choice.place === null ? undefined : placeOf.get(choice.place);
    if (place) chosen.set(choice.role, { choice, place });
  }
  const blocks = new Blocks(ports, pads);
  const fields: Record<string, FieldSource> = {};
  for (const [role, { place }] of chosen) {
    if (role === 'set' || role === 'clear') continue;
    fields[fieldName(role)] = { in: blocks.enter(place), at: place.low, bits: place.bits };
  }
  const latch = fields.latch;
  for (const role of ['set', 'clear'] as const) {
    const one = chosen.get(role);
    // A register can only act on one beside it, in the same block.
    if (!one || !latch || !blocks.besides(one.place, latch.in ?? '')) continue;
    latch[role === 'set' ? 'set by' : 'cleared by'] = blocks.enter(
      one.place,
      `${role} of ${latch.in?.split('.')[1]}`,
    );
  }
  const settings = settingsFor(chosen);
  const portColumns: Record<string, Record<string, number>> = Object.fromEntries(
    ports.map((port) => [port, blocks.columnsOf(port)]),
  );
  options.gates.forEach((gate, index) => {
    for (const port of ports) {
      const column = portColumns[port];
      if (column) column[`gate${index || ''}`] = gate.ports[port] ?? 0;
    }
  });
  const recipe: RecipeSource = {
    endian: options.endian,
    settings,
    applies: appliesFor(settings),
    ports: portColumns,
    registers: {
      blocks: [...blocks.sources(), ...options.gates.map(gateBlock)],
      ...(options.gates.length > 0 && blocks.sources().length > 0
        ? {
            guards: options.gates.flatMap((gate, index) =>
              blocks
                .sources()
                .filter((block) => block.each === 'port')
                .map((block) => ({
                  block: block.id,
                  'open when': `${gateName(index)}.ON bit port.gate${index || ''}${gate.opensAt === 0 ? ' = 0' : ''}`,
                })),
            ),
          }
        : {}),
    },
    fields,
    access: {
      ...(latch ? { latch: 'latch' } : {}),
      ...(fields.level ? { level: 'level' } : {}),
    },
    encode: encodeFor(chosen, settings),
    stages: stagesFor(chosen, options.gates),
  };
  return { recipe, padColumns: blocks.padColumns() };
}

const fieldName = (role: RoleId): string => role.replace('-', '_');
const gateName = (index: number): string => `GATE${index || ''}`;

const gateBlock = (gate: GateChoice, index: number): BlockSource => ({
  id: gateName(index),
  base: hexText(gate.address, 32),
  name: gateName(index),
  registers: [
    { id: 'ON', offset: '0', bits: gate.bits, reset: hexText(gate.reset, gate.bits), title: gate.register },
  ],
});

/** Registers gathered into blocks: those whose addresses keep the same distance for all ports (or pads) share one. */
class Blocks {
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
  enter(place: Place, access?: string): string {
    const first = place.families[0] as RegisterFamily;
    const key = place.families.map((one) => one.template).join(' ');
    const known = this.entered.get(key);
    if (known !== undefined) return known;
    const block = this.blockFor(first);
    const base = block.bases;
    const [anyKey, anyMember] = [...first.members][0] as [string, Member];
    const offset = anyMember.address - (base.get(anyKey) ?? 0);
    const stem = place.families.length > 1 ? first.id.replace(/_?\d+$/, '') || first.id : first.id;
    const id = freeName(stem, block.source.registers);
    const step = stepOf(place.families);
    const source: RegisterSource = {
      id,
      offset: place.families.length > 1 ? `${hexText(offset, 8)} + ${step}*i` : hexText(offset, 8),
      bits: first.bits,
      ...(place.families.length > 1 ? { count: place.families.length, index: place.index ?? '0' } : {}),
      ...resetOf(place.families),
      ...((access ?? accessOf(first)) ? { access: access ?? accessOf(first) } : {}),
      ...(first.access === 'read-only' ? { follows: 'pads' } : {}),
      ...(first.description ? { title: first.description.slice(0, 400) } : {}),
    };
    block.source.registers.push(source);
    const name = `${block.source.id}.${id}`;
    this.entered.set(key, name);
    return name;
  }

  /** Whether a place would come to stand in the block of a register that is entered already. */
  besides(place: Place, register: string): boolean {
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
  return Math.min(...addresses.map((one) => one % 0x100));
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

function freeName(stem: string, taken: readonly RegisterSource[]): string {
  let name = stem;
  for (let n = 2; taken.some((one) => one.id === name); n++) name = `${stem}_${n}`;
  return name;
}

function stepOf(families: readonly RegisterFamily[]): number {
  const [a, b] = families;
  const key = [...(a?.members.keys() ?? [])][0] ?? '';
  return (b?.members.get(key)?.address ?? 0) - (a?.members.get(key)?.address ?? 0) || 4;
}

/** Reset values: one when all are the same, else by port with the most common for the rest. */
function resetOf(families: readonly RegisterFamily[]): { reset?: ResetSource } {
  const first = families[0] as RegisterFamily;
  const text = (value: number): string => hexText(value, first.bits);
  const lists = new Map<string, number[]>();
  for (const key of first.members.keys())
    lists.set(
      key,
      families.map((one) => one.members.get(key)?.reset ?? 0),
    );
  const distinct = new Set([...lists.values()].map((list) => list.join()));
  const any = [...lists.values()][0] ?? [0];
  if (distinct.size === 1) {
    if (any.every((value) => value === any[0])) return any[0] === 0 ? {} : { reset: text(any[0] ?? 0) };
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

type Chosen = ReadonlyMap<RoleId, { choice: RoleChoice; place: Place }>;

function settingsFor(chosen: Chosen): RecipeSource['settings'] {
  const mode = chosen.get('mode')?.choice.values;
  const canRoute = mode ? mode.function !== undefined : chosen.has('code') || chosen.has('function');
  const canAnalog = mode ? mode.analog !== undefined : chosen.has('analog') || chosen.has('digital');
  const use = ['input', 'output', ...(canRoute ? ['function'] : []), ...(canAnalog ? ['analog'] : [])];
  const words = (role: RoleId): string[] | undefined => {
    const one = chosen.get(role);
    return one && Object.keys(one.choice.values);
  };
  const split = [
    'none',
    ...(chosen.has('pull-up') ? ['up'] : []),
    ...(chosen.has('pull-down') ? ['down'] : []),
  ];
  const pull = words('pull') ?? (split.length > 1 ? split : undefined);
  const optional: [SettingKey, string[] | undefined][] = [
    ['buffer', words('buffer')],
    ['pull', pull],
    ['drive', words('drive')],
    ['slew', words('slew')],
    ['threshold', words('threshold')],
    ['level', chosen.has('latch') ? ['low', 'high'] : undefined],
  ];
  return {
    use,
    ...Object.fromEntries(optional.filter(([, values]) => values !== undefined && values.length > 0)),
  };
}

function appliesFor(settings: RecipeSource['settings']): RecipeSource['applies'] {
  const keep = (keys: SettingKey[]): SettingKey[] => keys.filter((key) => settings[key] !== undefined);
  return {
    input: keep(['pull', 'threshold']),
    output: keep(['level', 'buffer', 'drive', 'slew']),
    function: keep(['buffer', 'pull', 'drive', 'slew', 'threshold']),
    analog: [],
  };
}

function encodeFor(chosen: Chosen, settings: RecipeSource['settings']): EncodeSource[] {
  const rules: EncodeSource[] = [];
  const add = (role: RoleId, from: EncodeSource['from'], table: EncodeSource['table']): void => {
    if (chosen.has(role) && Object.keys(table).length > 0)
      rules.push({ field: fieldName(role), from, table });
  };
  const values = (role: RoleId): Record<string, number> => chosen.get(role)?.choice.values ?? {};
  const uses = settings.use ?? [];
  const onlyUsed = (table: Record<string, number>): Record<string, number> =>
    Object.fromEntries(Object.entries(table).filter(([key]) => uses.includes(key)));
  add('mode', ['use'], onlyUsed(values('mode')));
  const direction = values('direction');
  if (chosen.has('direction')) {
    const routes = uses.includes('function');
    add('direction', ['use', ...(routes ? (['line'] as const) : [])], {
      ...(routes
        ? {
            'output *': direction.output ?? 1,
            'function out|both': direction.output ?? 1,
            '*': direction.input ?? 0,
          }
        : { output: direction.output ?? 1, '*': direction.input ?? 0 }),
    });
  }
  if (uses.includes('function')) {
    const plain = values('function');
    add('function', ['use'], { function: plain.function ?? 1, '*': plain.plain ?? 0 });
    add('code', ['use'], { function: 'm', '*': chosen.has('mode') || chosen.has('function') ? 'keep' : 0 });
  }
  if (uses.includes('analog')) {
    add('analog', ['use'], { analog: values('analog').on ?? 1, '*': values('analog').off ?? 0 });
    add('digital', ['use'], { analog: values('digital').off ?? 0, '*': values('digital').on ?? 1 });
  }
  add('pull', ['pull'], values('pull'));
  add('pull-up', ['pull'], { up: values('pull-up').on ?? 1, '*': values('pull-up').off ?? 0 });
  add('pull-down', ['pull'], { down: values('pull-down').on ?? 1, '*': values('pull-down').off ?? 0 });
  for (const role of ['buffer', 'drive', 'slew', 'threshold'] as const) add(role, [role], values(role));
  add('latch', ['use', 'level'], { 'output high': 1, 'output low': 0, '*': 'keep' });
  return rules;
}

function stagesFor(chosen: Chosen, gates: readonly GateChoice[]): StageSource[] {
  const stage = (id: string, title: string, roles: RoleId[], why?: string): StageSource[] => {
    const fields = roles.filter((role) => chosen.has(role)).map(fieldName);
    return fields.length > 0 ? [{ id, title, ...(why ? { why } : {}), fields }] : [];
  };
  return [
    ...(gates.length > 0
      ? [
          {
            id: 'gate',
            title: 'clocks of the ports in use',
            why: 'a port without a clock ignores writes',
            per: 'port' as const,
            do: gates.map(
              (gate, index) => `${gateName(index)}.ON bit port.gate${index || ''} := ${gate.opensAt}`,
            ),
          },
        ]
      : []),
    ...stage(
      'latch',
      'output levels',
      ['latch'],
      'before direction, so that no output starts at the wrong level',
    ),
    ...stage('electrical', 'pulls, buffers, drive', [
      'pull',
      'pull-up',
      'pull-down',
      'buffer',
      'drive',
      'slew',
      'threshold',
    ]),
    ...stage('route', 'function codes', ['code'], 'before the pad is handed to its function'),
    ...stage('direction', 'what each pad is', ['digital', 'analog', 'function', 'direction', 'mode']),
  ];
}
