import type { Problems } from '../../base/problems';
import { didYouMean } from '../../base/text/near';
import { ExpressionError, evaluate, variablesOf } from '../../description/language/expression';
import { heldValue, namesHeld } from '../../description/language/held-value';
import type { Context } from '../../description/language/scope';
import type { RegisterRef, Statement } from '../../description/language/statement';
import type { Pad } from '../../description/types';
import { splitSignal } from '../../description/types';
import type { Device, Stage } from '../device';
import { canRead, canWrite, fullMask, heldBits, type Register } from '../registers/types';
import { writeContext } from '../write-context';

/** What can be wrong with the steps of a recipe: registers that are not there, bits that are not, values that do not fit. */
export function checkStages(device: Device, pads: readonly Pad[], problems: Problems): void {
  const seen = new Set<string>();
  for (const stage of device.stages) {
    const place = `recipe, stage ${stage.id}`;
    if (seen.has(stage.id)) problems.push({ place, message: 'there are two stages of this name' });
    seen.add(stage.id);
    if (problems.full) return;
    if (stage.inTurn && ['device', 'signal'].includes(stage.per ?? 'device'))
      problems.push({
        place: `${place}, in turn`,
        message: '"in turn" goes with "per": "port", "pad" or "peripheral"',
      });
    const contexts = contextsOf(device, stage, pads);
    const around = stage.beforeEach.length + stage.afterEach.length;
    const written = around === 0 ? [] : registerContexts(device, stage, pads);
    checkSteps(device, place, contexts, problems, [
      ['step', stage.statements],
      ['after', stage.endStatements],
    ]);
    checkSteps(device, place, written, problems, [
      ['before each', stage.beforeEach],
      ['after each', stage.afterEach],
    ]);
  }
}

/** Lists of steps that follow each other: what is read in one is there for those after it, and must be used. */
function checkSteps(
  device: Device,
  place: string,
  cases: readonly Case[],
  problems: Problems,
  lists: readonly (readonly [name: string, statements: readonly Statement[]])[],
): void {
  const held = new Map<string, { place: string; used: boolean }>();
  checkPutBack(place, problems, lists);
  for (const [name, statements] of lists)
    for (const [position, statement] of statements.entries()) {
      const at = `${place}, ${name} ${position + 1}`;
      if (statement.kind === 'assign')
        for (const variable of variablesOf(statement.value)) {
          const read = held.get(variable);
          if (read) read.used = true;
        }
      checkStep(device, statement, cases, at, problems, new Set(held.keys()));
      if (statement.kind !== 'read' || statement.name === undefined) continue;
      if (held.has(statement.name))
        problems.push({ place: at, message: `${statement.name} is read twice; give it another name` });
      else held.set(statement.name, { place: at, used: false });
    }
  for (const [name, read] of held)
    if (!read.used)
      problems.push({
        place: read.place,
        message: `nothing after it uses ${name}; a read for what it does is "read", without a name`,
      });
}

const nameOf = ({ block, register, element }: RegisterRef): string =>
  `${block}.${register}${element ? JSON.stringify(element) : ''}`;

/** What is put back at last must have been read before anything else was written there. */
function checkPutBack(
  place: string,
  problems: Problems,
  lists: readonly (readonly [name: string, statements: readonly Statement[]])[],
): void {
  const steps = lists.flatMap(([name, statements]) =>
    statements.map((statement, at) => ({ statement, at: `${place}, ${name} ${at + 1}` })),
  );
  for (const [position, { statement, at }] of steps.entries()) {
    if (statement.kind !== 'read' || statement.name === undefined) continue;
    const register = nameOf(statement.target);
    const writes = ({ statement: other }: (typeof steps)[number]): boolean =>
      other.kind === 'assign' && nameOf(other.target) === register;
    const last = steps.findLast(writes)?.statement;
    const isPutBack =
      last?.kind === 'assign' && last.value.kind === 'variable' && last.value.name === statement.name;
    if (isPutBack && steps.slice(0, position).some(writes))
      problems.push({
        place: at,
        message: `${register} is read after a step has written it, and what is put back with ${statement.name} is not what it held before; read it first`,
      });
  }
}

