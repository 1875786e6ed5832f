import { collectProblems } from '@/core/base/problems';
import { type Lowered, lower } from '@/core/derive/lower/lower';
import type { Operation } from '@/core/derive/machine/operations';
import { prove } from '@/core/derive/simulate/proof';
import type { RecipeSource } from '@/core/description/recipe';
import type { DeviceDescription, Pad } from '@/core/description/types';
import { checkStages } from '@/core/device/compile/check-stages';
import { compileDevice } from '@/core/device/compile/compile';
import { loadDevice } from '@/core/device/compile/load';
import { settingsOf } from '@/core/device/decode';
import type { Device } from '@/core/device/device';
import { contributionsOf, type PlannedPad } from '@/core/device/planned-pad';
import { fullMask, type Register } from '@/core/device/registers/types';
import type { CodeStyle } from '@/core/plan/model/types';
import { type Random, randomFrom } from './random';
import { type Beginning, SecondJudge } from './second-judge';

/** What came of the mutations of one kind. */
export interface Tally {
  kind: string;
  made: number;
  /** The same accesses as before. */
  same: number;
  /** Refused when the description is loaded. */
  refused: number;
  /** Not every pad proven. */
  unproven: number;
  /** Proven, and right on the second machine. */
  harmless: number;
  /** Proven, but wrong on the second machine, which is how it is noticed: what the description says is another part. */
  second: number;
  /** Proven, and other than before only in registers that the changed steps write and no pad plans: the head of the code says so. */
  stated: number;
  /** Proven, but wrong on the second machine, though the hardware described is the same. Must be none. */
  missed: string[];
}

/** A change of the steps in a recipe: the hardware is the same, so the proof itself must notice. */
type StepChange = (recipe: RecipeSource, random: Random) => string | undefined;

const pick = <T>(random: Random, list: readonly T[]): T | undefined =>
  list.length > 0 ? random.pick(list) : undefined;

/** All lists of steps of a recipe that are not empty. */
const stepLists = (recipe: RecipeSource): string[][] =>
  recipe.stages
    .flatMap((stage) => [stage.do, stage.after, stage.beforeEach, stage.afterEach])
    .flatMap((list) => (list && list.length > 0 ? [list] : []));

/** Changes a step by chance; undefined where that leaves it as it is. */
function changeStep(
  recipe: RecipeSource,
  random: Random,
  change: (text: string) => string,
): string | undefined {
  const list = pick(random, stepLists(recipe));
  const at = random.int(list?.length ?? 1);
  const text = list?.[at];
  if (!list || text === undefined || change(text) === text) return undefined;
  list[at] = change(text);
  return text;
}

/** A text with one of the places that match changed. */
function changeOne(text: string, pattern: RegExp, random: Random, change: (found: string) => string): string {
  const found = pick(random, [...text.matchAll(pattern)]);
  if (!found) return text;
  return text.slice(0, found.index) + change(found[0]) + text.slice(found.index + found[0].length);
}

const STEP_CHANGES: Record<string, StepChange> = {
  'stage dropped'(recipe, random) {
    const at = random.int(recipe.stages.length);
    return recipe.stages.splice(at, 1)[0]?.id;
  },
  'stages swapped'(recipe, random) {
    const [a, b] = [random.int(recipe.stages.length), random.int(recipe.stages.length)];
    const [first, second] = [recipe.stages[a], recipe.stages[b]];
    if (!first || !second || a === b) return undefined;
    recipe.stages[a] = second;
    recipe.stages[b] = first;
    return `${first.id}, ${second.id}`;
  },
  'step dropped'(recipe, random) {
    const list = pick(random, stepLists(recipe));
    return list?.splice(random.int(list.length), 1)[0];
  },
  'steps swapped'(recipe, random) {
    const list = pick(random, stepLists(recipe));
    const at = random.int((list?.length ?? 1) - 1);
    const [first, second] = [list?.[at], list?.[at + 1]];
    if (!list || first === undefined || second === undefined) return undefined;
    list[at] = second;
    list[at + 1] = first;
    return `${first}, ${second}`;
  },
  'key before each dropped'(recipe, random) {
    const stage = pick(
      random,
      recipe.stages.filter((one) => one.beforeEach),
    );
    return stage?.beforeEach?.splice(random.int(stage.beforeEach.length), 1)[0];
  },
  'a stage in turn, or no longer'(recipe, random) {
    const stage = pick(
      random,
      recipe.stages.filter(({ per = 'device' }) => per !== 'device'),
    );
    if (!stage) return undefined;
    stage.inTurn = !stage.inTurn;
    return stage.id;
  },
  'await or wait made shorter': (recipe, random) =>
    changeStep(recipe, random, (text) =>
      text.replace(/within \d+$/, 'within 1').replace(/^wait \d+/, 'wait 1'),
    ),
  'value of a step changed': (recipe, random) =>
    changeStep(recipe, random, (text) =>
      text.replace(/(?<=:= (?:.*[^\w.])?)(0x[0-9A-Fa-f]+|\d+)$/, (value) => String(Number(value) ^ 1)),
    ),
  'what is read written back otherwise': (recipe, random) =>
    changeStep(recipe, random, (text) => text.replace(/:= ([a-z]\w+)$/, ':= $1 ^ 4')),

  'field left out of its stage'(recipe, random) {
    const stage = pick(
      random,
      recipe.stages.filter((one) => one.fields?.length),
    );
    return stage?.fields?.splice(random.int(stage.fields.length), 1)[0];
  },
};

