import type { Problems } from '../../base/problems';
import { didYouMean } from '../../base/text/near';
import { ExpressionError, evaluate } from '../../description/language/expression';
import type { Context } from '../../description/language/scope';
import type { RegisterRef, Statement } from '../../description/language/statement';
import type { Pad } from '../../description/types';
import { splitSignal } from '../../description/types';
import type { Device, Stage } from '../device';
import { canRead, canWrite, fullMask, heldBits, type Register } from '../registers/types';

/** What can be wrong with the steps of a recipe: registers that are not there, bits that are not, values that do not fit. */
export function checkStages(device: Device, pads: readonly Pad[], problems: Problems): void {
  const seen = new Set<string>();
  for (const stage of device.stages) {
    const place = `recipe, stage ${stage.id}`;
    if (seen.has(stage.id)) problems.push({ place, message: 'there are two stages of this name' });
    seen.add(stage.id);
    if (problems.full) return;
    const contexts = contextsOf(device, stage, pads);
    stage.statements.forEach((statement, position) => {
      checkStep(device, statement, contexts, `${place}, step ${position + 1}`, problems);
    });
    if (stage.beforeEach.length === 0) continue;
    const written = registerContexts(device, stage, pads);
    stage.beforeEach.forEach((statement, position) => {
      checkStep(device, statement, written, `${place}, before each ${position + 1}`, problems);
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
        .map((port) => ({ context: { port }, name: `, port ${port}` }))
        .filter(({ context }) => !stage.where || stage.where.holds(device.scopeOf(context)));
    case 'peripheral': {
      const seen = new Set<string>();
      return pads
        .flatMap((pad) =>
          (device.functionsByPad.get(pad.id) ?? []).flatMap((fn): Case[] => {
            const [id] = splitSignal(fn.signal);
            if (seen.has(id)) return [];
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
  return [...registers].map((register) => ({ context: register.context, name: `, ${register.name}` }));
}

/** Checks a step in every context, and says the first thing that is wrong. */
function checkStep(
  device: Device,
  statement: Statement,
  cases: readonly Case[],
  place: string,
  problems: Problems,
): void {
  for (const { context, name } of cases) {
    try {
      checkIn(device, statement, context);
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
      problems.push({ place: `${place}${name}`, message: error.message });
      return;
    }
  }
}

function checkIn(device: Device, statement: Statement, context: Context): void {
  const scope = device.scopeOf(context);
  if (statement.kind === 'wait') {
    const cycles = evaluate(statement.cycles, scope);
    if (cycles < 0 || cycles > LONGEST_WAIT)
      throw new ExpressionError(`${cycles} cycles are not from 0 to ${LONGEST_WAIT}`, 1);
    return;
  }
  const register = registerOf(device, statement.target, context);
  const bits = rangeOf(statement.target, register, scope);
  const value = evaluate(statement.value, scope);
  if (value < 0 || value > fullMask(bits))
    throw new ExpressionError(`${value} does not fit ${bits} bits of ${register.name}`, 1);
  const { kind } = register.access;
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

const LONGEST_WAIT = 0xffffffff;

function registerOf(device: Device, ref: RegisterRef, context: Context): Register {
  const found = device.registers.find(ref.block, ref.register, context);
  if (found) return found;
  const block = device.description.recipe.registers.blocks.find((one) => one.id === ref.block);
  const there = block?.registers.some((one) => one.id === ref.register);
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
