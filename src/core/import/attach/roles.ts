import type { EncodeSource } from '../../description/recipe';
import type { WriteEffect } from '../../description/register-file';
import type { OneFieldKey, SettingKey } from '../../description/settings';

/** Numbers by the words of a role's values. */
export type RoleValues = Readonly<Record<string, number>>;

/** What is known of a part's other roles when one of them is put into a recipe. */
export interface RoleContext {
  /** The modes that the part's registers give. */
  modes: readonly string[];
  has(role: FieldRole): boolean;
}

type RoleNumbers = Omit<EncodeSource, 'field'>;

/**
 * All that makes a role of a field of the port hardware: how registers are recognised that hold it, what its values mean, which
 * settings the part has because of it, which numbers it gets, and when it is written. One entry is all there is to a role.
 */
export interface FieldRoleSpec {
  title: string;
  /** Names of the values, with what they most often are. Empty for roles whose values are fixed. */
  values: RoleValues;
  /** Values may be named by the user (a part's own drive strengths). */
  free?: true;
  /** How wide its field can be. */
  bits: readonly number[];
  access: 'write' | 'read' | 'act';
  words: RegExp;
  /** Words that speak against it. */
  not?: RegExp;
  /** Roles that do the same work: where this one is found, they are not looked for. */
  insteadOf?: readonly FieldRole[];
  /** Modes a pad has because of it. A `mode` field says of itself which. */
  modes?(values: RoleValues): readonly string[];
  /** A setting the part has because of it, and its values. */
  setting?(values: RoleValues): { key: SettingKey; values: readonly string[] };
  /** Numbers by what the plan wants; undefined where the part has no use for it. */
  encode?(values: RoleValues, context: RoleContext): RoleNumbers | undefined;
  /**
   * When it is written, and the how-manieth in its stage where that matters; absent for what firmware only reads, or writes
   * through another field.
   */
  stage?: StageId;
  turn?: number;
  /** It acts on the bits of the latch: its register is named there. */
  actsOnLatch?: 'setBy' | 'clearedBy' | 'toggledBy' | 'both';
  /** What the format says of a register that acts so. */
  effect?: WriteEffect;
}

/** Stages of initialisation in their order. */
export const STAGES = {
  latch: { title: 'output levels', why: 'before direction, so that no output starts at the wrong level' },
  electrical: { title: 'pulls, buffers, drive' },
  route: { title: 'function codes', why: 'before the pad is handed to its function' },
  /** First who may listen, then who drives. */
  direction: { title: 'what each pad is' },
} as const satisfies Record<string, { title: string; why?: string }>;
export type StageId = keyof typeof STAGES;

export type FieldRole =
  | 'mode'
  | 'direction'
  | 'function'
  | 'code'
  | 'analog'
  | 'digital'
  | 'pull'
  | 'pull-up'
  | 'pull-down'
  | 'pull-on'
  | 'pull-way'
  | 'latch'
  | 'set'
  | 'clear'
  | 'toggle'
  | 'halves'
  | 'level'
  | OneFieldKey;

/** A setting that is one field: each of its values is a number there. */
const oneField = (
  key: OneFieldKey,
  rest: Pick<FieldRoleSpec, 'title' | 'values' | 'free' | 'bits' | 'words' | 'not'>,
): FieldRoleSpec => ({
  ...rest,
  access: 'write',
  setting: (values) => ({ key, values: Object.keys(values) }),
  encode: (values) => ({ from: [key], table: { ...values } }),
  stage: 'electrical',
});

/** A resistor with a bit of its own. */
const oneResistor = (to: 'up' | 'down', words: RegExp): FieldRoleSpec => ({
  title: `pull-${to}`,
  values: { off: 0, on: 1 },
  bits: [1],
  access: 'write',
  words,
  setting: () => ({ key: 'pull', values: ['none', to] }),
  encode: ({ on = 1, off = 0 }) => ({ from: ['pull'], table: { [to]: on, '*': off } }),
  stage: 'electrical',
});