const CLAUSES = ['read', 'write', 'writeWhen', 'afterRead', 'anyAccess', 'anyWrite', 'returnsTo'] as const;

/** Changes a clause of some register by chance. */
function changeClause(
  recipe: RecipeSource,
  random: Random,
  change: (text: string) => string,
): string | undefined {
  const stated = recipe.registers.blocks.flatMap((block) =>
    block.registers.flatMap((register) =>
      CLAUSES.flatMap((key) => (register[key] === undefined ? [] : [{ block: block.id, register, key }])),
    ),
  );
  const clause = pick(random, stated);
  const text = clause?.register[clause.key];
  if (!clause || text === undefined || change(text) === text) return undefined;
  clause.register[clause.key] = change(text);
  return `${clause.block}.${clause.register.id}, ${clause.key}: ${text}`;
}

const OTHER_SIGN: Record<string, string> = {
  '|': '&',
  '&': '|',
  '^': '|',
  '==': '!=',
  '>': '<',
  '<': '>',
  '+': '-',
  '-': '+',
};

/** A change of what is said of the hardware: the description is of another part then. */
const PART_CHANGES: Record<string, StepChange> = {
  'stride changed'(recipe, random) {
    const block = pick(
      random,
      recipe.registers.blocks.filter((one) => /\*/.test(one.base)),
    );
    if (!block) return undefined;
    const before = block.base;
    block.base = before.replace(
      /(0x[0-9A-Fa-f]+|\d+)(\*[pn])/,
      (_, stride, rest) => `${Number(stride) / 2}${rest}`,
    );
    return block.base === before ? undefined : before;
  },
  'shift changed'(recipe, random) {
    const field = pick(random, Object.values(recipe.fields));
    const part = field?.parts ? pick(random, field.parts) : field;
    if (part?.at === undefined) return undefined;
    const before = part.at;
    part.at =
      random.int(2) === 0 ? `${before} + 1` : before.replace(/^(\d+)\*/, (_, n) => `${Number(n) + 1}*`);
    return part.at === before ? undefined : before;
  },
  'offset changed'(recipe, random) {
    const block = pick(random, recipe.registers.blocks);
    const register = block && pick(random, block.registers);
    if (!register) return undefined;
    const before = register.offset;
    register.offset = `${before} + ${register.bits / 8}`;
    return `${block?.id}.${register.id}`;
  },
  'access changed'(recipe, random) {
    const block = pick(random, recipe.registers.blocks);
    const register = block && pick(random, block.registers);
    if (!register) return undefined;
    const before = register.access;
    const other = pick(random, ['read-write', 'read', 'write', 'strobe', 'masked'] as const);
    register.access = other;
    return (before ?? 'read-write') === other ? undefined : `${block?.id}.${register.id} ${other}`;
  },
  'number in a clause changed': (recipe, random) =>
    changeClause(recipe, random, (text) =>
      changeOne(text, /\b(?:0x[0-9A-Fa-f]+|\d+)\b/g, random, (value) => String(Number(value) ^ 1)),
    ),
  'sign in a clause changed': (recipe, random) =>
    changeClause(recipe, random, (text) =>
      changeOne(text, /(?<=[\w)] )(?:==|[|&^<>+-])(?= )/g, random, (sign) => OTHER_SIGN[sign] ?? sign),
    ),
  'opposite in a clause': (recipe, random) =>
    changeClause(recipe, random, (text) =>
      text.includes('~')
        ? changeOne(text, /~/g, random, () => '')
        : changeOne(text, /\bv\b/g, random, () => '~v'),
    ),
  'clause left out'(recipe, random) {
    const registers = recipe.registers.blocks.flatMap((block) => block.registers);
    const key = random.pick(['writeWhen', 'afterRead', 'anyAccess', 'anyWrite', 'returnsTo'] as const);
    const register = pick(
      random,
      registers.filter((each) => each[key] !== undefined),
    );
    if (!register) return undefined;
    delete register[key];
    return `${register.id}, ${key}`;
  },
  'value of a table changed'(recipe, random) {
    const rule = pick(random, recipe.encode);
    const row = rule && pick(random, Object.entries(rule.table));
    if (!rule || !row || typeof row[1] !== 'number') return undefined;
    rule.table[row[0]] = row[1] ^ 1;
    return `${rule.field} ${row[0]}`;
  },
};

