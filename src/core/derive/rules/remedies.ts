import type { Mode, SettingKey } from '../../description/settings';
import type { Pad } from '../../description/types';
import { lackOf } from '../../device/available';
import type { Device } from '../../device/device';
import { appliedKeys } from '../../device/fields/encode';
import type { PlannedPad } from '../../device/planned-pad';
import type { Edit } from '../../plan/edits/edits';
import type { Remedy } from './types';

/** A remedy that sets something, where the pad has it and it means something for what the pad is used as. */
export function choiceOf(
  device: Device,
  { pad, planned }: { pad: Pad; planned?: PlannedPad | undefined },
  key: SettingKey,
  value: string,
  label: string,
  edit: Edit,
): Remedy[] {
  if (lackOf(device, pad, key, value) !== undefined) return [];
  if (planned && !appliesTo(device, planned, key)) return [];
  return [{ label, edit }];
}

/** Whether a setting means something for a pad as it is planned. */
export function appliesTo(device: Device, { fn, settings }: PlannedPad, key: SettingKey): boolean {
  const line = fn && fn.mux !== null ? device.lineOf(fn.signal)?.direction : undefined;
  return appliedKeys(device.description.recipe, settings.values.mode as Mode, line).includes(key);
}

/** The pad that a remedy moves its net to; undefined when it is no move. */
export const padOfMove = ({ edit }: Remedy): string | undefined =>
  edit.kind === 'net.set' && edit.field === 'placement' ? edit.to?.pad : undefined;
