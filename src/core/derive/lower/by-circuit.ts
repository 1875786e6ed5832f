import type { Device } from '../../device/device';
import type { PlannedPad } from '../../device/planned-pad';
import type { CircuitId, CodeStyle } from '../../plan/model/types';
import { type Lowered, lower } from './lower';

/** The pads of a circuit, or of none. */
export interface CircuitPads {
  circuit: CircuitId | undefined;
  planned: readonly PlannedPad[];
}

/** Operations circuit by circuit. Each circuit's change only its own bits, so that it can be called alone, and at any time. */
export function lowerByCircuit(
  device: Device,
  planned: readonly PlannedPad[],
  style: CodeStyle,
  circuits: readonly CircuitPads[],
  peripheralClocks: boolean,
): Lowered {
  const whole = lower(device, planned, style, undefined, peripheralClocks);
  const parts = circuits.map((one) => ({
    ...one,
    lowered: lower(device, one.planned, 'preserving', undefined, peripheralClocks),
  }));
  return {
    ...whole,
    operations: parts.flatMap(({ lowered }) => lowered.operations),
    parts: parts.map(({ circuit, lowered }) => ({ circuit, count: lowered.operations.length })),
  };
}