/** A change of the operations themselves, as a mistake in lowering would be. */
type OperationChange = (operations: Operation[], random: Random, device: Device) => string | undefined;

const withValue = (operations: readonly Operation[]) =>
  operations.filter((one) => one.kind === 'write' || one.kind === 'update');

const OPERATION_CHANGES: Record<string, OperationChange> = {
  'operation dropped'(operations, random) {
    return operations.splice(random.int(operations.length), 1)[0]?.kind;
  },
  'operations swapped'(operations, random) {
    const at = random.int(operations.length - 1);
    const [a, b] = [operations[at], operations[at + 1]];
    if (!a || !b) return undefined;
    operations[at] = b;
    operations[at + 1] = a;
    return `${a.stage} ${b.stage}`;
  },
  'bit of a value turned'(operations, random) {
    const one = pick(random, withValue(operations));
    if (!one) return undefined;
    const bit = 2 ** random.int(one.register.bits);
    const at = operations.indexOf(one);
    if (one.kind === 'write') operations[at] = { ...one, value: (one.value ^ bit) >>> 0 };
    else operations[at] = { ...one, clear: (one.clear | bit) >>> 0, set: (one.set ^ bit) >>> 0 };
    return one.register.name;
  },
  'read, changed and written instead of written'(operations, random) {
    const one = pick(
      random,
      operations.filter((it) => it.kind === 'write'),
    );
    if (one?.kind !== 'write') return undefined;
    const { value, ...rest } = one;
    operations[operations.indexOf(one)] = { ...rest, kind: 'update', clear: value, set: value };
    return one.register.name;
  },
  'written instead of read, changed and written'(operations, random) {
    const one = pick(
      random,
      operations.filter((it) => it.kind === 'update'),
    );
    if (one?.kind !== 'update') return undefined;
    const { set, clear: _, shadow: __, ...rest } = one;
    operations[operations.indexOf(one)] = { ...rest, kind: 'write', value: set };
    return one.register.name;
  },
  'another register'(operations, random, device) {
    const one = pick(random, withValue(operations));
    if (!one) return undefined;
    const alike = device.registers.all.filter(
      (it) => it.bits === one.register.bits && it.block === one.register.block && it !== one.register,
    );
    const register = pick(
      random,
      alike.filter((it) => it.access.kind !== 'internal'),
    );
    if (!register) return undefined;
    operations[operations.indexOf(one)] = { ...one, register };
    return `${one.register.name} → ${register.name}`;
  },
  'held value changed'(operations, random) {
    const one = pick(
      random,
      operations.filter((it) => it.kind === 'write held'),
    );
    if (one?.kind !== 'write held') return undefined;
    const right = { kind: 'number' as const, value: 2 ** random.int(one.register.bits) };
    const operator = random.pick(['^', '|'] as const);
    operations[operations.indexOf(one)] = {
      ...one,
      value: { kind: 'bits', operator, left: one.value, right },
    };
    return one.register.name;
  },
  'read after what it is read before'(operations, random) {
    const one = pick(
      random,
      operations.filter((it) => it.kind === 'read'),
    );
    const at = one ? operations.indexOf(one) : -1;
    const next = operations[at + 1];
    if (!one || !next) return undefined;
    operations[at] = next;
    operations[at + 1] = one;
    return next.kind;
  },
  'key changed'(operations, random) {
    const one = pick(
      random,
      operations.filter((it) => it.kind === 'write' && it.register.access.kind === 'key'),
    );
    if (one?.kind !== 'write') return undefined;
    operations[operations.indexOf(one)] = { ...one, value: (one.value ^ 4) & fullMask(one.register.bits) };
    return one.register.name;
  },
};