/** A context and what to call it. */
interface Case {
  context: Context;
  name: string;
}

/** Everything that a stage may be carried out for. */
function contextsOf(device: Device, stage: Stage, pads: readonly Pad[]): Case[] {
  switch (stage.per ?? 'device') {
    case 'device':
      return [{ context: {}, name: '' }];
    case 'port':
      return Object.keys(device.description.recipe.ports)
        .flatMap((port): Case[] => {
          // All pads of the port, and each alone: what stands for the planned ones is one of these, or between them.
          const bits = pads.flatMap((pad) => (pad.port === port ? [2 ** (pad.bit ?? 0)] : []));
          const masks = [...new Set([bits.reduce((sum, bit) => sum + bit, 0), ...bits])];
          return masks.map((mask) => ({ context: { port, pads: mask }, name: `, port ${port}` }));
        })
        .filter(({ context }) => !stage.where || stage.where.holds(device.scopeOf(context)));
    case 'peripheral':
    case 'signal': {
      const seen = new Set<string>();
      return pads
        .flatMap((pad) =>
          (device.functionsByPad.get(pad.id) ?? []).flatMap((fn): Case[] => {
            const id = stage.per === 'signal' ? fn.signal : splitSignal(fn.signal)[0];
            if (seen.has(id) || (stage.per === 'signal' && fn.mux === null)) return [];
            seen.add(id);
            return [{ context: { pad, fn }, name: `, ${id}` }];
          }),
        )
        .filter(({ context }) => !stage.where || stage.where.holds(device.scopeOf(context)));
    }
    case 'pad':
      return pads
        .flatMap((pad): Case[] => [
          { context: { pad }, name: `, pad ${pad.id}` },
          ...(device.functionsByPad.get(pad.id) ?? [])
            .filter((fn) => fn.mux !== null)
            .map((fn) => ({ context: { pad, fn }, name: `, pad ${pad.id} as ${fn.signal}` })),
        ])
        .filter(({ context }) => !stage.where || stage.where.holds(device.scopeOf(context)));
  }
}

/** The registers that the stage's fields lie in, each with what it belongs to. */
function registerContexts(device: Device, stage: Stage, pads: readonly Pad[]): Case[] {
  const registers = new Set<Register>();
  for (const id of stage.fields ?? []) {
    const field = device.fields.get(id);
    for (const pad of pads) {
      const functions = field?.needsFunction ? (device.functionsByPad.get(pad.id) ?? []) : [undefined];
      for (const fn of functions) {
        for (const slot of device.slotsOf(id, pad, fn)) registers.add(slot.through ?? slot.register);
      }
    }
  }
  return [...registers].map((register) => ({
    context: writeContext(device, register),
    name: `, ${register.name}`,
  }));
}

/** Checks a step in every context, and says the first thing that is wrong. */
function checkStep(
  device: Device,
  statement: Statement,
  cases: readonly Case[],
  place: string,
  problems: Problems,
  held: ReadonlySet<string>,
): void {
  for (const { context, name } of cases) {
    try {
      checkIn(device, statement, context, held);
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
      problems.push({ place: `${place}${name}`, message: error.message });
      return;
    }
  }
}