/** In the order in which registers are looked for. */
const ROLES: { readonly [Id in FieldRole]: FieldRoleSpec } = {
  mode: {
    title: 'mode of the pad',
    values: { input: 0, output: 1, function: 2, analog: 3 },
    bits: [2, 3, 4],
    access: 'write',
    words: /\bmode|\buse\b|used as/,
    not: /function code|mux/,
    insteadOf: ['direction', 'function'],
    encode: (values, { modes }) => ({
      from: ['mode'],
      table: Object.fromEntries(Object.entries(values).filter(([mode]) => modes.includes(mode))),
    }),
    stage: 'direction',
    turn: 5,
  },
  direction: {
    title: 'direction',
    values: { input: 0, output: 1 },
    bits: [1],
    access: 'write',
    words: /direction|output enable|\bdir|\boe\b|driver on/,
    encode: ({ output = 1, input = 0 }, { modes }): RoleNumbers =>
      modes.includes('function')
        ? { from: ['mode', 'line'], table: { 'output *': output, 'function out|both': output, '*': input } }
        : { from: ['mode'], table: { output, '*': input } },
    stage: 'direction',
    turn: 4,
  },
  function: {
    title: 'function instead of plain port',
    values: { plain: 0, function: 1 },
    bits: [1],
    access: 'write',
    words: /function|alternate|\balt\b/,
    not: /code/,
    modes: () => ['function'],
    encode: ({ plain = 0, function: routed = 1 }, { modes }) =>
      modes.includes('function') ? { from: ['mode'], table: { function: routed, '*': plain } } : undefined,
    stage: 'direction',
    turn: 3,
  },
  code: {
    title: 'function code',
    values: {},
    bits: [2, 3, 4, 5, 6, 7, 8],
    access: 'write',
    words: /function|mux|code|route|\bfn\d*\b|alternate|select/,
    modes: () => ['function'],
    // What else says that a pad is no function's leaves the code alone; where nothing does, code 0 is the plain port.
    encode: (_, { modes, has }) =>
      modes.includes('function')
        ? { from: ['mode'], table: { function: 'm', '*': has('mode') || has('function') ? 'keep' : 0 } }
        : undefined,
    stage: 'route',
  },
  analog: {
    title: 'analog switch',
    values: { off: 0, on: 1 },
    bits: [1],
    access: 'write',
    words: /analog/,
    not: /digital/,
    modes: () => ['analog'],
    encode: ({ on = 1, off = 0 }, { modes }) =>
      modes.includes('analog') ? { from: ['mode'], table: { analog: on, '*': off } } : undefined,
    stage: 'direction',
    turn: 2,
  },
  digital: {
    title: 'digital input stage',
    values: { off: 0, on: 1 },
    bits: [1],
    access: 'write',
    words: /digital/,
    modes: () => ['analog'],
    encode: ({ on = 1, off = 0 }, { modes }) =>
      modes.includes('analog') ? { from: ['mode'], table: { analog: off, '*': on } } : undefined,
    stage: 'direction',
    turn: 1,
  },
  pull: {
    title: 'pull',
    values: { none: 0, up: 1, down: 2 },
    bits: [2, 3],
    access: 'write',
    words: /pull/,
    insteadOf: ['pull-up', 'pull-down'],
    setting: (values) => ({ key: 'pull', values: Object.keys(values) }),
    encode: (values) => ({ from: ['pull'], table: { ...values } }),
    stage: 'electrical',
  },
  'pull-on': {
    title: 'pull on',
    values: { off: 0, on: 1 },
    bits: [1],
    access: 'write',
    words: /pull.*(enable|on\b)|(enable|on\b).*pull/,
    not: /pull.?(up|down)\b(?!.*or)/,
    insteadOf: ['pull-up', 'pull-down'],
    setting: () => ({ key: 'pull', values: ['none', 'up', 'down'] }),
    encode: ({ on = 1, off = 0 }) => ({ from: ['pull'], table: { none: off, 'up|down': on } }),
    stage: 'electrical',
    turn: 2,
  },
  'pull-way': {
    title: 'pull up or down',
    values: { down: 0, up: 1 },
    bits: [1],
    access: 'write',
    words: /pull.*(select|direction|up or down|polarity)/,
    encode: ({ up = 1, down = 0 }) => ({ from: ['pull'], table: { up, down, none: 'keep' } }),
    stage: 'electrical',
    turn: 1,
  },
  'pull-up': oneResistor('up', /pull.?up|\bup\b/),
  'pull-down': oneResistor('down', /pull.?down|\bdown\b/),
  latch: {
    title: 'output latch',
    values: {},
    bits: [1],
    access: 'write',
    words: /latch|output level|output data|output value|\bout\b|level driven/,
    not: /enable|direction|open/,
    setting: () => ({ key: 'level', values: ['low', 'high'] }),
    encode: () => ({ from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } }),
    stage: 'latch',
  },
  halves: {
    title: 'sets latch bits by its lower half and clears them by its upper one',
    values: {},
    bits: [1],
    access: 'act',
    insteadOf: ['set', 'clear'],
    words: /set.*(reset|clear)|upper half|halves/,
    actsOnLatch: 'both',
  },
  set: {
    title: 'sets latch bits',
    values: {},
    bits: [1],
    access: 'act',
    words: /\bsets?\b|outs\b|writing 1 sets/,
    not: /clears/,
    actsOnLatch: 'setBy',
    effect: 'oneToSet',
  },
  clear: {
    title: 'clears latch bits',
    values: {},
    bits: [1],
    access: 'act',
    words: /clear|outc\b|writing 1 clears/,
    not: /pending|flag|interrupt/,
    actsOnLatch: 'clearedBy',
    effect: 'oneToClear',
  },
  toggle: {
    title: 'toggles latch bits',
    values: {},
    bits: [1],
    access: 'act',
    words: /toggle|invert|flip/,
    not: /polarity|input/,
    actsOnLatch: 'toggledBy',
    effect: 'oneToToggle',
  },
  level: {
    title: 'level at the pad',
    values: {},
    bits: [1],
    access: 'read',
    words: /level|input|\bin\b|pads/,
  },
  outputType: oneField('outputType', {
    title: 'output type',
    values: { 'push-pull': 0, 'open-drain': 1 },
    bits: [1],
    words: /open.?drain|buffer|output type|\bopen\b/,
  }),
  drive: oneField('drive', {
    title: 'drive strength',
    values: { 'drive-0': 0, 'drive-1': 1, 'drive-2': 2, 'drive-3': 3 },
    free: true,
    bits: [1, 2, 3],
    words: /drive|strength|force|current/,
    not: /level driven/,
  }),
  speed: oneField('speed', {
    title: 'speed',
    values: { slow: 0, fast: 1 },
    free: true,
    bits: [1, 2],
    words: /slew|speed|edge rate/,
  }),
  inputBuffer: oneField('inputBuffer', {
    title: 'input buffer',
    values: { Schmitt: 0, plain: 1 },
    free: true,
    bits: [1],
    words: /threshold|schmitt|hysteresis|\bplain\b/,
  }),
};

export interface FieldRoleKind extends FieldRoleSpec {
  id: FieldRole;
}

export const ROLE_IDS = Object.keys(ROLES) as FieldRole[];
export const roleKind = (id: FieldRole): FieldRoleKind => ({ id, ...ROLES[id] });
export const ROLE_KINDS: readonly FieldRoleKind[] = ROLE_IDS.map(roleKind);

/** As a recipe names the field of a role. */
export const fieldName = (role: FieldRole): string => role.replace('-', '_');
