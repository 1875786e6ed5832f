import { defaultOf } from '../../description/meanings';
import type { PadSettings } from '../../description/settings';
import type { Device } from '../../device/device';
import { encodeSettings } from '../../device/fields/encode';
import type { PlannedPad } from '../../device/planned-pad';

/** The fields by which the interrupt of a pad is on or off, in the order of the stages, with their values when it is off and on. */
export function interruptFields(device: Device, pad: PlannedPad): [field: string, off: number, on: number][] {
  const none = defaultOf(device.description.recipe, 'trigger');
  if (none === undefined) return [];
  const valuesOf = (settings: PadSettings) =>
    new Map(encodeSettings(settings, pad.pad, pad.fn, device).map(({ field, value }) => [field, value]));
  const silent = { ...pad.settings, values: { ...pad.settings.values, trigger: none } };
  const [planned, off] = [valuesOf(pad.settings), valuesOf(silent)];
  const stageOf = (field: string): number =>
    device.stages.findIndex((stage) => stage.fields?.includes(field));
  return [...off]
    .flatMap(([field, value]): [string, number, number][] => {
      const on = planned.get(field);
      return on === undefined || on === value ? [] : [[field, value, on]];
    })
    .sort(([a], [b]) => stageOf(a) - stageOf(b));
}
