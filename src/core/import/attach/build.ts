import { hexText } from '../../base/text/hex';
import type {
  BlockSource,
  EncodeSource,
  FieldSource,
  RecipeSource,
  StageSource,
} from '../../description/recipe';
import { MODES, SETTING_KEYS, type SettingKey, usualApplies } from '../../description/settings';
import type { Pad } from '../../description/types';
import { Blocks } from './blocks';
import type { FieldRoleChoice, GateChoice, Proposal } from './choices';
import type { FieldPlace } from './places';
import {
  type FieldRole,
  type FieldRoleKind,
  fieldName,
  ROLE_KINDS,
  type RoleValues,
  STAGES,
  type StageId,
} from './roles';

export interface AttachOptions {
  endian: 'little' | 'big';
  choices: readonly FieldRoleChoice[];
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
  { endian, choices, gates }: AttachOptions,
): BuiltRecipe {
  const chosen = chosenRoles(proposal, choices);
  const blocks = new Blocks(ports, pads);
  const fields = fieldsOf(chosen, blocks);
  const settings = settingsOf(chosen);
  const recipe: RecipeSource = {
    endian,
    settings,
    applies: usualApplies((key) => settings[key] !== undefined),
    ports: portColumns(ports, blocks, gates),
    registers: { blocks: [...blocks.sources(), ...gates.map(gateBlock)], ...guardsOf(blocks, gates) },
    fields,
    access: {
      ...(fields.latch ? { latch: 'latch' } : {}),
      ...(fields.level ? { level: 'level' } : {}),
    },
    encode: encodesOf(chosen, settings.mode ?? []),
    stages: [...gateStage(gates), ...stagesOf(chosen)],
  };
  return { recipe, padColumns: joined(blocks.padColumns(), columnsOfRoles(chosen, pads)) };
}

function joined(
  a: Record<string, Record<string, number>>,
  b: Record<string, Record<string, number>>,
): Record<string, Record<string, number>> {
  const all = { ...a };
  for (const [pad, columns] of Object.entries(b)) all[pad] = { ...all[pad], ...columns };
  return all;
}

/** A role for which there is a register. */
interface Chosen {
  kind: FieldRoleKind;
  place: FieldPlace;
  values: RoleValues;
}

function chosenRoles({ places }: Pick<Proposal, 'places'>, choices: readonly FieldRoleChoice[]): Chosen[] {
  const placeOf = new Map(places.map((place) => [place.id, place]));
  const byRole = new Map(choices.map((choice) => [choice.role, choice]));
  return ROLE_KINDS.flatMap((kind): Chosen[] => {
    const choice = byRole.get(kind.id);
    const place = placeOf.get(choice?.place ?? '');
    return choice && place ? [{ kind, place, values: choice.values }] : [];
  });
}

function fieldsOf(chosen: readonly Chosen[], blocks: Blocks): Record<string, FieldSource> {
  const fields: Record<string, FieldSource> = {};
  for (const { kind, place } of chosen) {
    if (kind.actsOnLatch) continue;
    const field = fieldOf(place, blocks);
    // A level among bits that are written is shown there, and nobody's to write.
    if (kind.access === 'read' && place.families[0]?.access === 'read-write')
      blocks.show(field.in ?? '', `bit ${place.low} = pad`);
    fields[fieldName(kind.id)] = place.missing?.length
      ? { ...field, has: `pad.${columnOf(kind.id)}` }
      : field;
  }
  const { latch } = fields;
  for (const { kind, place } of chosen) {
    // A register can only act on one beside it, in the same block.
    if (!kind.actsOnLatch || !latch || !blocks.besides(place, latch.in ?? '')) continue;
    const words = kind.actsOnLatch === 'both' ? 'set and clear' : kind.id;
    const register = blocks.enter(place, `${words} of ${latch.in?.split('.')[1]}`);
    if (kind.actsOnLatch !== 'both') latch[kind.actsOnLatch] = register;
    else Object.assign(latch, { setBy: register, clearedBy: register });
  }
  return fields;
}

/** A field where a place says: in one register, in a slice of several, or shown by one and changed by two others. */
function fieldOf(place: FieldPlace, blocks: Blocks): FieldSource {
  const { families, low, bits, setBy, clearedBy } = place;
  if (place.sliced) {
    const parts = families.map((family) => ({
      in: blocks.enter({ ...place, families: [family] }),
      at: low,
      bits: 1,
    }));
    return { parts };
  }
  const register = blocks.enter(place);
  const id = register.split('.')[1];
  return {
    in: register,
    at: low,
    bits,
    ...(setBy ? { setBy: blocks.enter({ ...place, families: [setBy] }, `set of ${id}`) } : {}),
    ...(clearedBy ? { clearedBy: blocks.enter({ ...place, families: [clearedBy] }, `clear of ${id}`) } : {}),
  };
}

