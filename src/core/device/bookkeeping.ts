import type { RegisterRef, Statement } from '../description/language/statement';
import type { Device } from './device';
import type { Register } from './registers/types';

const fieldWords = new WeakMap<Device, ReadonlySet<number>>();

/** Words of state in which a field of some pad lies, or one that depends on its function. */
function wordsOfFields(device: Device): ReadonlySet<number> {
  let words = fieldWords.get(device);
  if (!words) {
    const known = new Set<number>();
    for (const field of device.fields.values())
      for (const pad of device.description.pads) {
        if (pad.kind !== 'io' || pad.port === undefined) continue;
        const functions = field.needsFunction ? (device.functionsByPad.get(pad.id) ?? []) : [undefined];
        for (const fn of functions)
          for (const { register, through } of device.slotsOf(field.id, pad, fn))
            for (const { storage } of [register, ...(through ? [through] : [])])
              if (storage) known.add(storage.word);
      }
    words = known;
    fieldWords.set(device, words);
  }
  return words;
}

/** State that no address reaches and in which no field lies: counts of accesses, steps of a sequence. It is there for what comes after. */
export const isBookkeeping = (device: Device, { access, storage }: Register): boolean =>
  access.kind === 'internal' && storage !== undefined && !wordsOfFields(device).has(storage.word);

const nameOf = ({ block, register }: RegisterRef): string => `${block} ${register}`;

/** Whether a register is as it was again when a list of steps is over: what was read of it is the last thing written. */
function isPutBack(step: Statement, list: readonly Statement[]): boolean {
  if (step.kind !== 'assign') return false;
  const name = nameOf(step.target);
  const last = list.findLast((other) => other.kind === 'assign' && nameOf(other.target) === name);
  if (last?.kind !== 'assign' || last.value.kind !== 'variable') return false;
  const held = last.value.name;
  return list.some((other) => other.kind === 'read' && other.name === held && nameOf(other.target) === name);
}

const selecting = new WeakMap<Device, ReadonlySet<Register>>();

/**
 * Registers that steps around single writes, or those of a stage that goes pad by pad, give a value each time anew, and in which no field
 * lies: they select what the next write means, and what they are left with means nothing.
 */
export function selectingRegisters(device: Device): ReadonlySet<Register> {
  let registers = selecting.get(device);
  if (!registers) {
    const lists = device.stages.flatMap((stage): Statement[][] => [
      [...stage.beforeEach, ...stage.afterEach],
      ...(stage.inTurn ? [[...stage.statements, ...stage.endStatements]] : []),
    ]);
    const steps = lists.flatMap((list) => list.filter((step) => !isPutBack(step, list)));
    const values = new Map<string, Set<string>>();
    for (const step of steps) {
      if (step.kind !== 'assign') continue;
      const name = nameOf(step.target);
      const { value } = step;
      values.set(name, (values.get(name) ?? new Set()).add(value.kind === 'number' ? `${value.value}` : '*'));
    }
    // What gets the same number every time is switched on, and stays so.
    const names = new Set([...values].flatMap(([name, all]) => (all.size > 1 || all.has('*') ? [name] : [])));
    const fields = names.size === 0 ? new Set<number>() : wordsOfFields(device);
    registers = new Set(
      device.registers.all.filter(
        ({ block, id, storage }) =>
          names.has(`${block} ${id}`) && storage !== undefined && !fields.has(storage.word),
      ),
    );
    selecting.set(device, registers);
  }
  return registers;
}