const STYLES: readonly CodeStyle[] = ['preserving', 'from-reset'];
const beginnings = (style: CodeStyle): Beginning[] =>
  style === 'from-reset'
    ? [{ chance: 1, any: false }]
    : [{ chance: 1, any: false }, ...[2, 3, 4, 5].map((chance) => ({ chance, any: true }))];

/** Settings by chance for some pads of a part, such that no two want different things. */
export function plannedByChance(device: Device, random: Random, most: number): PlannedPad[] {
  const pads = device.description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined);
  const planned = new Map<string, PlannedPad>();
  const taken = new Map<string, number>();
  for (let k = 0; k < most; k++) {
    const pad = pick(random, pads);
    if (!pad || planned.has(pad.id)) continue;
    const one = pick(random, settingsFor(device, pad.id));
    if (!one) continue;
    const parts = contributionsOf(device, one).map(({ register, mask, value }) => ({
      key: `${register.name}/${mask}`,
      value,
    }));
    if (parts.some(({ key, value }) => taken.has(key) && taken.get(key) !== value)) continue;
    for (const { key, value } of parts) taken.set(key, value);
    planned.set(pad.id, one);
  }
  return [...planned.values()];
}

const lists = new WeakMap<Device, Map<string, PlannedPad[]>>();

function settingsFor(device: Device, id: string): PlannedPad[] {
  const known = lists.get(device) ?? new Map<string, PlannedPad[]>();
  lists.set(device, known);
  const pad = device.pads.get(id);
  const list =
    known.get(id) ??
    (pad ? [...settingsOf(device, pad)].map(({ settings, fn }) => ({ pad, fn, settings })) : []);
  known.set(id, list);
  return list;
}

/** A mutation that is to be judged: what it did, and the operations that came of it. */
interface Suspect {
  tally: Tally;
  what: string;
  style: CodeStyle;
  operations: readonly Operation[];
  samePart: boolean;
  /** The recipe with the changed steps. */
  changed?: DeviceDescription;
}

/**
 * Mutates a part's steps, what is said of its hardware, and the operations of plans by chance, `each` times a kind; what is
 * proven nevertheless is run on the second machine of the part as it was.
 */
export function mutate(device: Device, each: number, seed: number): { tallies: Tally[]; plans: number } {
  const random = randomFrom(seed);
  const judge = new SecondJudge(device.description);
  const tallies: Tally[] = [];
  let plans = 0;
  const tallyOf = (kind: string): Tally => {
    const tally: Tally = {
      kind,
      made: 0,
      same: 0,
      refused: 0,
      unproven: 0,
      harmless: 0,
      second: 0,
      stated: 0,
      missed: [],
    };
    tallies.push(tally);
    return tally;
  };
  const judged = (planned: readonly PlannedPad[], suspects: readonly Suspect[]): void => {
    const results = judge.judge(
      planned,
      suspects.map(({ operations, style }) => ({ operations, beginnings: beginnings(style) })),
    );
    suspects.forEach((suspect, k) => {
      const { tally, what, style, samePart } = suspect;
      if (results[k]) tally.harmless++;
      else if (samePart && isStated(planned, suspect)) tally.stated++;
      else if (samePart) tally.missed.push(`${tally.kind}, ${what}, ${style}`);
      else tally.second++;
    });
  };
  try {
    for (const [kind, change] of Object.entries({ ...STEP_CHANGES, ...PART_CHANGES })) {
      const tally = tallyOf(kind);
      for (let tries = 0; tally.made < each && tries < 4 * each; tries++) {
        const planned = plannedByChance(device, random, 10);
        plans++;
        const suspect = mutateRecipe(device, tally, kind, change, planned, random);
        if (suspect) judged(planned, [suspect]);
      }
    }
    for (const [kind, change] of Object.entries(OPERATION_CHANGES)) {
      const tally = tallyOf(kind);
      for (let tries = 0; tally.made < each && tries < 4 * each; tries++) {
        const planned = plannedByChance(device, random, 10);
        plans++;
        const suspect = mutateOperations(device, tally, change, planned, random);
        if (suspect) judged(planned, [suspect]);
      }
    }
  } finally {
    judge.close();
  }
  return { tallies, plans };
}