/** The column of pads that says which of them have the bits of a role. */
const columnOf = (role: FieldRole): string => `has_${role.replaceAll('-', '_')}`;

/** Pads that have the bits of a role, where some have not: never a bit that a register lacks. */
function columnsOfRoles(
  chosen: readonly Chosen[],
  pads: readonly Pad[],
): Record<string, Record<string, number>> {
  const columns: Record<string, Record<string, number>> = {};
  for (const { kind, place } of chosen) {
    if (!place.missing?.length || kind.actsOnLatch) continue;
    const missing = new Set(place.missing.map(({ port, bit }) => `${port} ${bit}`));
    for (const pad of pads)
      if (!missing.has(`${pad.port} ${pad.bit}`))
        columns[pad.id] = { ...columns[pad.id], [columnOf(kind.id)]: 1 };
  }
  return columns;
}

/** The modes that registers give: a mode field says all of them itself. */
function modesOf(chosen: readonly Chosen[]): string[] {
  const mode = chosen.find((one) => one.kind.id === 'mode');
  const more = new Set(
    mode ? Object.keys(mode.values) : chosen.flatMap(({ kind, values }) => kind.modes?.(values) ?? []),
  );
  return MODES.filter((one) => one === 'input' || one === 'output' || more.has(one));
}

function settingsOf(chosen: readonly Chosen[]): RecipeSource['settings'] {
  const found = new Map<SettingKey, Set<string>>();
  for (const { kind, values } of chosen) {
    const setting = kind.setting?.(values);
    if (!setting || setting.values.length === 0) continue;
    found.set(setting.key, new Set([...(found.get(setting.key) ?? []), ...setting.values]));
  }
  return {
    mode: modesOf(chosen),
    ...Object.fromEntries(
      SETTING_KEYS.flatMap((key) => {
        const values = found.get(key);
        return values ? [[key, [...values]]] : [];
      }),
    ),
  };
}

function encodesOf(chosen: readonly Chosen[], modes: readonly string[]): EncodeSource[] {
  const roles = new Set(chosen.map((one) => one.kind.id));
  const context = { modes, has: (role: FieldRole) => roles.has(role) };
  return chosen.flatMap(({ kind, values }): EncodeSource[] => {
    const rule = kind.encode?.(values, context);
    return rule && Object.keys(rule.table).length > 0 ? [{ field: fieldName(kind.id), ...rule }] : [];
  });
}

function stagesOf(chosen: readonly Chosen[]): StageSource[] {
  return (Object.keys(STAGES) as StageId[]).flatMap((id): StageSource[] => {
    const fields = chosen
      .filter((one) => one.kind.stage === id)
      .sort((a, b) => (a.kind.turn ?? 0) - (b.kind.turn ?? 0))
      .map((one) => fieldName(one.kind.id));
    return fields.length > 0 ? [{ id, ...STAGES[id], fields }] : [];
  });
}

/** What a table of ports must say beside their names. */
function portColumns(
  ports: readonly string[],
  blocks: Blocks,
  gates: readonly GateChoice[],
): Record<string, Record<string, number>> {
  return Object.fromEntries(
    ports.map((port) => [
      port,
      {
        ...blocks.columnsOf(port),
        ...Object.fromEntries(gates.map((gate, index) => [gateColumn(index), gate.ports[port] ?? 0])),
      },
    ]),
  );
}

const gateName = (index: number): string => `GATE${index || ''}`;
const gateColumn = (index: number): string => `gate${index || ''}`;

const gateBlock = (gate: GateChoice, index: number): BlockSource => ({
  id: gateName(index),
  base: hexText(gate.address, 32),
  name: gateName(index),
  registers: [
    { id: 'ON', offset: '0', bits: gate.bits, reset: hexText(gate.reset, gate.bits), title: gate.register },
  ],
});

/** Registers of ports ignore writes while their clock is off. */
function guardsOf(blocks: Blocks, gates: readonly GateChoice[]): Pick<RecipeSource['registers'], 'guards'> {
  const guards = gates.flatMap((gate, index) =>
    blocks
      .sources()
      .filter((block) => block.each === 'port')
      .map((block) => ({
        block: block.id,
        openWhen: `${gateName(index)}.ON bit port.${gateColumn(index)}${gate.opensAt === 0 ? ' = 0' : ''}`,
      })),
  );
  return gates.length > 0 && blocks.sources().length > 0 ? { guards } : {};
}

function gateStage(gates: readonly GateChoice[]): StageSource[] {
  if (gates.length === 0) return [];
  return [
    {
      id: 'gate',
      title: 'clocks of the ports in use',
      why: 'a port without a clock ignores writes',
      per: 'port',
      do: gates.map(
        (gate, index) => `${gateName(index)}.ON bit port.${gateColumn(index)} := ${gate.opensAt}`,
      ),
    },
  ];
}
