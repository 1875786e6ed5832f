import type { Problems } from '../../base/problems';
import { ExpressionError } from '../../description/language/expression';
import type { Pad } from '../../description/types';
import { lackOf } from '../available';
import type { Device } from '../device';
import { canonical } from '../fields/encode';
import { exclusiveLine, interruptLine } from '../interrupt-lines';
import { contributionsOf } from '../planned-pad';

/**
 * Whether what a part says of its interrupt lines is what its registers do. Each pad is encoded as an interrupt input; where two pads
 * want other values in the same bits, only one of them can interrupt, and the lines must say so. Otherwise rules and the placer would
 * believe the one, and the registers do the other. Pads are compared by register and place, not pair by pair.
 */
export function checkInterrupts(device: Device, pads: readonly Pad[], problems: Problems): void {
  const { interrupts, recipe } = device.description;
  const triggers = (recipe.settings.trigger ?? []).filter((trigger) => trigger !== 'none');
  if (!interrupts || triggers.length === 0) return;
  for (const trigger of triggers) {
    const users = new Map<string, { pad: Pad; value: number }>();
    for (const pad of pads) {
      if (interruptLine(device, pad) === 'none' || lackOf(device, pad, 'trigger', trigger) !== undefined)
        continue;
      const settings = canonical(recipe, { mux: null, values: { mode: 'input', trigger } }, undefined);
      try {
        for (const { register, low, value } of contributionsOf(device, { pad, settings })) {
          const key = `${register.name} ${low}`;
          const other = users.get(key);
          if (!other) {
            users.set(key, { pad, value });
            continue;
          }
          if (other.value === value) continue;
          const line = exclusiveLine(device, pad);
          if (line !== undefined && line === exclusiveLine(device, other.pad)) continue;
          problems.push({
            place: 'interrupts',
            message: `say that ${other.pad.id} and ${pad.id} can both interrupt (lines: ${interrupts.lines}), but they need different values in the same bits of ${register.name}: only one of them can; say which pads share a line`,
          });
          return;
        }
      } catch (error) {
        // What cannot be worked out is told by the checks of tables.
        if (!(error instanceof ExpressionError)) throw error;
      }
    }
  }
}
