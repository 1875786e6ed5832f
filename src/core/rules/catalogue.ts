import { badName } from './code/bad-name';
import { nameTwice } from './code/name-twice';
import { noRecipe } from './code/no-recipe';
import { functionNotHere } from './place/function-not-here';
import { halfPlaced } from './place/half-placed';
import { padMissing } from './place/pad-missing';
import { reservedPad } from './place/reserved-pad';
import { sharedBits } from './place/shared-bits';
import { signalTwice } from './place/signal-twice';
import { takenAlongRule } from './place/taken-along';
import { twoNets } from './place/two-nets';
import { unplaced } from './place/unplaced';
import { settingNotHere } from './setting/setting-not-here';
import { unproven } from './start-up/unproven';
import type { Rule } from './types';

/** All rules, in the order in which findings of equal severity are shown. */
export const RULES: readonly Rule[] = [
  twoNets,
  padMissing,
  functionNotHere,
  signalTwice,
  halfPlaced,
  sharedBits,
  takenAlongRule,
  reservedPad,
  settingNotHere,
  badName,
  nameTwice,
  noRecipe,
  unproven,
  unplaced,
];
