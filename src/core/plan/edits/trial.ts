import { planRef } from '../model/schema-parts';
import type { Trial } from '../model/types';
import { type EditKind, POSITION, refuse, shape, unsigned } from './kind';
import { addTo, takeFrom } from './listed';

export interface TrialAddEdit {
  kind: 'trial.add';
  trial: Trial;
  at: number;
}

export interface TrialRemoveEdit extends Omit<TrialAddEdit, 'kind'> {
  kind: 'trial.remove';
}

const whole = (kind: string) => shape(kind, { trial: planRef('trial'), at: POSITION });

export const trialAdd: EditKind<TrialAddEdit> = {
  signs: unsigned,
  apply(plan, { trial, at }) {
    // Reports and scripts name a trial by its name.
    if (plan.trials?.some((one) => one.name === trial.name && one.id !== trial.id))
      return refuse(`there is a trial "${trial.name}" already`);
    return addTo(plan, 'trials', trial, at, 'that trial');
  },
  invert: (edit) => ({ ...edit, kind: 'trial.remove' }),
  describe: ({ trial }) => `keep the trial ${trial.name}`,
  schemas: whole('trial.add'),
};

export const trialRemove: EditKind<TrialRemoveEdit> = {
  signs: unsigned,
  apply: (plan, { trial }) => takeFrom(plan, 'trials', trial, 'that trial'),
  invert: (edit) => ({ ...edit, kind: 'trial.add' }),
  describe: ({ trial }) => `remove the trial ${trial.name}`,
  schemas: whole('trial.remove'),
};
