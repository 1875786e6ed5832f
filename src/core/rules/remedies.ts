import type { Pad } from '../device/types';
import type { Edit } from '../plan/edit';
import { type Device, lackOf } from '../recipe/device';
import type { SettingKey } from '../settings';
import type { Remedy } from './types';

/** A remedy that sets something, where the pad has it. */
export const choiceOf = (
  device: Device,
  pad: Pad,
  key: SettingKey,
  value: string,
  label: string,
  edit: Edit,
): Remedy[] => (lackOf(device, pad, key, value) === undefined ? [{ label, edit }] : []);

/** The pad that a remedy moves its net to; undefined when it is no move. */
export const padOfMove = ({ edit }: Remedy): string | undefined =>
  edit.kind === 'net.set' && edit.field === 'placement' ? edit.to?.pad : undefined;
