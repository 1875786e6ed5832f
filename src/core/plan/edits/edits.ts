import { ok, type Result } from '../../base/result';
import type { Net, NetId, Plan, Waiver } from '../model/types';
import {
  type AttachmentAddEdit,
  type AttachmentRemoveEdit,
  attachmentAdd,
  attachmentRemove,
} from './attachment';
import {
  type CircuitAddEdit,
  type CircuitMoveEdit,
  type CircuitRemoveEdit,
  type CircuitSetEdit,
  circuitAdd,
  circuitMove,
  circuitRemove,
  circuitSet,
} from './circuit';
import {
  type ConstraintAddEdit,
  type ConstraintRemoveEdit,
  constraintAdd,
  constraintRemove,
} from './constraint';
import { type EditKind, refuse } from './kind';
import { type NetAddEdit, type NetRemoveEdit, netAdd, netRemove } from './net';
import { type NetSetEdit, netSet, withField } from './net-set';
import { type NetSettingEdit, netSetting, withSetting } from './net-setting';
import { type PlanSetEdit, planSet } from './plan-set';
import { type SchematicSetEdit, schematicSet } from './schematic-set';
import { type TableSetEdit, tableSet } from './table-set';
import { type TrialAddEdit, type TrialRemoveEdit, trialAdd, trialRemove } from './trial';
import { type WaiverAddEdit, type WaiverRemoveEdit, waiverAdd, waiverRemove } from './waiver';

/**
 * A change to a plan: small, serialisable, invertible. A step says what it found (`from`) as well as what it makes (`to`),
 * so that it either applies to exactly what its author saw or says why not; edits of different things never get in each
 * other's way.
 */
export type Edit = Step | BatchEdit;

/** An edit that changes one thing. */
export type Step =
  | PlanSetEdit
  | CircuitAddEdit
  | CircuitRemoveEdit
  | CircuitMoveEdit
  | CircuitSetEdit
  | NetAddEdit
  | NetRemoveEdit
  | NetSetEdit
  | NetSettingEdit
  | ConstraintAddEdit
  | ConstraintRemoveEdit
  | WaiverAddEdit
  | WaiverRemoveEdit
  | AttachmentAddEdit
  | AttachmentRemoveEdit
  | TrialAddEdit
  | TrialRemoveEdit
  | TableSetEdit
  | SchematicSetEdit;

/** Several edits as one: all or nothing. */
export interface BatchEdit {
  kind: 'batch';
  label: string;
  edits: Edit[];
}

/** Every kind of step, and all about it. */
export const STEP_KINDS: { [Kind in Step['kind']]: EditKind<Extract<Step, { kind: Kind }>> } = {
  'plan.set': planSet,
  'circuit.add': circuitAdd,
  'circuit.remove': circuitRemove,
  'circuit.move': circuitMove,
  'circuit.set': circuitSet,
  'net.add': netAdd,
  'net.remove': netRemove,
  'net.set': netSet,
  'net.setting': netSetting,
  'constraint.add': constraintAdd,
  'constraint.remove': constraintRemove,
  'waiver.add': waiverAdd,
  'waiver.remove': waiverRemove,
  'attachment.add': attachmentAdd,
  'attachment.remove': attachmentRemove,
  'trial.add': trialAdd,
  'trial.remove': trialRemove,
  'table.set': tableSet,
  'schematic.set': schematicSet,
};

const kindOf = (step: Step): EditKind<Step> => STEP_KINDS[step.kind] as unknown as EditKind<Step>;

/** Applies an edit. On refusal the plan is untouched and the problem says, for a person, why. */
export const applyEdit = (plan: Plan, edit: Edit): Result<Plan> =>
  edit.kind === 'batch' ? applyBatch(plan, edit.edits) : kindOf(edit).apply(plan, edit);

/** The edit that takes an applied edit back: `apply(apply(p, e), invert(e)) = p`. */
export const invertEdit = (edit: Edit): Edit =>
  edit.kind === 'batch'
    ? { ...edit, edits: edit.edits.map(invertEdit).reverse() }
    : (kindOf(edit).invert(edit) as Edit);

/** What an edit puts into the plan under somebody's name, in whatever depth. */
export const signedBy = (edit: Edit): readonly Waiver[] =>
  edit.kind === 'batch' ? edit.edits.flatMap(signedBy) : kindOf(edit).signs(edit);

/** What an edit does, for the undo button and the history: "place FAN_1 on F6". */
export const describeEdit = (plan: Plan, edit: Edit): string =>
  edit.kind === 'batch'
    ? edit.label
    : kindOf(edit).describe(edit, (id) => plan.nets.find((net) => net.id === id)?.name ?? 'net');

/**
 * The same wish on a plan that somebody else has changed meanwhile: an edit that applies and makes what this one was to make. Undefined
 * where it cannot be: what it was about is gone, or it would add or remove what is not as it was.
 */
export function editAgain(plan: Plan, edit: Edit): Edit | undefined {
  if (edit.kind !== 'batch') {
    if (applyEdit(plan, edit).ok) return edit;
    const again = kindOf(edit).again?.(plan, edit) as Edit | undefined;
    return again && applyEdit(plan, again).ok ? again : undefined;
  }
  const edits: Edit[] = [];
  let current = plan;
  for (const step of edit.edits) {
    const again = editAgain(current, step);
    const next = again && applyEdit(current, again);
    if (!again || !next?.ok) return undefined;
    edits.push(again);
    current = next.value;
  }
  return { ...edit, edits };
}

/** How many steps an edit is, batches opened. */
export const stepsOf = (edit: Edit): number =>
  edit.kind === 'batch' ? edit.edits.reduce((sum, step) => sum + stepsOf(step), 0) : 1;

/**
 * One step after the other; all or nothing. Changes of nets, which are most of large batches, are made in one copy of the list of
 * nets, found by their ids: ten thousand of them take time in proportion, not times two thousand.
 */
function applyBatch(plan: Plan, edits: readonly Edit[]): Result<Plan> {
  let current = plan;
  let own: { nets: Net[]; places: Map<NetId, number> } | undefined;
  for (const step of edits) {
    if (step.kind === 'net.set' || step.kind === 'net.setting') {
      if (!own) {
        own = { nets: [...current.nets], places: new Map(current.nets.map((net, at) => [net.id, at])) };
        current = { ...current, nets: own.nets };
      }
      const at = own.places.get(step.id);
      const net = at === undefined ? undefined : own.nets[at];
      if (at === undefined || !net) return refuse('that net is gone');
      const next = step.kind === 'net.set' ? withField(current, net, step) : withSetting(net, step);
      if (!next.ok) return next;
      own.nets[at] = next.value;
    } else {
      own = undefined;
      const next = applyEdit(current, step);
      if (!next.ok) return next;
      current = next.value;
    }
  }
  return ok(current);
}
