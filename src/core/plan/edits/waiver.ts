import { planRef } from '../model/schema-parts';
import type { Waiver } from '../model/types';
import { type EditKind, POSITION, shape, unsigned } from './kind';
import { addTo, takeFrom } from './listed';

export interface WaiverAddEdit {
  kind: 'waiver.add';
  waiver: Waiver;
  at: number;
}

export interface WaiverRemoveEdit extends Omit<WaiverAddEdit, 'kind'> {
  kind: 'waiver.remove';
}

const whole = (kind: string) => shape(kind, { waiver: planRef('waiver'), at: POSITION });

export const waiverAdd: EditKind<WaiverAddEdit> = {
  signs: ({ waiver }) => [waiver],
  apply: (plan, { waiver, at }) => addTo(plan, 'waivers', waiver, at, 'that waiver'),
  invert: (edit) => ({ ...edit, kind: 'waiver.remove' }),
  describe: ({ waiver }) => `waive ${waiver.rule}`,
  schemas: whole('waiver.add'),
};

export const waiverRemove: EditKind<WaiverRemoveEdit> = {
  signs: unsigned,
  apply: (plan, { waiver }) => takeFrom(plan, 'waivers', waiver, 'that waiver'),
  invert: (edit) => ({ ...edit, kind: 'waiver.add' }),
  describe: ({ waiver }) => `take back the waiver of ${waiver.rule}`,
  schemas: whole('waiver.remove'),
};