function checkIn(device: Device, statement: Statement, context: Context, held: ReadonlySet<string>): void {
  const scope = device.scopeOf(context);
  if (statement.kind === 'wait') {
    const cycles = evaluate(statement.cycles, scope);
    if (cycles < 0 || cycles > LONGEST_WAIT)
      throw new ExpressionError(`${cycles} cycles are not from 0 to ${LONGEST_WAIT}`, 1);
    return;
  }
  const register = registerOf(device, statement.target, context);
  const { kind } = register.access;
  if (statement.kind === 'read') {
    if (!canRead(register)) throw new ExpressionError(`${register.name} cannot be read`, 1);
    const beside = register.overlaps.find(
      (other) =>
        canRead(other) && shownWord(other) !== shownWord(register) && other.address === register.address,
    );
    if (beside)
      throw new ExpressionError(
        `${register.name} and ${beside.name} stand at one address, and nobody says which of them a read shows`,
        1,
      );
    if (register.pieces)
      throw new ExpressionError(`${register.name} is reached in pieces, and cannot be read at once`, 1);
    return;
  }
  const isHeld = (name: string): boolean => held.has(name);
  if (statement.kind === 'assign' && namesHeld(statement.value, isHeld)) {
    if (!canWrite(register)) throw new ExpressionError(`${register.name} can only be read`, 1);
    if (statement.target.low || register.pieces)
      throw new ExpressionError(
        `what was read is written to whole registers; hold ${register.name}, too, and say what becomes of its bits`,
        1,
      );
    heldValue(statement.value, scope, (name) => (isHeld(name) ? 1 : undefined));
    return;
  }
  const bits = rangeOf(statement.target, register, scope);
  const value = evaluate(statement.value, scope);
  if (value < 0 || value > fullMask(bits))
    throw new ExpressionError(`${value} does not fit ${bits} bits of ${register.name}`, 1);
  if (statement.kind === 'await') {
    if (!canRead(register)) throw new ExpressionError(`${register.name} cannot be read`, 1);
    const cycles = evaluate(statement.withinCycles, scope);
    if (cycles < 1 || cycles > LONGEST_WAIT)
      throw new ExpressionError(`${cycles} cycles are not from 1 to ${LONGEST_WAIT}`, 1);
    return;
  }
  if (kind === 'internal')
    throw new ExpressionError(`${register.name} is internal: the bus does not reach it`, 1);
  if (!canWrite(register)) throw new ExpressionError(`${register.name} can only be read`, 1);
}

/** The word of state that a read shows. */
const shownWord = ({ storage, target }: Register): number | undefined => (storage ?? target?.storage)?.word;

const LONGEST_WAIT = 0xffffffff;

function registerOf(device: Device, ref: RegisterRef, context: Context): Register {
  const element = ref.element && evaluate(ref.element, device.scopeOf(context));
  const register = device.registers.find(ref.block, ref.register, context, element);
  if (register) return register;
  const block = device.description.recipe.registers.blocks.find(({ id }) => id === ref.block);
  const there = block?.registers.some(({ id }) => id === ref.register);
  if (element !== undefined && device.registers.find(ref.block, ref.register, context, 0))
    throw new ExpressionError(`${ref.block}.${ref.register} has no element ${element}`, 1);
  throw new ExpressionError(
    there && block?.each
      ? `there is one ${ref.block}.${ref.register} for each ${block.each}, and here it is not said which`
      : `there is no register ${ref.block}.${ref.register}${
          block
            ? didYouMean(
                ref.register,
                block.registers.map(({ id }) => id),
              ) || `; ${ref.block} has ${block.registers.map(({ id }) => id).join(', ')}`
            : didYouMean(
                ref.block,
                device.description.recipe.registers.blocks.map(({ id }) => id),
              ) ||
              `; the blocks are ${device.description.recipe.registers.blocks.map(({ id }) => id).join(', ')}`
        }`.slice(0, 400),
    1,
  );
}

/** How many bits a step is about. Throws when they are not all the register's. */
function rangeOf(ref: RegisterRef, register: Register, scope: (name: string) => number | undefined): number {
  if (!ref.low || !ref.high) return register.bits;
  const low = evaluate(ref.low, scope);
  const high = evaluate(ref.high, scope);
  const most = heldBits(register);
  if (low < 0 || high < low || high >= most)
    throw new ExpressionError(
      `bits ${low} to ${high} are not within the ${most} bits of ${register.name}`,
      1,
    );
  return high - low + 1;
}
