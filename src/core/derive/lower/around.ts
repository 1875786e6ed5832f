import { append } from '../../base/lists';
import { heldIn } from '../../description/language/held-value';
import type { Device } from '../../device/device';
import type { PlannedPad } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';
import type { Operation } from '../machine/operations';
import { copyMachine, type Machine } from '../machine/state';
import { after, before, flush, runStatements, turnsOf } from './statements';
import { newWork } from './work';

/** What the stages do around the write of a field: before it and after it, and before and after each single access. */
export interface Around {
  before: Operation[];
  beforeEach: Operation[];
  afterEach: Operation[];
  after: Operation[];
}

/**
 * The statements that the stages carry out for some pads before and after the stage that writes a field, in registers that
 * matter to it. They are worked out from the state that a machine is in, which stays as it is.
 */
export function around(
  device: Device,
  planned: readonly PlannedPad[],
  field: string,
  from: Machine,
  related: ReadonlySet<Register>,
): Around {
  const work = newWork('preserving', copyMachine(from));
  const steps: Around = { before: [], beforeEach: [], afterEach: [], after: [] };
  const at = device.stages.findIndex((stage) => stage.fields?.includes(field));
  const take = (): Operation[] => work.operations.splice(0);
  for (const [position, stage] of device.stages.entries()) {
    const run = (list: 'statements' | 'endStatements'): void => {
      for (const turn of turnsOf(stage, planned))
        flush(device, stage, runStatements(device, stage, turn, work, stage[list]), work);
    };
    work.held.stage.clear();
    run('statements');
    append(position <= at ? steps.before : steps.after, take());
    if (position === at) {
      for (const { pad } of planned) {
        const context = { pad, port: pad.port };
        before(device, stage, context, work);
        append(steps.beforeEach, take());
        after(device, stage, context, work);
        append(steps.afterEach, take());
      }
    }
    run('endStatements');
    append(position < at ? steps.before : steps.after, take());
  }
  const all = Object.values(steps).flat();
  const needed = new Set(
    all.flatMap((step) =>
      step.kind === 'write held' && related.has(step.register) ? [...heldIn(step.value)] : [],
    ),
  );
  const matters = (step: Operation): boolean =>
    step.kind === 'wait' ||
    related.has(step.register) ||
    (step.kind === 'read' && step.holds !== undefined && needed.has(step.holds));
  return {
    before: steps.before.filter(matters),
    beforeEach: steps.beforeEach.filter(matters),
    afterEach: steps.afterEach.filter(matters),
    after: steps.after.filter(matters),
  };
}