/** Whether nothing is wrong on the second machine but that registers hold what the changed steps, and no others, give them. */
function isStated(planned: readonly PlannedPad[], { changed, operations, style }: Suspect): boolean {
  if (!changed) return false;
  const judge = new SecondJudge(changed);
  try {
    return judge.judge(planned, [{ operations, beginnings: beginnings(style) }])[0] === true;
  } finally {
    judge.close();
  }
}

const traceOf = (operations: readonly Operation[]): string =>
  operations
    .map((one) => {
      const { pads: _, scope: __, stage: ___, ...rest } = one;
      if (!('register' in rest)) return JSON.stringify(rest);
      const { register, ...more } = rest as { register: Register };
      return `${register.address}/${register.bits} ${JSON.stringify(more)}`;
    })
    .join('\n');

const isPort = (pad: Pad): boolean => pad.kind === 'io' && pad.port !== undefined;

function mutateRecipe(
  device: Device,
  tally: Tally,
  kind: string,
  change: StepChange,
  planned: readonly PlannedPad[],
  random: Random,
): Suspect | undefined {
  const style = pick(random, STYLES) ?? 'preserving';
  const description: DeviceDescription = structuredClone(device.original);
  const what = change(description.recipe, random);
  if (what === undefined) return undefined;
  tally.made++;
  // Steps do not change what the checks on loading look at; hardware does.
  const loaded = kind in STEP_CHANGES ? compileDevice(description) : loadDevice(description);
  const problems = collectProblems();
  if (loaded.ok && kind in STEP_CHANGES) checkStages(loaded.value, description.pads.filter(isPort), problems);
  if (!loaded.ok || problems.length > 0) {
    tally.refused++;
    return undefined;
  }
  const before = lower(device, planned, style);
  const again = planned.map((one) => ({ ...one }));
  let after: Lowered;
  try {
    after = lower(loaded.value, again, style);
  } catch {
    // The settings do not exist in the changed part.
    tally.refused++;
    return undefined;
  }
  if (traceOf(before.operations) === traceOf(after.operations)) {
    tally.same++;
    return undefined;
  }
  const proof = prove(loaded.value, again, after);
  if (proof.proven < proof.pins || after.clashes.length > 0) {
    tally.unproven++;
    return undefined;
  }
  const samePart = kind in STEP_CHANGES;
  return {
    tally,
    what,
    style,
    operations: after.operations,
    samePart,
    ...(samePart ? { changed: description } : {}),
  };
}

function mutateOperations(
  device: Device,
  tally: Tally,
  change: OperationChange,
  planned: readonly PlannedPad[],
  random: Random,
): Suspect | undefined {
  const style = pick(random, STYLES) ?? 'preserving';
  const lowered = lower(device, planned, style);
  const operations = [...lowered.operations];
  const what = operations.length > 1 ? change(operations, random, device) : undefined;
  if (what === undefined) return undefined;
  tally.made++;
  if (traceOf(lowered.operations) === traceOf(operations)) {
    tally.same++;
    return undefined;
  }
  const proof = prove(device, planned, { ...lowered, operations });
  if (proof.proven < proof.pins) {
    tally.unproven++;
    return undefined;
  }
  return { tally, what, style, operations, samePart: true };
}

/**
 * Parts whose recipe does its steps wrongly, or says something wrong of the hardware, as far as they can be loaded: parts on which
 * pads are not proven, or are only together with some others.
 */
export function wrongParts(device: Device, count: number, seed: number): { what: string; part: Device }[] {
  const random = randomFrom(seed);
  const changes = Object.entries({ ...STEP_CHANGES, ...PART_CHANGES });
  const found: { what: string; part: Device }[] = [];
  for (let tries = 0; found.length < count && tries < 20 * count; tries++) {
    const [kind, change] = random.pick(changes);
    const description = structuredClone(device.original);
    const what = change(description.recipe, random);
    if (what === undefined) continue;
    const part = loadDevice(description);
    if (part.ok) found.push({ what: `${kind}: ${what}`, part: part.value });
  }
  return found;
}
