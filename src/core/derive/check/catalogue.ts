import { labelTwice } from '../rules/board/label-twice';
import { planOnly, schematicDiffers, schematicOnly } from '../rules/board/schematic';
import { notLeftOpen, supplyOpen, supplyShorted, supplySplit, supplyWrong } from '../rules/board/supply-pins';
import { badName } from '../rules/code/bad-name';
import { circuitTwice } from '../rules/code/circuit-twice';
import { nameTwice } from '../rules/code/name-twice';
import { noRecipe } from '../rules/code/no-recipe';
import { notConfirmed } from '../rules/code/not-confirmed';
import { partChanged } from '../rules/code/part-changed';
import { constraintBroken } from '../rules/constraint/constraint-broken';
import { neverOff } from '../rules/current/never-off';
import { padCurrent } from '../rules/current/pad-current';
import { littleHeadroom, packageCurrent, supplyCurrent } from '../rules/current/shared-current';
import { lineMissing, lineShared, noTrigger, portShared } from '../rules/interrupt/line-shared';
import { analogOverSupply } from '../rules/level/analog-over-supply';
import { assertedEarly } from '../rules/level/asserted-early';
import { beforeInit } from '../rules/level/before-init';
import { bothDrive } from '../rules/level/both-drive';
import { floatingInput } from '../rules/level/floating-input';
import { needlessPull } from '../rules/level/needless-pull';
import { openDrainNoPull } from '../rules/level/open-drain-no-pull';
import { pullsFight } from '../rules/level/pulls-fight';
import { thresholdMissed } from '../rules/level/threshold-missed';
import { tooManyVolts } from '../rules/level/too-many-volts';
import { functionNotHere } from '../rules/place/function-not-here';
import { halfPlaced } from '../rules/place/half-placed';
import { instanceShared } from '../rules/place/instance-shared';
import { padMissing } from '../rules/place/pad-missing';
import { reservedPad } from '../rules/place/reserved-pad';
import { sharedBits } from '../rules/place/shared-bits';
import { signalTwice } from '../rules/place/signal-twice';
import { takenAlongRule } from '../rules/place/taken-along';
import { twoNets } from '../rules/place/two-nets';
import { unplaced } from '../rules/place/unplaced';
import { ruledOutPad, wrongSide } from '../rules/place/wrong-place';
import { formatNotHere } from '../rules/rate/format-not-here';
import { rateOff } from '../rules/rate/rate-off';
import { rateTooHigh } from '../rules/rate/rate-too-high';
import { ratesDiffer } from '../rules/rate/rates-differ';
import { settingIdle } from '../rules/setting/setting-idle';
import { settingNotHere } from '../rules/setting/setting-not-here';
import { accessUnproven } from '../rules/start-up/access-unproven';
import { unproven } from '../rules/start-up/unproven';
import type { Rule } from '../rules/types';
import { unusedNotHere } from '../rules/unused/unused-not-here';
import { staleWaiver } from '../rules/waiver/stale-waiver';

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
  constraintBroken,
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
  formatNotHere,
  rateOff,
  ratesDiffer,
  schematicDiffers,
  schematicOnly,
  planOnly,
  supplyShorted,
  supplyOpen,
  supplyWrong,
  supplySplit,
  notLeftOpen,
  labelTwice,
  unusedNotHere,
  settingNotHere,
  settingIdle,
  badName,
  nameTwice,
  circuitTwice,
  staleWaiver,
  noRecipe,
  notConfirmed,
  partChanged,
  unproven,
  accessUnproven,
  unplaced,
];
