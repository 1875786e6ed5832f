import { labelTwice } from './board/label-twice';
import { planOnly, schematicDiffers, schematicOnly } from './board/schematic';
import { badName } from './code/bad-name';
import { circuitTwice } from './code/circuit-twice';
import { nameTwice } from './code/name-twice';
import { noRecipe } from './code/no-recipe';
import { partChanged } from './code/part-changed';
import { neverOff } from './current/never-off';
import { padCurrent } from './current/pad-current';
import { littleHeadroom, packageCurrent, supplyCurrent } from './current/shared-current';
import { lineMissing, lineShared, noTrigger, portShared } from './interrupt/line-shared';
import { analogOverSupply } from './level/analog-over-supply';
import { assertedEarly } from './level/asserted-early';
import { beforeInit } from './level/before-init';
import { bothDrive } from './level/both-drive';
import { floatingInput } from './level/floating-input';
import { needlessPull } from './level/needless-pull';
import { openDrainNoPull } from './level/open-drain-no-pull';
import { pullsFight } from './level/pulls-fight';
import { thresholdMissed } from './level/threshold-missed';
import { tooManyVolts } from './level/too-many-volts';
import { functionNotHere } from './place/function-not-here';
import { halfPlaced } from './place/half-placed';
import { instanceShared } from './place/instance-shared';
import { padMissing } from './place/pad-missing';
import { reservedPad } from './place/reserved-pad';
import { sharedBits } from './place/shared-bits';
import { signalTwice } from './place/signal-twice';
import { takenAlongRule } from './place/taken-along';
import { twoNets } from './place/two-nets';
import { unplaced } from './place/unplaced';
import { ruledOutPad, wrongSide } from './place/wrong-place';
import { rateOff } from './rate/rate-off';
import { rateTooHigh } from './rate/rate-too-high';
import { ratesDiffer } from './rate/rates-differ';
import { settingIdle } from './setting/setting-idle';
import { settingNotHere } from './setting/setting-not-here';
import { accessUnproven } from './start-up/access-unproven';
import { unproven } from './start-up/unproven';
import { tieBroken } from './tie/tie-broken';
import type { Rule } from './types';
import { unusedNotHere } from './unused/unused-not-here';
import { staleWaiver } from './waiver/stale-waiver';

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
  tieBroken,
  wrongSide,
  ruledOutPad,
  instanceShared,
  lineShared,
  lineMissing,
  noTrigger,
  portShared,
  tooManyVolts,
  bothDrive,
  beforeInit,
  assertedEarly,
  analogOverSupply,
  thresholdMissed,
  openDrainNoPull,
  floatingInput,
  pullsFight,
  needlessPull,
  padCurrent,
  supplyCurrent,
  packageCurrent,
  littleHeadroom,
  neverOff,
  rateTooHigh,
  rateOff,
  ratesDiffer,
  schematicDiffers,
  schematicOnly,
  planOnly,
  labelTwice,
  unusedNotHere,
  settingNotHere,
  settingIdle,
  badName,
  nameTwice,
  circuitTwice,
  staleWaiver,
  noRecipe,
  partChanged,
  unproven,
  accessUnproven,
  unplaced,
];
